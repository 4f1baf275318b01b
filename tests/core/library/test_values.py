"""Searches, tags and words as values."""

from __future__ import annotations

import attrs
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mervid.core.errors import FormatError, Refused
from mervid.core.library import filters, tags
from mervid.core.library.filters import KINDS, Filter, Order, Search
from mervid.core.library.tags import Tags
from mervid.core.library.words import fold, words_of


def test_words_are_compared_without_case_accents_and_signs() -> None:
    assert fold("ÅNGSTRÖM — Nº 9 (Édit)") == "angstrom no 9 edit"
    assert fold("Straße_1") == fold("STRASSE 1") == "strasse 1"
    assert words_of("  the THE Thé ") == ("the",)
    assert len(fold("x" * 10_000)) == 500


@given(st.text())
def test_folding_twice_changes_nothing(text: str) -> None:
    assert fold(fold(text)) == fold(text)


def test_what_is_typed_becomes_filters_that_say_what_they_do() -> None:
    search = filters.parse('boat tempo:110-118 night key:f#m genre:"slow disco" year:-1979 drive:6- person:')
    assert search.words == "boat night"
    assert [f.words for f in search.filters] == [
        "tempo 110 to 118 BPM", "fits F# minor", "genre slow disco", "year up to 1979", "drive from 6 on",
        "needs a person",
    ]  # fmt: skip
    assert filters.parse("tempo:120").filters[0] == Filter(filters.TEMPO, 119.5, 120.5)
    assert filters.parse("tempo:60-70*").filters[0].words == "tempo 60 to 70 BPM, also half and double"
    near = filters.near_tempo(112.5, percent=4, of="Copper Ferry")
    assert (near.low, near.high) == (108.0, 117.0)
    assert near.words == "tempo 108 to 117 BPM, ±4 % of Copper Ferry"


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("tempo:fast", "is no range"), ("tempo:1e999", "is no range"), ("key:H", "is no key"),
        ("mood:blue", "no filter"),
        ("readiness:done", "not known"), ("lossy:perhaps", "lossy is yes, no"),
    ],
)  # fmt: skip
def test_what_says_nothing_is_refused_in_words(text: str, why: str) -> None:
    with pytest.raises(Refused, match=why):
        filters.parse(text)


def test_a_search_is_kept_as_text_whatever_is_in_it() -> None:
    every = tuple(Filter(k, 1.0, 2.0, "A minor", True, 7, "near") for k in KINDS)
    search = Search("a 'b' \" ü", every, (Order("title"), Order("tempo", True)))
    assert filters.from_json(filters.to_json(search)) == search
    assert all(f.words for f in every)
    newer = filters.to_json(search).replace('"tempo"', '"weather"')
    for text in (newer, "{", "[]", '{"words": 1}', ""):
        with pytest.raises(FormatError):
            filters.from_json(text)


def test_one_filter_of_a_kind_and_several_lists() -> None:
    search = Search().with_filter(Filter("genre", text="disco")).with_filter(Filter("genre", text="funk"))
    assert [f.text for f in search.filters] == ["funk"]
    search = search.with_filter(Filter("list", text="a", number=1)).with_filter(Filter("list", text="b", number=2))
    assert len(search.filters) == 3
    assert search.without(search.filters[0]).filters == search.filters[1:]


# tags


def test_tags_are_text_of_one_line_and_bounded() -> None:
    dirty = tags.of(
        {"title": "a\0b\n<b>c</b>\x07", "artists": "x" * 100_000, "year": "5/1978", "rating": "9", "mood": 1}
    )
    assert dirty.title == "a b <b>c</b>"
    assert len(dirty.artists) == tags.LONGEST
    assert (dirty.year, dirty.rating) == (1978, 5)
    assert tags.of({"title": "\ud800x"}).title == "x"
    assert tags.clean("אור הסירה \u0301") == "אור הסירה \u0301".strip()


def test_what_a_person_types_is_checked() -> None:
    assert tags.checked("year", " 1978-05 ") == 1978
    assert tags.checked("year", "") == 0
    assert tags.checked("rating", "4") == 4
    for name, text in (("year", "soon"), ("rating", "6"), ("rating", "12")):
        with pytest.raises(Refused):
            tags.checked(name, text)


def test_what_many_tracks_say_in_common() -> None:
    a, b = Tags(title="one", artists="Tern & Tiller"), Tags(title="two", artists="Tern & Tiller")
    assert tags.common([a, b], "artists") == ("Tern & Tiller", False)
    assert tags.common([a, b], "title") == ("", True)
    assert tags.common([a, b], "year") == ("", False)


def test_cases_and_spaces() -> None:
    assert tags.title_case("NIGHT BOAT TO THE QUAY") == "Night Boat to the Quay"
    assert tags.title_case("DJ ferry (live AT the pier) II") == "DJ Ferry (Live at the Pier) II"
    assert tags.sentence_case("THE TIDE (DUB)") == "The tide (dub)"
    assert tags.tidy("  a_b  ,c ") == "a b,c"


@given(st.text(max_size=60))
def test_tools_do_the_same_thing_once_and_twice(text: str) -> None:
    for tool in (tags.sentence_case, tags.tidy):
        assert tool(tool(text)) == tool(text)


def test_words_from_the_names_of_files() -> None:
    found = tags.from_name("03_Quay Lights - Copper  Ferry", "{number} {artists} - {title}")
    assert found == {"number": "03", "artists": "Quay Lights", "title": "Copper Ferry"}
    assert tags.from_name("Copper Ferry", "{artists} - {title}") == {}
    assert tags.from_name("a (b) [c].d - e", "{artists} - {title}")["artists"] == "a (b) [c].d"
    for pattern in ("no field", "{title} {title}", "{weather} - {title}"):
        with pytest.raises(Refused):
            tags.from_name("x", pattern)


@pytest.mark.parametrize("word", ["Café Noir", "Ångström", "Фонарь", "灯りの船", "naïve — “quoted”", "plain"])
def test_bytes_read_in_the_wrong_encoding_are_put_right_and_right_ones_are_left(word: str) -> None:
    """By construction: UTF-8 read as Windows-1252 or Latin-1 comes back; what was right stays."""
    assert tags.repaired(word) == word
    for encoding in ("cp1252", "latin-1"):
        try:
            wrong = word.encode("utf-8").decode(encoding)
        except UnicodeDecodeError:
            continue
        assert tags.repaired(wrong) == word
    assert tags.proposal(attrs.evolve(Tags(), title=word)) == {}
