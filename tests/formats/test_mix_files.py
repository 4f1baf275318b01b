"""A mix as files: 24 bits that are what was heard, an account any JAMS reader takes, and no recording written over."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import attrs
import numpy as np
import pytest
import soundfile

from mervid.core.errors import Cancelled, FormatError
from mervid.core.model.beatgrid import steady
from mervid.core.pairs.account import Cut
from mervid.core.pairs.clock import lay
from mervid.core.pairs.meeting import CUT, Meeting
from mervid.core.rendering.duet import Duet, Part, duet_of
from mervid.formats import jams, mix_files, safe_file
from tests.conftest import RATE, band


def two(gain: float = 0.5) -> Duet:
    none = np.array([0.0, 1.0])
    sounds = [gain * band(20, tempo, seed=i) for i, tempo in enumerate((120.0, 122.0))]
    grids = [steady(tempo=tempo, first=0.5) for tempo in (120.0, 122.0)]
    t = lay(grids[0], grids[1], Meeting(16, 0, bars=4, fade_in=CUT, fade_out=CUT), (20.0, 20.0))
    return duet_of(t, *(Part(x, RATE, none, none, np.arange(0.5, 19, 0.5)) for x in sounds))


ACCOUNT: dict[str, Any] = {
    "leaving": {"file": "a.flac", "map": [[0.0, 0.0], [4.0, 4.0]], "beats": [0.5, 1.0, 1.5], "downbeats": [1.0]},
    "coming": {"file": "b.flac", "map": [[0.0, 1.0], [3.0, 4.0]], "beats": [1.0, 1.5], "downbeats": [1.0]},
    "overlap": [1.0, 2.0],
    "apart_ms": [0.5, -0.25],
    "forecast_p95_ms": 2.0,
}


@pytest.mark.parametrize("ending", [".flac", ".wav"])
def test_what_is_written_is_what_is_heard(tmp_path: Path, ending: str) -> None:
    duet, path = two(), tmp_path / f"mix{ending}"
    told: list[float] = []
    assert mix_files.write_sound(path, duet, Cut(100_000, 200_000, RATE), progress=told.append) == 1.0
    info = soundfile.info(path)
    assert (info.subtype, info.samplerate, info.channels, info.frames) == ("PCM_24", RATE, 2, 200_000)
    written, _ = soundfile.read(path, dtype="float32", always_2d=True)
    np.testing.assert_allclose(written, attrs.evolve(duet).read(100_000, 200_000), atol=2.0**-22)
    assert told[-1] == 1.0 and told == sorted(told)
    # an earlier mix is written over, and nothing half is left
    mix_files.write_sound(path, duet, Cut(0, 1000, RATE))
    assert soundfile.info(path).frames == 1000
    assert [p.name for p in tmp_path.iterdir()] == [path.name]


def test_a_mix_that_would_clip_is_turned_down_as_a_whole(tmp_path: Path) -> None:
    duet = two(gain=4.0)
    gain = mix_files.write_sound(tmp_path / "mix.wav", duet, Cut(300_000, 100_000, RATE))
    written, _ = soundfile.read(tmp_path / "mix.wav")
    assert gain < 1 and 0.99 < np.abs(written).max() < 1.0
    np.testing.assert_allclose(written, gain * duet.read(300_000, 100_000), atol=1e-5)


def test_recordings_are_never_written_over(tmp_path: Path) -> None:
    duet, part = two(), Cut(0, 1000, RATE)
    for name, words in (
        ("song.flac", "is not written over"),
        ("song.wav", "is not written over"),
        ("song.mp3", "as .flac or .wav"),
    ):
        path = tmp_path / name
        if path.suffix != ".mp3":
            soundfile.write(path, np.zeros((100, 2)), RATE)
        before = path.read_bytes() if path.exists() else b""
        with pytest.raises(FormatError, match=words):
            mix_files.write_sound(path, duet, part)
        assert (path.read_bytes() if path.exists() else b"") == before
    # also one that Mervid knows, whatever it looks like
    mine = tmp_path / "mine.flac"
    mix_files.write_sound(mine, duet, part)
    assert safe_file.what_is(mine) == safe_file.MIX
    with pytest.raises(FormatError, match="the recording itself"):
        mix_files.write_sound(mine, duet, part, sources=[mine])
    with pytest.raises(Cancelled):
        mix_files.write_sound(tmp_path / "new.flac", duet, part, stop=lambda: True)
    assert not (tmp_path / "new.flac").exists()


def test_the_account_is_jams_and_json(tmp_path: Path) -> None:
    mix_files.write_jams(tmp_path / "mix.jams", ACCOUNT, title="Buoy and Quay", duration=4.0)
    mix_files.write_account(tmp_path / "mix.json", ACCOUNT)
    assert json.loads((tmp_path / "mix.json").read_text()) == ACCOUNT
    document = json.loads((tmp_path / "mix.jams").read_text())
    jams.check(document)
    beats = [a for a in document["annotations"] if a["namespace"] == "beat"]
    assert [a["sandbox"][jams.SANDBOX]["track"] for a in beats] == ["leaving", "coming"]
    assert [(o["time"], o["value"]) for o in beats[0]["data"]] == [(0.5, None), (1.0, 1), (1.5, 2)]
    (overlap,) = (o for a in document["annotations"] if a["namespace"] == "segment_open" for o in a["data"])
    assert (overlap["time"], overlap["duration"], overlap["value"]) == (1.0, 1.0, "overlap")
