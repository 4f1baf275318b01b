"""A folder for a player, written as it was planned: each file read back, compared and noted before the next."""

from __future__ import annotations

import contextlib
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

import attrs

from ..core.errors import Cancelled, FormatError, MervidError
from ..core.library import outgoing
from ..core.progress import within
from ..core.sound import packets
from ..formats import delivered, encoding, exchange, playlist, profile_files, safe_file, safe_tags, tag_writing
from ..formats.delivered import HOME, JAMS, LIST, PROFILE, SOUND, Entry, Ledger
from . import straighten
from .delivery_plan import SAME, Plan, Step, identity, list_file, list_folder, sentences


@attrs.frozen
class Report:
    """What was done: files written, files that were there already, files removed, and sentences for what failed."""

    written: tuple[str, ...]
    same: int
    removed: tuple[str, ...]
    problems: tuple[str, ...]


def carry_out(
    p: Plan,
    *,
    remove: bool = False,
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
    each: Callable[[str], None] = lambda file: None,
) -> Report:
    """Write what the plan says; what fails is said, and the rest goes on.

    Parameters
    ----------
    remove : leftovers go, too, where they are still what Mervid wrote

    Raises
    ------
    FormatError
        There is too little room, or `out` isn't understood; nothing is written.
    OSError
        The folder can't be written at all.
    """
    if not p.fits:
        raise FormatError(sentences(p)[-1])
    ledger = Ledger(p.out)
    try:
        return _carry_out(p, ledger, remove, progress, stop, each)
    finally:
        # also of what was stopped in the middle
        with contextlib.suppress(OSError):
            ledger.settle()


def _carry_out(
    p: Plan,
    ledger: Ledger,
    remove: bool,
    progress: Callable[[float], None],
    stop: Callable[[], bool],
    each: Callable[[str], None],
) -> Report:
    (p.out / HOME).mkdir(parents=True, exist_ok=True)
    for folder in {(p.out / s.file).parent for s in p.steps} | {p.out / HOME}:
        safe_file.clean(folder)
    text = profile_files.write(p.profile)
    safe_file.write(p.out / HOME / PROFILE, lambda f: f.write(text.encode()))
    written: list[str] = []
    problems: list[str] = []
    for k, step in enumerate(p.steps):
        if stop():
            problems.append(f"Stopped: {len(p.steps) - k} tracks were not looked at. Deliver again to go on.")
            return Report(tuple(written), 0, (), tuple(problems))
        share = within(progress, k / len(p.steps), (k + 1) / len(p.steps))
        try:
            if step.state != SAME:
                _write(p, step, ledger, share, stop)
                written.append(step.file)
                each(step.file)
            if step.jams:
                _write_jams(p, step, ledger)
        except Cancelled:
            continue
        except MervidError as e:
            problems.append(f"{step.item.side.title}: {e}")
        except OSError as e:
            problems.append(f"{step.item.side.title}: {e.strerror or e}.")
            if e.errno == 28:
                break
        progress((k + 1) / len(p.steps))
    try:
        _write_lists(p, ledger)
        removed = _remove(p, ledger) if remove else ()
    except (MervidError, OSError) as e:
        problems.append(f"The list: {e}")
        removed = ()
    return Report(tuple(written), sum(s.state == SAME for s in p.steps), removed, tuple(problems))


def _write(p: Plan, step: Step, ledger: Ledger, progress: Callable[[float], None], stop: Callable[[], bool]) -> None:
    one, target = step.item, p.out / step.file
    if target.exists() and step.file not in ledger.entries:
        raise FormatError(f"{step.file} stands there, and Mervid didn't write it: it is left as it is.")
    values = dict(outgoing.values(one.known, p.template)) if p.profile.tags else {}
    marks = None
    form = step.preparation.form or one.side.form
    if p.profile.chapters and step.preparation.grid is not None:
        marks = tag_writing.marks_of(step.preparation.grid, form, step.preparation.cues, step.duration)

    def fill(part: Path) -> None:
        if step.straight:
            _straighten(step, part, progress, stop)
        elif step.goal.copied:
            shutil.copyfile(one.path, part)
        else:
            encoding.convert(
                one.path,
                part,
                rate=step.goal.rate,
                bits=step.goal.bits or 16,
                kbps=p.profile.kbps,
                progress=progress,
                stop=stop,
            )
        if not p.profile.tags or not safe_tags.holds_tags(one.path):
            return
        if step.goal.copied:
            safe_tags.write(part, values, marks, journal=None, rate=one.sound.rate)
        else:
            tag_writing.copy_words(one.path, part, values, marks)
        if step.goal.copied and packets.digest(part) != packets.digest(one.path):
            raise FormatError("its sound would not have stayed the same")

    _put(target, fill, ledger, Entry(step.file, SOUND, identity(one), step.wants, 0, ""))


def _straighten(step: Step, part: Path, progress: Callable[[float], None], stop: Callable[[], bool]) -> None:
    """Straighten into `part`, at the rate that the player has."""
    one, goal = step.item, step.goal
    if goal.rate == one.sound.rate:
        straighten.render(one.side, one.path, part, bits=goal.bits, progress=progress, stop=stop)
        return
    with tempfile.TemporaryDirectory(prefix="mervid-straight-") as folder:
        whole = Path(folder, "straight.flac")
        whole.touch()
        straighten.render(one.side, one.path, whole, bits=24, progress=within(progress, 0.0, 0.8), stop=stop)
        encoding.convert(whole, part, rate=goal.rate, bits=goal.bits, progress=within(progress, 0.8, 1.0), stop=stop)


def _write_jams(p: Plan, step: Step, ledger: Ledger) -> None:
    there = ledger.entries.get(step.jams)
    if step.state == SAME and there is not None and (p.out / step.jams).is_file():
        return
    side = step.item.side
    # what is straightened was not heard under its new times
    evidence = None if step.straight else side.evidence
    what = exchange.Subject(step.preparation, evidence, side.title, step.duration, step.item.path, step.item.sound.rate)
    text = exchange.export_text(what, as_jams=True)
    entry = Entry(step.jams, JAMS, identity(step.item), step.wants, 0, "")
    _put(p.out / step.jams, lambda part: part.write_text(text, "utf-8"), ledger, entry)


def _put(target: Path, fill: Callable[[Path], object], ledger: Ledger, entry: Entry) -> None:
    """Write a file and note it: once before it has its name, as one of ours, and once when it is there."""
    size, digest = delivered.put(target, fill, lambda n, d: ledger.put(attrs.evolve(entry, wants="", size=n, sha256=d)))
    ledger.put(attrs.evolve(entry, size=size, sha256=digest))


def _write_lists(p: Plan, ledger: Ledger) -> None:
    for name, places in p.lists:
        there = [p.steps[i] for i in places if (p.out / p.steps[i].file).is_file()]
        entries = [
            playlist.Entry(p.out / s.file, s.item.known.shown.title or s.item.side.title, s.item.known.shown.artists,
                           s.item.side.duration)
            for s in there
        ]  # fmt: skip
        for kind in p.profile.lists:
            file = f"{list_folder(p.profile)}{list_file(name, kind, p.profile)}"
            target = p.out / file
            if target.exists() and file not in ledger.entries:
                raise FormatError(f"{file} stands there, and Mervid didn't write it: it is left as it is.")
            target.parent.mkdir(parents=True, exist_ok=True)
            if not target.exists():
                # known as ours before it is there, whatever happens in between
                ledger.put(Entry(file, LIST, "", "", 0, ""))
            playlist.write(target, name, entries, relative=True)
            ledger.put(Entry(file, LIST, "", "", target.stat().st_size, delivered.sha256(target)))


def _remove(p: Plan, ledger: Ledger) -> tuple[str, ...]:
    """Take away what Mervid wrote and no list names, unless somebody changed it since."""
    out = []
    for e in p.leftovers:
        path = p.out / e.file
        if path.is_file() and not path.is_symlink() and delivered.sha256(path) == e.sha256:
            path.unlink()
            out.append(e.file)
        ledger.drop(e.file)
    return tuple(out)
