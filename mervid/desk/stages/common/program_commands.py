"""Commands of the program itself: files, finding commands, day and night."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QWidget

from .... import notes, places
from ....formats import exchange
from ...commands.command import PROGRAM, CommandSet, command
from ...session.session import Session
from ...theme.tr import tr
from ...widgets import file_dialogs

PRIVATE = {"folder", "export", "mixes", "stick", "straight", "geometry", "columns", "delays", "left", "recipe"}
"""Settings that say where a person's files are, or nothing at all."""


class Frame(Protocol):
    """What the window can do for a command."""

    def play(self) -> None: ...
    def find_command(self) -> None: ...
    def show_keys(self) -> None: ...
    def show_history(self) -> None: ...
    def show_figures(self) -> None: ...
    def toggle_list(self) -> None: ...
    def toggle_night(self) -> None: ...
    def show_page(self, stage: str, page: str) -> None: ...
    def close(self) -> bool: ...


class ProgramCommands(CommandSet):
    """What can be asked for whatever is open."""

    typing = True

    def __init__(self, session: Session, frame: Frame) -> None:
        self.session, self.frame = session, frame

    @property
    def _parent(self) -> QWidget | None:
        return self.frame if isinstance(self.frame, QWidget) else None

    @command("/", "Find a command", PROGRAM, also="search help menu")
    def find(self, _: object) -> None:
        self.frame.find_command()

    @command("F1", "All keys", PROGRAM, also="help shortcuts")
    def keys(self, _: object) -> None:
        self.frame.show_keys()

    @command("Space", "Play or pause", PROGRAM, also="stop listen")
    def play(self, _: object) -> None:
        self.frame.play()

    @command("Ctrl+U", "All edits of this track", PROGRAM, also="history undo list")
    def history(self, _: object) -> None:
        self.frame.show_history()

    @command("Ctrl+F1", "In figures: what the pictures show, as tables", PROGRAM, also="accessible screen reader table")
    def figures(self, _: object) -> None:
        self.frame.show_figures()

    @command("F7", "The list at the left, or room for the pictures", PROGRAM, also="hide show sidebar tracks narrow")
    def list_seen(self, _: object) -> None:
        self.frame.toggle_list()

    @command("Ctrl+S", "Save: everything is saved as you work", PROGRAM, also="write keep")
    def save(self, _: object) -> None:
        self.session.say.done(tr("Everything is saved as you work: there is nothing left to save."))

    @command("Ctrl+P", "Print: the prep sheet", PROGRAM, also="paper pdf page")
    def print_sheet(self, _: object) -> None:
        self.frame.show_page("deliver", "paper")

    @command("Ctrl+Q", "Quit", PROGRAM, also="exit end leave program")
    def quit(self, _: object) -> None:
        self.frame.close()

    @command("Ctrl+W", "Close this window", PROGRAM, also="quit exit")
    def close(self, _: object) -> None:
        self.frame.close()

    @command("Ctrl+O", "Open recordings", PROGRAM, also="add file import music")
    def open(self, _: object) -> None:
        file_dialogs.open_recordings(self._parent, self.session.queue)

    @command("Ctrl+Shift+O", "Add a folder, with all below it", PROGRAM, also="import music library directory")
    def add_folder(self, _: object) -> None:
        file_dialogs.add_folder(self._parent, self.session.queue)

    @command("", "Add a folder and make lists of it and all below", PROGRAM, also="import playlist directory")
    def add_folder_lists(self, _: object) -> None:
        file_dialogs.add_folder(self._parent, self.session.queue, as_lists=True)

    @command("", "Take in the demo set", PROGRAM, also="example try sample tideline")
    def demo(self, _: object) -> None:
        self.session.queue.add_files(sorted(places.demo_folder().glob("*.ogg")))

    @command("Ctrl+E", "Export JAMS", PROGRAM, exchange.JAMS, also="hand over write save file")
    @command("Ctrl+Shift+E", "Export a beat list", PROGRAM, exchange.BEATS, also="hand over write save text")
    @command("", "Export labels of phrases and cues", PROGRAM, exchange.LABELS, also="hand over write save text")
    @command("", "Export a MIDI tempo map", PROGRAM, exchange.MIDI, also="hand over write save file")
    @command("", "Export a WAV copy with cue points", PROGRAM, exchange.WAVE, also="hand over write save audio")
    def export(self, ending: object) -> None:
        file_dialogs.hand_over(self._parent, self.session.track, self.session.watch, str(ending))

    @command("Ctrl+I", "Import beats, phrases, cues", PROGRAM, also="take over read file labels jams")
    def take(self, _: object) -> None:
        file_dialogs.take(self._parent, self.session.track)

    @command("", "Copy a report: versions, settings, last lines of the log", PROGRAM, also="bug problem help log")
    def report(self, _: object) -> None:
        kept = QSettings()
        told = {key: kept.value(key) for key in kept.allKeys() if key not in PRIVATE}
        titles = [t.title for t in self.session.library.tracks()]
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(notes.report(titles, told))
            self.session.say.done(tr("A report is on the clipboard, ready to paste. It names no file and no track."))

    @command("F8", "Day or night", PROGRAM, also="dark light theme colours palette")
    def night(self, _: object) -> None:
        self.frame.toggle_night()
