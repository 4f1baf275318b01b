"""`mervid straighten`: recordings rendered anew at one steady tempo, with an account of where everything went."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import MervidError, Refused
from ..core.model.beatgrid import Grid
from ..core.sound.decoding import check_readable
from ..core.sound.names import shown
from .progress import Progress

if TYPE_CHECKING:
    from ..core.pairs.side import Side
    from ..jobs.straighten import Outcome

Share = Callable[[float], None]
SUFFIXES = {"flac": ".flac", "wav": ".wav", "aiff": ".aiff"}


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """What can be said of straightening."""
    p.add_argument("files", nargs="+", metavar="FILE", help="recordings, folders of them, playlists")
    p.add_argument("--out", required=True, metavar="DIR", help="folder for STEM.straight.flac and STEM.straight.json")
    p.add_argument("--tempo", metavar="T", type=_number, help="BPM; the whole number nearest to its usual tempo")
    pitch = p.add_mutually_exclusive_group()
    pitch.add_argument("--hold-pitch", action="store_true", help="pitch stays (proposed, but for records)")
    pitch.add_argument("--varispeed", action="store_true", help="pitch goes with the speed (proposed for records)")
    p.add_argument("--beats", metavar="FILE", help="take the beats of this list, for a single recording")
    p.add_argument("--zones", action="store_true", help="only the mix zones; the middle keeps its feel")
    p.add_argument("--glide", metavar="N", type=int, default=4, help="bars from the straight tempo to its own (4)")
    p.add_argument("--drift", metavar="PERCENT", type=_number, default=100.0, help="how much is taken out (100)")
    p.add_argument("--drop-swing", action="store_true", help="second halves of beats begin in their middles")
    p.add_argument("--format", choices=sorted(SUFFIXES), default="flac", help="of the result (flac)")
    p.add_argument("--keep-level", action="store_true", help="refuse what would clip, and don't turn it down")


def _number(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise argparse.ArgumentTypeError(f"'{text}' is no number") from None


def run(command: str, options: argparse.Namespace) -> int:
    """Straighten each file; one line a track on stdout, progress on stderr."""
    from ..jobs.straighten import ENDING
    from .words import gathered

    files, missed = gathered(options.files)
    # what was made here before is no recording of a folder
    files = [f for f in files if not f.stem.endswith(ENDING) or str(f) in options.files]
    if not files:
        return 2
    try:
        grid = _beats(Path(options.beats), files) if options.beats else None
        out = Path(options.out)
        out.mkdir(parents=True, exist_ok=True)
        if not os.access(out, os.W_OK):
            raise PermissionError(13, "no permission to write there")
    except MervidError as e:
        return _wrong(str(e))
    except OSError as e:
        return _wrong(f"{options.out}: {e.strerror or e}")
    line, done = Progress(len(files)), 0
    stems: set[str] = set()
    for k, f in enumerate(files):
        try:
            if f.stem in stems:
                raise Refused(f"{shown(f)}: another of these recordings is called {f.stem}, too: give it a folder.")
            stems.add(f.stem)
            told = _one(f, out, options, grid, partial(_show, line, k))
        except MervidError as e:
            line.clear()
            print(f"mervid: {str(e).splitlines()[0]}", file=sys.stderr)
            continue
        except OSError as e:
            line.clear()
            print(f"mervid: {shown(f)}: {e.strerror or e}", file=sys.stderr)
            continue
        line.clear()
        print(told, flush=True)
        done += 1
    return 2 if not done else 1 if done < len(files) or missed else 0


def _show(line: Progress, number: int, share: float) -> None:
    line.show(number, number + share)


def _wrong(text: str) -> int:
    print(f"mervid: {text.splitlines()[0]}", file=sys.stderr)
    return 2


def _beats(path: Path, files: list[Path]) -> Grid:
    """The grid of a beat list. Raises `Refused` where there are several recordings for one list."""
    from ..core.model.preparation import Preparation
    from ..formats import exchange

    if len(files) > 1:
        raise Refused("--beats is for a single recording: its beats are no other's.")
    try:
        taken = exchange.take(path, Preparation())
    except (OSError, UnicodeDecodeError) as e:
        raise Refused(f"{shown(path)} can't be read as a beat list: {getattr(e, 'strerror', '') or e}") from None
    if taken.grid is None:
        raise Refused(f"{shown(path)} holds no beats.")
    return taken.grid


def _one(path: Path, out: Path, options: argparse.Namespace, grid: Grid | None, progress: Share) -> str:
    from ..core.progress import within
    from ..core.rendering.straightening import Wish
    from ..jobs import straighten

    check_readable(path)
    side = _side(path, grid, within(progress, 0.0, 0.4))
    wish = straighten.proposed(side)
    wish = Wish(
        wish.tempo if options.tempo is None else options.tempo,
        hold_pitch=options.hold_pitch or (not options.varispeed and wish.hold_pitch),
        zones_only=options.zones,
        share=options.drift / 100,
        keep_swing=not options.drop_swing,
        glide_bars=options.glide,
    )
    stem = os.path.splitext(os.path.basename(path))[0] + straighten.ENDING
    target = out / f"{stem}{SUFFIXES[options.format]}"
    made = straighten.write(
        side, path, target, wish, turn_down=not options.keep_level, progress=within(progress, 0.4, 1.0)
    )
    straighten.write_account(out / f"{stem}.json", made)
    return _line(path, made)


def _side(path: Path, grid: Grid | None, progress: Share) -> Side:
    """What is known of a recording: from the library, or heard now; under the beats that were given."""
    from ..core.hearing import analysis
    from ..core.model.preparation import Preparation
    from ..core.pairs.side import Side
    from ..jobs import sides, straighten
    from .together import known

    if grid is None:
        return known(path) or sides.hear(path, progress)
    facts, evidence = analysis.analyse(path, progress=progress)
    title = Path(shown(path)).stem
    bare = Side(title, Preparation(grid=grid), evidence, facts.duration)
    return straighten.heard_side(bare, grid)


def _line(path: Path, made: Outcome) -> str:
    laid = made.laid
    pitch = "pitch held" if laid.wish.hold_pitch else "pitch goes with the speed"
    words = (shown(path), f"{laid.wish.tempo:g} BPM", pitch, f"before: {made.before}", f"after: {made.after}")
    return "\t".join((*words, *made.remarks))
