"""Songs that other people made on trackers, from packages of freely licensed modules: real samples, exact rows.

A module says in which row of which pattern every note is struck, so its beats and bars are known to the millisecond,
and it is played here by libopenmpt at tempi that wander, step and ramp as people's do. Only modules are used whose rows
are counted beyond doubt: what is heard of a dry copy lies on every so manieth row, and its bars begin with patterns;
so of these a part is heard rightly before they are bent and worn. They judge, nothing is learned from them (it was
tried: docs/hearing.md), and none of it is shipped.
"""

from __future__ import annotations

import ctypes
from functools import cache
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from training.packages import fetch
from training.render import Take
from training.score import keep_time, stretches
from training.sounds import RATE, Wave
from training.takes import aged

PACKAGES = {
    "pekka-kana-2-data": "bigboss:4 hiscore:8 map:3 song01:4 song06:4 song09:4 song12:4",
    "heroes-sound-tracks": """
        endscroll:4 heroes01:8 heroes02:8 heroes03:8 heroes04:8 heroes05:8 heroes06:8 heroes07:8 heroes08:8 heroes10:8
        menu:8
        """,
    "pingus-data": """
        gd-giirm:4 gd-ite:4 gd-matth:8 gd-myla:8 goin_march:8 pingus-1:6 pingus-3:6 pingus-4:8x3 pingus-6:8 pingus-7:6
        pingus-8:6 rough_journey:8 sorcerer:4 the_big_march_in_space:6
        """,
    "flobopuyo": "flobopuyo_game1:4 flobopuyo_game2:4 strange_fear2:4",
    "biniax2-data": """
        biniax_common00:4 biniax_common01:4 biniax_common02:4 biniax_common03:4 biniax_common04:4 biniax_common05:4
        biniax_common07:4
        """,
    "pachi-data": "stage3:4 stage4:4",
    "njam-data": "dali:4 satisfy:4",
    "vodovod": "flow:4 vodovod:4 walk:4",
    "gl-117-data": "ambient:8 dark:4 electro:8 softtec:8 standby:4 stars:4 winner:4",
    "bomberclone-data": """
        cerror-bobmberclone:4 cerror-bomberclone_numero_2:4 cinderella_clown:4 slice_me_nice:4
        zb-tnt:4
        """,
    "rafkill-data": "intro:8 song1:8 song2:4 song3:16 song4:8 song5:8",
    "solarwolf": "arg:8 aster2_sw:8",
}
"""Package (BSD, zlib, GPL, LGPL): modules with their rows to a beat, and beats to a bar where not 4."""
SUFFIXES = (".xm", ".it", ".s3m", ".mod")
STEP = 32
"""Samples after which the player is asked for its row."""
SLOWEST, FASTEST = 0.6, 1.6
SILENT = 1e-3
"""Of the loudest sample."""
MOST_BARS = 64
"""Bars through which its tempo changes."""


@attrs.frozen
class Module:
    """A module on disk: rows to a beat, beats to a bar."""

    path: Path
    rows: int
    beats: int


@cache
def modules(folder: Path) -> tuple[Module, ...]:
    """All of `PACKAGES`, fetched into `folder` where they aren't there yet.

    Raises
    ------
    FileNotFoundError
        A package lacks one.
    """
    out = []
    for package, words in PACKAGES.items():
        found = {p.stem: p for p in sorted(fetch(package, folder).rglob("*")) if p.suffix in SUFFIXES}
        for word in words.split():
            name, rows = word.split(":")
            if name not in found:
                raise FileNotFoundError(f"{package} has no module {name}")
            rows, _, beats = rows.partition("x")
            out.append(Module(found[name], int(rows), int(beats or 4)))
    return tuple(out)


@cache
def _library() -> ctypes.CDLL:
    lib = ctypes.CDLL("libopenmpt.so.0")
    lib.openmpt_module_create_from_memory2.restype = ctypes.c_void_p
    lib.openmpt_module_create_from_memory2.argtypes = [ctypes.c_char_p, ctypes.c_size_t] + [ctypes.c_void_p] * 7
    for name in ("destroy", "get_current_order", "get_current_row", "get_num_orders"):
        getattr(lib, f"openmpt_module_{name}").argtypes = [ctypes.c_void_p]
    lib.openmpt_module_ctl_set.argtypes = [ctypes.c_void_p, ctypes.c_char_p, ctypes.c_char_p]
    lib.openmpt_module_set_position_order_row.argtypes = [ctypes.c_void_p, ctypes.c_int32, ctypes.c_int32]
    samples = ctypes.POINTER(ctypes.c_float)
    lib.openmpt_module_read_float_mono.argtypes = [ctypes.c_void_p, ctypes.c_int32, ctypes.c_size_t, samples]
    lib.openmpt_module_read_float_mono.restype = ctypes.c_size_t
    return lib


def play(
    module: Module, speeds: NDArray[np.float64], *, seconds: float, pitch: float = 1.0, start: float = 0.0
) -> tuple[Wave, NDArray[np.float64]]:
    """A module at a speed of its own in each beat.

    Parameters
    ----------
    speeds : of each beat, 1 as it is written; the last goes on
    start : where in the order of patterns it begins, 0 to 1

    Returns
    -------
    samples, and (n, 2) rows as they begin: s, number in their pattern

    Raises
    ------
    ValueError
        It is no module.
    """
    lib, data = _library(), module.path.read_bytes()
    handle = lib.openmpt_module_create_from_memory2(data, len(data), *(None,) * 7)
    if not handle:
        raise ValueError(f"{module.path.name} is no module that can be played")
    lib.openmpt_module_ctl_set(handle, b"play.pitch_factor", str(pitch).encode())
    lib.openmpt_module_set_position_order_row(handle, int(start * lib.openmpt_module_get_num_orders(handle)), 0)
    n, at, last, beat = int(seconds * RATE), 0, None, 0
    out, rows, part = np.zeros(n, np.float32), list[tuple[float, int]](), (ctypes.c_float * STEP)()
    while at < n and (got := lib.openmpt_module_read_float_mono(handle, RATE, min(STEP, n - at), part)):
        out[at : at + got] = part[:got]
        now = (lib.openmpt_module_get_current_order(handle), lib.openmpt_module_get_current_row(handle))
        if now != last:
            last = now
            rows.append((at / RATE, now[1]))
            if now[1] % module.rows == 0:
                speed = float(speeds[min(beat, len(speeds) - 1)])
                lib.openmpt_module_ctl_set(handle, b"play.tempo_factor", str(speed).encode())
                beat += 1
        at += got
    lib.openmpt_module_destroy(handle)
    return out[:at], np.array(rows)


def make(among: tuple[Module, ...], seed: int, *, seconds: float = 75.0) -> Take:
    """Take number `seed` of one of these modules: in another key, at another tempo, worn."""
    rng = np.random.default_rng([2026, seed])
    module = among[int(rng.integers(len(among)))]
    bars = stretches(rng, (module.beats,) * MOST_BARS)
    clock, _ = keep_time(rng, bars, 100.0, machine=bool(rng.random() < 0.3))
    speeds = np.clip(0.6 / np.diff(clock.times) * np.exp(rng.normal(0, 0.07)), SLOWEST, FASTEST)
    start = 0.0 if rng.random() < 0.6 else float(rng.uniform(0, 0.6))
    x, rows = play(module, speeds, seconds=seconds, pitch=float(2 ** (rng.integers(-4, 5) / 12)), start=start)
    x = x / (np.abs(x).max() + 1e-9)
    # where it has ended nothing is counted
    rows = rows[rows[:, 0] < np.flatnonzero(np.abs(x) > SILENT)[-1] / RATE]
    place = rows[:, 1].astype(int)
    beats, downbeats = rows[place % module.rows == 0, 0], rows[place % (module.rows * module.beats) == 0, 0]
    sections = rows[place == 0, 0]
    whole = np.array([[0.0, len(x) / RATE]])
    return aged(rng, x.astype(np.float32), [beats, downbeats, sections], [whole, whole[:0]], "module")
