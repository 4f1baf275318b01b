"""Edits as pure functions: what each changes, what it must leave alone, and the way to JSON and back."""

from __future__ import annotations

import json

import attrs
import numpy as np
import pytest

from mervid.core import cues
from mervid.core import preparation as pr
from mervid.core.errors import FormatError, Refused
from mervid.core.fitting import Tolerance
from mervid.core.grid import Grid, MeterMark, Pin
from mervid.core.preparation import Preparation

GRID = Grid((Pin(0.5, 0.0), Pin(16.7, 32.0), Pin(33.1, 64.0), Pin(49.0, 96.0)))
BASE = Preparation(grid=GRID, mix_zones=((0.0, 12.0),), tolerance=Tolerance(7, 14))


def at(p: Preparation, beat: float) -> float:
    """Time of a beat, s."""
    assert p.grid is not None
    return float(p.grid.time_at(beat))


def test_adding_and_moving_pins_is_local_and_marks_the_hand() -> None:
    p = pr.add_pin(BASE, 48.0, 25.2)
    assert p.grid is not None
    assert Pin(25.2, 48.0, hand=True) in p.grid.pins
    for beat in (-8, 0, 31.5, 64, 80, 120):
        assert at(p, beat) == at(BASE, beat)
    moved = pr.move_pin(p, 2, 25.25)
    assert at(moved, 48) == 25.25
    assert at(moved, 20) == at(BASE, 20)
    assert pr.remove_pin(moved, 2).grid == GRID
    with pytest.raises(Refused, match="must lie after"):
        pr.add_pin(BASE, 48.0, 40.0)


def test_last_two_pins_stay() -> None:
    p = pr.remove_pin(pr.remove_pin(BASE, 1), 1)
    with pytest.raises(Refused, match="last two pins"):
        pr.remove_pin(p, 0)


def test_slide_moves_everything_by_the_same_time() -> None:
    p = pr.slide(BASE, -10)
    beats = np.arange(-10, 110)
    assert p.grid is not None
    np.testing.assert_allclose(p.grid.time_at(beats), GRID.time_at(beats) - 0.01, atol=1e-12)


def test_tempo_keeps_the_first_hand_pin_or_the_first_downbeat() -> None:
    p = pr.set_tempo(BASE, 120.0)
    assert p.grid is not None
    assert at(p, 0) == 0.5
    assert p.grid.tempi.tolist() == pytest.approx([120.0])
    q = pr.set_tempo(pr.add_pin(BASE, 48.0, 25.2), 118.0)
    assert at(q, 48) == 25.2
    assert at(pr.set_tempo(Preparation(), 100.0, first=2.0), 0) == 2.0
    for wrong in (0.0, -5.0, 5000.0, float("nan")):
        with pytest.raises(Refused, match="Tempo must lie between 20 and 999 BPM"):
            pr.set_tempo(BASE, wrong)


def test_halving_and_doubling_move_no_instant() -> None:
    p = cues.add_cue(BASE, at(BASE, 16))
    double = pr.double(p)
    assert double.grid is not None
    np.testing.assert_allclose(double.grid.times, GRID.times)
    np.testing.assert_allclose(double.grid.tempi, 2 * GRID.tempi)
    assert double.cues[0].at(double.grid) == pytest.approx(at(BASE, 16))
    assert pr.halve(double) == p
    odd = attrs.evolve(BASE, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(13))))
    with pytest.raises(Refused, match="odd beat"):
        pr.halve(odd)


def test_downbeat_renumbers_and_changes_no_time() -> None:
    p = cues.add_cue(BASE, at(BASE, 16))
    for beat in (1, 2, 3, 33, 62):
        q = pr.set_downbeat(p, at(BASE, beat) + 0.05)
        assert q.grid is not None
        np.testing.assert_array_equal(q.grid.times, GRID.times)
        assert q.grid.name_at(float(q.grid.beat_at(at(BASE, beat)))).endswith(".1")
        assert abs(q.grid.beats[0] - GRID.beats[0]) <= 2
        assert q.cues[0].at(q.grid) == pytest.approx(p.cues[0].at(p.grid))
    with pytest.raises(Refused, match="begins here already"):
        pr.set_downbeat(BASE, at(BASE, 8))


def test_downbeat_under_a_later_mark_moves_that_mark_alone() -> None:
    p = attrs.evolve(BASE, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(40))))
    q = pr.set_downbeat(p, at(BASE, 49))
    assert q.grid is not None
    assert [m.beat for m in q.grid.meter] == [0, 41]
    assert q.grid.pins == GRID.pins


def test_cues_snap_to_downbeats_follow_the_grid_and_can_be_free() -> None:
    p = cues.add_cue(BASE, at(BASE, 17.4), name="Verse")
    assert p.cues[0].beat == 16
    p = cues.add_cue(p, 7.77, snap=cues.FREE)
    assert [c.name for c in p.cues] == ["Cue 1", "Verse"]
    # the bar line before the recording begins is no place for a cue
    assert cues.add_cue(pr.slide(BASE, 1400), 0.1).cues[0].beat == 0
    slid = pr.slide(p, 10)
    assert slid.cues[1].at(slid.grid) == pytest.approx(at(BASE, 16) + 0.01)
    assert slid.cues[0].at(slid.grid) == 7.77
    with pytest.raises(Refused, match=r"stands on 5\.1 already"):
        cues.add_cue(p, at(BASE, 15.9))
    verse = p.cues[1].id
    assert cues.rename_cue(p, verse, "  Verse 1 ").cues[1].name == "Verse 1"
    with pytest.raises(Refused, match="needs a name"):
        cues.rename_cue(p, verse, "   ")
    assert len(cues.delete_cue(p, verse).cues) == 1
    with pytest.raises(Refused, match="gone"):
        cues.delete_cue(p, "nothing")


def test_a_locked_preparation_refuses_every_edit_and_says_how_to_unlock() -> None:
    locked = pr.set_readiness(BASE, pr.LOCKED)
    edits = [
        lambda: pr.add_pin(locked, 1, 1.0),
        lambda: pr.slide(locked, 1),
        lambda: pr.set_tempo(locked, 120),
        lambda: pr.halve(locked),
        lambda: pr.set_downbeat(locked, 1.0),
        lambda: cues.add_cue(locked, 1.0),
        lambda: pr.take_over(locked, GRID, ()),
        lambda: pr.write_notes(locked, "x"),
    ]
    for change in edits:
        with pytest.raises(Refused, match=r"locked.*Unlock it \(Ctrl\+L\)"):
            change()
    assert pr.slide(pr.set_readiness(locked, pr.CHECKED), 1) != BASE
    with pytest.raises(Refused, match="no grid to lock"):
        pr.set_readiness(Preparation(), pr.LOCKED)


def test_json_keeps_every_bit() -> None:
    p = pr.write_notes(cues.add_cue(cues.add_cue(BASE, 3.3), 1 / 3, snap=cues.FREE, name="“Ü” ♪"), "zum Ende\nhin")
    p = attrs.evolve(p, grid=Grid(GRID.pins, (MeterMark(0), MeterMark(57, 2), MeterMark(59, 3))))
    assert pr.from_json(pr.to_json(p)) == p
    for wrong in ("{}x", "[]", '{"grid": 3}', '{"unknown": 1}'):
        with pytest.raises(FormatError):
            pr.from_json(wrong)
    with pytest.raises(FormatError, match="must lie after"):
        pr.from_json(pr.to_json(BASE).replace("33.1", "3.1"))


def test_edits_are_named_for_the_history() -> None:
    assert pr.name_of(pr.add_pin) == "Add pin"
    assert pr.name_of(pr.follow_recording) == "Follow the recording"


def test_what_an_older_mervid_kept_is_read() -> None:
    """Before phrases, slots and loops: fields that were not there yet have their first values."""
    p = cues.add_cue(BASE, at(BASE, 16))
    data = json.loads(pr.to_json(p))
    for name in ("form", "origin", "line"):
        del data[name]
    for cue in data["cues"]:
        for name in ("slot", "bars", "recipe"):
            del cue[name]
    old = pr.from_json(json.dumps(data))
    assert (old.form, old.origin, old.line) == (None, None, "")
    assert (old.cues[0].slot, old.cues[0].bars, old.cues[0].beat) == (None, 0, p.cues[0].beat)
    assert cues.in_slot(old, 0) == old.cues[0]
