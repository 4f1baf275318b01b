"""Words of the chosen tracks to edit: one field each, with what differs shown; tools for many at once."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from ....core.library import tags
from ....core.library.tags import FIELDS, NAMES, PATTERNS
from ...session.session import Session
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.text_fields import TextField


class TagForm(QWidget):
    """Emits `asked` for what is typed elsewhere; words are written when a field is left or Enter is pressed."""

    asked = pyqtSignal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.ids = session, list[int]()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self.edits: dict[str, TextField] = {}
        for k, name in enumerate(FIELDS):
            label, edit = Words(NAMES[name]), TextField()
            label.setObjectName("faint")
            label.setBuddy(edit)
            edit.setAccessibleName(NAMES[name])
            edit.setMaxLength(tags.LONGEST)
            edit.finished.connect(lambda text, n=name: self.take(n, text))
            grid.addWidget(label, k, 0)
            grid.addWidget(edit, k, 1)
            self.edits[name] = edit
        column.addLayout(grid)
        self.proposal = QPushButton()
        self.proposal.clicked.connect(lambda: self._session.bookcase.tag(self.ids, lambda t: t.repair(self.ids)))
        column.addWidget(self.proposal)
        row = QHBoxLayout()
        self.tools = QToolButton()
        self.tools.setText(tr("Tools…"))
        self.tools.setToolTip(tr("Large and small letters, spaces, tags from file names"))
        self.tools.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.tools)
        for tool in tags.CASES:
            menu.addAction(tr("{0}: title, artists, album").format(tool), lambda t=tool: self._apply(t))
        menu.addSeparator()
        for pattern in PATTERNS:
            menu.addAction(tr("From file names: {0}").format(pattern), lambda p=pattern: self.from_names(p))
        menu.addAction(tr("From file names by another pattern…"), lambda: self.asked.emit("tag-pattern", None))
        menu.addSeparator()
        menu.addAction(
            tr("As in the files again"), lambda: self._session.bookcase.tag(self.ids, lambda t: t.as_in_file(self.ids))
        )
        self.tools.setMenu(menu)
        row.addWidget(self.tools)
        row.addStretch(1)
        column.addLayout(row)
        note = Words(tr("Kept in the library. Your files stay as they are."))
        note.setObjectName("faint")
        note.setWordWrap(True)
        column.addWidget(note)
        column.addStretch(1)

    def show_tracks(self, ids: list[int]) -> None:
        """Show what these tracks say."""
        if ids != self.ids:
            # what was typed so far is of the tracks that were chosen until now
            for edit in self.edits.values():
                edit.finish()
        self.ids = list(ids)
        said = self._session.bookcase.tagging.said(self.ids[:2000])
        shown = [s.shown for s in said.values()]
        for name, edit in self.edits.items():
            text, differs = tags.common(shown, name)
            edit.show_text(text)
            edit.setPlaceholderText(tags.MIXED if differs else "")
            edit.setEnabled(bool(ids))
            own = sum(name in s.own for s in said.values())
            file = tags.common([s.file for s in said.values()], name)[0]
            edit.setToolTip(tip_of(f"In the file: {file or 'nothing'}") if own else "")
        wrong = {i: tags.proposal(s.shown) for i, s in said.items()}
        first = next((v for p in wrong.values() for v in p.values()), "")
        count = sum(bool(p) for p in wrong.values())
        self.proposal.setVisible(bool(count))
        self.proposal.setText(
            tr("Repair letters: {0}").format(first[:40])
            + (tr(" and {0} more tracks").format(count - 1) if count > 1 else "")
        )
        self.proposal.setToolTip(tr("The bytes were likely read in the wrong encoding; Ctrl+Z takes it back"))

    def take(self, name: str, text: str) -> None:
        """Write what was typed to all selected tracks."""
        ids = self.ids
        self._session.bookcase.tag(ids, lambda t: t.set_field(ids, name, text))
        self.show_tracks(ids)

    def _apply(self, tool: str) -> None:
        names = ("title", "artists", "album", "album_artist", "remixer")
        self._session.bookcase.tag(self.ids, lambda t: t.apply(self.ids, names, tool))
        self.show_tracks(self.ids)

    def from_names(self, pattern: str) -> None:
        """Words from file names by a pattern."""
        found = self._session.bookcase.tag(self.ids, lambda t: t.from_names(self.ids, pattern))
        if found is not None:
            changed, unfit = found
            rest = tr("; {0:,} names are of another form").format(unfit) if unfit else ""
            self._session.say.done(
                tr("{0:,} tracks have tags from their names now{1}. Ctrl+Z takes it back.").format(changed, rest)
            )
        self.show_tracks(self.ids)

    def first_field(self) -> None:
        """Let words be typed."""
        self.edits["title"].setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.edits["title"].selectAll()
