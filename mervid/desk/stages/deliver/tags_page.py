"""Tags: the template, what would change in which file, and the way back."""

from __future__ import annotations

import time

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ....core.library.template import TARGETS, WORDS
from ....formats.tag_journal import Batch
from ...session.tag_writing import TagWriting
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.parts import ShareDone, Switch, heading
from ...widgets.plain_table import PlainTable
from ...widgets.text_fields import TextField
from ..frame import Keys, Panel, asking

LONGEST = 70


class TagsTarget(Panel):
    """Emits `asked(name, argument)`: the template, whether marks go along, and the button."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        column = self.body(6)
        column.addWidget(heading(tr("TEMPLATE")))
        self.template = TextField()
        self.template.setAccessibleName(tr("Template"))
        self.template.setToolTip(
            tip_of(tr("Tags: {0}.\nWords: {1}.").format(", ".join(TARGETS), ", ".join("{" + w + "}" for w in WORDS)))
        )
        self.template.finished.connect(lambda text: self.asked.emit("tag-template", text))
        column.addWidget(self.template)
        words = Words(
            tr(
                "Which words go into which tag: comment: {key} {drive} {comment}; grouping: {line}. "
                "Tempo, key, drive and rating have tags of their own, and what you edited in Gather goes "
                "along. Artists and title only if you edited them."
            )
        )
        words.setObjectName("faint")
        words.setWordWrap(True)
        column.addWidget(words)
        self.marks = Switch(
            tr("Cues, phrases and beats, too"),
            tr("As chapters and cue points; beats where the format has a place for them"),
        )
        self.marks.switched.connect(lambda on: self.asked.emit("tag-marks", on))
        column.addWidget(self.marks)
        column.addSpacing(8)
        self.write = asking(
            tr("Write"),
            "write-tags",
            None,
            tr("Sound stays to the bit; it can be taken back to the byte"),
            self.asked,
            keys,
        )
        self.write.setObjectName("way")
        column.addWidget(self.write)
        self.bar = ShareDone()
        column.addWidget(self.bar)
        column.addSpacing(10)
        column.addWidget(heading(tr("CAN BE TAKEN BACK")))
        self.back_rows = QVBoxLayout()
        self._shown_batches: list[Batch] | None = None
        self.back_rows.setSpacing(4)
        column.addLayout(self.back_rows)
        column.addStretch(1)
        self._keys = keys

    def show_tags(self, t: TagWriting) -> None:
        """The template, and what can be done."""
        self.template.show_text(t.template.text)
        self.marks.show_on(t.marks)
        self.write.setText(tr("Write into {0} files").format(t.todo) if t.todo != 1 else tr("Write into 1 file"))
        self.write.setEnabled(t.todo > 0 and not t.writing)
        self.bar.setVisible(t.writing)

    def show_batches(self, t: TagWriting) -> None:
        """What can be taken back."""
        batches = t.batches()
        # a row that stands keeps the keyboard
        if batches == self._shown_batches:
            return
        self._shown_batches = batches
        while (item := self.back_rows.takeAt(0)) is not None:
            if (w := item.widget()) is not None:
                w.hide()
                w.deleteLater()
        if not batches:
            none = Words(tr("Nothing was written yet."))
            none.setObjectName("faint")
            self.back_rows.addWidget(none)
        for b in batches[:6]:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            line.setSpacing(4)
            when = time.strftime("%d %b, %H:%M", time.localtime(b.made))
            text = Words(f"{when}: {b.name}")
            text.setToolTip(tip_of(tr("{0} files").format(b.files)))
            line.addWidget(text, 1)
            line.addWidget(
                asking(
                    tr("Take back"), "take-back", b.id, tr("Byte for byte as the files were"), self.asked, self._keys
                )
            )
            line.addWidget(
                asking(
                    tr("Forget"),
                    "forget-batch",
                    b.id,
                    tr("Keep the files as they are for good"),
                    self.asked,
                    self._keys,
                )
            )
            self.back_rows.addWidget(row)


class TagsPreview(QWidget):
    """What would change, file by file, before a byte is written."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.words = Words("")
        self.words.setObjectName("faint")
        self.table = PlainTable(
            tr("What would change"), ((tr("TRACK"), 190), (tr("TAG"), 92), (tr("IS"), 0), (tr("BECOMES"), 0))
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(5)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)

    def show_preview(self, t: TagWriting) -> None:
        """The changes of all tracks, one a row."""
        if t.seen is None:
            self.words.setText(t.why or tr("Looking into the files…"))
            self.table.fill([])
            return
        same = sum(not s.changes and not s.problem for s in t.seen)
        words = tr("{0} of {1} files would change.").format(t.todo, len(t.seen))
        self.words.setText(words + (tr(" {0} say all of it already.").format(same) if same else ""))
        rows: list[tuple[object, tuple[str, ...]]] = []
        warned = []
        for s in t.seen:
            if s.problem:
                rows.append((s.track, (s.title, "", "", s.problem)))
                warned.append(True)
            for k, c in enumerate(s.changes):
                rows.append((s.track, (s.title if k == 0 else "", c.name, _cut(c.before) or "–", _cut(c.after) or "–")))
                warned.append(False)
        self.table.fill(rows, warned=warned)


def _cut(text: str) -> str:
    return text if len(text) <= LONGEST else text[: LONGEST - 1] + "…"
