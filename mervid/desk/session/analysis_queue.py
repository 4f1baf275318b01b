"""Recordings on their way in: which wait, which are heard, and what becomes of each when the workers answer."""

from __future__ import annotations

import itertools
import os
import threading
import time
from collections import deque
from collections.abc import Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

import attrs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.errors import FormatError
from ...core.model.tempo_range import TempoRange
from ...core.sound.damage import summary
from ...core.sound.decoding import Decoded
from ...core.sound.waveform import Waveform
from ...jobs.gathering import Lot, branch, gather, is_list, walk
from ...jobs.messages import ELSEWHERE, Message
from ...jobs.pool import Pool
from ...jobs.sound_loader import Begun, SoundLoader
from ...store import moves
from ...store.library import ADDED_AT_ONCE, Library
from ...store.lists import Branch
from ...store.schema import StoreError
from ...store.track import READY, WAITING
from ..theme.tr import tr
from .catalogue import PROGRESS, STATE, Catalogue
from .messages import Messages
from .open_track import OpenTrack

PAUSE_S = 0.015
AT_ONCE = 100
"""So many files are taken in without a thread, and handed to the queue in one turn: a few ms."""


@attrs.frozen
class Taken:
    """What was taken in: its tracks, the new ones of them, remarks, lists of tracks, and tracks that have moved."""

    ids: list[int]
    new: list[int]
    remarks: tuple[str, ...]
    lists: tuple[Branch, ...]
    moved: tuple[int, ...] = ()


def _taken_in(
    library: Path, wanted: list[Path], as_lists: bool, arrived: deque[list[int]], stop: threading.Event
) -> Taken:
    """In a thread: all recordings there are, a lot at a time; new ones are in `arrived` as they are found."""
    lot, found = Lot(), dict[Path, int]()
    new: list[int] = []
    moved: list[int] = []
    with closing(Library(library)) as own:
        walking = walk(wanted, lot, folders_too=as_lists)
        while not stop.is_set() and (some := list(itertools.islice(walking, ADDED_AT_ONCE))):
            fresh = list(dict.fromkeys(p for p in some if p not in found))
            moved += moves.follow(own, fresh)
            ids, added = own.add_many(fresh)
            found.update(zip(fresh, ids, strict=True))
            new += added
            arrived.append(added)
            # between two lots others get at the library
            time.sleep(PAUSE_S)
    lists = tuple(branch(x, found) for x in lot.lists)
    return Taken(list(found.values()), new, tuple(lot.remarks), lists, tuple(moved))


def moved_words(count: int) -> str:
    """That so many recordings were recognised where they are now."""
    if count == 1:
        return tr("1 recording has moved: its track and all work on it are kept.")
    return tr("{0:,} recordings have moved: their tracks and all work on them are kept.").format(count)


class AnalysisQueue(QObject):
    """The queue of analyses.

    Attributes
    ----------
    progress : what is done to each track at work, and the share done, 0 to 1
    early_waveforms : of tracks that are decoded and not yet heard
    lesser : tracks heard in this session without the ear's weights
    range : where tempi are expected; for what is heard from now on
    changed_sound : a track's number and what its file holds, where that isn't what was heard
    heard : the number of a track that has just been heard
    listed : a playlist or a folder that is to become a list
    """

    changed_sound = pyqtSignal(int, object)
    heard = pyqtSignal(int)
    listed = pyqtSignal(object)
    changed = pyqtSignal()

    def __init__(
        self,
        catalogue: Catalogue,
        track: OpenTrack,
        say: Messages,
        workers: int | None = None,
        cache_limit: int | None = None,
    ) -> None:
        super().__init__()
        self.catalogue, self.track, self.say = catalogue, track, say
        self.library = catalogue.library
        self.pool = Pool(track.cache, workers=workers, limit=cache_limit)
        self.loader = SoundLoader(track.cache, limit=cache_limit)
        self.range: TempoRange | None = None
        self.progress: dict[int, tuple[str, float]] = {}
        self.early_waveforms: dict[int, Waveform] = {}
        self.lesser: set[int] = set()
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="files")
        self._found: list[Future[Taken]] = []
        self._arrived: deque[list[int]] = deque()
        self._stop = threading.Event()
        self._due: deque[int] = deque()
        self.paused, self.quiet, self._playing = False, False, False
        self._began: dict[int, float] = {}
        self._took: deque[float] = deque(maxlen=20)

    def close(self) -> None:
        """End the workers."""
        self._stop.set()
        self._hand.shutdown(wait=False, cancel_futures=True)
        self.loader.close()
        self.pool.close()

    # taking in

    def add_files(self, paths: Iterable[Path], *, as_lists: bool = False) -> None:
        """Take files, folders and playlists into the library; open the first recording, hear the new ones.

        Parameters
        ----------
        as_lists : make lists of folders, too, as of playlists
        """
        wanted = list(paths)
        few = len(wanted) <= AT_ONCE and not any(os.path.isdir(p) or is_list(p) for p in wanted)
        if self.library.path is None or (few and not moves.may_have_moved(self.library, wanted)):
            found = gather(wanted, folders_too=as_lists)
            try:
                ids = self.catalogue.add(found.files)
            except (StoreError, OSError) as e:
                self.say.problem(str(e))
                return
            numbers = dict(zip(found.files, ids, strict=True))
            self._begin_with(Taken(ids, [], found.remarks, tuple(branch(x, numbers) for x in found.lists)))
        else:
            # thousands are read from the disk, and written to the library, by a thread
            self._found.append(
                self._hand.submit(_taken_in, self.library.path, wanted, as_lists, self._arrived, self._stop)
            )

    def _begin_with(self, taken: Taken) -> None:
        if taken.moved:
            self.catalogue.tell_many(list(taken.moved))
            self.say.done(moved_words(len(taken.moved)))
        if taken.ids:
            self.open(taken.ids[0])
            self.resume()
        for one in taken.lists:
            self.listed.emit(one)
        if taken.remarks:
            self.say.problem("\n".join(taken.remarks))
        elif not taken.ids:
            self.say.problem(tr("There is no recording in what was dropped."))

    def resume(self) -> None:
        """Hear what waits, also from an earlier session."""
        try:
            self._due = deque(self.library.waiting())
        except StoreError as e:
            self.say.problem(str(e))
        self._submit_due()

    def _submit_due(self) -> None:
        """Some of what waits in each turn of the event loop, so that thousands aren't felt."""
        some = [self._due.popleft() for _ in range(min(AT_ONCE, len(self._due)))]
        try:
            for track_id, path in self.library.paths(some):
                self._submit(track_id, path)
        except StoreError as e:
            self.say.problem(str(e))
            return
        if self._due:
            QTimer.singleShot(0, self._submit_due)

    def analyse(self, track_id: int) -> None:
        """Hear a track (again): a failed, cancelled or interrupted one."""
        if self.pool.has(track_id):
            return
        try:
            self.catalogue.set_state(track_id, WAITING)
            self._submit(track_id, self.library.track(track_id).path)
        except StoreError as e:
            self.say.problem(str(e))

    def _submit(self, track_id: int, path: Path) -> None:
        if not self.pool.has(track_id):
            self.progress[track_id] = ("waiting", 0.0)
            self.pool.submit(track_id, path, wanted=self.range)

    def cancel(self, track_id: int) -> None:
        """Take an analysis back."""
        self.pool.cancel(track_id)

    def forget(self, track_ids: list[int]) -> None:
        """These tracks are taken out of the library."""
        for track_id in track_ids:
            self.cancel(track_id)
            self.progress.pop(track_id, None)
            if self.track.is_open(track_id):
                self.track.close()

    def first(self, track_ids: list[int]) -> None:
        """Let these be the next."""
        for track_id in reversed(track_ids):
            self.pool.hurry(track_id)

    def pause(self, paused: bool) -> None:
        """Begin nothing new, or go on; what a person opens is heard all the same."""
        self.paused = paused
        self._hold()

    def keep_quiet(self, playing: bool) -> None:
        """While something plays, begin nothing new if that is wanted."""
        self._playing = playing
        self._hold()

    def use(self, cores: int, *, quiet: bool) -> None:
        """How many cores hearing may take, and whether it waits while something plays."""
        self.pool.allowed = cores
        self.quiet = quiet
        self._hold()

    def _hold(self) -> None:
        self.pool.held = self.paused or (self.quiet and self._playing)
        self.changed.emit()

    def outlook(self) -> tuple[int, float | None]:
        """How many recordings wait or are heard, and for how many s more; None until one was heard."""
        left = len(self._due) + len(self.pool.waiting) + self.pool.running
        if not self._took:
            return left, None
        return left, left * (sum(self._took) / len(self._took)) / max(1, self.pool.allowed)

    def reconcile(self) -> None:
        """Another program wrote to the library: what it heard isn't heard again, what it took in waits here too."""
        try:
            waiting = set(self.library.waiting())
        except StoreError as e:
            self.say.problem(str(e))
            return
        for job in self.pool.waiting:
            if job not in waiting:
                self.pool.drop(job)
                self.progress.pop(job, None)
        self.resume()

    # opening

    def open(self, track_id: int) -> None:
        """Show a track; what is missing of it goes before all that waits."""
        try:
            self.track.open(track_id, lesser=track_id in self.lesser, drawn=self.early_waveforms.get(track_id))
        except FormatError as e:
            self.say.problem(tr("{0} The recording is heard again.").format(e))
            self.analyse(track_id)
            return
        except StoreError as e:
            self.say.problem(str(e))
            return
        row = self.track.row
        assert row is not None
        self.loader.forget()
        if self.track.evidence is None and row.state == READY:
            self.analyse(track_id)
        self.pool.hurry(track_id)
        if self.track.samples is None and row.state == READY and row.frames:
            self.loader.ask(track_id, row.path, row.frames)

    # answers

    def _tell_arrived(self) -> None:
        """Those that a thread has taken in since the last turn."""
        new: list[int] = []
        while self._arrived:
            new += self._arrived.popleft()
        self.catalogue.tell_added(new)

    def poll(self) -> None:
        """Hear what the workers said."""
        self._tell_arrived()
        for done in [f for f in self._found if f.done()]:
            self._found.remove(done)
            self._take_in_found(done)
        for message in self.pool.poll():
            try:
                self._take(message)
            except StoreError as e:
                self.progress.pop(message.job, None)
                self.say.problem(str(e))
        for key, answer in self.loader.poll():
            self._loaded(key, answer)

    def _take_in_found(self, done: Future[Taken]) -> None:
        try:
            taken = done.result()
        except OSError as e:
            self.say.problem(tr("What was dropped can't be read: {0}.").format(e.strerror or e))
        except StoreError as e:
            self.say.problem(str(e))
        else:
            self._tell_arrived()
            self._begin_with(taken)

    def _loaded(self, key: object, answer: Begun | Decoded | str) -> None:
        """The sound of the open track begins to come, is there, or can't be had."""
        row = self.track.row
        if row is None or key != row.id:
            return
        if isinstance(answer, str):
            self.say.problem(answer)
        elif isinstance(answer, Begun):
            self.track.show_sound(samples=answer.samples())
        elif row.identity not in ("", answer.identity):
            self.changed_sound.emit(row.id, answer)
        else:
            self.catalogue.set_decoded(row.id, answer)
            self.track.reload_row()
            self.track.show_sound()

    def _take(self, message: Message) -> None:
        job = message.job
        if not self.library.has(job):
            # taken off the list meanwhile
            self.progress.pop(job, None)
            return
        if message.kind == "progress":
            self.progress[job] = message.payload
            self._began.setdefault(job, time.monotonic())
            self.catalogue.tell(job, PROGRESS)
        elif message.kind == "decoded":
            self._decoded(job, *message.payload)
        else:
            self.progress.pop(job, None)
            self.early_waveforms.pop(job, None)
            began = self._began.pop(job, None)
            if message.kind == "done" and began is not None:
                self._took.append(time.monotonic() - began)
            self.changed.emit()
            if message.kind == ELSEWHERE:
                return
            if message.kind == "done":
                self._heard(job, message)
            elif message.kind == "failed":
                self.catalogue.fail(job, message.payload)
                self.say.problem(message.payload)
            else:
                self.catalogue.fail(job, tr("Not analysed: you took it back."))

    def _decoded(self, job: int, facts: Decoded, waveform: Waveform) -> None:
        known = self.library.track(job)
        if known.state == READY and known.identity not in ("", facts.identity):
            self.say.done(tr("{0} is not the sound it was. Your pins and cues are kept.").format(known.title))
        if self._is_moved(job, facts):
            return
        self.catalogue.set_decoded(job, facts)
        if facts.damage:
            self.say.problem(f"{self.library.track(job).title}: {summary(facts.damage)}")
        self.early_waveforms[job] = waveform
        if self.track.is_open(job):
            self.track.reload_row()
            self.track.show_sound(waveform)

    def _is_moved(self, job: int, facts: Decoded) -> bool:
        """Whether a new file holds the sound of a track whose own file has gone: then that track goes on with it."""
        was_open = self.track.is_open(job)
        lost = moves.reunite(self.library, job, facts)
        if lost is None:
            return False
        self.pool.cancel(job)
        self.catalogue.tell_removed([job])
        self.catalogue.tell(lost, STATE)
        self.say.done(
            tr("{0} has moved: its track and all work on it are kept.").format(self.library.track(lost).title)
        )
        if was_open:
            self.open(lost)
        return True

    def _heard(self, job: int, message: Message) -> None:
        done = message.payload
        self.catalogue.set_heard(job, done)
        self.heard.emit(job)
        if done.problem:
            # once in a session is enough, whatever this process thinks of the weights
            self.lesser.add(job)
            self.say.problem(done.problem)
        if not done.beats:
            title = self.library.track(job).title
            self.say.problem(tr("{0}: no beats could be heard. Type a tempo, or place pins.").format(title))
        if self.track.is_open(job):
            # in a turn of its own: keeping and showing together would be felt
            QTimer.singleShot(0, lambda: self.open(job) if self.track.is_open(job) else None)
