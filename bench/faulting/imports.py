"""Mutants of files that are taken in: taken and readable ever after, or refused in words."""

from __future__ import annotations

import json
import random
from functools import cache
from pathlib import Path

import numpy as np
import soundfile

from bench.faulting import child, mutation
from bench.faulting.cases import BAD, REFUSED, RIGHT, Outcome
from mervid.core.errors import MervidError
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.cue import Cue
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation, from_json, to_json
from mervid.formats import exchange, recipe
from mervid.formats.exchange import Subject
from mervid.store.library import Library

FORMS = ("jams", "txt", "csv", "labels", "mid", "wav", "toml")
_WORDS = (b"9" * 400, b"-", b"\0", b"NaN", b"1e999", b'"', b"\t", b"\n", b"\xff", b"[[", b"{", b"1e-320", b"0x")


def prepared() -> Preparation:
    """A grid of some pins, cues of each kind and a form."""
    beats = 0.5 + np.arange(129) * 0.5 + 0.004 * np.sin(np.arange(129))
    grid = Grid(tuple(Pin(float(beats[k]), float(k), hand=True) for k in range(0, 129, 16)))
    cues = (
        Cue("a", "First", beat=0.0, slot=0),
        Cue("b", "Free", time=7.5, kind="standby"),
        Cue("c", "Drop", beat=32.0),
    )
    return Preparation(grid, cues=cues, form=Form((Phrase(0.0, "intro"), Phrase(32.0, "drop", "B")), 64.0))


@cache
def whole_files(folder: Path) -> dict[str, bytes]:
    """A whole file of each form."""
    source = folder / "song.wav"
    soundfile.write(source, 0.1 * np.sin(np.arange(44_100) / 9), 44_100)
    what = Subject(prepared(), None, "Lantern Tow", 66.0, source, 44_100)
    out = {}
    endings = {"jams": ".jams", "txt": ".beats.txt", "mid": ".mid", "labels": exchange.LABELS, "wav": ".cues.wav"}
    for name, ending in endings.items():
        path = folder / f"whole{ending}"
        exchange.export(what, path)
        out[name] = path.read_bytes()
        path.unlink()
    out["csv"] = out["txt"].replace(b"\t", b",")
    out["toml"] = sorted(recipe.shipped_folder().glob("*.toml"))[0].read_bytes()
    return out


def _spoilt(rng: random.Random, data: bytes) -> tuple[bytes, str]:
    if rng.random() < 0.5:
        return mutation.mutant(rng, data)
    out = bytearray(data)
    for _ in range(rng.choice((1, 2, 6))):
        i = rng.randrange(len(out))
        if rng.random() < 0.7:
            out[i:i] = rng.choice(_WORDS)
        else:
            j = rng.randrange(len(out))
            out[i:i] = out[j : j + rng.randrange(1, 80)]
    return bytes(out), "words"


def case(folder: Path, number: int) -> Outcome:
    """Mutant `number`: the same for the same number."""
    form = FORMS[number % len(FORMS)]
    rng = random.Random(f"import {number}")
    data, how = _spoilt(rng, whole_files(folder)[form])
    ending = {"labels": exchange.LABELS, "wav": ".cues.wav"}.get(form, f".{form}")
    path = folder / f"mutant-{number}{ending}"

    def act() -> str:
        try:
            if form == "toml":
                recipe.load(path)
                return json.dumps([RIGHT, ""])
            # labels and cue points come onto a grid that there is
            here = prepared() if form in ("labels", "wav") else Preparation()
            value = exchange.take(path, here)
        except (MervidError, UnicodeDecodeError) as e:
            return json.dumps([REFUSED, str(e)[:200]])
        # what was taken is kept as the window keeps it, and read again
        if from_json(to_json(value)) != value:
            return json.dumps([BAD, "reads back as something else"])
        library = Library(None)
        track, _ = library.add(Path("/music/a.wav"))
        library.edit(track.id, "Take over beats", value)
        if library.history(track.id).preparation != value:
            return json.dumps([BAD, "is kept as something else"])
        library.tracks()
        return json.dumps([RIGHT, ""])

    end = child.run_on(path, data, act)
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    return Outcome(f"import {form}", number, kind, f"{how}: {words}", end.seconds, end.rss_mb)
