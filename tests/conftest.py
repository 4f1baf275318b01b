"""Shared material: the demo set with its truth, made-up sounds, and encoders for every format Mervid reads."""

from __future__ import annotations

import faulthandler
import fcntl
import json
import os
import shutil
import tempfile
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path

import attrs
import cattrs
import numpy as np
import pytest
from hypothesis import settings
from numpy.typing import NDArray

from mervid import places
from mervid.core.hearing import analysis, features
from mervid.core.hearing.evidence import Evidence, from_bytes, to_bytes
from mervid.core.hearing.heard import Heard
from mervid.core.sound import decoding
from mervid.core.sound.decoding import Decoded

# without a screen, unless one is asked for
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# how long an example takes says more of the machine than of what is tested
settings.register_profile("any machine", deadline=None)
settings.load_profile("any machine")
RATE = 44_100
PATIENCE_S = 150.0
"""How long a test waits for what ought to come: machines differ, and only a failure lasts so long."""
DEMO = ("Copper Ferry", "Night Barge", "Pontoon Static")
DRUMMED = (*DEMO, "Brass Tide", "Lamplighter", "Salt Ledger", "Slack Water")
VOICE = "Lamplighter (voice only)"


def wait_for(
    ready: Callable[[], object], *, seconds: float = PATIENCE_S, instead: Callable[[], object] = lambda: "?"
) -> None:
    """Ask until it is so; where it never is, say what was `instead`."""
    until = time.monotonic() + seconds
    while not ready():
        assert time.monotonic() < until, f"it did not come to that: {instead()}"
        time.sleep(0.01)


@pytest.hookimpl(trylast=True)
def pytest_configure(config: pytest.Config) -> None:
    """A folder that all processes of the run share, for what is worked out once, and for where a process crashed."""
    worker = getattr(config, "workerinput", None)
    if worker is None:
        os.environ["MERVID_TEST_SHARED"] = tempfile.mkdtemp(prefix="mervid-tests-")
        # every process that is started hears what another one heard by reading it: see once/sitecustomize.py
        once = Path(__file__).parent / "once"
        os.environ["PYTHONPATH"] = os.pathsep.join(filter(None, (str(once), os.environ.get("PYTHONPATH", ""))))
    else:
        # on the standard error stream it is lost among what else is printed there
        path = Path(os.environ["MERVID_TEST_SHARED"], f"{worker['workerid']}.crash")
        faulthandler.enable(os.open(path, os.O_CREAT | os.O_WRONLY))


def ours(traceback: str) -> str:
    """The lines that threads were at, without those of the tests' own machinery."""
    lines = traceback.partition("Extension modules")[0].splitlines()
    return "\n".join(one for one in lines if not set(one.split("/")) & {"_pytest", "pluggy", "xdist", "execnet"})


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """Where a process crashed."""
    for path in sorted(Path(os.environ["MERVID_TEST_SHARED"]).glob("*.crash")):
        stood = ours(path.read_text())
        if stood:
            terminalreporter.section(f"{path.stem} crashed")
            terminalreporter.write_line(stood)


def pytest_unconfigure(config: pytest.Config) -> None:
    if not hasattr(config, "workerinput"):
        shutil.rmtree(os.environ.get("MERVID_TEST_SHARED", ""), ignore_errors=True)


@cache
def analysed(path: Path) -> tuple[Decoded, Evidence]:
    """A recording analysed once for the whole run: by the process that asks first, while others wait for it.

    Its name tells it from others.
    """
    folder = os.environ.get("MERVID_TEST_SHARED")
    if folder is None:
        return analysis.analyse(path)
    kept = Path(folder, path.stem)
    with Path(folder, f"{path.stem}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.with_suffix(".npz").exists():
            facts, found = analysis.analyse(path)
            kept.with_suffix(".json").write_text(json.dumps(attrs.asdict(facts)))
            kept.with_suffix(".npz").write_bytes(to_bytes(found))
    facts = cattrs.structure(json.loads(kept.with_suffix(".json").read_text()), Decoded)
    return facts, from_bytes(kept.with_suffix(".npz").read_bytes())


def heard_demo(name: str) -> tuple[Decoded, Evidence]:
    """A demo recording, as it comes back from the library."""
    return analysed(places.demo_folder() / f"{name}.ogg")


@cache
def truth(name: str) -> dict[str, NDArray[np.float64]]:
    """Beats and downbeats of a demo recording, s."""
    data = json.loads((places.demo_folder() / f"{name}.json").read_text("utf-8"))
    return {key: np.array(data[key]) for key in ("beats", "downbeats")}


MATERIAL = Path(__file__).parent / "material"


@cache
def material(name: str) -> dict[str, NDArray[np.float64]]:
    """Beats and downbeats of a recording of tests/material, s."""
    data = json.loads((MATERIAL / f"{name}.json").read_text("utf-8"))
    return {key: np.array(data[key]) for key in ("beats", "downbeats")}


@cache
def heard_material(name: str) -> tuple[Heard, dict[str, NDArray[np.float64]]]:
    """A recording of tests/material as it is heard, and its truth."""
    return analysed(MATERIAL / f"{name}.ogg")[1].heard, material(name)


@cache
def samples_of_material(name: str) -> tuple[NDArray[np.float32], int]:
    """Samples of a recording of tests/material, (frames, channels), and how many a second."""
    blocks: list[NDArray[np.float32]] = []
    source = decoding.probe(MATERIAL / f"{name}.ogg")
    decoding.decode(source, blocks.append)
    return np.concatenate(blocks), source.rate


@cache
def sound_of_material(name: str) -> features.Sound:
    """What a recording of tests/material sounds like, before any beat."""
    return features.listen(*samples_of_material(name))


def band(seconds: float = 30.0, tempo: float = 120.0, *, first: float = 0.5, seed: int = 1) -> NDArray[np.float32]:
    """A machine's kick, snare and hat at `tempo`, (frames, 2); beats lie at first + 60 k / tempo."""
    rng = np.random.default_rng(seed)
    out = np.zeros(int(seconds * RATE), np.float32)
    t = np.arange(int(0.12 * RATE)) / RATE
    kick = np.sin(2 * np.pi * (50 * t + 4 * (1 - np.exp(-t / 0.02)))) * np.exp(-t / 0.06)
    snare = rng.normal(0, 0.5, len(t)) * np.exp(-t / 0.04)
    hat = np.diff(rng.normal(0, 0.3, len(t) + 1)) * np.exp(-t / 0.015)
    for k in range(int((seconds - first - 0.2) * tempo / 60 * 2)):
        at = round((first + k * 30 / tempo) * RATE)
        sound = 0.35 * hat
        if k % 4 == 0:
            sound = sound + (kick if k % 8 == 0 else 0.8 * kick)
        elif k % 4 == 2:
            sound = sound + snare
        out[at : at + len(t)] += 0.5 * sound.astype(np.float32)
    # a bass note that changes with the bar, so that bars can be told apart
    x = np.arange(len(out)) / RATE
    bar = np.maximum(0, (x - first) // (240 / tempo)).astype(int)
    out += (0.08 * np.sin(2 * np.pi * np.array([55.0, 73.4, 65.4, 82.4])[bar % 4] * x) * (x > first)).astype(np.float32)
    return np.stack([out, out], axis=1)


def clicks(times: NDArray[np.float64], seconds: float) -> NDArray[np.float32]:
    """Short noise bursts that begin on the sample nearest each time, (frames,)."""
    rng = np.random.default_rng(0)
    out = np.zeros(int(seconds * RATE), np.float32)
    for t in times:
        at = round(t * RATE)
        out[at : at + 1500] += (rng.normal(size=1500) * np.exp(-np.arange(1500) / 300) * 0.4).astype(np.float32)
    return out


def beats_heard(times: NDArray[np.float64], numbers: NDArray[np.int64] | None = None) -> Heard:
    """A hearing made of given beats, all sure."""
    numbers = np.arange(len(times)) if numbers is None else numbers
    return Heard(np.asarray(times, float), numbers.astype(np.int64), np.full(len(times), 0.9))


def encode(path: Path, samples: NDArray[np.float32], codec: str, rate: int = RATE) -> Path:
    """Write (frames, 2) samples through FFmpeg, as an encoder on a user's machine would."""
    import av

    with av.open(str(path), "w") as box:
        stream = box.add_stream(codec, rate=rate)
        stream.layout = "stereo"
        if codec not in ("flac", "alac", "pcm_s16le"):
            stream.bit_rate = 192_000
        form = {"aac": "fltp", "libmp3lame": "fltp", "libopus": "flt", "alac": "s16p", "flac": "s16"}[codec]
        size = 1024
        for start in range(0, len(samples), size):
            part = samples[start : start + size]
            planar = form.endswith("p")
            if form.startswith("s16"):
                data = np.rint(np.clip(part, -1, 1) * 32767).astype(np.int16)
            else:
                data = part.astype(np.float32)
            block = np.ascontiguousarray(data.T) if planar else np.ascontiguousarray(data.reshape(1, -1))
            frame = av.AudioFrame.from_ndarray(block, format=form, layout="stereo")
            frame.sample_rate = rate
            frame.pts = start
            box.mux(stream.encode(frame))
        box.mux(stream.encode(None))
    return path


@pytest.fixture
def wav(tmp_path: Path) -> Callable[..., Path]:
    """Write samples as a WAV file and give its path."""
    import soundfile

    def write(name: str, samples: NDArray[np.float32], rate: int = RATE, subtype: str = "PCM_16") -> Path:
        path = tmp_path / name
        soundfile.write(path, samples, rate, subtype=subtype)
        return path

    return write
