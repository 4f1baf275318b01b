"""Where Mervid keeps its files: the user's data and cache folders, or what the environment names."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path
from typing import BinaryIO


def data_folder() -> Path:
    """The library's folder: $MERVID_DATA, or the platform's place for user data."""
    own = os.environ.get("MERVID_DATA")
    if own:
        return Path(own)
    import platformdirs

    return Path(platformdirs.user_data_dir("mervid", appauthor=False))


def make_private(folder: Path) -> None:
    """Make a folder of ours, for its owner alone; one of ours that is there already is closed to others.

    Raises `OSError` where it can't be made. A folder that a person named is left as open as it is.
    """
    if not folder.exists():
        folder.parent.mkdir(parents=True, exist_ok=True)
        folder.mkdir(mode=0o700, exist_ok=True)
    elif "mervid" in folder.parts[-2:]:
        with contextlib.suppress(OSError):
            folder.chmod(0o700)


def make_private_file(path: Path) -> None:
    """Make a file that only its owner reads, or shut one that is there to others. Raises `OSError` if none can be made.

    One that is there is never opened: closing it again would drop every lock that this program holds on it (POSIX
    fcntl), and a library that is in use would be torn from under it by the next program that lets go of it.
    """
    with contextlib.suppress(FileExistsError):
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o600))
        return
    with contextlib.suppress(OSError):
        path.chmod(0o600)


_FLAGS = {
    "w+b": os.O_RDWR | os.O_CREAT | os.O_TRUNC,
    "wb": os.O_WRONLY | os.O_CREAT | os.O_TRUNC,
    "ab": os.O_WRONLY | os.O_CREAT | os.O_APPEND,
}


def open_private(path: Path, mode: str) -> BinaryIO:
    """Open a file of bytes ("wb", "w+b" or "ab"); one that is made is read by its owner alone. Raises `OSError`."""
    return os.fdopen(os.open(path, _FLAGS[mode] | os.O_CLOEXEC, 0o600), mode)  # type: ignore[return-value]


def recipes_folder() -> Path:
    """The user's own cue recipes."""
    return data_folder() / "recipes"


def reports_folder() -> Path:
    """Accounts of what recipes did to many tracks."""
    return data_folder() / "reports"


def cache_folder() -> Path:
    """Decoded audio, which may be deleted at any time: $MERVID_CACHE, or the platform's place for caches."""
    own = os.environ.get("MERVID_CACHE")
    if own:
        return Path(own)
    import platformdirs

    return Path(platformdirs.user_cache_dir("mervid", appauthor=False))


def state_folder() -> Path:
    """The log: under $MERVID_DATA, or the platform's place for what programs note about themselves."""
    own = os.environ.get("MERVID_DATA")
    if own:
        return Path(own) / "state"
    import platformdirs

    return Path(platformdirs.user_state_dir("mervid", appauthor=False))


def demo_folder() -> Path:
    """The demo set that ships with the program."""
    return Path(__file__).parent / "demo" / "tracks"
