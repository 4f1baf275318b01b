"""What a FLAC file says of its samples a second: once at its head, and again in its frames (RFC 9639)."""

from __future__ import annotations

from pathlib import Path

_STREAMINFO = 0
_RATES = {
    1: 88_200, 2: 176_400, 3: 192_000, 4: 8_000, 5: 16_000, 6: 22_050,
    7: 24_000, 8: 32_000, 9: 44_100, 10: 48_000, 11: 96_000,
}  # fmt: skip
"""Samples a second by the code in a frame's header (RFC 9639, section 9.1.2); 0 leaves it to the head of the file."""
_LONGEST_HEADER = 16
"""Bytes of the longest frame header."""
_MOST_BLOCKS = 1000


def rates(path: Path) -> tuple[int, int] | None:
    """Samples a second by the head of the file and by its first frame.

    None where `path` is no FLAC file, or its first frame says nothing of its own.
    """
    with path.open("rb") as f:
        if f.read(4) != b"fLaC":
            return None
        head = 0
        for _ in range(_MOST_BLOCKS):
            block = f.read(4)
            if len(block) < 4:
                return None
            kind, size = block[0] & 0x7F, int.from_bytes(block[1:], "big")
            if kind == _STREAMINFO:
                body = f.read(size)
                head = int.from_bytes(body[10:13], "big") >> 4
            else:
                f.seek(size, 1)
            if block[0] & 0x80:
                break
        said = _of_frame(f.read(_LONGEST_HEADER))
    return (head, said) if head and said else None


def _of_frame(b: bytes) -> int:
    """Samples a second that a whole frame header at the start of `b` names (RFC 9639, section 9.1); 0 where none does.

    >>> _of_frame(bytes.fromhex("fff869180000bf0358fd03128baa9a"))  # RFC 9639, appendix D.1, recalled from memory
    44100
    """
    if len(b) < 6 or b[0] != 0xFF or b[1] & 0xFE != 0xF8:
        return 0
    size, code = b[2] >> 4, b[2] & 15
    # the number of the frame is coded as UTF-8 codes a letter
    ones = 8 - (b[4] ^ 0xFF).bit_length()
    at = 4 + max(1, ones)
    at += {6: 1, 7: 2}.get(size, 0)
    wide = {12: 1, 13: 2, 14: 2}.get(code, 0)
    rate = int.from_bytes(b[at : at + wide], "big") * {12: 1000, 13: 1, 14: 10}.get(code, 0)
    at += wide
    if at >= len(b) or _crc8(b[:at]) != b[at]:
        return 0
    return rate or _RATES.get(code, 0)


def _crc8(data: bytes) -> int:
    """CRC-8, polynomial 0x07 (RFC 9639, section 9.1.8).

    >>> hex(_crc8(b"123456789"))
    '0xf4'
    """
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = crc << 1 & 0xFF ^ (0x07 if crc & 0x80 else 0)
    return crc
