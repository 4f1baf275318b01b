"""`mervid backup` and `mervid restore`: the whole library as one file, and its way back."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from .. import places
from ..core.errors import FormatError, MervidError
from ..core.sound.names import shown


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of a command."""
    (_backup_options if command == "backup" else _restore_options)(p)


def _backup_options(p: argparse.ArgumentParser) -> None:
    """What can be said of a backup."""
    p.add_argument("file", metavar="FILE", help="where it is written, such as library.zip")
    p.add_argument("--jams", action="store_true", help="put a JAMS of each track beside the library in it")


def _restore_options(p: argparse.ArgumentParser) -> None:
    """What can be said of putting back."""
    p.add_argument("file", metavar="FILE", help="a backup, or a folder of JAMS files that tracks take over")
    p.add_argument("--dry-run", action="store_true", help="say what would change, and change nothing")
    p.add_argument("--music", metavar="DIR", help="look for recordings that aren't where they were in this folder")


def run(command: str, options: argparse.Namespace) -> int:
    """Do what a command says; the exit code."""
    try:
        return backup(options) if command == "backup" else restore(options)
    except MervidError as e:
        print(f"mervid: {str(e).splitlines()[0]}", file=sys.stderr)
        return 2
    except OSError as e:
        print(f"mervid: {options.file}: {e.strerror or e}", file=sys.stderr)
        return 2


def backup(options: argparse.Namespace) -> int:
    """Write one."""
    from ..formats import safe_file
    from ..jobs import jams_folder
    from ..store import backup as backups

    library, target = places.data_folder() / "library.sqlite", Path(options.file)
    if not library.exists():
        raise FormatError("there is no library yet: 'mervid add' makes one")
    if target.is_dir():
        raise FormatError(f"{shown(target)} is a folder: name a file, such as library.zip")

    def jams() -> Iterator[tuple[str, bytes]]:
        return jams_folder.each(library) if options.jams else iter(())

    write = backups.fill(library, home=places.data_folder(), extra=jams)
    safe_file.write(target, write, kind=safe_file.BACKUP)
    look = backups.look(target, library)
    print(f"{target}\t{look.tracks} tracks\t{look.lists} lists\t{target.stat().st_size / 1e6:.1f} MB")
    return 0


def restore(options: argparse.Namespace) -> int:
    """Put one back, or take JAMS over."""
    source, library = Path(options.file), places.data_folder() / "library.sqlite"
    if source.is_dir():
        return _take_jams(source, library, options)
    from ..store import backup as backups

    if not source.exists():
        raise FormatError(f"{shown(source)} is not there.")
    for text in backups.look(source, library).sentences():
        print(text)
    if options.dry_run:
        return 0
    backups.lay_by(source, library, home=places.data_folder())
    with backups.alone(library) as free:
        if free:
            print(backups.settle(library))
    if not free:
        print("Mervid is open: close it and start it again, and the library is put back.")
        return 0
    if options.music:
        _look_for(library, Path(options.music))
    return 0


def _look_for(library: Path, folder: Path) -> None:
    from ..jobs import rescan
    from ..store.library import Library

    if not folder.is_dir():
        raise FormatError(f"{shown(folder)} is no folder.")
    with closing(Library(library)) as own:
        away = [i for i, path in own.every_path() if not path.exists()]
    found, missing = rescan.point_at(library, away, folder)
    print(f"{len(found)} recordings were found in {folder}, {missing} were not.")


def _take_jams(folder: Path, library: Path, options: argparse.Namespace) -> int:
    from ..jobs import jams_folder
    from ..store import others
    from ..store.library import Library

    files = jams_folder.files_of(folder)
    if options.dry_run:
        print(f"{len(files)} JAMS files would be taken over by the tracks they belong to.")
        return 0
    if not library.exists():
        raise FormatError("there is no library yet: 'mervid add' makes one")
    with closing(Library(library, wait_ms=60_000)) as own:
        done = jams_folder.take(own, files)
        others.announce(library)
    same = f", {done.same} had it already" if done.same else ""
    print(f"{len(done.tracks)} tracks took over what was said of them{same}.")
    for problem in done.problems:
        print(f"mervid: {problem}", file=sys.stderr)
    return 2 if done.problems and not (done.tracks or done.same) else 1 if done.problems else 0
