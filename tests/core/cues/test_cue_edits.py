"""Cues: snapping, slots, kinds, loops and their seams; and what happens to them when the grid improves."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.cues import cue_edits, player_profile
from mervid.core.edits import grid_edits
from mervid.core.errors import Refused
from mervid.core.fitting import drift
from mervid.core.form import skips
from mervid.core.model import cue
from mervid.core.model.beatgrid import steady
from mervid.core.model.cue import BOTH, STANDBY
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation

GRID = steady(tempo=120, first=1.0)
BASE = Preparation(grid=GRID)


@pytest.mark.parametrize(
    ("snap", "beat", "time"),
    [
        (cue_edits.DOWNBEAT, 4.0, None),
        (cue_edits.BEAT, 5.0, None),
        (cue_edits.HALF, 5.5, None),
        (cue_edits.FREE, None, 3.68),
    ],
)
def test_a_cue_goes_to_the_nearest_place_of_its_kind(snap: str, beat: float | None, time: float | None) -> None:
    (cue,) = cue_edits.add_cue(BASE, 3.68 if snap != cue_edits.BEAT else 3.6, snap=snap).cues
    assert (cue.beat, cue.time) == (beat, time)
    assert (cue.slot, cue.is_hot, cue.is_standby) == (0, True, False)


def test_no_cue_lies_before_the_recording() -> None:
    early = Preparation(grid=steady(tempo=120, first=-0.3))
    for snap in (cue_edits.DOWNBEAT, cue_edits.BEAT, cue_edits.HALF):
        assert cue_edits.add_cue(early, 0.0, snap=snap).cues[0].at(early.grid) >= 0


def test_slots_are_eight_and_can_change_places() -> None:
    p = BASE
    for k in range(8):
        p = cue_edits.add_cue(p, 1 + 2.0 * k)
    assert [c.slot for c in p.cues] == list(range(8))
    with pytest.raises(Refused, match="All eight hot cues are set"):
        cue_edits.add_cue(p, 30.0)
    p = cue_edits.add_cue(p, 30.0, kind=STANDBY)
    assert (p.cues[-1].slot, p.cues[-1].is_hot) == (None, False)
    with pytest.raises(Refused, match="can only be a standby cue"):
        cue_edits.set_kind(p, p.cues[-1].id, BOTH)
    first, third = p.cues[0].id, p.cues[2].id
    p = cue_edits.set_slot(p, first, 2)
    assert {c.id: c.slot for c in p.cues}[first] == 2
    assert {c.id: c.slot for c in p.cues}[third] == 0
    # set into a slot, whatever stands in it
    p = cue_edits.add_cue(p, 41.0, slot=2)
    assert first not in {c.id for c in p.cues}
    assert cue_edits.in_slot(p, 2).at(GRID) == 41.0  # type: ignore[union-attr]
    p = cue_edits.set_kind(p, third, STANDBY)
    assert cue_edits.in_slot(p, 0) is None
    assert cue_edits.set_kind(p, third, BOTH).cues[1].slot == 0


def test_hot_cues_from_before_there_were_slots_count_in_order() -> None:
    p = Preparation(grid=GRID, cues=(cue.Cue("a", "A", 0.0), cue.Cue("b", "B", 8.0, slot=0), cue.Cue("c", "C", 16.0)))
    assert [c.id if c else None for c in (cue_edits.in_slot(p, n) for n in range(4))] == ["b", "a", "c", None]


def test_snapped_cues_follow_a_better_grid_and_free_ones_stay() -> None:
    p = cue_edits.add_cue(cue_edits.add_cue(BASE, 9.0), 12.34, snap=cue_edits.FREE)
    better = grid_edits.add_pin(p, 64.0, 33.2)
    better = grid_edits.slide(better, 25.0)
    snapped, free = better.cues
    assert snapped.at(better.grid) != pytest.approx(9.0, abs=1e-4)
    assert snapped.beat == 16.0
    assert free.at(better.grid) == 12.34
    moved = cue_edits.move_cue(better, free.id, 20.0, snap=cue_edits.BEAT)
    assert moved.cues[1].beat == float(np.round(better.grid.beat_at(20.0)))
    with pytest.raises(Refused, match="already"):
        cue_edits.move_cue(better, free.id, 9.0)


def test_the_seam_of_a_loop_is_what_the_beat_jumps_by() -> None:
    p = cue_edits.add_cue(BASE, 9.0)
    p = cue_edits.set_loop(p, p.cues[0].id, 4)
    loop = cue_edits.loop_of(p, p.cues[0])
    assert loop == pytest.approx((9.0, 17.0))
    # a drummer who is 12 ms later at the loop's end than at its beginning
    beats = np.arange(64)
    times = GRID.time_at(beats) + np.clip((beats - 18) / 12, 0, 1) * 0.012
    error = cue_edits.seam_error(drift.trace(times, GRID), loop, 0.5)
    assert error == pytest.approx(12.0, abs=0.01)
    assert cue_edits.seam_words(error) == "seam 12.0 ms late: a few rounds only"
    assert cue_edits.seam_words(3.0).endswith("can run")
    assert cue_edits.seam_error(drift.trace(np.array([100.0]), GRID), loop, 0.5) is None
    with pytest.raises(Refused, match="1 to 64 bars"):
        cue_edits.set_loop(p, p.cues[0].id, 65)


@pytest.mark.parametrize(
    ("kind", "lost", "warns"),
    [
        (player_profile.EIGHT, [], []),
        (player_profile.THREE, ["Drop"], ["three hot cues: one is not kept", "The drop would be lost"]),
        (
            player_profile.NONE,
            ["First", "Drop"],
            ["no hot cues: two are not kept as standby cues", "The drop", "The first beat"],
        ),
    ],
)
def test_what_a_player_would_lose(kind: player_profile.Gear, lost: list[str], warns: list[str]) -> None:
    p = cue_edits.add_cue(BASE, 1.0, name="First", role="first beat")
    p = cue_edits.set_kind(cue_edits.add_cue(p, 9.0, name="Break", role="break"), p.cues[0].id, "hot")
    p = cue_edits.set_kind(p, p.cues[1].id, BOTH)
    p = cue_edits.add_cue(p, 33.0, name="Drop", role="drop", slot=3)
    found = player_profile.arrive(p, kind)
    assert [c.name for c in found.lost] == lost
    assert len(found.hot) == kind.slots
    for said, wanted in zip(found.warnings, warns, strict=True):
        assert wanted in said
    if lost:
        mended = player_profile.complete(p, kind)
        assert not player_profile.arrive(mended, kind).lost
        assert [c.name for c in player_profile.arrive(mended, player_profile.NONE).standby][-1] == "Drop"
    else:
        with pytest.raises(Refused, match="Nothing is missing"):
            player_profile.complete(p, kind)


def test_skips_go_from_chorus_to_later_choruses() -> None:
    rows = ((0, "intro", "A"), (32, "chorus", "B"), (64, "verse", "C"), (96, "chorus", "B"), (128, "chorus", "D"))
    form = Form(tuple(Phrase(float(b), r, x) for b, r, x in rows), 176.0)
    found = skips.skips(GRID, form)
    assert [(s.source, s.target, s.bars, s.keeps) for s in found] == [
        (1, 3, 16, True),
        (1, 4, 24, False),
        (3, 4, 8, False),
    ]
    assert skips.times(GRID, found[0]) == pytest.approx((13.0, 17.0, 49.0))
    assert skips.skips(GRID, Form(form.phrases[:1], 32.0)) == []
