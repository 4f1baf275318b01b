"""The pages of settings that are a few lines each: sound, work, music, look, and where all is kept."""

from __future__ import annotations

import os
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QListWidget, QVBoxLayout, QWidget

from .... import notes, places
from ....core.model.tempo_range import PRESETS, TempoRange
from ....core.model.tolerance import Tolerance
from ....jobs import pcm
from ... import settings
from ...session.session import Session
from ...sound.output import SILENT
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from .. import file_dialogs
from ..parts import Switch
from ..tempo_range_menu import RangeDialog
from .page import Number, OneOf, SettingsPage, button

Ask = Callable[[str], None]
"""Asks the window for something by name."""


class SoundPage(SettingsPage):
    """Where the sound goes, how late it is, and how late a hand is."""

    def __init__(self, session: Session, ask: Ask) -> None:
        super().__init__(tr("Sound"))
        self._player = session.player
        self.device = OneOf((), "")
        self.device.activated.connect(lambda: self._player.choose_output(str(self.device.currentData())))
        self.row(tr("Sound device"), tr("Where the sound goes. The silent clock runs without any device."), self.device)
        self.delay = Number(0, *settings.DELAYS_MS, "ms", digits=1)
        self.delay.valueChanged.connect(self._set_delay)
        self.loop = button(tr("Measure"), tr("Clicks are played and recorded again: by a cable, or a microphone"))
        self.loop.clicked.connect(self._measure)
        self._player.measured.connect(self._measured)
        self.delay_words = self.row(tr("Its delay"), "", self.delay, self.loop)
        self.buffer = OneOf([(ms, f"{ms} ms") for ms in settings.BUFFERS_MS], settings.buffer_ms())
        self.buffer.activated.connect(self._set_buffer)
        self.row(
            tr("Buffer"),
            tr("How much sound is kept ahead. Short answers faster; it grows by itself where the sound stumbles."),
            self.buffer,
        )
        self.head(tr("YOUR HAND"))
        measure = button(tr("Measure"), tr("Clicks sound; tap along with them (Ctrl+0)"))
        measure.clicked.connect(lambda: ask("calibrate"))
        self.forget = button(tr("Forget"), tr("Take nothing off your taps any more"))
        self.forget.clicked.connect(self._forget)
        self.tap = Number(0, -300, 500, "ms", digits=0)
        self.tap.valueChanged.connect(self._set_tap)
        self.tap_words = self.row(tr("You tap late by"), "", self.tap, measure, self.forget)
        self.end()
        self._player.output_changed.connect(self.enter)

    def enter(self) -> None:
        """The devices there are now."""
        player = self._player
        named = [(key, name) for key, name in player.devices.items()]
        silent = player.output_name.startswith(SILENT)
        self.device.offer([*named, ("", tr("Silent clock"))], "" if silent else player.device_key)
        self.delay.setEnabled(not silent)
        self.loop.setEnabled(not silent)
        self.delay.show_value(1000 * player.delays.get(player.device_key, 0.0))
        self.delay_words.setText(
            tr(
                "How much later it sounds than it says: the playhead is drawn, and taps are put, so much earlier. "
                "Set it so that a click is heard just when the playhead crosses its line"
            )
            + (tr(". There is no device to set it for now.") if silent else tr("; each device keeps its own."))
        )
        late = settings.tap_delay()
        self.tap.show_value(1000 * (late or 0.0))
        self.forget.setEnabled(late is not None)
        self.tap_words.setText(
            tr("Taken off every tap. Measure it by tapping along with clicks, once for each device.")
            if late is not None
            else tr("Not measured yet: tap along with clicks, and it is taken off every tap.")
        )

    def _measure(self) -> None:
        if self._player.measure_delay():
            self.loop.setEnabled(False)
            self.delay_words.setText(
                tr("Clicks sound for six seconds. Join output and input, or hold the microphone to the speaker …")
            )

    def _measured(self, answer: object) -> None:
        self.enter()
        if isinstance(answer, str):
            self.delay_words.setText(answer)
            return
        assert isinstance(answer, tuple)
        late, scatter = answer
        self.delay.setValue(1000 * max(0.0, late))
        self.delay_words.setText(
            tr("It sounds {0:.1f} ms later than it says, within {1:.1f} ms; the input's own delay is in that.").format(
                1000 * late, 1000 * scatter
            )
        )

    def _set_delay(self, ms: float) -> None:
        settings.set_delay(self._player.device_key, ms / 1000)
        self._player.set_delay(ms / 1000)

    def _set_buffer(self) -> None:
        ms = int(self.buffer.currentData())
        settings.set_buffer(ms)
        self._player.set_buffer(ms)

    def _set_tap(self, ms: float) -> None:
        settings.set_tap_delay(ms / 1000)
        self.enter()

    def _forget(self) -> None:
        settings.set_tap_delay(None)
        self.enter()


class WorkPage(SettingsPage):
    """How much of the computer Mervid takes."""

    def __init__(self, session: Session) -> None:
        super().__init__(tr("Work"))
        self._session = session
        most = len(os.sched_getaffinity(0))
        self.cores = Number(settings.workers(), 1, most, f"of {most}")
        self.cores.valueChanged.connect(self._set)
        self.row(tr("Cores for hearing"), tr("So many recordings are heard at once, in the background."), self.cores)
        self.quiet = Switch(tr("Wait while something plays"), "", on=settings.quiet())
        self.quiet.switched.connect(self._set)
        self.row(tr("While you play"), tr("Nothing new is begun while you listen; what is begun goes on."), self.quiet)
        self.cache = Number(settings.cache_bytes() / settings.GIB, 0.25, 1024, "GiB", digits=2, step=0.5)
        self.cache.valueChanged.connect(self._set_cache)
        empty = button(tr("Empty it"), tr("Recordings are decoded anew when they are opened"))
        empty.clicked.connect(self._empty)
        self.cache_words = self.row(tr("Decoded sound on disk"), "", self.cache, empty)
        self.end()

    def enter(self) -> None:
        """How much is there now."""
        used = sum(f.stat().st_size for f in pcm.files(self._session.cache)) / settings.GIB
        self.cache_words.setText(
            tr(
                "Tracks open at once while their sound lies here; what was not used for longest goes "
                "first. {0:.2f} GiB are used now. A new limit holds from the next start."
            ).format(used)
        )

    def _set(self) -> None:
        cores, quiet = int(self.cores.value()), self.quiet.isChecked()
        settings.set_work(cores, quiet=quiet)
        self._session.queue.use(cores, quiet=quiet)

    def _set_cache(self, gib: float) -> None:
        settings.set_cache(gib)

    def _empty(self) -> None:
        row = self._session.track.row
        freed = pcm.empty(self._session.cache, keep=row.identity if row is not None else "")
        self._session.say.done(tr("{0:.2f} GiB of decoded sound were thrown away.").format(freed / settings.GIB))
        self.enter()


class MusicPage(SettingsPage):
    """Watched folders, and what is expected of the music."""

    def __init__(self, session: Session, use_range: Callable[[TempoRange | None], None]) -> None:
        super().__init__(tr("Music"))
        self._session, self._use_range = session, use_range
        self.folders = QListWidget()
        self.folders.setObjectName("boxed")
        self.folders.setFixedHeight(96)
        self.folders.setMinimumWidth(320)
        watch = button(tr("Watch a folder…"), tr("New recordings in it and below are taken in by themselves"))
        watch.clicked.connect(self._watch)
        self.away = button(tr("Watch it no longer"), tr("Its recordings stay in the library"))
        self.away.clicked.connect(self._unwatch)
        beside = QWidget()
        buttons = QVBoxLayout(beside)
        buttons.setContentsMargins(0, 0, 0, 0)
        buttons.addWidget(watch)
        buttons.addWidget(self.away)
        buttons.addStretch(1)
        self.row(
            tr("Watched folders"), tr("What is new in them is taken in and heard by itself."), self.folders, beside
        )
        self.range = OneOf((), None)
        self.range.activated.connect(self._choose_range)
        other = button(tr("Another…"), tr("A range of your own, with a name"))
        other.clicked.connect(lambda: RangeDialog(self, self._take_range).open())
        self.row(
            tr("Expected tempo"),
            tr("Settles whether a new track is counted at half or double. Tracks outside it are asked about."),
            self.range,
            other,
        )
        now, (low, high) = settings.tolerance(), settings.TOLERANCES_MS
        self.tight = Number(now.tight, low, high, "ms", digits=1)
        self.loose = Number(now.loose, low, high, "ms", digits=1)
        for field in (self.tight, self.loose):
            field.valueChanged.connect(self._set_tolerance)
        self.row(
            tr("In mix zones"),
            tr("So far may a beat stray where tracks are mixed. An ear forgives 12 ms at 120 BPM."),
            self.tight,
        )
        self.row(
            tr("Elsewhere"),
            tr("So far elsewhere. Both hold for tracks heard from now on; Alt+T in Align sets one track's."),
            self.loose,
        )
        self.end()
        session.folders.changed.connect(self.enter)

    def enter(self) -> None:
        """As it is now."""
        self.folders.clear()
        for folder in self._session.folders.folders():
            self.folders.addItem(str(folder))
        self.away.setEnabled(self.folders.count() > 0)
        now = self._session.offers.range
        known = [*PRESETS, *settings.own_ranges()]
        offered: list[TempoRange | None] = [None, *known, *([now] if now is not None and now not in known else [])]
        self.range.offer([(r, r.text if r else tr("any tempo")) for r in offered], now)

    def _watch(self) -> None:
        chosen = file_dialogs.folder(self, tr("Watch a folder"), "folder", None)
        if chosen is not None:
            self._session.folders.watch(chosen)

    def _unwatch(self) -> None:
        item = self.folders.currentItem() or self.folders.item(0)
        if item is not None:
            self._session.folders.unwatch(Path(item.text()))

    def _choose_range(self) -> None:
        self._use_range(self.range.currentData())

    def _take_range(self, wanted: TempoRange | None) -> None:
        self._use_range(wanted)
        self.enter()

    def _set_tolerance(self) -> None:
        settings.set_tolerance(Tolerance(self.tight.value(), self.loose.value()))


class LookPage(SettingsPage):
    """Day or night, how large, how much moves."""

    def __init__(self, session: Session, use_look: Callable[[str], None]) -> None:
        super().__init__(tr("Look"))
        self._session, self._use_look = session, use_look
        words = {
            settings.DESKTOP: tr("as the desktop is"),
            settings.DAY: tr("day: ink on paper"),
            settings.NIGHT: "night",
        }
        self.look = OneOf([(k, words[k]) for k in settings.LOOKS], settings.look())
        self.look.activated.connect(lambda: self._use_look(str(self.look.currentData())))
        self.row(tr("Day or night"), tr("Follows the desktop until you choose. F8 swaps."), self.look)
        sizes = [(n, tr("{0} %   (text of {1:g} pt)").format(n, n / 10)) for n in settings.SIZES]
        self.scale = OneOf(sizes, settings.size())
        self.scale.activated.connect(lambda: settings.set_size(int(self.scale.currentData())))
        self.row(tr("Size"), tr("Of everything: text, lines and handles. Holds from the next start."), self.scale)
        self.calm = Switch(tr("In steps"), "", on=settings.calm())
        self.calm.switched.connect(self._set_calm)
        self.row(
            tr("Motion"), tr("While it plays, pictures move four times a second instead of running along."), self.calm
        )
        self.end()

    def enter(self) -> None:
        """As it is now."""
        self.look.setCurrentIndex(settings.LOOKS.index(settings.look()))

    def _set_calm(self, on: bool) -> None:
        settings.set_calm(on)
        self._session.player.set_calm(on)


class KeepPage(SettingsPage):
    """Where all lies, and the copies of it."""

    def __init__(self, session: Session, ask: Ask) -> None:
        super().__init__(tr("Files"))
        self._session = session
        for name, does, where in (
            (
                tr("Library"),
                tr("Tracks, grids, cues, lists and every edit. $MERVID_DATA moves it."),
                places.data_folder(),
            ),
            (tr("Decoded sound"), tr("May be thrown away at any time. $MERVID_CACHE moves it."), session.cache),
            (tr("Log"), tr("What went wrong, for who mends it. It stays on this computer."), notes.log_file().parent),
        ):
            self.row(name, does, *self._place(where))
        self.head(tr("COPIES"))
        self.copies = QListWidget()
        self.copies.setObjectName("boxed")
        self.copies.setFixedHeight(110)
        self.copies.setMinimumWidth(320)
        self.row(tr("Copies of days"), tr("Made by itself, once a day; the last seven days stay."), self.copies)
        back = button(tr("Back up, or put back…"), tr("To the page where the whole library becomes one file"))
        back.clicked.connect(lambda: ask("back-up"))
        self.row(tr("A copy elsewhere"), tr("The whole library as one file, for a stick or another computer."), back)
        self.end()

    @staticmethod
    def _place(where: Path) -> tuple[QWidget, ...]:
        shown = Words(str(where))
        shown.setToolTip(tip_of(str(where)))
        shown.setMinimumWidth(1)
        shown.setFixedWidth(330)
        shown.setText(shown.fontMetrics().elidedText(str(where), Qt.TextElideMode.ElideMiddle, 320))
        show = button(tr("Show it"), tr("In the file manager"))
        show.clicked.connect(partial(QDesktopServices.openUrl, QUrl.fromLocalFile(str(where))))
        return shown, show

    def enter(self) -> None:
        """The copies there are."""
        self.copies.clear()
        for day, size in self._session.keeping.copies():
            self.copies.addItem(f"{day}   {size / 1e6:.1f} MB")
        if not self.copies.count():
            self.copies.addItem(tr("none yet"))
