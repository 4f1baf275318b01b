"""What can go wrong with files and work, made to happen: thousands of cases, each from a seed.

    .venv/bin/python -m bench.faults [--work DIR] [--audio N] [--imports N] [--kills N] [--full N] [--pages N]
        [--claims N] [--texts N] [--backups N] [--moves N] [--tags N] [--window N]
        [--settings N] [--messages N] [--offers N]

audio: mutants of recordings in nine formats; imports: mutants of what is taken in; kills: kill -9 at random moments
over all that writes; full: a disk that is full at any write; pages: damaged pages of a library; claims: headers of
recordings that lie; texts: small files that would take the machine; backups: those that come from elsewhere; moves:
recordings that come in the place of others; tags: odd ones that stand in a recording already; window: kill -9 of
the real window; settings: values that nobody wrote there; messages: those
of a second start; offers: files that other programs ask it to open. A second start with the
same DIR goes on where the first ended. Prints a table; exits with 1 when anything ended BAD: a traceback, a hang over
30 s, over 1 GB, a silent shift over 1 ms, a socket, a lost state, a changed recording.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from bench.faulting.cases import BAD, Journal, Outcome, table

FULL = {
    "audio": 10_000, "imports": 10_000, "kills": 1_000, "full": 120, "pages": 200, "claims": 1_000, "texts": 1_000,
    "backups": 1_000, "moves": 1_000, "tags": 1_000,
    "window": 60, "settings": 200, "messages": 1_000, "offers": 1_000,
}  # fmt: skip
"""Cases of each part in the whole run."""


def _case(part: str) -> Callable[[Path, int], Outcome]:
    from bench.faulting import asked, audio, brought, claims, imports, kills, odd_tags, storage, windowed

    return {
        "audio": audio.case, "imports": imports.case, "kills": kills.case, "full": storage.full, "pages": storage.pages,
        "claims": claims.case, "texts": brought.texts, "backups": brought.backups, "moves": brought.moves,
        "tags": odd_tags.case, "window": windowed.case, "settings": windowed.settings,
        "messages": asked.messages, "offers": asked.offers,
    }[part]  # fmt: skip


def run_one(folder: Path, job: tuple[str, int]) -> Outcome:
    """One case, in a folder of this process's own."""
    part, number = job
    own = folder / f"{part}-{os.getpid()}"
    own.mkdir(parents=True, exist_ok=True)
    if part in ("audio", "claims", "tags", "offers") and not (own / "clicks.webm").exists():
        from bench.faulting import audio

        audio.encode(own)
    return _case(part)(own, number)


def faults(work: Path, counts: dict[str, int], *, processes: int = 2) -> list[Outcome]:
    """Run what isn't in the journal of `work` yet; all outcomes."""
    from training.spread import spread

    work.mkdir(parents=True, exist_ok=True)
    journal = Journal(work / "outcomes.jsonl")
    done = {part: journal.done(name) for name, part in PART_OF.items()}
    todo = [(part, n) for part, count in counts.items() for n in range(count) if n not in done[part]]
    with tempfile.TemporaryDirectory(prefix="faults-", dir=work) as scratch:
        for k, outcome in enumerate(spread(partial(run_one, Path(scratch)), todo, processes=processes), 1):
            journal.add(outcome)
            if outcome.kind == BAD or k % 500 == 0:
                print(
                    f"{k} of {len(todo)}  {outcome.group} {outcome.number} {outcome.kind} {outcome.words}", flush=True
                )
    wanted = {part: range(count) for part, count in counts.items()}
    return [o for o in journal.outcomes if o.number in wanted.get(PART_OF[o.group.split()[0]], ())]


PART_OF = {"audio": "audio", "import": "imports", "kill": "kills", "full": "full", "pages": "pages"} | {
    name: name for name in ("claims", "texts", "backups", "moves", "tags", "window", "settings", "messages", "offers")
}


def main() -> int:
    """Run the parts and print the table."""
    parser = argparse.ArgumentParser(prog="python -m bench.faults", description=__doc__.split("\n")[0])
    parser.add_argument("--work", type=Path, help="folder of the journal; a new one where none is named")
    for part, count in FULL.items():
        parser.add_argument(f"--{part}", type=int, default=count)
    options = parser.parse_args()
    counts = {part: getattr(options, part) for part in FULL}
    work = options.work or Path(tempfile.mkdtemp(prefix="mervid-faults-"))
    outcomes = faults(work, counts)
    print(table(outcomes))
    return int(any(o.kind == BAD for o in outcomes))


if __name__ == "__main__":
    sys.exit(main())
