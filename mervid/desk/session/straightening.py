"""Tracks straightened in the background, one after the other; each result becomes a track linked to its source.

What waits is kept in the library: after a restart it goes on.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import attrs
from PyQt6.QtCore import QObject, QSettings, pyqtSignal

from ... import places
from ...core.errors import Cancelled, MervidError, Refused
from ...core.hearing.evidence import Evidence
from ...core.rendering.straightening import Wish, proposed_tempo
from ...jobs import errands, straighten
from ...store import straightened as kept
from ...store.straightened import DONE, FAILED, WAITING, Straightened
from ...store.tagging import Tagging
from ...store.track import READY, Track
from ...store.undo import Undo
from ..names import kept_folder
from ..theme.tr import tr
from .catalogue import Catalogue
from .errands import NO_LIBRARY, Errands
from .messages import Messages

FORMATS = (".flac", ".wav", ".aiff")


class Straightening(QObject):
    """`changed` when something waits, is done, or got on.

    Attributes
    ----------
    wish : what is wanted; its tempo is 0 for what each track proposes
    format : of the files
    turn_down : whether what would clip is turned down
    running : the one that is being made; None where none is
    """

    changed = pyqtSignal()

    def __init__(self, catalogue: Catalogue, work: Errands, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.work, self.say = catalogue, catalogue.library, work, say
        self.wish: Wish | None = None
        self.format, self.turn_down = FORMATS[0], True
        self.running: Straightened | None = None
        self.proposal: tuple[int, Wish] | None = None
        self._asked = self._hand = 0
        self._closed = False

    def close(self) -> None:
        """Nothing begins any more."""
        self._closed = True

    # what is wanted

    def look_at(self, track_id: int) -> None:
        """Work out what is proposed for a track."""
        if self.proposal is not None and self.proposal[0] == track_id:
            return
        self._asked += 1
        asked = self._asked
        self.proposal = None
        self.work.look(lambda a: self._proposed(asked, track_id, a), errands.propose_straight, track_id)

    def forget_proposal(self) -> None:
        """The track was edited: what was proposed may not hold."""
        self.proposal = None

    def _proposed(self, asked: int, track_id: int, answer: object) -> None:
        if asked == self._asked and isinstance(answer, Wish):
            self.proposal = (track_id, answer)
            self.changed.emit()

    @property
    def shown(self) -> Wish | None:
        """The wish as it stands: a person's, else the proposal."""
        return self.wish or (self.proposal[1] if self.proposal is not None else None)

    def ask_for(self, **changes: Any) -> bool:
        """Wish for something else. Whether that makes sense; else it is said why not."""
        base = self.shown
        if base is None:
            return False
        try:
            self.wish = attrs.evolve(base, **changes)
        except Refused as e:
            self.say.refused(str(e))
            return False
        self.changed.emit()
        return True

    def as_proposed(self) -> None:
        """No wish of one's own any more."""
        self.wish = None
        self.changed.emit()

    # the queue

    def folder(self) -> Path | None:
        """Where results go; None for beside each recording."""
        return kept_folder("straight")

    def _home(self, recording: Path) -> Path:
        """Where the result of a recording goes: nothing is written beside the demo set, which is the program's."""
        beside = recording.parent
        if beside == places.demo_folder():
            beside = places.data_folder() / "straight"
            beside.mkdir(parents=True, exist_ok=True)
        return self.folder() or beside

    def _target(self, track: Track) -> Path:
        """A file for the result, where none stands and none is to stand: an earlier one is a track of the library."""
        stem, home = os.path.splitext(track.path.name)[0] + straighten.ENDING, self._home(track.path)
        others = {e.target for e in kept.every(self.library)}
        target, k = home / f"{stem}{self.format}", 2
        while target in others or os.path.lexists(target):
            target, k = home / f"{stem} ({k}){self.format}", k + 1
        return target

    def set_folder(self, folder: Path | None) -> None:
        """Put results elsewhere."""
        QSettings().setValue("straight", str(folder) if folder is not None else "")
        self.changed.emit()

    def begin(self, ids: Sequence[int]) -> None:
        """Let these wait to be straightened."""
        if self.work.path is None:
            self.say.refused(NO_LIBRARY)
            return
        asked = 0
        for number in ids:
            try:
                track = self.library.track(number)
                if track.state != READY or self.library.history(number).preparation.grid is None:
                    raise Refused(f"{track.title} has no grid yet: give it one in Align first.")
                if kept.made_of(self.library, number) is not None:
                    raise Refused(f"{track.title} was straightened already: straighten the recording it was made from.")
                target = self._target(track)
                # a tempo of one's own is for one track; many have each the one that is proposed
                wish = self.wish if self.wish is not None and len(ids) == 1 else self._each(number)
                if not os.access(target.parent, os.W_OK):
                    raise Refused(f"{target.parent} can't be written: choose another folder for what is straightened.")
                kept.ask(self.library, number, target, wish)
                asked += 1
            except MervidError as e:
                self.say.refused(str(e))
        if asked:
            self._next()
            self.changed.emit()

    def _each(self, number: int) -> Wish:
        """A wish whose tempo each track proposes for itself."""
        grid = self.library.history(number).preparation.grid
        assert grid is not None
        known = self.proposal[1] if self.proposal is not None and self.proposal[0] == number else None
        tempo = proposed_tempo(grid)
        if self.wish is not None:
            return attrs.evolve(self.wish, tempo=tempo)
        if known is not None:
            return known
        return Wish(tempo, hold_pitch=self.library.track(number).kind != "turntable")

    def resume(self) -> None:
        """Go on with what waits from the last time."""
        self._next()

    def entries(self) -> list[Straightened]:
        """All that were made and wait, newest last."""
        try:
            return kept.every(self.library)
        except MervidError as e:
            self.say.problem(str(e))
            return []

    def _next(self) -> None:
        if self.running is not None or self._closed or self.work.path is None:
            return
        try:
            entry = kept.waiting(self.library)
            if entry is None:
                return
            if not self.library.has(entry.source):
                kept.drop(self.library, entry.id)
                self._next()
                return
            known = self.library.sources()
        except MervidError as e:
            self.say.problem(str(e))
            return
        self.running = entry
        self._hand = self.work.write(
            self._made, errands.make_straight, entry.source, entry.target, entry.wish, self.turn_down, known
        )
        self.changed.emit()

    def stop(self) -> None:
        """Let go of what is being made and of all that waits; no half file is left."""
        for entry in self.entries():
            if entry.state == WAITING and (self.running is None or entry.id != self.running.id):
                kept.drop(self.library, entry.id)
        if self.running is not None:
            self.work.hands.stop(self._hand)
        self.changed.emit()

    def drop(self, number: int) -> None:
        """Take one that waits or failed off the list."""
        if self.running is not None and self.running.id == number:
            self.work.hands.stop(self._hand)
            return
        kept.drop(self.library, number)
        self.changed.emit()

    def _made(self, answer: object) -> None:
        entry, self.running = self.running, None
        if entry is None or self._closed:
            return
        try:
            if isinstance(answer, errands.Straightened):
                self._keep(entry, answer)
            elif isinstance(answer, Cancelled):
                kept.drop(self.library, entry.id)
            else:
                why = errands.words_of(answer)
                kept.settle(self.library, entry.id, FAILED, {"why": why})
                self.say.problem(tr("{0} was not straightened: {1}").format(self._title(entry.source), why))
        except MervidError as e:
            self.say.problem(str(e))
        self.changed.emit()
        self._next()

    def _title(self, number: int) -> str:
        try:
            return self.library.track(number).title
        except MervidError:
            return "A track"

    def _keep(self, entry: Straightened, made: errands.Straightened) -> None:
        """The result becomes a track, its grid where the sound is."""
        source = self.library.track(entry.source)
        ids, new = self.library.add_many([made.path])
        number = ids[0]
        if made.facts is not None:
            self.library.set_decoded(number, made.facts)
        self.library.begin(number, tr("Straightened from {0}").format(source.title), made.preparation)
        self._name(number, source, entry.wish)
        told = {
            "before": attrs.asdict(made.before),
            "after": attrs.asdict(made.after),
            "gain": made.gain,
            "true_peak": made.true_peak,
            "remarks": list(made.remarks),
        }
        kept.settle(self.library, entry.id, DONE, told, number)
        self.catalogue.tell_added(new)
        self.catalogue.reread()
        said = f" {'; '.join(made.remarks)}." if made.remarks else ""
        self.say.done(
            tr("{0} is straight at {1:g} BPM: {2}.{3}").format(source.title, entry.wish.tempo, made.after, said)
        )

    def _name(self, number: int, source: Track, wish: Wish) -> None:
        """Told apart from its source in every list; in its file the title is the source's."""
        title = tr("{0} (straight at {1:g})").format(source.title, wish.tempo)
        Tagging(self.library, Undo(self.library)).change({number: {"title": title, "artists": source.artists}})

    def origin_of(self, track_id: int) -> str:
        """The title of the track that one was made from; empty where it is no straightened one, or that is gone."""
        try:
            entry = kept.made_of(self.library, track_id)
            return self.library.track(entry.source).title if entry is not None else ""
        except MervidError:
            return ""

    def evidence_of(self, track_id: int) -> Evidence | None:
        """What was heard in a track, for its picture; None where that isn't there."""
        try:
            found = self.library.evidence(track_id, lesser=True)
        except MervidError:
            return None
        return found[0] if found is not None else None
