"""Coverage-guided fuzzing of what is taken in: `python -m bench.fuzz_imports [-max_total_time=SECONDS] [CORPUS]`.

Needs `pip install -e .[fuzz]` (atheris). The fuzzer changes whole files of each form so that they reach new lines of
the readers; anything but a value that reads back as itself or a refusal in words ends it, with the file that did it.
Without a time it goes on for ever; a corpus folder and options are as libFuzzer takes them.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import atheris

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

with atheris.instrument_imports(include=["mervid"]):
    from bench.faulting.imports import FORMS, prepared, whole_files
    from mervid.core.errors import MervidError
    from mervid.core.model.preparation import from_json, to_json
    from mervid.formats import exchange

FOLDER = Path(tempfile.mkdtemp(prefix="mervid-fuzz-"))


def one(data: bytes) -> None:
    """Take in one file."""
    path = FOLDER / "fuzzed.txt"
    path.write_bytes(data)
    try:
        value = exchange.take(path, prepared())
    except (MervidError, UnicodeDecodeError):
        return
    assert from_json(to_json(value)) == value


def main() -> None:
    """Fuzz, from a whole file of each form."""
    corpus = FOLDER / "corpus"
    corpus.mkdir()
    for form, data in whole_files(FOLDER).items():
        if form in FORMS and form != "toml":
            (corpus / form).write_bytes(data)
    atheris.Setup([*sys.argv, str(corpus)], one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
