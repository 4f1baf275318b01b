"""Where Mervid keeps its files: the user's data and cache folders, or what the environment names."""

from __future__ import annotations

import os
from pathlib import Path


def data_folder() -> Path:
    """The library's folder: $MERVID_DATA, or the platform's place for user data."""
    own = os.environ.get("MERVID_DATA")
    if own:
        return Path(own)
    import platformdirs

    return Path(platformdirs.user_data_dir("mervid", appauthor=False))


def recipes_folder() -> Path:
    """The user's own cue recipes."""
    return data_folder() / "recipes"


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
