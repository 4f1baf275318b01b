"""One recording is heard by one program at a time: whoever hears it holds a lock that goes with the process."""

from __future__ import annotations

import fcntl
import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def claimed(cache: Path, raw_path: bytes) -> Iterator[bool]:
    """Whether nobody else hears this file now: then it is ours until the end of the block."""
    folder = cache / "hearing"
    name = folder / f"{hashlib.sha1(raw_path, usedforsecurity=False).hexdigest()[:24]}.lock"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        number = os.open(name, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
    except OSError:
        yield True
        return
    try:
        try:
            fcntl.flock(number, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
            return
        except OSError:
            pass
        try:
            yield True
        finally:
            name.unlink(missing_ok=True)
    finally:
        os.close(number)
