"""Ways to damage bytes, each as a disk, a network or a careless program does it."""

from __future__ import annotations

import random
from collections.abc import Callable

HEADER = 1024
"""Bytes at the beginning of which half of all damage is: headers say how to read the rest."""
ODD = (0, 1, 2, 0x7F, 0x80, 0xFF, 0x7FFF, 0xFFFF, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF)


def _place(rng: random.Random, data: bytes) -> int:
    return rng.randrange(min(len(data), HEADER if rng.random() < 0.5 else len(data)))


def _size(rng: random.Random, most: int) -> int:
    return max(1, min(most, int(10 ** rng.uniform(0, 4.3))))


def flip(rng: random.Random, data: bytes) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 8, 64))):
        out[_place(rng, data)] ^= 1 << rng.randrange(8)
    return bytes(out)


def overwrite(rng: random.Random, data: bytes) -> bytes:
    i, n = _place(rng, data), _size(rng, len(data) // 4)
    return data[:i] + rng.randbytes(n)[: len(data) - i] + data[i + n :]


def blank(rng: random.Random, data: bytes) -> bytes:
    i, n = _place(rng, data), _size(rng, len(data) // 4)
    return data[:i] + rng.choice((b"\0", b"\xff"))[: len(data) - i] * min(n, len(data) - i) + data[i + n :]


def insert(rng: random.Random, data: bytes) -> bytes:
    i = _place(rng, data)
    return data[:i] + rng.randbytes(_size(rng, 20_000)) + data[i:]


def remove(rng: random.Random, data: bytes) -> bytes:
    i = _place(rng, data)
    return data[:i] + data[i + _size(rng, len(data) // 4) :]


def repeat(rng: random.Random, data: bytes) -> bytes:
    i = _place(rng, data)
    j = min(len(data), i + _size(rng, len(data) // 4))
    return data[:j] + data[i:j] + data[j:]


def break_off(rng: random.Random, data: bytes) -> bytes:
    return data[: rng.randrange(1, len(data))]


def trail(rng: random.Random, data: bytes) -> bytes:
    return data + rng.randbytes(_size(rng, 20_000))


def odd_number(rng: random.Random, data: bytes) -> bytes:
    """A field of a header becomes a number that programs seldom think of."""
    out, width = bytearray(data), rng.choice((1, 2, 4, 8))
    i = rng.randrange(max(1, min(len(data), HEADER) - width))
    value = rng.choice(ODD) & ((1 << 8 * width) - 1)
    out[i : i + width] = value.to_bytes(width, rng.choice(("little", "big")))
    return bytes(out)


def swap(rng: random.Random, data: bytes) -> bytes:
    n = _size(rng, len(data) // 4)
    i = rng.randrange(max(1, len(data) - 2 * n))
    j = rng.randrange(i + n, max(i + n + 1, len(data) - n + 1))
    return data[:i] + data[j : j + n] + data[i + n : j] + data[i : i + n] + data[j + n :]


WAYS: tuple[Callable[[random.Random, bytes], bytes], ...] = (
    flip, overwrite, blank, insert, remove, repeat, break_off, trail, odd_number, odd_number, swap,
)  # fmt: skip


def mutant(rng: random.Random, data: bytes) -> tuple[bytes, str]:
    """`data` damaged in one way, or now and then in two; and the names of the ways."""
    names = []
    for _ in range(rng.choice((1, 1, 1, 2))):
        way = rng.choice(WAYS)
        names.append(way.__name__)
        data = way(rng, data) or b"\0"
    return data, "+".join(names)
