"""Commands of Rehearse: what is kept and written of a pair, and the pairs of the list."""

from __future__ import annotations

from typing import Any

from ...commands.command import CommandSet, command, request
from ...session.session import Session
from ...theme.tr import marked, tr
from .commands import MEET
from .surface import LIST, RehearseSurface

NIGHT = marked("The list")


class KeepingCommands(CommandSet):
    """What is kept and written, and the pairs of the list."""

    def __init__(self, session: Session, view: RehearseSurface) -> None:
        self.session, self.view = session, view
        self.pairing, self.table, self.say = session.pairing, session.pair_table, session.say

    @command("Ctrl+S", "Keep this meeting", MEET, also="save store")
    def keep_meeting(self, _: object) -> None:
        self.pairing.keep()

    @command("", "Forget the meeting that is kept", MEET, also="delete remove")
    def forget_meeting(self, _: object) -> None:
        self.pairing.forget_kept()

    @command("Ctrl+Shift+S", "Write the mix to a file", MEET, also="export render save flac wav audio")
    def write_mix(self, _: object) -> None:
        from ...widgets import file_dialogs

        why = self.session.mixes.why_not()
        if why:
            self.say.refused(why)
            return
        path = file_dialogs.where_to_write_mix(self.view, self.session.mixes.suggested_name())
        if path is not None:
            self.session.mixes.write(path)

    @command("Q", "Pairs of the list", NIGHT, also="matrix table plan night")
    def list_page(self, _: object) -> None:
        self.view.pages.turn(LIST)

    @command("", "Judge every pair of the list", NIGHT, also="matrix all")
    def judge_all(self, _: object) -> None:
        self.view.pages.turn_to(LIST)
        self.table.look_at_all()

    @command("", "Propose an order of the list", NIGHT, also="sort night plan")
    def propose_order(self, _: object) -> None:
        self.view.pages.turn_to(LIST)
        self.table.propose_order()

    @request
    def note(self, what: Any) -> None:
        """A note about a pair; it keeps the meeting that was judged."""
        leaving, coming, text = what
        pair, report = self.table.kept.get((leaving, coming)), self.table.reports.get((leaving, coming))
        meeting = pair.meeting if pair is not None and pair.meeting is not None else report and report.meeting
        if meeting:
            self.session.bookcase.keep_pair(leaving, coming, meeting, text.strip())
        else:
            self.say.refused(tr("These two can't meet yet, so there is nothing to keep a note with."))

    @request
    def shift(self, what: Any) -> None:
        """Move the coming track of a row one place up or down in the list."""
        place, step = what
        shown = self.session.shown
        if not shown.orderable:
            self.say.refused(tr("Only a list as it is can be put in another order: choose one in Gather."))
            return
        before = place if step < 0 else place + 3
        if 0 <= before <= len(shown):
            self.session.bookcase.shift(shown.number, [place + 1], before)
            shown.refresh()
