"""Songs of voices alone: lines sit in bars, a hook says the same again, breath is taken."""

from __future__ import annotations

import numpy as np
import pytest

from training import singers
from training.composer import Song


def composed(seed: int, seconds: float = 60.0) -> Song:
    return singers.compose(np.random.default_rng(seed), seconds)


@pytest.mark.parametrize("seed", range(12))
def test_a_song_is_as_long_as_asked_and_nothing_but_voices(seed: int) -> None:
    song = composed(seed)
    beats = sum(s.beats for s in song.sections)
    assert 45 < beats * 60 / song.bpm < 75
    assert {n.part for n in song.notes} <= {"voice", "choir", "breath"}
    assert all(s.parts == {"voice"} and s.drums == "none" for s in song.sections)
    # a line may begin before its bar, no syllable comes after the end
    voiced = [n.beat for n in song.notes if n.part == "voice"]
    assert -1.1 < min(voiced) < 4 and max(voiced) < beats
    assert len(voiced) > beats / 3


def test_the_same_number_sings_the_same() -> None:
    assert composed(3).notes == composed(3).notes != composed(4).notes


def test_hooks_come_again_and_verses_say_something_new() -> None:
    again: dict[str, list[bool]] = {"verse": [], "chorus": []}
    for seed in range(40):
        song = composed(seed, 120.0)
        opens = np.cumsum([0, *(s.beats for s in song.sections)])
        lines: dict[str, list[tuple[float, ...]]] = {"verse": [], "chorus": []}
        for section, start in zip(song.sections, opens[:-1], strict=True):
            if section.kind in lines:
                at = {
                    round(n.beat - start, 3) for n in song.notes if n.part == "voice" and 0 <= n.beat - start < 3.5
                }  # of its first bar, as the last line ends elsewhere
                lines[section.kind].append(tuple(sorted(at)))
        for kind, said in lines.items():
            again[kind] += [one == said[0] for one in said[1:]]
    assert np.mean(again["chorus"]) > 0.75
    assert np.mean(again["verse"]) < 0.6


def test_phrases_are_parted_by_rests_more_than_bars_are() -> None:
    def rests(edges: np.ndarray, at: np.ndarray) -> float:
        """Mean beats before each edge in which no syllable begins."""
        last = [edge - at[at < edge - 0.01].max() for edge in edges if (at < edge - 0.01).any()]
        return float(np.mean(last))

    longer = []
    for seed in range(40):
        song = composed(seed, 90.0)
        opens = np.cumsum([s.beats for s in song.sections])
        bars = np.cumsum([b for s in song.sections for b in s.bars])
        at = np.array([n.beat for n in song.notes if n.part == "voice"])
        longer.append(rests(opens[:-1], at) - rests(np.setdiff1d(bars[:-1], opens), at))
    assert np.mean(longer) > 0.4
