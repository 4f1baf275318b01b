"""A recipe over 200 tracks: locked ones skipped, hands left alone, one report, one way back."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mervid.core.cues import cue_edits
from mervid.core.cues.recipes import Recipe
from mervid.core.edits import grid_edits
from mervid.core.hearing.evidence import Evidence, to_bytes
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import steady
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation
from mervid.core.sound.decoding import Decoded
from mervid.core.sound.waveform import Waveform
from mervid.formats import recipe
from mervid.store import batch
from mervid.store.batch import Outcome
from mervid.store.library import Library
from tests.conftest import beats_heard

GRID = steady(tempo=120, first=0.5)
ROWS = ((0, "intro"), (64, "break"), (96, "drop"), (160, "outro"))
FORM = Form(tuple(Phrase(float(b), r) for b, r in ROWS), 192.0)


def shelf(path: Path, count: int) -> tuple[Library, list[int]]:
    """So many heard tracks; every tenth is locked, every seventh has a hand's cue, every ninth no drop."""
    library, ids = Library(path), []
    heard = beats_heard(np.arange(0.5, 9.5, 0.5))
    evidence = Evidence(heard, np.zeros(0, np.uint8), np.zeros(0, np.uint8), heard.times, np.ones(18, np.float32))
    blob, drawn = to_bytes(evidence), Waveform(np.zeros((10, 2), np.int16), 44_100, 441_000).to_bytes()
    for k in range(count):
        track, _ = library.add(path.parent / f"{k:03d}.wav")
        library.set_decoded(track.id, Decoded(44_100, 2, 44_100 * 110, f"id{k}", "libsndfile WAV", True))
        rows = FORM if k % 9 else Form(tuple(q for q in FORM.phrases if q.role != "drop"), FORM.end)
        p = Preparation(grid=GRID, form=rows)
        if k % 7 == 0:
            p = cue_edits.add_cue(p, 20.5, name="Mine", slot=3)
        library.set_evidence(track.id, blob, drawn, p)
        if k % 10 == 0:
            library.replace(track.id, pr.set_readiness(p, pr.LOCKED))
        ids.append(track.id)
    return library, ids


def applied(library: Library, number: int, rules: Recipe) -> Outcome:
    return batch.put_down(library, batch.look(library, number, rules), rules)


def test_two_hundred_tracks_one_report_one_way_back(tmp_path: Path) -> None:
    library, ids = shelf(tmp_path / "l.sqlite", 200)
    before = [library.history(i).preparation for i in ids]
    rules = recipe.shipped()[0]
    outcomes = [applied(library, i, rules) for i in ids]
    locked = [o for o in outcomes if o.skipped]
    assert len(locked) == 20
    assert {o.skipped for o in locked} == {"it is locked"}
    for k, (o, was) in enumerate(zip(outcomes, before, strict=True)):
        now = library.history(o.track_id)
        if k % 10 == 0:
            assert now.preparation == was
            continue
        assert now.undo == "Apply a recipe"
        assert o.told is not None
        roles = {c.role for c in now.preparation.cues}
        assert ("drop" in roles) == (k % 9 != 0)
        assert (k % 9 == 0) == any("no drop here" in x for x in o.told.problems)
        assert (k % 7 == 0) == ("Mine" in {c.name for c in now.preparation.cues})
    # again changes nothing, and makes no edit
    assert applied(library, ids[1], rules).head == -1
    # one was changed since: it stays as it is and is named
    changed = ids[3]
    library.edit(changed, "Slide grid", grid_edits.slide(library.history(changed).preparation, 5.0))
    undone, kept = batch.take_back(library, outcomes)
    assert (undone, kept) == (179, [outcomes[3].title])
    for k, i in enumerate(ids):
        if i != changed:
            assert library.history(i).preparation == before[k]
    assert batch.take_back(library, outcomes)[0] == 0


def test_tracks_that_can_t_take_a_recipe_are_skipped_with_the_reason(tmp_path: Path) -> None:
    library = Library(tmp_path / "l.sqlite")
    track, _ = library.add(tmp_path / "a.wav")
    rules = recipe.shipped()[0]
    assert applied(library, track.id, rules).skipped == "it has not been heard yet"
    library, ids = shelf(tmp_path / "m.sqlite", 2)
    library.edit(ids[1], "x", Preparation())
    assert applied(library, ids[1], rules).skipped == "it has no grid yet"
