"""How late clicks lie in a recording: known delays in noise, hum and a room, and what is no click at all."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mervid.core.errors import Refused
from mervid.core.playing import loopback

RATE = 48_000


def recorded(delay: float, *, gain: float = 0.3, noise: float = 0.003, room: bool = False) -> np.ndarray:
    """What an input hears of the clicks, `delay` s late, half a second after recording began."""
    played = loopback.clicks(RATE)[:, 0].astype(float)
    out = np.zeros(len(played) + 2 * RATE)
    at = round((0.5 + delay) * RATE)
    out[at : at + len(played)] += gain * played
    if room:
        rng = np.random.default_rng(3)
        tail = rng.normal(0, 1, RATE // 3) * np.exp(-np.arange(RATE // 3) / (0.08 * RATE)) * 0.05
        tail[0] = 1.0
        out = np.convolve(out, tail)[: len(out)]
    out += np.random.default_rng(1).normal(0, noise, len(out))
    return out + 0.02 * np.sin(2 * np.pi * 50 * np.arange(len(out)) / RATE)


@settings(max_examples=15)
@given(st.floats(-0.05, 0.5))
def test_the_delay_is_found(delay: float) -> None:
    found, scatter = loopback.delay(recorded(delay), RATE, loopback.times() + 0.5)
    assert found == pytest.approx(delay, abs=0.0005) and scatter < 0.0005


def test_in_a_room_and_with_a_click_lost() -> None:
    sound = recorded(0.087, room=True, noise=0.002)
    lost = round((loopback.times()[4] + 0.5 + 0.087) * RATE)
    sound[lost - 500 : lost + 1500] = 0
    found, scatter = loopback.delay(sound, RATE, loopback.times() + 0.5)
    assert found == pytest.approx(0.087, abs=0.001) and scatter < 0.002


@pytest.mark.parametrize("kind", ["silence", "noise", "short", "other clicks"])
def test_what_is_no_click_is_refused(kind: str) -> None:
    n = 8 * RATE
    rng = np.random.default_rng(2)
    sound = {
        "silence": np.zeros(n),
        "noise": rng.normal(0, 0.1, n),
        "short": np.zeros(100),
        "other clicks": np.where(np.arange(n) % (RATE // 2) < 100, 0.5, 0.0) + rng.normal(0, 0.003, n),
    }[kind]
    with pytest.raises(Refused, match="not heard"):
        loopback.delay(sound, RATE, loopback.times() + 0.5)


def told(stops: list[tuple[float, float]], lost: list[tuple[float, float]], *, late: float = 0.05) -> tuple:
    """A recording of the clicks by a device that halts (at, for s) and an input that loses (at, for s); its clocks."""
    length = len(loopback.clicks(RATE)) / RATE
    place = np.arange(0, length, 0.01)
    now = 100 + place + sum((place > at) * long for at, long in stops)
    sound = np.random.default_rng(1).normal(0, 0.003, int((length + 2) * RATE))
    for t in loopback.times():
        at = round((np.interp(t, place, now) - 99.5 + late) * RATE)
        sound[at : at + 144] += 0.3 * loopback.clicks(RATE)[round(1.4 * RATE) : round(1.4 * RATE) + 144, 0]
    ends = np.arange(0.05, length + 2, 0.05)
    keep = np.ones(len(sound), bool)
    for at, long in lost:
        keep[int(at * RATE) : int((at + long) * RATE)] = False
    came = np.array([keep[: int(t * RATE)].sum() / RATE for t in ends])
    return sound[keep], np.array([now, place]).T, np.array([99.5 + ends, came]).T


@pytest.mark.parametrize(
    ("stops", "lost"),
    [([], []), ([(3.0, 0.08), (5.1, 0.3)], []), ([], [(4.0, 0.12)]), ([(2.9, 0.05)], [(4.6, 0.2)])],
)
def test_what_a_device_stumbles_over_is_no_delay(
    stops: list[tuple[float, float]], lost: list[tuple[float, float]]
) -> None:
    sound, said, arrived = told(stops, lost)
    found, scatter = loopback.measured(sound, RATE, said=said, arrived=arrived)
    assert found == pytest.approx(0.05, abs=0.002) and scatter < 0.002


def test_what_can_not_be_measured_says_why() -> None:
    sound, said, arrived = told([], [])
    unsaid = np.abs(said[:, 1] - loopback.times()[5]) > 0.5
    for what, told_of, why in (
        (sound, said[unsaid], "stumbled"),
        (np.zeros(len(sound)), said, "not heard"),
        (sound, said[:300], "did not play to the end"),
        (sound, said[:0], "Nothing was recorded"),
    ):
        with pytest.raises(Refused, match=why):
            loopback.measured(what, RATE, said=told_of, arrived=arrived)
    # the clicks of one side are those of another place each time: this device's clock is none
    sound, said, arrived = told([(t, 0.1) for t in (2.0, 3.0, 4.0, 5.0, 6.0)], [])
    said[:, 0] = 100 + said[:, 1] + np.where(said[:, 1] % 1 < 0.5, 0.03, 0.0)
    with pytest.raises(Refused, match="stumbled"):
        loopback.measured(sound, RATE, said=said, arrived=arrived)
