"""The columns of the table of tracks: their names, widths, and what stands in them as text."""

from __future__ import annotations

import time
from collections.abc import Callable

import attrs

from ...core.sound.names import shown
from ...store.track import FAILED, READY, Track
from ..theme.figures import clock, tempo_between
from ..theme.tr import tr


@attrs.frozen
class Column:
    """One column: its name in the code, its title, a width in px, what it says, and whether it is seen at first."""

    name: str
    title: str
    width: int
    text: Callable[[Track], str]
    tip: str = ""
    first: bool = True
    right: bool = False


def state_word(t: Track) -> str:
    """How far the preparation of a track is, in a word or two that fit a narrow column."""
    if t.gone:
        return tr("missing")
    if t.state == FAILED:
        return tr("failed")
    return t.readiness if t.state == READY else tr("not analysed")


def state_words(t: Track) -> str:
    """The same at length."""
    return tr("file missing") if t.gone else tr("can't be heard") if t.state == FAILED else state_word(t)


def waits(t: Track) -> str:
    """What waits for a person."""
    if t.gone:
        return tr("Its file is not where it was.")
    if t.state == FAILED:
        return t.message
    return t.finding if t.doubts and t.readiness == "draft" else ""


def tempo(t: Track) -> str:
    """One tempo, or from the slowest to the fastest."""
    if t.tempo_low is None or t.tempo_high is None:
        return ""
    return tempo_between(t.tempo_low, t.tempo_high) if t.tempo_high - t.tempo_low > 0.05 else f"{t.tempo_low:.2f}"


def key(t: Track) -> str:
    """The key; with a question mark where it is as likely another."""
    return f"{t.key} ?" if t.key and not t.own_key and t.key_chance < 0.5 else t.key


def day(when: float) -> str:
    """A date, or the time of day where it is today."""
    if not when:
        return ""
    then, now = time.localtime(when), time.localtime()
    return time.strftime("%H:%M" if then[:3] == now[:3] else "%Y-%m-%d", then)


def rate(t: Track) -> str:
    """Format and bits a second."""
    return f"{t.format} {t.bitrate // 1000}" if t.bitrate and not t.lossless else t.format


COLUMNS = (
    Column("at", "At", 50, lambda t: "", "When it is played, in a list that says when it begins", right=True),
    Column("readiness", "State", 106, state_word, "How far its preparation is; a wedge: it waits for you"),
    Column("title", "Title", 158, lambda t: t.title),
    Column("artists", "Artists", 108, lambda t: t.artists),
    Column("tempo", "Tempo", 92, tempo, "BPM; a range where it wanders", right=True),
    Column("key", "Key", 76, key, "A question mark: another is nearly as likely"),
    Column("drive", "Drive", 88, lambda t: f"{t.drive:.0f}" if t.drive else "", "1 to 9, and its course"),
    Column("form", "Form", 116, lambda t: t.form, "Phrases; what sounds alike looks alike"),
    Column("finding", "Waits for you", 230, waits, "The first thing that asks for a decision"),
    Column("length", "Length", 58, lambda t: clock(t.seconds) if t.seconds else "", right=True),
    Column("cues", "Cues", 46, lambda t: str(t.cues) if t.cues else "", right=True),
    Column("genre", "Genre", 90, lambda t: t.genre),
    Column("kind", "Time", 86, lambda t: t.kind, "What kind of time it keeps", first=False),
    Column("year", "Year", 50, lambda t: str(t.year) if t.year else "", right=True, first=False),
    Column("album", "Album", 150, lambda t: t.album, first=False),
    Column("label", "Label", 110, lambda t: t.label, first=False),
    Column("rating", "Rating", 60, lambda t: "●" * t.rating, first=False),
    Column("comment", "Comment", 160, lambda t: t.comment, first=False),
    Column("loudness", "LUFS", 56, lambda t: f"{t.lufs:.1f}".replace("-", "−") if t.lufs is not None else "",
           "Integrated loudness (BS.1770)", right=True, first=False),
    Column("added", "Added", 82, lambda t: day(t.added), first=False),
    Column("changed", "Changed", 82, lambda t: day(t.changed), first=False),
    Column("played", "Played", 82, lambda t: day(t.played), "Last played in Rehearse", first=False),
    Column("folder", "Folder", 180, lambda t: shown(t.path.parent.name or "/"), first=False),
    Column("format", "Format", 78, rate, first=False),
)  # fmt: skip
INDEX = {c.name: i for i, c in enumerate(COLUMNS)}
