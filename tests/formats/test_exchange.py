"""The open formats: there and back, by other writers, and files that are something else."""

from __future__ import annotations

import json

import attrs
import jsonschema
import mir_eval
import numpy as np
import pytest

from mervid import places
from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits
from mervid.core.errors import FormatError, Refused
from mervid.core.fitting import proposal
from mervid.core.hearing.evidence import Evidence
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation
from mervid.formats import beatlist, exchange, jams, labels
from mervid.formats.exchange import Subject
from tests.conftest import beats_heard, heard_demo

DRUMMER = Grid(
    (Pin(1.1, 0.0), Pin(17.83, 32.0), Pin(33.2, 61.0, hand=True), Pin(50.0, 94.0)),
    (MeterMark(0, 4), MeterMark(32, 2), MeterMark(34, 4)),
)


def made() -> Preparation:
    p = Preparation(grid=DRUMMER, mix_zones=((0.0, 12.0),))
    return cue_edits.add_cue(
        cue_edits.add_cue(p, 18.0, name="Lanterns lit"), 7.7, snap=cue_edits.FREE, name="Ünder way"
    )


def subject(p: Preparation, evidence: Evidence | None = None) -> Subject:
    return Subject(p, evidence, "Copper Ferry", 97.2, places.demo_folder() / "Copper Ferry.ogg", 44_100)


def test_beat_list_round_trip_keeps_times_to_a_microsecond(tmp_path) -> None:
    times, _, position = DRUMMER.positions(0.0, 49.0)
    text = beatlist.write(times, position)
    back, places = beatlist.read(text)
    np.testing.assert_allclose(back, times, atol=0.51e-6)
    np.testing.assert_array_equal(places, position)
    grid = beatlist.to_grid(back, places)
    again, _, position_again = grid.positions(times[0] - 1e-4, times[-1] + 1e-4)
    np.testing.assert_allclose(again, times, atol=1.1e-6)
    np.testing.assert_array_equal(position_again, position)
    # outside reader: mir_eval's loader of annotated events takes the first column
    first_column = tmp_path / "beats.txt"
    first_column.write_text("".join(f"{line.split(chr(9))[0]}\n" for line in text.splitlines()))
    np.testing.assert_allclose(mir_eval.io.load_events(str(first_column)), times, atol=0.51e-6)


def test_jams_meets_the_published_schema_and_comes_back_exactly() -> None:
    p = made()
    text = jams.write(p, title="Copper Ferry", duration=55.0, start=0.0, stop=49.0)
    document = json.loads(text)
    # the schema that ships is the one the JAMS authors publish (Humphrey et al., ISMIR 2014)
    jsonschema.Draft4Validator(jams._schema("jams_schema")).validate(document)
    assert [a["namespace"] for a in document["annotations"]] == [
        "beat",
        "beat_position",
        "tempo",
        "segment_open",
        "tag_open",
    ]
    times, _, position = DRUMMER.positions(0.0, 49.0)
    beats = document["annotations"][0]["data"]
    np.testing.assert_array_equal([b["time"] for b in beats], times)
    assert [b["value"] for b in beats] == position.tolist()
    measures = [b["value"]["measure"] for b in document["annotations"][1]["data"]]
    assert min(measures) >= 0
    assert np.all(np.diff(measures) >= 0)
    contents = jams.read(text)
    assert contents.grid == DRUMMER
    assert contents.cues == p.cues


def test_jams_by_another_writer_gives_the_same_beats() -> None:
    document = json.loads(jams.write(made(), title="x", duration=55.0, start=0.0, stop=49.0))
    document["sandbox"] = {}
    contents = jams.read(json.dumps(document))
    times, _, position = DRUMMER.positions(0.0, 49.0)
    again, _, places = contents.grid.positions(times[0] - 1e-4, times[-1] + 1e-4)
    np.testing.assert_allclose(again, times, atol=1e-6)
    np.testing.assert_array_equal(places, position)
    assert [c.name for c in contents.cues] == ["Ünder way", "Lanterns lit"]
    del document["annotations"][1]
    np.testing.assert_allclose(
        jams.read(json.dumps(document)).grid.positions(1.0, 49.0)[0], times[times >= 1.0], atol=1e-6
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "at least two"),
        ("0.5\t1\n", "at least two"),
        ("0.5\t1\nhello\n", "Line 2 is not"),
        ("0.5\t1\n0.4\t2\n", "Line 2: 0.4 s does not come after 0.5"),
        ("nan\t1\n1\t2\n", "Line 1 has no usable"),
        ("{", "not JSON"),
        ("{}", "does not meet the JAMS schema"),
        ('{"annotations": [], "file_metadata": {"duration": 3}, "sandbox": {}}', "holds no beats"),
        ("0.0 1\n0.01 2\n0.02 3\n", "BPM"),
    ],
)
def test_files_that_hold_no_beats_are_named_for_what_is_wrong(text: str, says: str) -> None:
    with pytest.raises((FormatError, Refused), match=says):
        exchange.import_text(text, Preparation())


def test_a_damaged_own_part_is_said() -> None:
    document = json.loads(jams.write(made(), title="x", duration=55.0, start=0.0, stop=49.0))
    document["sandbox"]["mervid"]["pins"][1][0] = 0.1
    with pytest.raises(FormatError, match="make no grid"):
        jams.read(json.dumps(document))


def test_import_of_a_beat_list_keeps_cues_where_they_sound() -> None:
    p = made()
    times = np.arange(0.2, 40, 0.5)
    text = beatlist.write(times, np.arange(len(times)) % 4 + 1)
    p = attrs.evolve(p, form=Form((Phrase(0.0), Phrase(32.0)), 66.0), origin=32.0)
    back = exchange.import_text(text, p)
    assert back.form is not None
    # phrases and the origin go to the bar lines nearest to where they were
    for beat, was in zip([back.form.phrases[1].start, back.origin], [32.0, 32.0], strict=True):
        assert abs(float(back.grid.time_at(beat)) - float(DRUMMER.time_at(was))) <= 1.0
        assert float(back.grid.bar_index(beat + 1e-6)[1]) < 0.01
    assert [c.at(back.grid) for c in back.cues] == pytest.approx([c.at(DRUMMER) for c in p.cues])


def test_export_covers_first_to_last_heard_beat() -> None:
    evidence = heard_demo("Copper Ferry")[1]
    p = grid_edits.follow_recording(proposal.propose(evidence.heard, 97.2), evidence.heard)
    times, _ = beatlist.read(exchange.export_text(subject(p, evidence), as_jams=False))
    assert times[0] == pytest.approx(evidence.heard.times[0], abs=0.02)
    assert times[-1] == pytest.approx(evidence.heard.times[-1], abs=0.02)
    with pytest.raises(Refused, match="no grid"):
        exchange.export_text(subject(Preparation(), evidence), as_jams=True)


def test_a_file_cut_on_its_first_beat_keeps_its_first_bar_and_cue() -> None:
    # the fit may put that beat some ms before the first sample
    p = cue_edits.add_cue(Preparation(grid=steady(tempo=120, first=-0.004)), 0.0, name="In")
    times, position = beatlist.read(exchange.export_text(subject(p), as_jams=False))
    assert (times[0], position[0]) == (0.0, 1)
    assert times[1] == pytest.approx(0.496)
    ours = json.loads(exchange.export_text(subject(p), as_jams=True))
    beats = next(a["data"] for a in ours["annotations"] if a["namespace"] == "beat")
    assert [b["time"] for b in beats[:2]] == [0.0, pytest.approx(0.496)]
    assert jams.read(json.dumps(ours)).grid == p.grid
    (cue,) = labels.read(labels.write(labels.of(p.grid, None, p.cues)))
    assert (cue.start, cue.text) == (0.0, "In")


def test_write_leaves_nothing_half_done(tmp_path) -> None:
    target = tmp_path / "missing" / "x.jams"
    with pytest.raises(OSError, match="No such file"):
        exchange.write_new(target, "{}")
    exchange.write_new(tmp_path / "x.jams", "new")
    exchange.write_new(tmp_path / "x.jams", "newer")
    assert [f.name for f in tmp_path.iterdir()] == ["x.jams"]


def test_a_grid_from_few_beats() -> None:
    grid = beatlist.to_grid(np.array([1.0, 1.5]), np.array([0, 0]))
    assert grid.tempi.tolist() == [120.0]
    assert len(beats_heard(np.arange(3.0)).downbeats) == 1


@pytest.mark.parametrize(("key", "value"), [(("E minor", 0.63), "E:minor"), (("Bb major", 1.0), "Bb:major")])
def test_the_key_goes_along_as_a_published_namespace_has_it(key: tuple[str, float], value: str) -> None:
    text = jams.write(made(), title="x", duration=55.0, start=0.0, stop=49.0, key=key)
    (found,) = (a for a in json.loads(text)["annotations"] if a["namespace"] == "key_mode")
    assert found["data"] == [{"time": 0.0, "duration": 55.0, "value": value, "confidence": key[1]}]
    # what the schema of the namespace doesn't know is refused
    with pytest.raises(FormatError, match="JAMS schema"):
        jams.write(made(), title="x", duration=55.0, start=0.0, stop=49.0, key=("H purple", 0.5))
