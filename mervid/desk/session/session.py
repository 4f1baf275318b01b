"""All that is behind the window, put together: the catalogue, the open track, and the services on it."""

from __future__ import annotations

import contextlib
import logging
import sqlite3
import threading
from contextlib import closing
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.model.tempo_range import TempoRange
from ...formats import safe_file
from ...jobs import pcm
from ...store import care, facts, others, summary
from ...store.library import Library
from ..pads.ports import Ports
from ..sound.player import Player
from ..theme.tr import tr
from .analysis_queue import AnalysisQueue
from .bookcase import Bookcase
from .borrowing import Borrowing
from .catalogue import Catalogue
from .chosen_part import ChosenPart
from .comparison import Comparison
from .contact_sheet import ContactSheet
from .copies import Copies
from .delivering import Delivering
from .describing import Describing
from .duet_playing import DuetPlaying
from .errands import Errands
from .first_minutes import FirstMinutes
from .folder_watch import FolderWatch
from .keeping import Keeping
from .listening import Listening
from .messages import Messages
from .mixes import Mixes
from .offers import Offers
from .open_track import OpenTrack
from .pads import Pads
from .pair_table import PairTable
from .pairing import Pairing
from .paper import Paper
from .phrase_choice import PhraseChoice
from .recipe_shelf import RecipeShelf
from .recording_watch import RecordingWatch
from .reports import Reports
from .selection import Selection
from .shown_list import ShownList
from .spot_check import SpotChecks
from .stick_playing import StickPlaying
from .straightening import Straightening
from .tag_reading import TagReading
from .tag_writing import TagWriting
from .tapping import Tapping
from .tolerance_trial import ToleranceTrial
from .warm_up import WarmUp
from .whereabouts import Whereabouts

log = logging.getLogger(__name__)
OTHERS_TURNS = 16
"""So many turns of the poll apart it is looked whether another program wrote to the library: a second."""
POLL_MS = 60
"""So often the processes are heard: a person doesn't notice that an answer lay for so long."""


class Session(QObject):
    """One library, one open track, one player. Services know the track and the catalogue, and none knows this.

    Parameters
    ----------
    workers : how many recordings are heard at once; None for what this machine suggests
    ports : where controllers are plugged in; None for the system's
    cache_limit : bytes that decoded sound may take in `cache`; None for the usual
    """

    _upkept = pyqtSignal(int, int)
    _damaged = pyqtSignal()

    def __init__(
        self,
        library: Library,
        cache: Path,
        player: Player,
        *,
        workers: int | None = None,
        cache_limit: int | None = None,
        ports: Ports | None = None,
    ) -> None:
        super().__init__()
        self.library, self.cache, self.player = library, cache, player
        self.say = Messages()
        self.catalogue = Catalogue(library)
        self.track = track = OpenTrack(self.catalogue, cache, self.say)
        self.part, self.selection = ChosenPart(track), Selection()
        self.bookcase = Bookcase(self.catalogue, self.say)
        self.shown = ShownList(self.catalogue, self.bookcase.lists, self.say)
        self.tags = TagReading(self.catalogue, self.say, cache)
        self.folders = FolderWatch(self.catalogue, self.say)
        self.copies, self.describing = Copies(self.catalogue, self.say), Describing(self.catalogue)
        self.offers = Offers(track, self.say)
        self.reports = Reports(track, self.offers, self.say)
        self.spots = SpotChecks(track, self.reports, self.say)
        self.comparison = Comparison(track, self.offers)
        self.trial = ToleranceTrial(track)
        self.queue = AnalysisQueue(self.catalogue, track, self.say, workers, cache_limit)
        self.watch = RecordingWatch(track, self.queue, self.say)
        player.playing_changed.connect(lambda playing: self.watch.look() if playing else None)
        player.playing_changed.connect(self.queue.keep_quiet)
        self.catalogue.refilled.connect(self.queue.resume)
        self.catalogue.removed.connect(self.queue.forget)
        self.folders.arrived.connect(self.queue.resume)
        self.queue.changed.connect(self._when_all_is_heard)
        self.queue.listed.connect(self.bookcase.make_branch)
        self.describing.done.connect(self._when_all_is_heard)
        # before the listening: it gives back what calibration had put aside
        self.tapping = Tapping(track, player, self.say)
        self.listening = Listening(track, player, self.part, self.spots, self.say)
        self.pads = Pads(track, self.listening, self.say, ports)
        self.pairing = Pairing(track, self.bookcase, self.say)
        self.duet = DuetPlaying(self.pairing, player, self.listening, self.say)
        self.mixes = Mixes(self.pairing, self.duet, self.say)
        self.pair_table = PairTable(self.shown, self.bookcase, self.say)
        self.work = Errands(library)
        self.straightening = Straightening(self.catalogue, self.work, self.say)
        self.tag_writing = TagWriting(self.catalogue, self.work, self.say)
        self.delivering = Delivering(self.shown, self.tag_writing, self.work, self.say)
        self.paper = Paper(self.shown, self.bookcase, self.work, self.say)
        self.stick_playing = StickPlaying(player, self.listening, self.say)
        self.keeping = Keeping(self.catalogue, self.say)
        self.catalogue.refilled.connect(self.straightening.resume)
        self.tag_writing.wrote.connect(self.tags.wake)
        self.keeping.taken.connect(self.track.reread)
        self.borrowing = Borrowing(self.catalogue, track, self.say)
        self.phrases = PhraseChoice(track)
        self.recipes = RecipeShelf(track, self.say)
        self.sheet = ContactSheet(self.catalogue, track, self.work, self.say)
        self.whereabouts = Whereabouts(self.shown, track, self.queue, player)
        self.first_minutes = FirstMinutes(track, self.listening, self.pairing, self.delivering)
        self.warm_up = WarmUp()
        self._stop = threading.Event()
        self._keeper: threading.Thread | None = None
        self._upkept.connect(self._tell_upkeep)
        self._damaged.connect(self._tell_damaged)
        player.said.connect(self.say.tell)
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)
        self._turns, self._others = 0, others.announced(library.path)
        self._timer.start()

    def close(self) -> None:
        """End all processes and let go of the library."""
        self._timer.stop()
        self._stop.set()
        if self._keeper is not None:
            self._keeper.join()
        self.sheet.stop()
        self.first_minutes.leave()
        for service in (
            self.pads,
            self.tags,
            self.folders,
            self.copies,
            self.describing,
            self.watch,
            self.queue,
            self.offers,
            self.trial,
            self.borrowing,
            self.mixes,
            self.pairing,
            self.duet,
            self.pair_table,
            self.straightening,
            self.stick_playing,
            self.work,
            self.keeping,
            self.player,
        ):
            service.close()
        self.library.close()

    def poll(self) -> None:
        """Hear what the processes said."""
        self.queue.poll()
        self.offers.poll()
        self.trial.poll()
        self.duet.poll()
        self.pair_table.poll()
        self.work.poll()
        self._turns += 1
        if self._turns % OTHERS_TURNS == 0:
            self._hear_of_others()

    def _hear_of_others(self) -> None:
        """Another program may have written to the library: the command line works beside the window."""
        when = others.announced(self.library.path)
        if when != self._others:
            self._others = when
            self.queue.reconcile()
            self.catalogue.reread()
            self.track.reread()
            self.bookcase.changed.emit()
            self.tags.wake()

    def _when_all_is_heard(self) -> None:
        if not self.queue.outlook()[0]:
            self.copies.look()

    def open(self, track_id: int) -> None:
        """Show a track."""
        self.queue.open(track_id)

    def take_out(self, track_ids: list[int]) -> None:
        """Take tracks out of the library; their files stay, and it can be undone."""
        self.bookcase.take_out(track_ids)

    def lists_of_folder(self, folder: Path) -> None:
        """Make lists of a folder's recordings and of all folders below it."""
        self.queue.add_files([folder], as_lists=True)

    def set_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected from now on."""
        self.queue.range = wanted
        self.offers.set_range(wanted)

    # what an older library lacks

    def upkeep(self, exports: Path | None = None) -> None:
        """Check the library, keep a copy of the day and fill in what an older one lacks, all in the background.

        Parameters
        ----------
        exports : a folder in which a killed program may have left something half written
        """
        path = self.library.path
        if path is None or self._keeper is not None:
            return
        self._keeper = threading.Thread(target=self._keep_up, args=(path, exports), name="upkeep", daemon=True)
        self._keeper.start()
        self.tags.wake()
        self.describing.wake()
        self.folders.look()
        self.straightening.resume()

    def _keep_up(self, path: Path, exports: Path | None) -> None:
        pcm.clear_unfinished(self.cache)
        if exports is not None:
            safe_file.clean(exports)
        found = care.check(path)
        if found:
            log.error("The library is damaged: %s", found)
            with contextlib.suppress(OSError):
                care.mark(path).touch(0o600)
            self._damaged.emit()
            return
        try:
            care.copy_of_today(path)
        except (OSError, sqlite3.Error) as e:
            log.warning("No copy of the library could be made: %s", e)
        try:
            with closing(Library(path)) as own:
                facts.forget_old(own)
            if not self._stop.is_set():
                summary.fill(path, progress=self._upkept.emit, stop=self._stop)
        except sqlite3.Error:
            # what is missing is asked for again at the next start
            return

    def _tell_damaged(self) -> None:
        self.say.problem(
            tr(
                "Your library is damaged on the disk. Close Mervid and start it again: what can be read is saved then, "
                "and the damaged file is kept."
            )
        )

    def _tell_upkeep(self, done: int, of: int) -> None:
        if done < of:
            self.say.done(tr("Your library is being brought up to date: {0} of {1} tracks.").format(done, of))
        else:
            self.say.done(tr("Your library is up to date: {0} tracks.").format(of))
        self.catalogue.reread()
