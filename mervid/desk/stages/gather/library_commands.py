"""Commands on the tracks of the library: find, choose, take out, set a key, hear again, find what has gone."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPoint, Qt, QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QMenu

from ....core.library import filters
from ....core.library.filters import Filter
from ....store import lists
from ....store.track import READY
from ...commands.command import LOOK, PROGRAM, TRUST, CommandSet, command, request
from ...session.session import Session
from ...theme.tr import marked, tr
from . import filter_menu
from .surface import GatherSurface

FIND, TAGS = marked("Find"), marked("Words and keys")


class LibraryCommands(CommandSet):
    """What can be done to the tracks that are chosen in the table."""

    def __init__(self, session: Session, view: GatherSurface) -> None:
        self.session, self.view, self.say = session, view, session.say
        self.case, self.shown = session.bookcase, session.shown

    @property
    def _chosen(self) -> list[int]:
        return list(self.session.selection.ids)

    # finding

    @command("Ctrl+F", "Find: type words", FIND, also="search filter look for", typing=True)
    def find_tracks(self, _: object) -> None:
        self.view.search.line.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.view.search.line.selectAll()

    @command("Ctrl+Shift+F", "Let go of words and filters", FIND, also="clear all reset", typing=True)
    def find_all(self, _: object) -> None:
        self.view.search.line.clear()
        self.shown.ask(filters.Search(order=self.shown.search.order))

    @command("J", "Only what needs a person, or all again", FIND, also="doubt waits findings to do")
    def only_needing(self, _: object) -> None:
        self._toggle(Filter(filters.PERSON))

    @command("T", "Only tempi within 4 % of the chosen track, or all again", FIND, also="bpm near match")
    def only_tempo(self, _: object) -> None:
        track = filter_menu.reference(self.session)
        if track is None or not track.tempo_low or not track.tempo_high:
            self.say.refused(tr("Choose a track with a tempo first."))
            return
        middle = (track.tempo_low + track.tempo_high) / 2
        self._toggle(filters.near_tempo(middle, percent=4.0, of=track.title[:60]))

    @command("Y", "Only keys that fit the chosen track, or all again", FIND, also="harmonic match")
    def only_key(self, _: object) -> None:
        track = filter_menu.reference(self.session)
        if track is None or not track.key:
            self.say.refused(tr("Choose a track whose key is known first."))
            return
        self._toggle(filters.key_fits(track.key))

    def _toggle(self, wanted: Filter) -> None:
        same = [f for f in self.shown.search.filters if f.what == wanted.what]
        if same:
            self.shown.drop_filter(same[0])
        else:
            self.shown.add_filter(wanted)

    @command("W", "Turn the leaf at the right: about, tags, what fits", LOOK, also="panel tab neighbours")
    def next_leaf(self, _: object) -> None:
        self.view.panel.next_leaf()

    @command("V", "Roomy or compact rows", LOOK, also="height cover picture")
    def roomy(self, _: object) -> None:
        self.view.table.set_roomy(not self.view.table.painter_of.roomy)

    @command("Shift+V", "Which columns are seen", LOOK, also="table fields show hide")
    def columns(self, _: object) -> None:
        menu = QMenu(self.view)
        self.view.table.fill_columns(menu)
        menu.exec(self.view.table.mapToGlobal(QPoint(40, 30)))

    @request
    def show_track(self, track_id: int) -> None:
        if self.shown.row_of(track_id) < 0:
            self.find_all(None)
            self.shown.show(0)
        self.view.table.choose([track_id])
        self.session.open(track_id)

    # words and keys

    @command("Alt+Return", "Type the words of the chosen tracks", TAGS, also="edit tags title artists")
    def edit_tags(self, _: object) -> None:
        self.view.panel.turn(1)
        self.view.panel.tags.first_field()

    @command("Shift+Y", "Set the key of the chosen tracks", TAGS, also="harmony minor major")
    def set_key(self, _: object) -> None:
        ids = self._chosen
        if ids:
            self.view.ask_text(
                "Key",
                tr("as A minor; nothing is what was heard"),
                "",
                lambda text: self.case.tag(ids, lambda t: t.set_key(ids, text)),
            )

    @request
    def tag_pattern(self, _: object) -> None:
        form = self.view.panel.tags
        self.view.ask_text(tr("Tags from file names"), "Pattern", "{number} {artists} - {title}", form.from_names)

    # the library

    @command("Delete", "Take the chosen tracks out of the list, or out of the library", PROGRAM, also="remove forget")
    def take_out(self, _: object) -> None:
        if self.shown.kind == lists.LIST:
            places = self.shown.places_of(self.view.table.chosen_rows())
            self.case.take(self.shown.number, places)
            self.shown.refresh()
        else:
            self.session.take_out(self._chosen)

    @command("", "Take the chosen tracks out of the library", PROGRAM, also="remove forget delete")
    def take_out_wholly(self, _: object) -> None:
        self.session.take_out(self._chosen)

    @command("Ctrl+Z", "Undo in the library: lists, words, keys, what was taken out", PROGRAM, also="back")
    def undo(self, _: object) -> None:
        self.case.undo()

    @command("Ctrl+Shift+Z", "Redo in the library", PROGRAM, also="forth again")
    def redo(self, _: object) -> None:
        self.case.redo()

    @command("N", "Hear the chosen tracks next", PROGRAM, also="queue first priority analyse")
    def hear_next(self, _: object) -> None:
        for i in self._chosen:
            if not self.session.queue.pool.has(i) and self.session.library.track(i).state != READY:
                self.session.queue.analyse(i)
        self.session.queue.first(self._chosen)

    @command("", "Hear the chosen tracks again", TRUST, also="analyse anew")
    def hear_again(self, _: object) -> None:
        for i in self._chosen:
            self.session.queue.analyse(i)

    @command("", "Take the chosen tracks out of the queue", PROGRAM, also="cancel stop hearing")
    def cancel(self, _: object) -> None:
        for i in self._chosen:
            self.session.queue.cancel(i)

    @request
    def work_on(self, _: object) -> None:
        track = filter_menu.reference(self.session)
        if track is None:
            return
        if track.gone:
            self.find_files(None)
        elif track.state != READY:
            self.session.queue.analyse(track.id)
        else:
            self.enter_track(track.id)

    @request
    def enter_track(self, track_id: int) -> None:
        self.session.open(track_id)
        self.view.entered.emit()

    @command("", "Find the files of chosen tracks that are missing", PROGRAM, also="locate relocate lost moved")
    def find_files(self, _: object) -> None:
        gone = [t.id for t in self.session.library.tracks(self._chosen) if t.gone]
        if not gone:
            self.say.refused(tr("None of the chosen tracks is missing its file."))
            return
        name = QFileDialog.getExistingDirectory(
            self.view, tr("Where are the files of {0:,} tracks? All below is looked at").format(len(gone))
        )
        if name:
            self.session.folders.point_at(gone, Path(name))

    @request
    def take_over_copy(self, source: int) -> None:
        if self._chosen:
            self.session.copies.hand_over(source, self._chosen[0])

    @request
    def open_folder(self, _: object) -> None:
        track = filter_menu.reference(self.session)
        if track is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(track.path.parent)))

    @request
    def row_menu(self, where: QPoint) -> None:
        ids = self._chosen
        menu = QMenu(self.view)
        if not ids:
            return
        menu.addAction(tr("Work on it in Align  (Enter)"), lambda: self.enter_track(ids[0]))
        menu.addAction(tr("Analyse next  (N)"), lambda: self.hear_next(None))
        menu.addAction(tr("Hear again"), lambda: self.hear_again(None))
        if any(self.session.queue.pool.has(i) for i in ids):
            menu.addAction(tr("Take out of the queue"), lambda: self.cancel(None))
        menu.addSeparator()
        into = menu.addMenu(tr("Put into"))
        assert into is not None
        for shelf in self.case.lists.all():
            if shelf.kind == lists.LIST:
                into.addAction(filter_menu.plain(shelf.name), lambda s=shelf: self.case.add(s.id, ids))
        into.setEnabled(bool(into.actions()))
        menu.addAction(tr("Edit tags…  (Alt+Return)"), lambda: self.edit_tags(None))
        menu.addAction(tr("Key of the tracks…  (Shift+Y)"), lambda: self.set_key(None))
        menu.addSeparator()
        menu.addAction(tr("Find missing files…"), lambda: self.find_files(None))
        menu.addAction(tr("Open its folder"), lambda: self.open_folder(None))
        if self.shown.kind == lists.LIST:
            menu.addAction(tr("Take out of the list  (Del)"), lambda: self.take_out(None))
        menu.addAction(tr("Take out of the library"), lambda: self.take_out_wholly(None))
        menu.exec(where)
