"""Commands of Deliver: pages, the player and its folder, straightening, tags, paper, and the whole library."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices

from .... import places
from ....core.edits import typed_values
from ....core.errors import MervidError, Refused
from ....core.rendering.straightening import GLIDE_BARS
from ....formats import profile_files
from ...commands.command import CommandSet, command, request
from ...session.session import Session
from ...theme.tr import marked, tr
from ...views import sheet_files
from ...views.prep_sheet import Setting
from ...widgets import file_dialogs
from .surface import KEEP, PAPER, PLAYER, STICK, STRAIGHT, TAGS, DeliverSurface

OUT, WAYS = marked("What leaves"), marked("Ways out")


class OutCommands(CommandSet):
    """Pages, and a folder for a player."""

    def __init__(self, session: Session, view: DeliverSurface) -> None:
        self.session, self.view, self.say = session, view, session.say
        self.delivering = session.delivering

    @command("Alt+1", "For a player: the list on a stick", WAYS, PLAYER, also="usb gear export")
    @command("Alt+2", "On the stick: what a player finds", WAYS, STICK, also="simulated check")
    @command("Alt+3", "Straighten: one steady tempo", WAYS, STRAIGHT, also="quantise render time")
    @command("Alt+4", "Tags: what is known, into the files", WAYS, TAGS, also="write metadata id3")
    @command("Alt+5", "Paper: a sheet for the booth", WAYS, PAPER, also="print pdf list")
    @command("Alt+6", "Keep: the whole library as one file", WAYS, KEEP, also="backup restore copy")
    def deliver_page(self, page: str) -> None:
        self.view.pages.turn_to(page)

    @command("Ctrl+Return", "Do what the page is for: write, straighten, print", OUT, also="go export")
    def deliver(self, _: object) -> None:
        page = self.view.seen
        if page == PLAYER:
            self.write(None)
        elif page == TAGS:
            self.session.tag_writing.write()
        elif page == STICK and self.view.stick.table.chosen is not None:
            self.put_in(self.view.stick.table.chosen)

    @request
    def player(self, name: object) -> None:
        self.delivering.use(str(name))

    @request
    def profiles(self, _: object) -> None:
        """The folder of a person's own profiles, with the shipped ones as examples the first time."""
        folder = profile_files.own_folder()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as e:
            self.say.problem(tr("{0} can't be made: {1}.").format(folder, e.strerror or e))
            return
        self.delivering.load_profiles()
        for problem in self.delivering.problems:
            self.say.problem(problem)
        example = profile_files.shipped_folder()
        self.say.done(
            tr("Your own profiles lie in {0}; those that came along, to copy from, in {1}.").format(folder, example)
        )
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder)))

    @command("Ctrl+Shift+O", "Choose the folder or the stick", OUT, also="target directory usb")
    def folder(self, _: object) -> None:
        chosen = file_dialogs.folder(self.view, tr("Where is it written?"), "stick-at", self.delivering.out)
        if chosen is not None:
            self.delivering.set_out(chosen)

    @request
    def standby(self, on: Any) -> None:
        self.delivering.choose(standby=bool(on))

    @request
    def make_straight(self, on: Any) -> None:
        self.delivering.choose(straighten=bool(on))

    @request
    def remove(self, on: Any) -> None:
        """Only a switch: what it says is done by writing."""

    @request
    def write(self, _: object) -> None:
        target = self.view.target
        self.delivering.write(remove=target.remove.isChecked() and target.remove.isVisible())

    @request
    def stop(self, _: object) -> None:
        if self.delivering.writing:
            self.delivering.stop()
        else:
            self.session.straightening.stop()

    @request
    def put_in(self, path: Any) -> None:
        stick = self.delivering.stick
        if stick is not None and isinstance(path, Path):
            self.session.stick_playing.put_in(stick, path)


class StraightCommands(CommandSet):
    """The wish, and what waits."""

    def __init__(self, session: Session, view: DeliverSurface) -> None:
        self.session, self.view, self.say = session, view, session.say
        self.straightening = session.straightening

    def _wish(self, **changes: Any) -> None:
        if not self.straightening.ask_for(**changes):
            self.view.refresh()

    def _number(self, text: object, reader: Any) -> Any:
        try:
            return reader(str(text))
        except (Refused, ValueError) as e:
            self.say.refused(str(e) if isinstance(e, Refused) else tr("'{0}' is no number.").format(text))
            self.view.refresh()
            return None

    @request
    def straight_tempo(self, text: object) -> None:
        tempo = self._number(text, typed_values.tempo)
        if tempo is not None:
            self._wish(tempo=tempo)

    @request
    def straight_drift(self, text: object) -> None:
        share = self._number(text, lambda t: float(t.replace(",", ".").rstrip("% ")))
        if share is not None:
            self._wish(share=share / 100)

    @request
    def straight_glide(self, text: object) -> None:
        bars = self._number(text or GLIDE_BARS, int)
        if bars is not None:
            self._wish(glide_bars=bars)

    @request
    def straight_pitch(self, hold: Any) -> None:
        wish = self.straightening.shown
        swing = {} if hold or wish is None or wish.keep_swing else {"keep_swing": True}
        self._wish(hold_pitch=bool(hold), **swing)

    @request
    def straight_zones(self, zones: Any) -> None:
        self._wish(zones_only=bool(zones))

    @request
    def straight_swing(self, keep: Any) -> None:
        self._wish(keep_swing=bool(keep))

    @request
    def straight_format(self, ending: object) -> None:
        self.straightening.format = str(ending)
        self.view.refresh()

    @request
    def straight_down(self, on: Any) -> None:
        self.straightening.turn_down = bool(on)

    @request
    def straight_proposed(self, _: object) -> None:
        self.straightening.as_proposed()

    @request
    def straight_folder(self, _: object) -> None:
        chosen = file_dialogs.folder(self.view, tr("Where do results go?"), "straight-at", self.straightening.folder())
        if chosen is not None:
            self.straightening.set_folder(chosen)

    @command("S", "Straighten the open track", OUT, also="one tempo render")
    def straighten(self, _: object) -> None:
        row = self.session.track.row
        if row is None:
            self.say.refused(tr("No track is open."))
            return
        self.view.pages.turn_to(STRAIGHT)
        self.straightening.begin([row.id])

    @request
    def straighten_list(self, _: object) -> None:
        self.straightening.begin(self.view.chosen())

    @command("Delete", "Take the chosen one off the list of what is straightened", OUT, also="remove cancel")
    def drop_straight(self, _: object) -> None:
        number = self.view.straight.table.chosen
        if self.view.seen == STRAIGHT and isinstance(number, int):
            self.straightening.drop(number)


class WordCommands(CommandSet):
    """Tags, paper, and the whole library."""

    def __init__(self, session: Session, view: DeliverSurface) -> None:
        self.session, self.view, self.say = session, view, session.say

    @request
    def tag_template(self, text: object) -> None:
        if not self.session.tag_writing.set_template(str(text)):
            self.view.refresh()

    @request
    def tag_marks(self, on: Any) -> None:
        self.session.tag_writing.set_marks(bool(on))

    @request
    def write_tags(self, _: object) -> None:
        self.session.tag_writing.write()

    @request
    def take_back(self, batch: object) -> None:
        self.session.tag_writing.take_back(str(batch))

    @request
    def forget_batch(self, batch: object) -> None:
        self.session.tag_writing.clear(str(batch))

    @request
    def sheet_size(self, size: object) -> None:
        self.session.paper.lay_out(size=str(size))

    @request
    def sheet_paper(self, paper: object) -> None:
        self.session.paper.lay_out(paper=str(paper))

    @request
    def sheet_pdf(self, _: object) -> None:
        p = self.session.paper
        path = file_dialogs.file(self.view, tr("Write the sheet"), "sheets", f"{p.shown.title}.pdf", "PDF (*.pdf)")
        if path is None or p.sheet is None:
            return
        try:
            pages = sheet_files.write_pdf(path, p.sheet, Setting(p.paper, p.size))
        except MervidError as e:
            self.say.problem(str(e))
        except OSError as e:
            self.say.problem(tr("{0} can't be written: {1}.").format(path.name, e.strerror or e))
        else:
            self.say.done(f"Written: {path}, {pages} page{'s' if pages > 1 else ''}.")

    @request
    def sheet_tsv(self, _: object) -> None:
        p = self.session.paper
        path = file_dialogs.file(self.view, tr("Write the sheet"), "sheets", f"{p.shown.title}.tsv", "Values (*.tsv)")
        if path is not None:
            p.write_tsv(path)

    @request
    def back_up(self, _: object) -> None:
        k = self.session.keeping
        path = file_dialogs.file(self.view, tr("Back up"), "backups", k.suggested_name(), "Backup (*.zip)")
        if path is not None:
            k.back_up(path, jams=self.view.keep.jams.isChecked())

    @request
    def look_backup(self, _: object) -> None:
        path = file_dialogs.existing(self.view, tr("Look into a backup"), "backups", "Backups (*.zip);;All files (*)")
        if path is not None:
            self.session.keeping.look_into(path)

    @request
    def put_back(self, _: object) -> None:
        self.session.keeping.put_back()

    @request
    def keep_this(self, _: object) -> None:
        self.session.keeping.keep_this_one()

    @request
    def find_music(self, _: object) -> None:
        folder = file_dialogs.folder(self.view, tr("Where are the recordings?"), "music-at", None)
        if folder is not None:
            self.session.keeping.find_music(folder)

    @request
    def take_jams(self, _: object) -> None:
        folder = file_dialogs.folder(self.view, tr("Where are the JAMS files?"), "jams-at", places.data_folder().parent)
        if folder is not None:
            self.session.keeping.take_jams(folder)
