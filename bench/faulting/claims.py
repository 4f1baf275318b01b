"""Recordings whose headers claim what isn't so: rates, counts, lengths, pieces that stand behind the end."""

from __future__ import annotations

import random
from pathlib import Path

from bench.faulting import audio, child
from bench.faulting.cases import Outcome
from mervid.core.sound import frame_scan

_RATES = (8_000, 11_025, 16_000, 22_050, 32_000, 48_000, 64_000, 88_200, 96_000, 176_400, 192_000)


def _little(value: int, size: int) -> bytes:
    return value.to_bytes(size, "little")


def flac_rate(rng: random.Random, data: bytes) -> bytes:
    """Another rate at the head than in the frames (RFC 9639, section 8.2)."""
    rate = rng.choice(_RATES)
    return data[:18] + (rate << 4 | data[20] & 15).to_bytes(3, "big") + data[21:]


def mp3_frames(rng: random.Random, data: bytes) -> bytes:
    """One to four whole frames less: only the header's counts tell."""
    found = frame_scan.frames_of(data, "mp3")
    assert found is not None
    count = rng.randrange(1, 5)
    k = rng.randrange(1, len(found.at) - count)
    return data[: found.at[k]] + data[found.at[k + count] :]


def wav_pieces(rng: random.Random, data: bytes) -> bytes:
    """The sound in two to four chunks of the same name, of any share."""
    i = data.index(b"data")
    sound = data[i + 8 :]
    cuts = sorted(4 * rng.randrange(1, len(sound) // 4) for _ in range(rng.randrange(1, 4)))
    parts = [sound[a:b] for a, b in zip([0, *cuts], [*cuts, len(sound)], strict=True)]
    body = b"".join(b"data" + _little(len(p), 4) + p for p in parts)
    return data[:4] + _little(i + len(body) - 8, 4) + data[8:i] + body


def rf64_size(rng: random.Random, data: bytes) -> bytes:
    """Sizes of 64 bits of any magnitude (EBU Tech 3306)."""
    i = data.index(b"data")
    size = rng.choice((rng.randrange(1 << 64), (1 << rng.randrange(8, 64)) - rng.randrange(2), len(data) - i - 8))
    sizes = _little(size, 8) * 2 + _little(size // 4, 8) + bytes(4)
    head = b"RF64" + b"\xff" * 4 + b"WAVEds64" + _little(len(sizes), 4) + sizes
    return head + data[12:i] + b"data" + b"\xff" * 4 + data[i + 8 :]


def m4a_counts(rng: random.Random, data: bytes) -> bytes:
    """An absurd number in one of the tables of an MP4 (ISO/IEC 14496-12, section 8.6).

    Not in its edit list: where the music begins, it alone tells (docs/promises.md).
    """
    name = rng.choice((b"stts", b"stsc", b"stsz", b"stco", b"mdhd"))
    at = data.find(name)
    if at < 0:
        return data
    at += 8 + 4 * rng.randrange(3)
    return (
        data[:at] + rng.choice((0xFFFFFFFF, 0x7FFFFFFF, rng.randrange(1 << 32), 0)).to_bytes(4, "big") + data[at + 4 :]
    )


def behind_zeros(rng: random.Random, data: bytes) -> bytes:
    """The recording behind up to 64 MB of nothing, or with that in its middle."""
    k = rng.choice((0, 0, rng.randrange(len(data))))
    return data[:k] + bytes(rng.randrange(1 << 10, 1 << 26)) + data[k:]


KINDS = (
    ("flac", flac_rate), ("mp3", mp3_frames), ("wav", wav_pieces), ("wav", rf64_size), ("m4a", m4a_counts),
    ("mp3", behind_zeros), ("aac", behind_zeros),
)  # fmt: skip


def case(folder: Path, number: int) -> Outcome:
    """Recording `number`: the same for the same number."""
    form, change = KINDS[number % len(KINDS)]
    rng = random.Random(f"claims {number}")
    data, before, rate = audio.source(folder, form)
    path = folder / f"mutant-{number}.{form}"
    how = change.__name__
    end = child.run_on(path, change(rng, data), lambda: audio.judged(path, before, rate))
    return audio.outcome(f"claims {how}", number, how, end)
