"""What is taken in is valid, or refused whole and in words: it could always be read back from the library."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs
import numpy as np
import pytest

from mervid.core.errors import FormatError, MervidError
from mervid.core.model.cue import Cue
from mervid.core.model.form import Phrase
from mervid.core.model.preparation import Preparation, from_json, to_json
from mervid.core.model.validation import valid
from mervid.formats import exchange, recipe
from mervid.formats.exchange import Subject
from tests.formats.test_exchange import DRUMMER, made

HUGE = "9" * 5000


def exported(path: Path) -> dict[str, Any]:
    what = Subject(made(), None, "x", 80.0, path.with_name("a.wav"), 44_100)
    return dict(json.loads(exchange.export_text(what, as_jams=True)))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"beat": "x"}, "no preparation"),
        ({"beat": 1e300}, "outside any recording"),
        ({"time": 1.0, "beat": 1.0}, "not both"),
        ({"beat": None}, "a beat or a time"),
        ({"slot": 99}, "slot 100; there are 8"),
        ({"slot": -1}, "slot 0"),
        ({"kind": "evil"}, "no known kind"),
        ({"bars": -4}, "loop of -4 bars"),
        ({"bars": 10**9}, "loop of"),
        ({"name": "x" * 20_000}, "letters"),
        ({"name": ["x"]}, "another kind"),
    ],
)
def test_a_cue_that_makes_no_sense_is_refused_before_it_is_kept(tmp_path: Path, change: Any, says: str) -> None:
    path = tmp_path / "x.jams"
    document = exported(path)
    cue = next(c for c in document["sandbox"]["mervid"]["cues"] if c["beat"] is not None)
    cue |= change
    path.write_text(json.dumps(document))
    with pytest.raises(FormatError, match=says):
        exchange.take(path, Preparation())


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"role": "anthem"}, "no known role"),
        ({"role": ["drop"]}, "another kind"),
        ({"raised": 99}, "raised by 99 semitones"),
        ({"raised": "up"}, "no preparation"),
        ({"letter": 5}, "another kind"),
        ({"reason": "x" * 20_000}, "letters"),
        ({"chance": 2.0}, "2 likely"),
    ],
)
def test_a_phrase_that_makes_no_sense_is_refused_before_it_is_kept(tmp_path: Path, change: Any, says: str) -> None:
    path = tmp_path / "x.jams"
    document = exported(path)
    phrases = [attrs.asdict(Phrase(0.0, "intro")), attrs.asdict(Phrase(32.0, "drop", "B", raised=1)) | change]
    document["sandbox"]["mervid"]["form"] = {"phrases": phrases, "end": 64.0}
    path.write_text(json.dumps(document))
    with pytest.raises(FormatError, match=says):
        exchange.take(path, Preparation())


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("x.txt", "0.5\tinf\n1.0\t2\n", "Line 1"),
        ("x.txt", "0.5\t1\n1e308\t2\n1.5e308\t3\n", "Line 2 has no usable time"),
        ("x.txt", "".join(f"{k / 1000:.3f}\t1\n" for k in range(200_002)), "30,001 beats. Mervid reads 30,000"),
        ("x.jams", f'{{"a": {HUGE}}}', "not JSON"),
        ("x.jams", "[" * 100_000, "Line 1|not JSON"),
    ],
)
def test_numbers_beyond_all_sense_are_refused(tmp_path: Path, name: str, text: str, says: str) -> None:
    path = tmp_path / name
    path.write_text(text)
    with pytest.raises(FormatError, match=says):
        exchange.take(path, Preparation())


def test_a_recipe_with_a_number_of_5000_digits_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "x.toml"
    path.write_text(f"name = 'x'\n[[rule]]\nbars = {HUGE}\n")
    with pytest.raises(FormatError):
        recipe.load(path)


def test_what_is_no_file_is_refused() -> None:
    with pytest.raises(FormatError, match="not a file"):
        exchange.take(Path("/dev/zero"), Preparation())


def test_valid_is_what_the_library_reads_back() -> None:
    p = made()
    assert valid(p) == p == from_json(to_json(p))
    twice = attrs.evolve(p, cues=(p.cues[0], p.cues[0]))
    endless = attrs.evolve(p, cues=(Cue("a", "x", time=float("inf")),))
    for wrong, says in ((twice, "same mark"), (endless, "no numbers"), (attrs.evolve(p, origin=1e9), "counted from")):
        with pytest.raises(FormatError, match=says):
            valid(wrong)


def _bytes_changed(rng: random.Random, data: bytes) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 2, 8))):
        at = rng.randrange(len(out))
        kind = rng.random()
        if kind < 0.4:
            out[at] = rng.randrange(256)
        elif kind < 0.6:
            del out[at : at + rng.randrange(1, 40)]
        elif kind < 0.8:
            out[at:at] = rng.choice((b"9" * 400, b"-", b"\0", b"NaN", b"1e999", b'"', b"\t", b"\n", b"\xff"))
        else:
            del out[at:]
        if not out:
            break
    return bytes(out)


def _values_changed(rng: random.Random, data: bytes) -> bytes:
    """A JAMS file that is still one, with some value of another kind or size."""
    document = json.loads(data)
    for _ in range(rng.choice((1, 3))):
        at: Any = document
        while isinstance(at, dict | list) and at:
            key = rng.choice(list(at)) if isinstance(at, dict) else rng.randrange(len(at))
            if not isinstance(at[key], dict | list) or rng.random() < 0.1:
                at[key] = rng.choice(("x", -1, 1e308, 10**30, None, True, [], {}, 0.5, [[]], "\0", HUGE[:400]))
                break
            at = at[key]
    return json.dumps(document).encode()


@pytest.mark.parametrize("ending", [".jams", ".beats.txt", ".labels.txt", ".mid", ".cues.wav"])
def test_mutants_are_right_or_refused_in_words(tmp_path: Path, ending: str, wav: Callable[..., Path]) -> None:
    """500 of each kind, seeded: never an exception of another kind, never a value that couldn't be read back."""
    source = wav("a.wav", np.zeros((44_100 * 3, 1), np.float32)) if ending == ".cues.wav" else tmp_path / "a.wav"
    path = tmp_path / f"x{ending}"
    exchange.export(Subject(made(), None, "x", 80.0, source, 44_100), path)
    whole, rng, kept = path.read_bytes(), random.Random(ending), 0
    for k in range(500):
        change = _values_changed if ending == ".jams" and k % 2 else _bytes_changed
        path.write_bytes(change(rng, whole))
        try:
            taken = exchange.take(path, Preparation(grid=DRUMMER))
        except (MervidError, UnicodeDecodeError):
            continue
        kept += 1
        assert from_json(to_json(taken)) == taken == valid(taken)
    assert kept > 20
