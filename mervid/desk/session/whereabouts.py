"""Where a person was when the program was closed: list, track, and the place in it; taken up again at a start."""

from __future__ import annotations

import json

from PyQt6.QtCore import QObject, QSettings

from ...core.errors import MervidError
from ..sound.player import Player
from .analysis_queue import AnalysisQueue
from .open_track import OpenTrack
from .shown_list import ShownList


class Whereabouts(QObject):
    """Kept in the settings as numbers; what is gone since then is passed over."""

    def __init__(self, shown: ShownList, track: OpenTrack, queue: AnalysisQueue, player: Player) -> None:
        super().__init__()
        self._shown, self._track, self._queue, self._player = shown, track, queue, player
        self._place: tuple[int, float] | None = None
        player.program_changed.connect(self._go)
        track.opened.connect(self._another)

    def keep(self) -> None:
        """Remember where we are."""
        row = self._track.row
        told = {"list": self._shown.number, "track": row.id if row is not None else 0, "place": self._player.position}
        QSettings().setValue("left", json.dumps(told))

    def take_up(self) -> None:
        """Show the list and the track that were left, or the first track."""
        try:
            told = json.loads(str(QSettings().value("left", "{}")))
            number, track_id, place = int(told["list"]), int(told["track"]), float(told["place"])
        except (ValueError, TypeError, LookupError):
            number, track_id, place = 0, 0, 0.0
        if number and self._is_there(number):
            self._shown.show(number)
        if track_id and self._has(track_id):
            self._place = (track_id, place)
            self._queue.open(track_id)
        elif len(self._shown):
            self._queue.open(int(self._shown.ids[0]))

    def _is_there(self, number: int) -> bool:
        try:
            self._shown.shelves.one(number)
        except MervidError:
            return False
        return True

    def _has(self, track_id: int) -> bool:
        try:
            self._shown.catalogue.library.track(track_id)
        except MervidError:
            return False
        return True

    def _another(self) -> None:
        if self._place is not None and not self._track.is_open(self._place[0]):
            self._place = None

    def _go(self) -> None:
        """The sound of the track that was left is there."""
        if self._place is not None and self._player.program is not None:
            (_, place), self._place = self._place, None
            self._player.seek(place)
