"""Commands of Rehearse: which two, where they meet, how it is heard, and what mends it where they part."""

from __future__ import annotations

from typing import Any

import attrs
import numpy as np
from PyQt6.QtCore import QTimer

from ....core.cues import cue_edits
from ....core.edits import typed_values
from ....core.errors import Refused
from ....core.pairs import places, proposals, tying
from ....core.pairs.meeting import CLOCKS, LENGTHS, LEVELS, MOST_BARS, MOST_STRETCH, STEADY, Meeting, Tone
from ....core.rendering.duet import COMING, LEAVING
from ...commands.command import EAR, LOOK, CommandSet, command, request
from ...session.pairing import NOTHING
from ...session.session import Session
from ...theme.tr import marked, tr
from ...views.zipper import ENTER, LENGTH
from ...widgets.value_line import Field
from .surface import PAIR, RehearseSurface

TWO, MEET = marked("The two"), marked("Where they meet")
AS_IS_MS = 1.0
"""Less than this isn't worth a pin."""
REST_MS = 120
"""A fader that stood still for so long is where a hand wants it."""


class PairCommands(CommandSet):
    """The pair and its meeting."""

    def __init__(self, session: Session, view: RehearseSurface) -> None:
        self.session, self.view = session, view
        self.pairing, self.duet, self.say = session.pairing, session.duet, session.say
        self._faded = 0.5
        self._fading = QTimer(view)
        self._fading.setSingleShot(True)
        self._fading.setInterval(REST_MS)
        self._fading.timeout.connect(self._set_tempo)

    # which two

    @command("U", "The open track leaves", TWO, also="from here out going")
    def leaves(self, _: object) -> None:
        self.pairing.hand_over()

    @command("Alt+U", "Swap leaving and coming", TWO, also="exchange reverse")
    def swap(self, _: object) -> None:
        key = self.pairing.key
        if key is None or key[0] == key[1]:
            self.say.refused(self.pairing.problem or NOTHING)
            return
        self.pair((key[1], key[0]))

    @command("N", "Next pair: the coming track leaves, the next of the list comes", TWO, also="go on hand over")
    def next_pair(self, _: object) -> None:
        row, shown = self.session.track.row, self.session.shown
        if row is None:
            return
        at = shown.row_of(row.id)
        after = shown.track(at + 1) if at >= 0 else None
        if after is None:
            self.say.refused(tr("{0} is the last one of {1}: nothing comes after it.").format(row.title, shown.title))
            return
        self.pair((row.id, after.id))

    @request
    def pair(self, key: Any) -> None:
        """Rehearse these two."""
        leaving, coming = key
        self.view.pages.turn_to(PAIR)
        self.pairing.set_leaving(leaving)
        if not self.session.track.is_open(coming):
            self.session.open(coming)

    # where

    @request
    def meet(self, goal: Any) -> None:
        """Meet as proposed; how it sounds stays."""
        met = self.pairing.wanted()
        if met is not None:
            self._move(tr("Meet there"), goal, met.meeting, nudge=goal.nudge)

    @request
    def straighten_it(self, side: Any) -> None:
        """To the page of Deliver that straightens, with one of the two open there."""
        pair = self.pairing.key
        if pair is None:
            return
        self.session.open(pair[0] if side is self.pairing.leaving else pair[1])
        self.view.panel.asked.emit("straighten-page", None)

    def _move(self, name: str, goal: Meeting, now: Meeting, **more: float) -> bool:
        """Meet where `goal` says; how it sounds stays. Whether that could be."""
        swap = _half(now, goal.bars)
        return self.pairing.alter(
            name, at=goal.at, enter=goal.enter, bars=goal.bars, level=goal.level, swap=swap, **more
        )

    @command("P", "Next place that is proposed", MEET, 1, also="suggestion meeting")
    @command("Shift+P", "Place proposed before it", MEET, -1, also="suggestion meeting")
    def next_place(self, step: int) -> None:
        met, found = self.pairing.wanted(), self.pairing.proposals
        if met is None or not found:
            return
        now = met.meeting
        places_ = [(f.meeting.at, f.meeting.enter, f.meeting.bars) for f in found]
        here = (now.at, now.enter, now.bars)
        at = places_.index(here) + step if here in places_ else 0
        self.meet(found[at % len(found)].meeting)

    @command("Ctrl+Left", "The coming track enters a phrase earlier", MEET, -1, also="section")
    @command("Ctrl+Right", "The coming track enters a phrase later", MEET, 1, also="section")
    def step_phrase(self, step: int) -> None:
        met = self.pairing.wanted()
        if met is None:
            return
        m, side = met.meeting, met.coming
        ahead = [q.start for q in side.phrases if (q.start > m.enter + 0.5 if step > 0 else q.start < m.enter - 0.5)]
        if ahead:
            self.pairing.alter(tr("Enter elsewhere"), enter=ahead[0] if step > 0 else ahead[-1])
        else:
            self.say.refused(f"{side.title} has no phrase {'after' if step > 0 else 'before'} this one.")

    @request
    def slid(self, what: Any) -> None:
        """A part of the zipper was dragged by so many bars."""
        changed = self.view_after(*what)
        if changed is not None:
            self.pairing.set(changed, tr("Slide the zipper"))
        self.view.refresh()

    def view_after(self, what: str, bars: int) -> Meeting | None:
        """The meeting after the zipper is dragged; None where that can't be."""
        m, a, b = self.pairing.meeting, self.pairing.leaving, self.pairing.coming
        if m is None or a is None or b is None:
            return None
        try:
            if what == LENGTH:
                return attrs.evolve(m, bars=max(1, m.bars + bars), swap=_half(m, m.bars + bars))
            grid, beat = (b.grid, m.enter) if what == ENTER else (a.grid, m.at)
            goal = float(grid.bar_start(int(grid.bar_index(beat + 1e-6)[0]) - bars))
            return attrs.evolve(m, enter=goal) if what == ENTER else attrs.evolve(m, at=goal)
        except Refused as e:
            self.say.refused(str(e))
            return None

    @command("T", "Type where they meet", MEET, also="bar place length bars enter")
    def type_place(self, _: object) -> None:
        p, met = self.pairing, self.pairing.wanted()
        if met is None:
            return
        a, b, m = met.leaving, met.coming, met.meeting
        bar_a, bar_b = (places.name(s, x).rpartition("bar ")[2] for s, x in ((a, m.at), (b, m.enter)))
        self.view.pages.turn_to(PAIR)
        self.view.values.ask(
            tr("They meet"),
            (
                Field(tr("leaving at"), bar_a, lambda text: places.place(a, text)),
                Field(tr("coming from"), bar_b, lambda text: places.place(b, text)),
                Field("bars", str(m.bars), _bars, 60),
            ),
            lambda at, enter, bars: p.alter(tr("Meet there"), at=at, enter=enter, bars=bars, swap=_half(m, bars)),
        )

    @command("D", "Land the drop on a change of the leaving track", MEET, also="so many bars left")
    def land_drop(self, _: object) -> None:
        met = self.pairing.wanted()
        if met is None:
            return
        a, m = met.leaving, met.meeting
        change = next(iter(proposals.next_changes(a, m.at)), m.at + m.bars * a.grid.beats_per_bar(m.at))
        bar = places.name(a, change).rpartition("bar ")[2]
        left = int(a.grid.bar_index(change + 1e-6)[0] - a.grid.bar_index(m.at + 1e-6)[0])
        self.view.pages.turn_to(PAIR)
        self.view.values.ask(
            tr("Its drop falls"),
            (
                Field(tr("on the leaving track's"), bar, lambda text: places.place(a, text)),
                Field(tr("bars left until then"), str(max(1, left)), _bars, 60),
            ),
            self._landed,
        )

    def _landed(self, change: float, bars: int) -> bool:
        p = self.pairing
        assert p.leaving is not None and p.coming is not None and p.meeting is not None
        try:
            goal = proposals.land_the_drop(p.leaving, p.coming, change, bars)
        except Refused as e:
            self.say.refused(str(e))
            return False
        if goal.bars < bars:
            self.say.done(
                tr("{0} has only {1} bars before its drop: it begins that much later.").format(
                    p.coming.title, goal.bars
                )
            )
        return self._move(tr("Land the drop"), goal, p.meeting)

    @command("]", "Overlap twice as long", MEET, 1, also="longer bars")
    @command("[", "Overlap half as long", MEET, -1, also="shorter bars")
    def length(self, step: int) -> None:
        met = self.pairing.wanted()
        if met is None:
            return
        m = met.meeting
        beyond = [n for n in LENGTHS if (n > m.bars if step > 0 else n < m.bars)]
        if beyond:
            bars = beyond[0] if step > 0 else beyond[-1]
            self.pairing.alter(tr("Another length"), bars=bars, swap=_half(m, bars))

    # how

    @request
    def clock(self, name: object) -> None:
        """Whose time is kept; a steady clock asks for its tempo."""
        m, judged = self.pairing.meeting, self.pairing.judged
        if m is None or judged is None:
            return
        if name != STEADY:
            self.pairing.alter(tr("Another clock"), clock=name, tempo=0.0)
            return
        t = judged.together
        tempo = m.tempo or round(60 * t.beats / (t.stop - t.start), 1)
        self.view.refresh()
        self.view.values.ask(
            tr("A steady clock"),
            (Field(tr("tempo, BPM"), f"{tempo:g}", typed_values.tempo),),
            lambda value: self.pairing.alter(tr("A steady clock"), clock=STEADY, tempo=value),
        )

    @command("S", "Next clock: the leaving track's, a steady tempo, a glide", MEET, also="tempo sync master")
    def next_clock(self, _: object) -> None:
        m = self.pairing.meeting
        if m is not None:
            self.clock(CLOCKS[(CLOCKS.index(m.clock) + 1) % len(CLOCKS)])

    @request
    def tempo(self, level: Any) -> None:
        """A fader sets the tempo of a steady clock, around the leaving track's own; once the hand rests."""
        self._faded = float(level)
        self._fading.start()

    def _set_tempo(self) -> None:
        met = self.pairing.wanted()
        if met is None:
            return
        own = met.leaving.grid
        mean = 60 / float(np.diff(own.time_at([met.meeting.at, met.meeting.at + 32]))[0]) * 32
        tempo = round(mean * (1 + MOST_STRETCH * (2 * self._faded - 1)), 1)
        self.pairing.alter(tr("A steady clock"), clock=STEADY, tempo=tempo)

    @command("Shift+S", "Pitch held, or with the speed", EAR, also="varispeed key lock")
    def pitch(self, _: object) -> None:
        m = self.pairing.meeting
        if m is not None:
            self.set_pitch(not m.hold_pitch)

    @request
    def set_pitch(self, hold: object) -> None:
        self.pairing.alter(tr("Hold the pitch") if hold else tr("Pitch with the speed"), hold_pitch=bool(hold))

    @request
    def fade(self, what: Any) -> None:
        which, law = what
        self.pairing.alter(tr("Another fade"), **{which: law})

    @request
    def low(self, choice: object) -> None:
        m = self.pairing.meeting
        if m is not None:
            swap = (None, m.bars // 2, 0, m.bars)[int(str(choice))]
            self.pairing.alter(tr("Low sound changes hands"), swap=swap)

    @command("", "Tone of the leaving track: low, middle and high in dB", EAR, LEAVING, also="bands equaliser bass")
    @command("", "Tone of the coming track: low, middle and high in dB", EAR, COMING, also="bands equaliser bass")
    def tone(self, which: Any) -> None:
        met = self.pairing.wanted()
        if met is None:
            return
        name = f"{which}_tone"
        now: Tone = getattr(met.meeting, name)
        fields = tuple(Field(n, f"{v:g}", typed_values.decibels, 60) for n, v in attrs.asdict(now).items())
        self.view.pages.turn_to(PAIR)
        self.view.values.ask(
            tr("The {0} track, dB").format(which),
            fields,
            lambda low, mid, high: self.pairing.alter("Tone", **{name: Tone(low, mid, high)}),
        )

    @command("", "Count the coming track otherwise: alike, at half, at double", MEET, also="half time double level")
    def count(self, _: object) -> None:
        m = self.pairing.meeting
        if m is not None:
            self.pairing.alter(tr("Count otherwise"), level=LEVELS[(LEVELS.index(m.level) + 1) % len(LEVELS)])

    @request
    def match(self, _: object) -> None:
        m = self.pairing.meeting
        if m is not None:
            self.pairing.alter(tr("As loud"), match=not m.match)

    # by ear

    @command("G", "Go to the meeting", LOOK, also="overlap start play")
    def go_to_meeting(self, _: object) -> None:
        self.duet.go_to_meeting()

    @request
    def slide(self, by: Any) -> None:
        """The wheel that slides the grid in Align."""
        self.nudge(by)

    @command(",", "The coming track 1 ms earlier", EAR, -1.0, also="nudge push")
    @command(".", "The coming track 1 ms later", EAR, 1.0, also="nudge hold back")
    @command("Shift+,", "The coming track 10 ms earlier", EAR, -10.0, also="nudge push")
    @command("Shift+.", "The coming track 10 ms later", EAR, 10.0, also="nudge hold back")
    def nudge(self, by: Any) -> None:
        met = self.pairing.wanted()
        if met is not None:
            self.pairing.alter("Nudge", nudge=round(met.meeting.nudge + float(by), 1))

    @command("Backspace", "No nudge", EAR, also="reset")
    def no_nudge(self, _: object) -> None:
        if self.pairing.meeting is not None:
            self.pairing.alter(tr("No nudge"), nudge=0.0)

    @command("Shift+U", "The nudge into the coming track's grid", EAR, also="slide keep")
    def nudge_grid(self, _: object) -> None:
        self.pairing.slide_grid()

    # where they part

    @command("J", "Go to the next beat at which they part", LOOK, also="worst torn apart doubtful flam")
    def next_torn(self, _: object) -> None:
        judged = self.pairing.judged
        if judged is None:
            self.pairing.wanted()
            return
        line, here = judged.line, self.session.player.position
        torn = line.times[np.abs(line.apart) > line.forgiven]
        if not len(torn):
            self.say.done(tr("Nowhere here are they farther apart than an ear forgives."))
            return
        ahead = torn[torn > here + 0.05]
        self.session.player.seek(float(ahead[0] if len(ahead) else torn[0]))

    @command("F", "Pull the beat here onto its thread", MEET, also="tie mend fix pin grid follow flam")
    def pull_here(self, _: object) -> None:
        met, judged = self.pairing.wanted(), self.pairing.judged
        if met is None or judged is None:
            return
        t = judged.together
        here = float(np.clip(t.clock.beat_at(self.session.player.position), t.meeting.at, t.meeting.at + t.beats))
        try:
            tie = tying.near(met.leaving, met.coming, t, here)
        except Refused as e:
            self.say.refused(str(e))
            return
        if abs(tie.off) < AS_IS_MS:
            self.say.done(tr("Both lie on their threads here, within {0:g} ms.").format(AS_IS_MS))
            return
        self.pairing.pull(tie)

    @request
    def pull(self, tie: Any) -> None:
        """A beat of either track onto what is heard."""
        self.pairing.pull(tie)

    @request
    def follow_it(self, side: Any) -> None:
        """One of the two follows its recording from now on."""
        self.pairing.follow(side)

    @command("Shift+E", "Leaving track alone", EAR, LEAVING, also="solo")
    @command("E", "Coming track alone", EAR, COMING, also="solo")
    def solo(self, which: object) -> None:
        self.duet.set_solo(str(which))

    @command("Alt+E", "Leaving left, coming right", EAR, also="split headphones")
    def split_ears(self, _: object) -> None:
        self.duet.set_split(not self.duet.split)

    # what can't be done here

    @request
    def cue(self, _: object) -> None:
        self.say.refused(tr("Cues are set in Align and Phrase: here two tracks run on one clock."))

    @request
    def cue_number(self, number: object) -> None:
        """Enter at a cue of the coming track."""
        p = self.pairing
        slot = int(str(number))
        cue = cue_edits.in_slot(p.track.preparation, slot)
        if cue is None or p.coming is None:
            self.say.refused(tr("The coming track has no cue {0}.").format(slot + 1))
            return
        p.alter(tr("Enter at a cue"), enter=p.coming.beat_of(cue))

    # back

    @request
    def undo(self, _: object) -> None:
        self.pairing.undo()

    @request
    def redo(self, _: object) -> None:
        self.pairing.redo()


def _bars(text: str) -> int:
    """A whole number of bars. Raises `Refused`."""
    return typed_values.whole(text, "bars", 1, MOST_BARS)


def _half(m: Meeting, bars: int) -> int | None:
    """Where low sound changes hands in an overlap of another length."""
    return None if m.swap is None else bars // 2
