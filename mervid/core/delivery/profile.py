"""A player profile: what a kind of gear can do, described by abilities and never by a maker's name."""

from __future__ import annotations

import attrs

from ..cues.player_profile import Gear
from ..errors import Refused

CODECS = ("mp3", "aac", "alac", "flac", "wav", "aiff", "ogg", "opus")
"""Kinds of sound, by the coding that a player must know."""
LOSSLESS = ("flac", "aiff", "wav")
"""What sound is converted to without a loss."""
LOSSY = ("mp3", "aac")
"""What it is converted to where a profile demands it."""
LISTS = ("m3u8", "xspf")
ANY, LATIN, PLAIN = "any", "latin", "plain"
LETTERS = (ANY, LATIN, PLAIN)
"""Letters of names: all there are, those of Latin-1, those of ASCII."""
MOST_RATE, MOST_NAME = 384_000, 255


@attrs.frozen
class Profile:
    """What a player can do.

    Attributes
    ----------
    name, note : as it is shown
    formats : `CODECS` that it plays
    rates : samples a second that it plays
    bits : the most bits of a sample
    lossless : what it gets in place of what it can't play, one of `LOSSLESS`
    lossy : what every lossless recording becomes, one of `LOSSY`; empty where nothing does
    kbps : of what is lossy, thousands of bits a second
    hot_cues, standby_cues : how many of each
    variable_grids : whether it follows a grid that bends; else it has one tempo a track
    tags, chapters, jams : whether it reads words, chapters, and the JAMS beside a track
    lists : `LISTS` that it reads
    longest_list : tracks of a list; 0 for no limit
    largest_file : bytes; 0 for no limit
    longest_name : letters of a name with its ending
    letters : of names, one of `LETTERS`
    depth : folders in folders; 0 where all lies at the top
    """

    name: str
    note: str = ""
    formats: tuple[str, ...] = ("mp3", "wav")
    rates: tuple[int, ...] = (44_100, 48_000)
    bits: int = 16
    lossless: str = "wav"
    lossy: str = ""
    kbps: int = 320
    hot_cues: int = 8
    standby_cues: int = 10
    variable_grids: bool = False
    tags: bool = True
    chapters: bool = False
    jams: bool = False
    lists: tuple[str, ...] = ("m3u8",)
    longest_list: int = 0
    largest_file: int = 0
    longest_name: int = MOST_NAME
    letters: str = ANY
    depth: int = 4

    def __attrs_post_init__(self) -> None:
        validate(self)

    @property
    def gear(self) -> Gear:
        """Its hot cues, as Phrase shows them."""
        return Gear(self.name, self.hot_cues)


def validate(p: Profile) -> None:
    """Raise `Refused`, naming the first value that makes no sense."""

    def need(right: bool, words: str) -> None:
        if not right:
            raise Refused(f"The profile '{p.name or '?'}' can't be used: {words}.")

    need(bool(p.name.strip()), "it has no name")
    need(bool(p.formats), "it plays no format")
    for f in p.formats:
        need(f in CODECS, f"'{f}' is no format: there are {', '.join(CODECS)}")
    need(p.lossless in LOSSLESS, f"'{p.lossless}' is no lossless format: there are {', '.join(LOSSLESS)}")
    need(p.lossless in p.formats or bool(p.lossy), f"it gets {p.lossless}, which it doesn't play")
    need(p.lossy in ("", *LOSSY), f"'{p.lossy}' is no lossy format: there are {', '.join(LOSSY)}")
    need(not p.lossy or p.lossy in p.formats, f"it gets {p.lossy}, which it doesn't play")
    need(bool(p.rates) and all(8000 <= r <= MOST_RATE for r in p.rates), "its rates are 8,000 to 384,000 Hz")
    need(p.bits in (16, 24), "its bits are 16 or 24")
    need(64 <= p.kbps <= 320, "its kbps are 64 to 320")
    need(0 <= p.hot_cues <= 8, "it has 0 to 8 hot cues")
    need(0 <= p.standby_cues <= 1000, "it has 0 to 1,000 standby cues")
    need(bool(p.lists) and all(x in LISTS for x in p.lists), f"its lists are of {', '.join(LISTS)}")
    need(p.longest_list >= 0 and p.largest_file >= 0, "its limits can't be negative")
    need(24 <= p.longest_name <= MOST_NAME, f"names have 24 to {MOST_NAME} letters")
    need(p.letters in LETTERS, f"'{p.letters}' are no letters: there are {', '.join(LETTERS)}")
    need(0 <= p.depth <= 32, "its folders lie 0 to 32 deep")
