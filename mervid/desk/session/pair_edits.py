"""Edits of either grid of a pair: the coming track is the open one, the leaving one lies in the library."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...core.errors import MervidError, Refused
from ...core.model import preparation
from ...core.model.preparation import Preparation
from ..theme.tr import tr
from .messages import Messages
from .open_track import OpenTrack


class PairEdits:
    """Makes edits and takes them back; says why where it can't."""

    def __init__(self, track: OpenTrack, say: Messages) -> None:
        self.track, self.catalogue, self.say = track, track.catalogue, say

    def make(self, track_id: int, title: str, edit: Callable[..., Preparation], *args: Any) -> bool:
        """Make a named edit of one of the two; whether anything changed."""
        if self.track.is_open(track_id):
            return self.track.apply(edit, *args)
        try:
            # as it is in the library: an edit a moment ago may not have been read back yet
            now = self.catalogue.library.history(track_id).preparation
            value = edit(now, *args)
            if value == now:
                return False
            self.catalogue.edit(track_id, preparation.name_of(edit), value)
        except Refused as e:
            self.say.refused(f"{title}: {e}")
            return False
        except MervidError as e:
            self.say.problem(tr("{0} The last change is not kept.").format(e))
            return False
        return True

    def step(self, track_id: int, name: str, *, back: bool) -> bool:
        """Take the newest edit back, or make it again, where it is called `name`; whether that could be."""
        library = self.catalogue.library
        try:
            history = library.history(track_id)
            if (history.undo if back else history.redo) != name:
                title = library.track(track_id).title
                raise Refused(tr("{0} was edited since: take that back in Align first.").format(title))
            preparation.refuse_locked(history.preparation)
            (self.catalogue.undo if back else self.catalogue.redo)(track_id)
        except MervidError as e:
            (self.say.refused if isinstance(e, Refused) else self.say.problem)(str(e))
            return False
        if self.track.is_open(track_id):
            self.track.reread()
        return True
