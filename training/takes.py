"""One take: a song composed, timed, played, mixed and worn, with its truth in seconds."""

from __future__ import annotations

import numpy as np
from numpy.random import Generator

from training import composer, render, score, sounds
from training.composer import Compose, Plan, Song
from training.render import Studio, Take
from training.sounds import RATE, Wave

OPENINGS = 0.12
"""How often something without a beat is heard before the song."""


def _spans(notes: list[score.Note], clock: score.Clock, start: float, parts: tuple[str, ...]) -> np.ndarray:
    """Stretches in which one of `parts` is heard, gaps under two beats bridged: (m, 2) beats in s."""
    at = sorted((n.beat, n.beat + max(n.length, 0.5)) for n in notes if n.part in parts)
    out: list[list[float]] = []
    for a, b in at:
        if out and a - out[-1][1] <= 2:
            out[-1][1] = max(out[-1][1], b)
        else:
            out.append([a, b])
    return clock.at(np.array(out).reshape(-1, 2)) + start


def talk(seed: int, *, seconds: float = 75.0) -> Take:
    """Take number `seed` of somebody who talks: no beat at all."""
    rng = np.random.default_rng([2026, seed])
    return _beatless(rng, sounds.talk(rng, seconds), "talk")


def noise(seed: int, *, seconds: float = 75.0) -> Take:
    """Take number `seed` of noise, drones, a room, or syllables at random."""
    rng = np.random.default_rng([2026, seed])
    return _beatless(rng, render.noises(rng, seconds), "none")


def _beatless(rng: Generator, x: Wave, family: str) -> Take:
    none = np.zeros(0)
    x, _ = render.wear(rng, x)
    return Take(x.astype(np.float32), none, none, none, np.zeros((0, 2)), np.zeros((0, 2)), family)


def composed(
    seed: int, *, seconds: float, plan: Plan = composer.form, compose: Compose | None = None
) -> tuple[Generator, Song | None]:
    """The song of take `seed` before it is played, None where it has no beat; and the chances that are left."""
    rng = np.random.default_rng([2026, seed])
    if rng.random() < 0.03:
        return rng, None
    return rng, compose(rng, seconds) if compose else composer.compose(rng, seconds, plan)


def make(
    studio: Studio,
    seed: int,
    *,
    seconds: float = 75.0,
    plan: Plan = composer.form,
    compose: Compose | None = None,
    preludes: float = 0.0,
    worded: float = render.WORDED,
) -> Take:
    """Take number `seed`: the same for the same number.

    Parameters
    ----------
    plan : the form of a song with a band
    compose : what makes the song instead
    preludes : how often it has a long beginning without its beat
    worded : how often voices alone sing words
    """
    rng, song = composed(seed, seconds=seconds, plan=plan, compose=compose)
    if song is None:
        return _beatless(rng, render.noises(rng, seconds), "none")
    clock, _ = score.keep_time(rng, song.sections, song.bpm, machine=song.machine)
    tracks, start = studio.play(rng, song, clock, worded=worded)
    x = render.mix(rng, tracks, song.groove.family)
    beats = clock.times + start
    bars = np.cumsum([0, *(b for s in song.sections for b in s.bars)])
    opens = np.cumsum([0, *(s.beats for s in song.sections)])[:-1]
    if not any(n.beat >= bars[-1] - 0.01 for n in song.notes):
        beats = beats[:-1]
        bars = bars[:-1]
    drums, voice = (_spans(song.notes, clock, start, p) for p in (("drums",), ("voice", "choir")))
    # what is not in the notes has no beat: long stretches of silence inside a song keep theirs, as a listener does
    kind = "voice" if set(tracks) <= {"voice", "lead"} else "no drums" if "drums" not in tracks else song.groove.family
    events = [beats, beats[bars], (clock.times + start)[opens]]
    return aged(rng, x, events, [drums, voice], kind, preludes=preludes)


def aged(
    rng: Generator,
    x: Wave,
    events: list[np.ndarray],
    spans: list[np.ndarray],
    family: str,
    *,
    preludes: float = 0.0,
) -> Take:
    """A mix as it comes to the DJ: worn, cut or led into by something without a beat, faded.

    Parameters
    ----------
    events : beats, downbeats and sections in s
    spans : (m, 2) s in which drums and a voice sound
    preludes : how often it has a long beginning without its beat
    """
    x, moved = render.wear(rng, x)

    def to(t: np.ndarray) -> np.ndarray:
        return t if moved is None else np.interp(t, moved[:, 0], moved[:, 1])

    drop = 0.0
    if preludes and rng.random() < preludes:
        x, lead = render.prelude(rng, x, mono_kit=sounds.own_kit(rng), beats=to(events[0]))
        drop = -lead
    elif rng.random() < OPENINGS:
        x, lead = render.opening(rng, x, mono_kit=sounds.own_kit(rng))
        drop = -lead
    elif rng.random() < 0.3:
        drop = float(rng.uniform(0, 6))
        x = x[int(drop * RATE) :]
        drop = int(drop * RATE) / RATE
    if rng.random() < 0.08:
        fade = int(min(len(x), rng.uniform(3, 12) * RATE))
        x[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    moments = [to(e) - drop for e in events]
    return Take(x.astype(np.float32), *(e[e >= 0] for e in moments), *(to(s) - drop for s in spans), family)
