"""Tags on their way into files: by which template, what would change, and the way back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, pyqtSignal

from ...core.errors import Cancelled, Refused
from ...core.library import template as templates
from ...core.library.template import Template
from ...formats import tag_journal
from ...formats.tag_journal import Batch
from ...jobs import errands, tagging
from ...jobs.errands import TagSeen
from ...jobs.tagging import Report
from ...store import handed
from ..theme.tr import tr
from .catalogue import Catalogue
from .errands import NO_LIBRARY, Errands
from .messages import Messages

MOST = 3000
"""Files that are written at once."""


class TagWriting(QObject):
    """`changed` when the preview, the template or the journal is another; `wrote` when files say something else.

    Attributes
    ----------
    template : as a person wrote it
    marks : whether cues, phrases and beats go along
    ids : the tracks it is about
    seen : what would change; None while it isn't known
    """

    changed = pyqtSignal()
    wrote = pyqtSignal()

    def __init__(self, catalogue: Catalogue, work: Errands, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.work, self.say = catalogue, catalogue.library, work, say
        self.template: Template = templates.parse(templates.DEFAULT)
        self.marks = True
        self.ids: list[int] = []
        self.seen: list[TagSeen] | None = None
        self.why = ""
        self.writing = False
        self._asked = self._looking = 0

    def restore(self) -> None:
        """The template that was used last."""
        try:
            self.template = templates.parse(str(QSettings().value("template", templates.DEFAULT)))
        except Refused:
            self.template = templates.parse(templates.DEFAULT)

    def set_template(self, text: str) -> bool:
        """Another template; whether it can be read. Else it is said why not."""
        try:
            self.template = templates.parse(text)
        except Refused as e:
            self.say.refused(str(e))
            return False
        QSettings().setValue("template", self.template.text)
        self.look(self.ids)
        return True

    def set_marks(self, marks: bool) -> None:
        """Whether chapters and beats go along."""
        self.marks = marks
        self.look(self.ids)

    def look(self, ids: Sequence[int]) -> None:
        """Work out what would change in the files of these."""
        self.ids = list(dict.fromkeys(ids))
        self._asked += 1
        self.seen, self.why = None, ""
        if not self.ids:
            self.why = tr("No track is chosen.")
        elif len(self.ids) > MOST:
            self.why = tr("{0:,} tracks are too many at once ({1:,} at most): choose fewer.").format(
                len(self.ids), MOST
            )
        else:
            asked = self._asked
            self.work.looks.stop(self._looking)
            self._looking = self.work.look(
                lambda a: self._looked(asked, a), errands.plan_tags, tuple(self.ids), self.template, self.marks
            )
            self.why = "" if self._looking else NO_LIBRARY
        self.changed.emit()

    def _looked(self, asked: int, answer: object) -> None:
        if asked != self._asked:
            return
        if isinstance(answer, list):
            self.seen = answer
        else:
            self.why = errands.words_of(answer)
        self.changed.emit()

    @property
    def todo(self) -> int:
        """How many files would change."""
        return sum(bool(s.changes) for s in self.seen or ())

    def write(self) -> None:
        """Write what is seen into the files."""
        if self.writing or self.seen is None:
            self.say.refused(
                tr("They are being written already.") if self.writing else self.why or tr("Wait for the preview.")
            )
            return
        wanted = [s.track for s in self.seen if s.changes]
        if not wanted:
            self.say.refused(tr("Nothing would change: the files say all of it already."))
            return
        name = tr("{0} tracks").format(len(wanted)) if len(wanted) > 1 else self.library.track(wanted[0]).title
        self.writing = True
        self.work.write(self._written, errands.write_tags, tuple(wanted), self.template, self.marks, name)
        self.changed.emit()

    def _written(self, answer: object) -> None:
        self.writing = False
        if isinstance(answer, Report):
            words = tr("{0} files written. They can be taken back.").format(len(answer.written))
            self._changed(words, answer.written, answer.problems)
        elif not isinstance(answer, Cancelled):
            self.say.problem(tr("No tag was written: {0}").format(errands.words_of(answer)))
        self.look(self.ids)

    def _changed(self, words: str, files: Sequence[Path], problems: Sequence[str]) -> None:
        """Files say something else now: the library reads them again."""
        handed.note_written(self.library, files)
        if problems:
            self.say.problem("\n".join((words, *problems[:3])))
        else:
            self.say.done(words)
        self.catalogue.reread()
        self.wrote.emit()

    # the way back

    def batches(self) -> list[Batch]:
        """What can be taken back."""
        return tag_journal.batches()

    def take_back(self, batch: str) -> None:
        """Take a writing back, byte for byte."""
        self.writing = True
        self.work.hands.ask(self._back, tagging.undo, batch)
        self.changed.emit()

    def _back(self, answer: object) -> None:
        self.writing = False
        if isinstance(answer, tag_journal.Undone):
            self._changed(tr("{0} files are as they were.").format(len(answer.back)), answer.back, answer.problems)
        elif not isinstance(answer, Cancelled):
            self.say.problem(errands.words_of(answer))
        self.look(self.ids)

    def clear(self, batch: str) -> None:
        """Forget how a writing is taken back."""
        tag_journal.clear(batch)
        self.changed.emit()
