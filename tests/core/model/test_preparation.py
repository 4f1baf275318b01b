"""Edits as pure functions: what each changes, what it must leave alone, and the way to JSON and back."""

from __future__ import annotations

import json

import attrs
import numpy as np
import pytest

from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits, track_edits
from mervid.core.errors import FormatError, Refused
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Grid, MeterMark, Pin
from mervid.core.model.preparation import Preparation
from mervid.core.model.tolerance import Tolerance

GRID = Grid((Pin(0.5, 0.0), Pin(16.7, 32.0), Pin(33.1, 64.0), Pin(49.0, 96.0)))
BASE = Preparation(grid=GRID, mix_zones=((0.0, 12.0),), tolerance=Tolerance(7, 14))


def at(p: Preparation, beat: float) -> float:
    """Time of a beat, s."""
    assert p.grid is not None
    return float(p.grid.time_at(beat))


def test_adding_and_moving_pins_is_local_and_marks_the_hand() -> None:
    p = grid_edits.add_pin(BASE, 48.0, 25.2)
    assert p.grid is not None
    assert Pin(25.2, 48.0, hand=True) in p.grid.pins
    for beat in (-8, 0, 31.5, 64, 80, 120):
        assert at(p, beat) == at(BASE, beat)
    moved = grid_edits.move_pin(p, 2, 25.25)
    assert at(moved, 48) == 25.25
    assert at(moved, 20) == at(BASE, 20)
    assert grid_edits.remove_pin(moved, 2).grid == GRID
    with pytest.raises(Refused, match="must lie after"):
        grid_edits.add_pin(BASE, 48.0, 40.0)


def test_last_two_pins_stay() -> None:
    p = grid_edits.remove_pin(grid_edits.remove_pin(BASE, 1), 1)
    with pytest.raises(Refused, match="last two pins"):
        grid_edits.remove_pin(p, 0)


def test_slide_moves_everything_by_the_same_time() -> None:
    p = grid_edits.slide(BASE, -10)
    beats = np.arange(-10, 110)
    assert p.grid is not None
    np.testing.assert_allclose(p.grid.time_at(beats), GRID.time_at(beats) - 0.01, atol=1e-12)


def test_tempo_keeps_the_first_hand_pin_or_the_first_downbeat() -> None:
    p = grid_edits.set_tempo(BASE, 120.0)
    assert p.grid is not None
    assert at(p, 0) == 0.5
    assert p.grid.tempi.tolist() == pytest.approx([120.0])
    q = grid_edits.set_tempo(grid_edits.add_pin(BASE, 48.0, 25.2), 118.0)
    assert at(q, 48) == 25.2
    assert at(grid_edits.set_tempo(Preparation(), 100.0, first=2.0), 0) == 2.0
    for wrong in (0.0, -5.0, 5000.0, float("nan")):
        with pytest.raises(Refused, match="Tempo must lie between 20 and 999 BPM"):
            grid_edits.set_tempo(BASE, wrong)


def test_halving_and_doubling_move_no_instant() -> None:
    p = cue_edits.add_cue(BASE, at(BASE, 16))
    double = grid_edits.double(p)
    assert double.grid is not None
    np.testing.assert_allclose(double.grid.times, GRID.times)
    np.testing.assert_allclose(double.grid.tempi, 2 * GRID.tempi)
    assert double.cues[0].at(double.grid) == pytest.approx(at(BASE, 16))
    assert grid_edits.halve(double) == p
    odd = attrs.evolve(BASE, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(13))))
    with pytest.raises(Refused, match="odd beat"):
        grid_edits.halve(odd)


def test_downbeat_renumbers_and_changes_no_time() -> None:
    p = cue_edits.add_cue(BASE, at(BASE, 16))
    for beat in (1, 2, 3, 33, 62):
        q = grid_edits.set_downbeat(p, at(BASE, beat) + 0.05)
        assert q.grid is not None
        np.testing.assert_array_equal(q.grid.times, GRID.times)
        assert q.grid.name_at(float(q.grid.beat_at(at(BASE, beat)))).endswith(".1")
        assert abs(q.grid.beats[0] - GRID.beats[0]) <= 2
        assert q.cues[0].at(q.grid) == pytest.approx(p.cues[0].at(p.grid))
    with pytest.raises(Refused, match="begins here already"):
        grid_edits.set_downbeat(BASE, at(BASE, 8))


def test_downbeat_under_a_later_mark_moves_that_mark_alone() -> None:
    p = attrs.evolve(BASE, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(40))))
    q = grid_edits.set_downbeat(p, at(BASE, 49))
    assert q.grid is not None
    assert [m.beat for m in q.grid.meter] == [0, 41]
    assert q.grid.pins == GRID.pins


def test_cues_snap_to_downbeats_follow_the_grid_and_can_be_free() -> None:
    p = cue_edits.add_cue(BASE, at(BASE, 17.4), name="Verse")
    assert p.cues[0].beat == 16
    p = cue_edits.add_cue(p, 7.77, snap=cue_edits.FREE)
    assert [c.name for c in p.cues] == ["Cue 1", "Verse"]
    # the bar line before the recording begins is no place for a cue
    assert cue_edits.add_cue(grid_edits.slide(BASE, 1400), 0.1).cues[0].beat == 0
    slid = grid_edits.slide(p, 10)
    assert slid.cues[1].at(slid.grid) == pytest.approx(at(BASE, 16) + 0.01)
    assert slid.cues[0].at(slid.grid) == 7.77
    with pytest.raises(Refused, match=r"stands on 5\.1 already"):
        cue_edits.add_cue(p, at(BASE, 15.9))
    verse = p.cues[1].id
    assert cue_edits.rename_cue(p, verse, "  Verse 1 ").cues[1].name == "Verse 1"
    with pytest.raises(Refused, match="needs a name"):
        cue_edits.rename_cue(p, verse, "   ")
    assert len(cue_edits.delete_cue(p, verse).cues) == 1
    with pytest.raises(Refused, match="gone"):
        cue_edits.delete_cue(p, "nothing")


def test_a_locked_preparation_refuses_every_edit_and_says_how_to_unlock() -> None:
    locked = pr.set_readiness(BASE, pr.LOCKED)
    edits = [
        lambda: grid_edits.add_pin(locked, 1, 1.0),
        lambda: grid_edits.slide(locked, 1),
        lambda: grid_edits.set_tempo(locked, 120),
        lambda: grid_edits.halve(locked),
        lambda: grid_edits.set_downbeat(locked, 1.0),
        lambda: cue_edits.add_cue(locked, 1.0),
        lambda: track_edits.take_over(locked, GRID, ()),
        lambda: track_edits.write_notes(locked, "x"),
    ]
    for change in edits:
        with pytest.raises(Refused, match=r"locked.*Unlock it \(Ctrl\+L\)"):
            change()
    assert grid_edits.slide(pr.set_readiness(locked, pr.CHECKED), 1) != BASE
    with pytest.raises(Refused, match="no grid to lock"):
        pr.set_readiness(Preparation(), pr.LOCKED)


def test_json_keeps_every_bit() -> None:
    p = track_edits.write_notes(
        cue_edits.add_cue(cue_edits.add_cue(BASE, 3.3), 1 / 3, snap=cue_edits.FREE, name="“Ü” ♪"), "zum Ende\nhin"
    )
    p = attrs.evolve(p, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(57, 2), MeterMark(59, 3))))
    assert pr.from_json(pr.to_json(p)) == p
    for wrong in ("{}x", "[]", '{"grid": 3}', '{"unknown": 1}'):
        with pytest.raises(FormatError):
            pr.from_json(wrong)
    with pytest.raises(FormatError, match="must lie after"):
        pr.from_json(pr.to_json(BASE).replace("33.1", "3.1"))


def test_edits_are_named_for_the_history() -> None:
    assert pr.name_of(grid_edits.add_pin) == "Add pin"
    assert pr.name_of(grid_edits.follow_recording) == "Follow the recording"


def test_what_an_older_mervid_kept_is_read() -> None:
    """Before phrases, slots and loops: fields that were not there yet have their first values."""
    p = cue_edits.add_cue(BASE, at(BASE, 16))
    data = json.loads(pr.to_json(p))
    for name in ("form", "origin", "line"):
        del data[name]
    for cue in data["cues"]:
        for name in ("slot", "bars", "recipe"):
            del cue[name]
    old = pr.from_json(json.dumps(data))
    assert (old.form, old.origin, old.line) == (None, None, "")
    assert (old.cues[0].slot, old.cues[0].bars, old.cues[0].beat) == (None, 0, p.cues[0].beat)
    assert cue_edits.in_slot(old, 0) == old.cues[0]
