"""JAMS, a JSON form for annotated music (Humphrey et al., ISMIR 2014), written and read directly.

Six annotations: `beat`, `beat_position`, `tempo` (a value for each span), `segment_open` (phrases), `tag_open` (a tag
for each cue), and `key_mode` where the key is known, with its probability as confidence. The file is checked against
the published schema that ships beside this module. JAMS measures may not be negative, so a lead-in is counted up from
measure 0; the sandbox keeps pins, meter marks, cues and phrases as they are, for an exact return.
"""

from __future__ import annotations

import json
from functools import cache, partial
from importlib import resources
from typing import Any

import attrs
import numpy as np

from ..core.errors import FormatError, Refused
from ..core.model.beatgrid import Grid, MeterMark, Pin
from ..core.model.cue import Cue
from ..core.model.form import Form, Phrase
from ..core.model.preparation import Preparation
from . import beatlist, labels, limits
from .labels import Label

SANDBOX = "mervid"
JAMS_VERSION = "0.3.5"


@attrs.frozen
class Contents:
    """What a JAMS file says: a grid through its beats, cues, phrases, and a line of words."""

    grid: Grid
    cues: tuple[Cue, ...]
    form: Form | None = None
    origin: float | None = None
    line: str = ""


CHECKED = {"beat", "beat_position", "key_mode", "tempo", "tag_open", "segment_open"}
"""The namespaces whose values are checked against their published schemas."""


@cache
def _schema(name: str) -> dict[str, Any]:
    return dict(json.loads(resources.files(__package__).joinpath("schema", f"{name}.json").read_text("utf-8")))


def check(document: Any) -> None:
    """Raise `FormatError`, naming the place, unless `document` meets the JAMS schema and its namespaces'."""
    import jsonschema

    if not isinstance(document, dict) or not isinstance(document.get("annotations"), list):
        raise FormatError("This does not meet the JAMS schema: it has no list of annotations.")
    try:
        jsonschema.Draft4Validator(_schema("jams_schema")).validate(document)
        for annotation in document["annotations"]:
            name = annotation["namespace"]
            if name not in CHECKED:
                continue
            rule = _schema(name)[name]["value"]
            validator = jsonschema.Draft4Validator({"type": "array", "items": rule})
            validator.validate([o["value"] for o in annotation["data"]])
    except jsonschema.ValidationError as e:
        place = "/".join(str(p) for p in e.absolute_path) or "the whole file"
        raise FormatError(f"This does not meet the JAMS schema at {place}: {e.message[:120]}.") from None


def write(
    preparation: Preparation,
    *,
    title: str,
    duration: float,
    start: float,
    stop: float,
    form: Form | None = None,
    line: str = "",
    key: tuple[str, float] | None = None,
) -> str:
    """A preparation as JAMS text, with the beats of its grid from `start` to `stop`, s.

    Parameters
    ----------
    form : the phrases that are shown, kept or heard
    line : the line of words that is shown, kept as `words` for whoever reads it
    key : the key, as 'E minor', and its probability, 1 where a person set it; None where it is not known

    Raises
    ------
    Refused
        The preparation has no grid.
    """
    grid = preparation.grid
    if grid is None:
        raise Refused("There is no grid to export yet.")
    times, beats, position = grid.listed(start, stop)
    index, _ = grid.bar_index(beats)
    lift = max(0, -int(index.min(initial=0)) - 1) + 1

    annotation = partial(annotated, preparation.readiness, duration)
    spans = zip(grid.times[:-1].tolist(), np.diff(grid.times).tolist(), grid.tempi.tolist(), strict=True)
    places = [
        {"position": int(p), "measure": int(i) + lift, "num_beats": grid.beats_per_bar(float(b)), "beat_units": 4}
        for p, i, b in zip(position, index, beats, strict=True)
    ]
    document = {
        "file_metadata": about(title, duration),
        "annotations": [
            annotation("beat", [observed(t, int(p)) for t, p in zip(times, position, strict=True)]),
            annotation("beat_position", [observed(t, v) for t, v in zip(times, places, strict=True)]),
            annotation("tempo", [observed(t, v, length) | {"confidence": 1.0} for t, length, v in spans]),
            annotation(
                "segment_open",
                [observed(x.start, x.text, x.end - x.start) for x in labels.of(grid, form, ())],
            ),
            annotation("tag_open", [observed(c.at(grid), c.name) for c in preparation.cues]),
            *([annotation("key_mode", [_key(*key, duration)])] if key is not None else []),
        ],
        "sandbox": {
            SANDBOX: {
                "pins": [[p.time, p.beat, p.hand] for p in grid.pins],
                "meter": [[m.beat, m.beats_per_bar] for m in grid.meter],
                "cues": [attrs.asdict(c) for c in preparation.cues],
                "form": attrs.asdict(preparation.form) if preparation.form is not None else None,
                "origin": preparation.origin,
                "line": preparation.line,
                "words": line,
            }
        },
    }
    check(document)
    return json.dumps(document, indent=1, ensure_ascii=False, allow_nan=False)


def _key(name: str, chance: float, duration: float) -> dict[str, Any]:
    """The key of a whole track as an observation: 'E minor' is 'E:minor' there."""
    return observed(0.0, name.replace(" ", ":"), duration) | {"confidence": chance}


def about(title: str, duration: float) -> dict[str, Any]:
    """The metadata of a document."""
    return {
        "title": title,
        "artist": "",
        "release": "",
        "duration": duration,
        "identifiers": {},
        "jams_version": JAMS_VERSION,
    }


def annotated(validation: str, duration: float, namespace: str, data: list[dict[str, Any]]) -> dict[str, Any]:
    """One annotation of a document."""
    meta = {
        "curator": {"name": "", "email": ""},
        "annotator": {},
        "version": "1",
        "corpus": "",
        "annotation_tools": "Mervid",
        "annotation_rules": "",
        "validation": validation,
        "data_source": "computed, corrected by hand",
    }
    return {
        "namespace": namespace,
        "annotation_metadata": meta,
        "data": data,
        "sandbox": {},
        "time": 0.0,
        "duration": duration,
    }


def observed(time: float, value: Any, length: float = 0.0) -> dict[str, Any]:
    """One observation of an annotation."""
    return {"time": max(0.0, float(time)), "duration": float(length), "value": value, "confidence": None}


def _refuse_many(document: Any) -> None:
    """Raise `FormatError` where a document has so many observations that checking them would take minutes."""
    annotations = document.get("annotations") if isinstance(document, dict) else None
    if not isinstance(annotations, list):
        return
    counts = {str(a.get("namespace")): len(a["data"]) for a in annotations if _is_annotation(a)}
    limits.refuse_many(max(counts.get("beat", 0), counts.get("beat_position", 0)), limits.MOST_BEATS, "beats")
    total = sum(len(a["data"]) for a in annotations if _is_annotation(a))
    limits.refuse_many(len(annotations) + total, limits.MOST_OBSERVATIONS, "observations")


def _is_annotation(one: Any) -> bool:
    return isinstance(one, dict) and isinstance(one.get("data"), list)


def read(text: str) -> Contents:
    """Grid and cues of a JAMS file, by any writer: beats with positions where there are any.

    Raises
    ------
    FormatError
        Not JSON, not JAMS, without beats, or with more of anything than `limits` has.
    """
    try:
        document = json.loads(text, parse_constant=lambda name: None)
    except (ValueError, RecursionError):
        raise FormatError("This is not JSON, so it can't be JAMS.") from None
    _refuse_many(document)
    check(document)
    found = {a["namespace"]: a for a in reversed(document["annotations"])}
    own = document.get("sandbox", {}).get(SANDBOX)
    if isinstance(own, dict) and "pins" in own:
        return _own(own)
    data = (found.get("beat_position") or found.get("beat") or {}).get("data") or []
    if len(data) < 2:
        raise FormatError("This JAMS file holds no beats.")
    data = sorted(data, key=lambda o: o["time"])
    times = np.array([o["time"] for o in data], float)
    if np.any(np.diff(times) <= 0):
        raise FormatError("Two beats of this JAMS file lie at the same time.")

    def place(value: Any) -> int:
        if isinstance(value, dict):
            return int(value["position"])
        return int(value) if isinstance(value, int | float) and 1 <= value <= 32 else 0

    try:
        grid = beatlist.to_grid(times, np.array([place(o["value"]) for o in data], np.int64))
    except Refused as e:
        raise FormatError(f"The beats of this JAMS file make no grid: {e}") from None
    cues = [
        Cue(f"jams{i}", str(o["value"])[:80], time=float(o["time"]))
        for i, o in enumerate(sorted((found.get("tag_open") or {}).get("data") or [], key=lambda o: o["time"]))
    ]
    told = (found.get("segment_open") or {}).get("data") or []
    stretches = [Label(float(o["time"]), float(o["time"]) + float(o["duration"]), str(o["value"])) for o in told]
    return Contents(grid, tuple(cues), labels.to_form(stretches, grid))


def _own(own: dict[str, Any]) -> Contents:
    try:
        pins = tuple(Pin(float(t), float(b), bool(h)) for t, b, h in own["pins"])
        meter = tuple(MeterMark(float(b), int(n)) for b, n in own["meter"])
        names = [a.name for a in attrs.fields(Cue)]
        cues = tuple(Cue(**{k: c[k] for k in names if k in c}) for c in own["cues"])
        form = own.get("form")
        kept = Form(tuple(Phrase(**q) for q in form["phrases"]), float(form["end"])) if form else None
        origin = own.get("origin")
        words = str(own.get("line") or "")
        return Contents(Grid(pins, meter), cues, kept, float(origin) if origin is not None else None, words)
    except Refused as e:
        raise FormatError(f"The pins in this JAMS file make no grid: {e}") from None
    except (KeyError, TypeError, ValueError, OverflowError):
        raise FormatError("The part of this JAMS file that Mervid wrote is damaged.") from None
