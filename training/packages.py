"""Finished, freely licensed music from Debian packages: what may be learned from, and what is only judged by.

Learned from is what its package's copyright file puts under GPL-2 or later, CC-BY or the public domain; the rest
(GPL-2 alone, CC-BY-SA) is kept for judging, so that the two share no album and no composer. No audio is shipped.
"""

from __future__ import annotations

import fnmatch
import subprocess
import zipfile
from pathlib import Path

LEARNED = {
    "nexuiz-music": {"*": "GPL-2 or later"},
    "supertux-data": {"*/music/*": "GPL-2 or later"},
    "freedroidrpg-data": {"*": "GPL-2 or later"},
    "warzone2100-music": {"*/original_soundtrack/*": "GPL-2 or later"},
    "ufoai-music": {
        **dict.fromkeys(
            ("*/David0?.ogg", "*/azrael1.ogg", "*/karlmacklin_*.ogg", "*/van_*.ogg"), "CC-BY 3.0"
        ),
        **dict.fromkeys(("*/alBasrahM.ogg", "*/greecei.ogg", "*/turinItalyM.ogg"), "public domain"),
    },
}  # fmt: skip
"""Package: pattern of files, their licence."""
JUDGED = {
    "hedgewars-data": ("*/Music/*",),
    "warzone2100-music": ("*/aftermath_soundtrack/*", "*/legacy_soundtrack/*"),
    "ufoai-music": ("*/music/Crystan-*", "*/music/Marine*", "*/music/Psymong*", "*/music/TheThings-*", "*/music/*ufo*"),
}
_SOUND = (".ogg", ".opus", ".mp3", ".flac")
_LEAST_BYTES = 400_000


def fetch(package: str, folder: Path) -> Path:
    """The package's files under `folder`, downloaded by apt where they aren't there yet.

    Raises
    ------
    subprocess.CalledProcessError
        apt-get or dpkg-deb failed.
    """
    into = folder / package
    if into.is_dir():
        return into
    folder.mkdir(parents=True, exist_ok=True)
    subprocess.run(["apt-get", "-q", "download", package], cwd=folder, check=True, capture_output=True)
    archive = next(folder.glob(f"{package}_*.deb"))
    part = folder / f"{package}.part"
    subprocess.run(["dpkg-deb", "-x", str(archive), str(part)], check=True)
    for packed in part.rglob("*.pk3"):
        with zipfile.ZipFile(packed) as z:
            z.extractall(packed.parent, [n for n in z.namelist() if n.endswith(_SOUND)])
        packed.unlink()
    part.rename(into)
    archive.unlink()
    return into


def chosen(package: str, folder: Path, patterns: tuple[str, ...]) -> list[Path]:
    """Recordings of a fetched package that match, in order."""
    return [
        p
        for p in sorted((folder / package).rglob("*"))
        if p.suffix in _SOUND and p.stat().st_size > _LEAST_BYTES and any(fnmatch.fnmatch(str(p), q) for q in patterns)
    ]
