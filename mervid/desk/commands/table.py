"""Everything that can be asked for, in one table: menus, keys, the command finder and the key sheet are made of it."""

from __future__ import annotations

import attrs

from ...core.edits import grid_edits
from ...core.model.hints import ALIKE, EVEN, QUIET, TEMPO


@attrs.frozen
class Command:
    """One thing that can be asked for.

    Attributes
    ----------
    keys : the shortcut; empty where there is none
    name, argument : the request: `_ask_NAME(argument)` of a stage, or `_do_NAME` of the window with `window`
    stage : the stage it belongs to; empty where both know it
    words : what it does, as menus and the finder say it
    group : under which heading it stands
    """

    keys: str
    name: str
    argument: object
    words: str
    group: str
    window: bool = False
    stage: str = ""


ALIGN, PHRASE_STAGE = "align", "phrase"
NUMBERED = {"cue-number", "cue-into"}
"""Requests with a key for each slot, told in one line."""


LOOK, EAR, GRID, COUNT, PINS, PART, PHRASES, CUES, TRUST, PROGRAM = (
    "Look and go", "By ear", "Whole grid", "Beats and bars", "Pins", "The chosen part", "Phrases", "Cues", "Trust",
    "Program",
)  # fmt: skip
GROUPS = (LOOK, EAR, GRID, COUNT, PINS, PART, PHRASES, CUES, TRUST, PROGRAM)
EVERYWHERE = {"step", "step-bar", "step-phrase", "cue", "cue-number", "lock"}
"""Requests of the Align stage that are carried out whatever stage is seen."""


def _all() -> tuple[Command, ...]:
    rows: list[tuple[str, tuple[tuple[str, str, object, str], ...]]] = [
        (LOOK, (
            ("I", "spot", 1, "Next place of the spot check"),
            ("Shift+I", "spot", -1, "Place of the spot check before"),
            ("Q", "page", 1, "Spot check: the same close look at five places"),
            ("Shift+Q", "page", 2, "Table of pins and bars"),
            ("J", "next-doubt", None, "Go to the next doubtful place"),
            ("O", "opinion", None, "Show the next way to read the track"),
            ("V", "compare", None, "Compare: now, the fitted grid, the grid when last locked"),
            ("Return", "keep-opinion", True, "Keep what is shown instead"),
            ("Escape", "keep-opinion", False, "Go back to what stands; let go of the part"),
            ("Y", "halves", None, "Half-beat lines on or off"),
            ("R", "rows", None, "More bars a row in the fold"),
            ("Up", "zoom", 0.7, "Closer"),
            ("Down", "zoom", 1.4, "Wider"),
            ("Left", "step", -1, "One beat back"),
            ("Right", "step", 1, "One beat on"),
            ("Shift+Left", "step-bar", -1, "One bar back"),
            ("Shift+Right", "step-bar", 1, "One bar on"),
            ("Ctrl+Left", "step-phrase", -1, "One phrase back"),
            ("Ctrl+Right", "step-phrase", 1, "One phrase on"),
            ("W", "leaf", None, "Turn the leaf of tools at the right"),
        )),
        (EAR, (
            ("0", "tap-page", None, "Tap along with the music"),
            ("Ctrl+0", "calibrate", None, "Measure how late you and this device tap"),
            ("Ctrl+T", "tour", None, "Tour: hear two bars at each place of the spot check"),
            ("Shift+X", "to-fix", None, "On the tour: stop here and mend it"),
            ("Ctrl+Up", "retune", 0.01, "Tempo 0.01 BPM faster"),
            ("Ctrl+Down", "retune", -0.01, "Tempo 0.01 BPM slower"),
            ("Ctrl+Shift+Up", "retune", 0.001, "Tempo 0.001 BPM faster"),
            ("Ctrl+Shift+Down", "retune", -0.001, "Tempo 0.001 BPM slower"),
            ("Ctrl+B", "borrow", None, "Borrow the grid of the full recording"),
        )),
        (GRID, (
            ("S", "fit", "steady", "One steady tempo"),
            ("F", "fit", "follow", "Follow the recording"),
            ("T", "type-tempo", None, "Type a tempo"),
            ("G", "round", None, "Round the tempo to a whole number"),
            ("E", "two-points", None, "Tempo from two downbeats: mark the first, then the last"),
            ("H", "edit", grid_edits.halve, "Count every second beat"),
            ("Shift+H", "edit", grid_edits.double, "Count twice as many beats"),
            ("Ctrl+H", "edit", grid_edits.three_for_two, "Count three beats for two"),
            ("Ctrl+Shift+H", "edit", grid_edits.two_for_three, "Count two beats for three"),
            (",", "slide", -1.0, "Slide the grid 1 ms earlier"),
            (".", "slide", 1.0, "Slide the grid 1 ms later"),
            ("Shift+,", "slide", -10.0, "Slide the grid 10 ms earlier"),
            ("Shift+.", "slide", 10.0, "Slide the grid 10 ms later"),
            ("Alt+,", "slide-beats", -0.5, "Slide the grid half a beat earlier"),
            ("Alt+.", "slide-beats", 0.5, "Slide the grid half a beat later"),
            ("Alt+Shift+,", "slide-beats", -1.0, "Slide the grid a beat earlier"),
            ("Alt+Shift+.", "slide-beats", 1.0, "Slide the grid a beat later"),
            ("A", "tolerance", None, "Type how far a beat may stray"),
        )),
        (COUNT, (
            ("B", "beat", None, "This is a beat: listen again around it"),
            ("D", "downbeat", None, "A bar starts here"),
            ("Shift+D", "restart", None, "Begin the count anew here: the bar before may be odd"),
            ("Ctrl+Backspace", "count-through", None, "Take away the odd bar nearest to here"),
            ("M", "meter", None, "Type how many beats a bar has from here on"),
            ("Ctrl+D", "count-from", None, "Call the bar here bar 1"),
            ("Ctrl+Shift+D", "count-from-first", None, "Call the first bar of the music bar 1"),
        )),
        (PINS, (
            ("P", "pin", None, "Pin the nearest beat to the attack here"),
            ("Backspace", "unpin", None, "Remove the chosen pin"),
            ("N", "pin-by", 1, "Go to the next pin and choose it"),
            ("Shift+N", "pin-by", -1, "Go to the pin before and choose it"),
            ("Ctrl+,", "nudge", -1.0, "Nudge the chosen pin 1 ms earlier"),
            ("Ctrl+.", "nudge", 1.0, "Nudge the chosen pin 1 ms later"),
        )),
        (PART, (
            ("[", "part-edge", 0, "The part begins here"),
            ("]", "part-edge", 1, "The part ends here"),
            ("Shift+T", "part", TEMPO, "Listen again with tempi near the typed one"),
            ("Shift+E", "part", EVEN, "Listen again: this part is steady"),
            ("Shift+Z", "part", QUIET, "Listen again: no beats in this part"),
            ("Shift+O", "part", ALIKE, "Bars of this part count on from what comes before"),
            ("Ctrl+1", "pin-every", "beat", "Pin every beat of the part"),
            ("Ctrl+2", "pin-every", "1", "Pin every bar of the part"),
            ("Ctrl+3", "pin-every", "2", "Pin every second bar of the part"),
            ("Ctrl+4", "pin-every", "4", "Pin every fourth bar of the part"),
            ("Shift+F", "follow-part", None, "Follow the recording in the part"),
            ("L", "own-tempo", None, "A tempo of its own for the part, measured"),
            ("Shift+L", "own-tempo-typed", None, "Type a tempo of its own for the part"),
            ("U", "ramp", None, "Ramp from one tempo to another over the part"),
            ("Z", "pause", None, "A pause: no beats run in the part"),
            ("Shift+M", "zone", None, "The part is a mix zone, or is no longer one"),
        )),
        (CUES, (
            ("C", "cue", False, "Set a cue on the nearest downbeat"),
            ("Shift+C", "cue", True, "Set a cue just here"),
            *((str(n + 1), "cue-number", n, f"Cue {n + 1}: go there; in Phrase, set it where there is none")
              for n in range(8)),
        )),
        (TRUST, (
            ("X", "seen", None, "This place is right: mark it as seen, and on to the next"),
            ("Ctrl+L", "lock", None, "Lock or unlock"),
            ("Ctrl+R", "revert", None, "Go back to what was heard"),
            ("Shift+W", "notes", None, "Write a note"),
        )),
    ]  # fmt: skip
    phrase: list[tuple[str, tuple[tuple[str, str, object, str], ...]]] = [
        (PHRASES, (
            ("Up", "phrase-by", -1, "The phrase before"),
            ("Down", "phrase-by", 1, "The next phrase"),
            ("S", "split-here", None, "Split: a phrase begins on the bar line at the playhead"),
            ("Backspace", "merge", None, "Merge the chosen phrase with the one before"),
            ("Alt+Left", "shift-start", -1, "Begin the chosen phrase a bar earlier"),
            ("Alt+Right", "shift-start", 1, "Begin the chosen phrase a bar later"),
            ("R", "next-role", 1, "Next role for the chosen phrase"),
            ("Shift+R", "next-role", -1, "Role before for the chosen phrase"),
            ("L", "next-letter", None, "Next letter for the chosen phrase"),
            ("F", "as-heard", None, "Phrases as they are heard: forget what hands did"),
            ("O", "count-toggle", None, "Count bars from the drop, or from the first downbeat"),
            ("Shift+O", "count-here", None, "Count bars from the bar line at the playhead"),
            ("E", "line", None, "Write the line of words"),
            ("K", "try-skip", None, "Hear the next skip from chorus to chorus"),
        )),
        (CUES, (
            ("N", "standby", None, "Set a standby cue"),
            *((f"Shift+{n + 1}", "cue-into", n, f"Set cue {n + 1} here, whatever stands in it") for n in range(8)),
            ("Delete", "delete-cue", None, "Delete the chosen cue"),
            ("J", "hear-loop", None, "Go round the loop of the chosen cue"),
            ("A", "apply", None, "Apply the recipe in hand"),
            ("Shift+A", "apply-all", None, "Apply the recipe in hand to the tracks chosen at the left"),
            ("G", "recipe-page", None, "The recipe in words"),
            ("P", "player-page", None, "The player that stands in"),
            ("Q", "skips-page", None, "Skips"),
        )),
    ]  # fmt: skip
    program = (
        ("F2", "to-align", "Stage: Align"), ("F3", "to-phrase", "Stage: Phrase"),
        ("/", "find", "Find a command"), ("F1", "keys", "All keys"), ("Space", "play", "Play or pause"),
        ("K", "click", "Reference beat on or off"), ("Shift+K", "next-beat", "Next reference beat"),
        ("Ctrl+K", "split", "Split: the track in one ear, the reference beat in the other"),
        ("Alt+K", "beat-halves", "Half-beats in the reference beat"),
        ("Ctrl+J", "loop", "Loop on or off"), ("Alt+Up", "loop-longer", "Longer loop"),
        ("Alt+Down", "loop-shorter", "Shorter loop"), ("Alt+H", "half-speed", "Half speed"),
        ("Home", "home", "Go to the beginning"), ("End", "end", "Go to the end"),
        ("Ctrl+Z", "undo", "Undo"), ("Ctrl+Shift+Z", "redo", "Redo"), ("Ctrl+U", "history", "All edits of this track"),
        ("Ctrl+O", "open", "Open recordings"), ("Ctrl+E", "export", "Export JAMS"),
        ("Ctrl+Shift+E", "export-beats", "Export a beat list"), ("Ctrl+I", "import", "Import beats"),
        ("Ctrl+N", "night", "Day or night"),
    )  # fmt: skip
    out = [
        Command(k, name, x, words, group, stage="" if name in EVERYWHERE else ALIGN)
        for group, part in rows
        for k, name, x, words in part
    ]
    out += [
        Command(k, name, x, words, group, stage=PHRASE_STAGE) for group, part in phrase for k, name, x, words in part
    ]
    heard = {"click", "next-beat", "split", "beat-halves", "loop", "loop-longer", "loop-shorter", "half-speed"}
    out += [Command(k, name, None, words, EAR if name in heard else PROGRAM, window=True) for k, name, words in program]
    return tuple(out)


COMMANDS = _all()
MOUSE = (
    ("Drag ink in the fold", "Pull it onto its thread: a hand pin, and the hearing is guided"),
    ("Ctrl+click in fold or close-up", "This hit is the beat"),
    ("Shift+drag in the overview", "Choose a part"),
    ("Drag a zone's edge in the overview", "Move the edge of a mix zone"),
    ("Drag a track onto another in the list", "Borrow the grid of the one for the other"),
    ("Drag the end of a row in the ladder", "The next phrase begins there, on a bar line"),
    ("Drag a cue in the ladder", "Move it; freely with Shift"),
    ("Right click a row in the ladder", "Roles, split, merge"),
    ("Shift while dragging", "No snapping to attacks"),
    ("Esc while dragging", "Leave it as it was"),
)


def found(text: str) -> list[Command]:
    """Commands whose words, group or key hold every word typed; those that begin with it first."""
    wanted = text.lower().split()
    hits = [c for c in COMMANDS if all(w in f"{c.words} {c.group} {c.keys}".lower() for w in wanted)]
    return sorted(hits, key=lambda c: not c.words.lower().startswith(text.lower().strip()))


def keys_of(name: str, argument: object = None) -> str:
    """The shortcut of a request; empty where it has none."""
    return next((c.keys for c in COMMANDS if (c.name, c.argument) == (name, argument)), "")
