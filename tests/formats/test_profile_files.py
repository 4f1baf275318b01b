"""A player profile is found by its name, by part of it, and by the name of its file."""

from __future__ import annotations

from pathlib import Path

import pytest

from mervid.core.errors import FormatError
from mervid.formats import profile_files


@pytest.fixture(autouse=True)
def own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path))
    (tmp_path / "players").mkdir()
    return tmp_path / "players"


def test_every_shipped_profile_is_found_by_its_files_name() -> None:
    for path in profile_files.shipped_folder().glob("*.toml"):
        assert profile_files.named(path.stem) == profile_files.named(path.name) == profile_files.load(path)


def test_ones_own_goes_before_a_shipped_one_of_that_file(own: Path) -> None:
    path = sorted(profile_files.shipped_folder().glob("*.toml"))[0]
    text = path.read_text().replace(profile_files.load(path).name, "Mine")
    (own / path.name).write_text(text)
    assert profile_files.named(path.stem).name == "Mine"


def test_a_wrong_name_lists_what_there_is() -> None:
    with pytest.raises(FormatError, match="no player profile 'none-such'") as e:
        profile_files.named("none-such")
    assert all(p.name in str(e.value) for p in profile_files.shipped())
