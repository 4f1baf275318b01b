"""Names that a FAT disk holds, profiles that make sense, and what each track loses, in sentences."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mervid.core.cues import player_profile
from mervid.core.delivery import losses, safe_names
from mervid.core.delivery.losses import CONVERT, STANDBY, STRAIGHTEN, Goal, Sound
from mervid.core.delivery.profile import Profile
from mervid.core.errors import FormatError, Refused
from mervid.core.library import outgoing, template
from mervid.core.library.outgoing import Outgoing
from mervid.core.library.tags import Tags
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.core.model.cue import Cue
from mervid.core.model.preparation import Preparation
from mervid.formats import profile_files

NEW, THREE, NONE, PHONE = profile_files.shipped()
MP3 = Sound("mp3", 44_100, 0, 2, 8_000_000, 200.0)
FLAC = Sound("flac", 96_000, 24, 2, 90_000_000, 200.0)
BENT = Grid(tuple(Pin(0.5 + 0.5 * b + 0.12 * np.sin(b / 40), float(b)) for b in range(0, 400, 4)))
CUES = tuple(Cue(f"c{k}", f"Cue {k}", beat=16.0 * k, role="drop" if k == 4 else "own", slot=k) for k in range(6))


# names


@given(st.lists(st.text(max_size=300), min_size=1, max_size=12), st.sampled_from(["any", "latin", "plain"]))
def test_no_name_is_refused_by_a_disk_and_no_two_become_one(texts: list[str], letters: str) -> None:
    """The rules of FAT's long names (nine signs, control characters, ends, devices, case, 255 units of UTF-16)."""
    taken: set[str] = set()
    for text in texts:
        name = safe_names.unlike(safe_names.safe(text, letters=letters), ".mp3", taken, 64)
        stem = name.removesuffix(".mp3")
        assert not set(name) & set('\\/:*?"<>|') and name.isprintable()
        assert stem == stem.strip() and not stem.endswith(".") and stem
        assert stem.split(".")[0].lower() not in ("con", "prn", "aux", "nul", "com1", "lpt9")
        assert len(name.encode("utf-16-le")) <= 128
        name.encode({"any": "utf-8", "latin": "latin-1", "plain": "ascii"}[letters])
        assert safe_names.folded(name) not in taken
        taken.add(safe_names.folded(name))


def test_what_letters_lack_is_made_of_others() -> None:
    assert safe_names.safe("Føroyar – Sjóvarfall ‘79", letters="plain") == "Foroyar - Sjovarfall '79"
    assert safe_names.safe("灯台", letters="latin") == "__"
    assert safe_names.unlike("ÉTÉ", ".mp3", {safe_names.folded("été.mp3")}) == "ÉTÉ (2).mp3"


# profiles


def test_shipped_profiles_come_back_as_they_are_written() -> None:
    for p in (NEW, THREE, NONE, PHONE):
        assert profile_files.read(profile_files.write(p)) == p
    assert (NEW.hot_cues, THREE.hot_cues, NONE.hot_cues, PHONE.hot_cues) == (8, 3, 0, 0)
    assert NEW.variable_grids and not THREE.variable_grids


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('name = "x"\nformats = ["mp4"]', "'mp4' is no format"),
        ('name = "x"\nhot_cues = "3"', "'hot_cues' must be a whole number"),
        ('name = "x"\nwheels = 3', "'wheels' is no field"),
        ('name = "x"\nbits = true', "'bits' must be a whole number"),
        ('name = "x"\nlossless = "flac"', "it gets flac, which it doesn't play"),
        ('name = "x"\nrates = [1]', "rates are 8,000"),
        ("formats = ['mp3']", "'name' is missing"),
        ("name = ", "not TOML"),
    ],
)
def test_a_profile_that_makes_no_sense_is_named_with_its_field(text: str, words: str) -> None:
    with pytest.raises(FormatError, match=words):
        profile_files.read(text)


# what becomes of sound


@pytest.mark.parametrize(
    ("sound", "profile", "goal"),
    [
        (MP3, NEW, Goal("mp3", 44_100, 0, True)),
        (FLAC, NEW, Goal("flac", 96_000, 24, True)),
        # a whole part of the rate where there is one
        (FLAC, THREE, Goal("aiff", 48_000, 24, False)),
        (FLAC, NONE, Goal("wav", 44_100, 16, False)),
        (FLAC, PHONE, Goal("aac", 48_000, 0, False)),
        # what has lost something already is never coded lossily again
        (attrs.evolve(MP3, codec="ogg"), THREE, Goal("aiff", 44_100, 16, False)),
        (attrs.evolve(MP3, codec="ogg"), PHONE, Goal("ogg", 44_100, 0, True)),
        (attrs.evolve(FLAC, rate=32_000), NONE, Goal("wav", 44_100, 16, False)),
    ],
)
def test_what_a_recording_becomes(sound: Sound, profile: Profile, goal: Goal) -> None:
    assert losses.goal(sound, profile) == goal


def test_losses_are_said_with_what_helps() -> None:
    p = Preparation(grid=BENT, cues=CUES)
    old = losses.losses(FLAC, p, THREE)
    assert [x.proposal for x in old] == [CONVERT, STRAIGHTEN, STANDBY]
    assert "FLAC isn't played; 96 kHz isn't: AIFF, 24 bits, 48 kHz, which loses what is finer." in old[0].text
    worst = losses.steady_error(BENT, 200.0)
    assert f"up to {worst:.0f} ms off" in old[1].text and worst > 60
    assert "3 hot cues: Cue 3, Cue 4, Cue 5 would be lost" in old[2].text
    assert losses.losses(MP3, Preparation(grid=steady(tempo=120, first=0.5), cues=CUES), NEW) == ()
    assert "nothing" in losses.losses(MP3, Preparation(), NEW)[0].text


def test_cues_arrive_as_the_player_has_them() -> None:
    p = Preparation(grid=BENT, cues=CUES)
    there = losses.arriving(p, THREE, standby=True)
    assert [(c.slot, c.kind) for c in there] == [
        (0, "hot"), (1, "hot"), (2, "hot"), (None, "standby"), (None, "standby"), (None, "standby"),
    ]  # fmt: skip
    assert not player_profile.arrive(attrs.evolve(p, cues=there), THREE.gear).lost
    assert len(losses.arriving(p, THREE, standby=False)) == 3
    assert losses.arriving(p, PHONE, standby=True) == ()
    many = tuple(attrs.evolve(c, kind="standby", slot=None, id=f"s{k}") for k, c in enumerate(CUES * 3))
    assert len(losses.arriving(attrs.evolve(p, cues=many), NONE, standby=True)) == NONE.standby_cues


# templates


def test_a_template_fills_tags_and_never_grows() -> None:
    t = template.parse("{key} {drive} {comment}; grouping: {line}")
    known = Outgoing(Tags(comment="loud"), tempo=113.417, key="A minor", drive=7.2, line="drop at 33")
    once = outgoing.values(known, t)
    assert once == {"tempo": "113.42", "key": "Am", "drive": "7", "comment": "Am 7 loud", "grouping": "drop at 33"}
    again = outgoing.values(attrs.evolve(known, shown=Tags(comment=once["comment"], grouping="drop at 33")), t)
    assert again == once
    # title and artists go only where a person edited them
    mine = outgoing.values(attrs.evolve(known, shown=Tags(title="Mine", artists="x"), own=("title",)), t)
    assert mine["title"] == "Mine" and "artists" not in mine


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("title: {key}", "'title' is no tag that a template fills"),
        ("{keys}", r"\{keys\} is no word"),
        ("comment: {key; ", "brace is left over"),
        ("comment: a; comment: b", "stands in this template twice"),
    ],
)
def test_a_template_that_makes_no_sense_is_refused(text: str, words: str) -> None:
    with pytest.raises(Refused, match=words):
        template.parse(text)
