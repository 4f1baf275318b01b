"""Recordings on their way in: which wait, which are heard, and what becomes of each when the workers answer."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer

from ...core.errors import MervidError
from ...core.sound.waveform import Waveform
from ...jobs.pool import Message, Pool
from ...jobs.worker import Done
from ...store.library import FAILED, READY, WAITING, Track
from ...store.schema import StoreError

if TYPE_CHECKING:
    from .open_track import Workbench


class AnalysisQueue:
    """The queue of analyses of a workbench.

    Attributes
    ----------
    progress : what is done to each track at work, and the share done, 0 to 1
    early_waveforms : of tracks that are decoded and not yet heard
    lesser : tracks heard in this session without the ear's weights
    """

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench
        self.pool = Pool(bench.cache)
        self.progress: dict[int, tuple[str, float]] = {}
        self.early_waveforms: dict[int, Waveform] = {}
        self.lesser: set[int] = set()
        self._changed: set[int] = set()

    def add_files(self, paths: list[Path]) -> None:
        """Take files into the library, open the first, and hear the new ones in the background."""
        first: Track | None = None
        try:
            for path in paths:
                track, _ = self.bench.library.add(path)
                first = first or track
                if track.state != READY and not self.pool.has(track.id):
                    self.analyse(track.id)
        except MervidError as e:
            self.bench.said.emit("problem", str(e))
        self.bench.tracks_changed.emit()
        if first is not None:
            self.bench.open(first.id)

    def analyse(self, track_id: int) -> None:
        """Hear a track (again): a failed, cancelled or interrupted one."""
        if self.pool.has(track_id):
            return
        track = self.bench.library.track(track_id)
        self.bench.library.set_state(track_id, WAITING)
        self._submit(track)
        self.bench.tracks_changed.emit()

    def resume(self) -> None:
        """Hear what an earlier session left unheard."""
        for track in self.bench.library.tracks():
            if track.state == WAITING:
                self._submit(track)
        self.bench.tracks_changed.emit()

    def cancel(self, track_id: int) -> None:
        """Take an analysis back."""
        self.pool.cancel(track_id)

    def decode(self, track: Track) -> None:
        """Decode again, without listening again: the cache was cleared."""
        self._submit(track, listen=False)

    def _submit(self, track: Track, *, listen: bool = True) -> None:
        if not self.pool.has(track.id):
            self.progress[track.id] = ("waiting", 0.0)
            self.pool.submit(track.id, track.path, listen=listen, wanted=self.bench.range)

    def poll(self) -> None:
        """Hear what the workers said."""
        for message in self.pool.poll():
            try:
                self._take(message)
            except StoreError as e:
                self.progress.pop(message.job, None)
                self.bench.said.emit("problem", str(e))
                self.bench.tracks_changed.emit()

    def _take(self, message: Message) -> None:
        job = message.job
        if not self.bench.library.has(job):
            # taken off the list meanwhile
            self.progress.pop(job, None)
            return
        if message.kind == "progress":
            self.progress[job] = message.payload
            self.bench.progress_changed.emit(job)
            return
        if message.kind == "decoded":
            facts, waveform = message.payload
            known = self.bench.library.track(job)
            if known.state == READY and known.identity not in ("", facts.identity):
                self._changed.add(job)
            self.bench.library.set_decoded(job, facts)
            if facts.repaired:
                self.bench.said.emit(
                    "problem",
                    f"{self.bench.library.track(job).title}: {facts.repaired} samples are not numbers: silence there.",
                )
            self.early_waveforms[job] = waveform
            if self.bench.track is not None and self.bench.track.id == job:
                self.bench.track = self.bench.library.track(job)
                self.bench.waveform = self.bench.waveform or waveform
                self.bench.load_samples()
                self.bench.sound_changed.emit()
        elif message.kind == "done":
            self.progress.pop(job, None)
            self.early_waveforms.pop(job, None)
            if message.payload is not None:
                self._keep_evidence(job, message.payload)
            elif job in self._changed:
                self._changed.discard(job)
                title = self.bench.library.track(job).title
                self.bench.said.emit(
                    "problem", f"{title} is not the sound it was: it is heard again. Your pins and cues are kept."
                )
                self.analyse(job)
        elif message.kind == "failed":
            self.progress.pop(job, None)
            if self.bench.library.track(job).state != READY:
                self.bench.library.set_state(job, FAILED, message.payload)
            self.bench.said.emit("problem", message.payload)
        elif message.kind == "cancelled":
            self.progress.pop(job, None)
            self.early_waveforms.pop(job, None)
            if self.bench.library.track(job).state != READY:
                self.bench.library.set_state(job, FAILED, "Not analysed: you took it back.")
        self.bench.tracks_changed.emit()

    def _keep_evidence(self, job: int, done: Done) -> None:
        track = self.bench.library.track(job)
        same = self.bench.library.known(track.identity, job)
        if same is not None and self.bench.library.history(job).undo is None:
            # the same sound under another name: the work done on it is not done again
            self.bench.library.copy_work(same.id, job)
        else:
            self.bench.library.set_evidence(job, done.heard, done.waveform, done.first)
            self.bench.library.set_outlook(job, done.kind, done.doubts)
        if done.problem:
            # once in a session is enough, whatever this process thinks of the weights
            self.lesser.add(job)
            self.bench.said.emit("problem", done.problem)
        if not done.beats:
            self.bench.said.emit("problem", f"{track.title}: no beats could be heard. Type a tempo, or place pins.")
        if self.bench.track is not None and self.bench.track.id == job:
            # in a turn of its own: keeping and showing together would be felt
            QTimer.singleShot(0, lambda: self.bench.open_still(job))
