"""Files by dialog and by drop: recordings to open, where to write, what to take over."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import unquote_to_bytes

from PyQt6.QtCore import QSettings, Qt, QUrl
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from ...core.errors import FormatError
from ...core.sound.decoding import SUFFIXES
from ...core.sound.names import shown
from ...formats import exchange, playlist
from ...store.track import title_of
from ..names import kept_folder
from ..session import exchange as exchanging
from ..session.analysis_queue import AnalysisQueue
from ..session.open_track import OpenTrack
from ..session.recording_watch import RecordingWatch
from ..theme.tr import tr


def dropped_paths(urls: list[QUrl]) -> list[Path]:
    """Files and folders behind dropped URLs, byte for byte: names need not be UTF-8."""
    out: list[Path] = []
    for url in urls:
        if url.isLocalFile():
            form = QUrl.UrlFormattingOption.RemoveScheme | QUrl.UrlFormattingOption.RemoveAuthority
            raw = url.toEncoded(form).data()
            out.append(Path(os.fsdecode(unquote_to_bytes(raw))))
    return out


def _last_folder(key: str = "folder") -> str:
    return str(kept_folder(key) or Path.home())


def open_recordings(parent: QWidget | None, queue: AnalysisQueue) -> None:
    """Choose recordings to open."""
    kinds = " ".join(f"*{s}" for s in (*sorted(SUFFIXES), *playlist.ENDINGS))
    names, _ = QFileDialog.getOpenFileNames(
        parent, tr("Open recordings"), _last_folder(), f"Recordings and playlists ({kinds});;All files (*)"
    )
    if names:
        QSettings().setValue("folder", str(Path(names[0]).parent))
        queue.add_files([Path(n) for n in names])


def add_folder(parent: QWidget | None, queue: AnalysisQueue, *, as_lists: bool = False) -> None:
    """Choose a folder whose recordings are taken in, with all below it."""
    name = QFileDialog.getExistingDirectory(parent, tr("Add a folder, and all below it"), _last_folder())
    if name:
        QSettings().setValue("folder", name)
        queue.add_files([Path(name)], as_lists=as_lists)


def find_recording(parent: QWidget | None, track_id: int, watch: RecordingWatch) -> None:
    """Choose the file that holds the sound of a track."""
    row = watch.catalogue.library.track(track_id)
    kinds = " ".join(f"*{s}" for s in sorted(SUFFIXES))
    name, _ = QFileDialog.getOpenFileName(
        parent, tr("Where is {0}?").format(row.title), str(row.path.parent), f"Recordings ({kinds});;All files (*)"
    )
    if name:
        watch.find(track_id, Path(name))


def hand_over(parent: QWidget | None, track: OpenTrack, watch: RecordingWatch, ending: str) -> None:
    """Choose where to write the open track, in the form that `ending` asks for."""
    if track.row is None:
        return
    start = Path(_last_folder("export")) / f"{title_of(track.row.path)}{ending}"
    kind = f"{exchange.FORMS[ending]} (*.{ending.rsplit('.', 1)[1]})"
    # what stands there is told by ourselves, and more exactly
    ask_ourselves = QFileDialog.Option.DontConfirmOverwrite
    name, _ = QFileDialog.getSaveFileName(parent, tr("Hand over"), str(start), kind, options=ask_ourselves)
    if name:
        path = Path(name)
        if not path.suffix:
            path = path.with_name(path.name + ending)
        QSettings().setValue("export", str(path.parent))
        if _may_replace(parent, track, path):
            exchanging.export(track, path, watch)


def _may_replace(parent: QWidget | None, track: OpenTrack, path: Path) -> bool:
    """Whether `path` is free, or a person says that what stands there may go; a recording never may."""
    try:
        there = exchanging.what_stands_at(track, path)
    except FormatError as e:
        track.say.problem(str(e))
        return False
    except OSError as e:
        track.say.problem(tr("{0} can't be written: {1}.").format(shown(path), e.strerror or e))
        return False
    if not there:
        return True
    box = QMessageBox(
        QMessageBox.Icon.NoIcon,
        tr("Hand over"),
        tr("{0} is there already: {1}.").format(shown(path), there),
        parent=parent,
    )
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setInformativeText(tr("The new one would take its place."))
    replace = box.addButton(tr("Replace it"), QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(box.addButton(tr("Keep it"), QMessageBox.ButtonRole.RejectRole))
    box.exec()
    return box.clickedButton() is replace


def take(parent: QWidget | None, track: OpenTrack) -> None:
    """Choose a file of beats, phrases or cues to take over."""
    if track.row is None:
        return
    sounds = " ".join(f"*{s}" for s in sorted(SUFFIXES))
    kinds = (
        "Beats, labels, tempo maps (*.jams *.json *.txt *.beats *.csv *.tsv *.mid);;"
        f"Chapters and cue points of a recording ({sounds});;All files (*)"
    )
    name, _ = QFileDialog.getOpenFileName(parent, tr("Import beats"), _last_folder("export"), kinds)
    if name:
        exchanging.import_beats(track, Path(name))


def where_to_write_mix(parent: QWidget, name: str) -> Path | None:
    """Choose where a mix is written; None where that was let be."""
    kinds = "FLAC, 24 bit (*.flac);;WAV, 24 bit (*.wav)"
    chosen, kind = QFileDialog.getSaveFileName(
        parent, tr("Write the mix"), str(Path(_last_folder("mixes")) / name), kinds
    )
    if not chosen:
        return None
    path = Path(chosen)
    QSettings().setValue("mixes", str(path.parent))
    return (
        path
        if path.suffix.lower() in (".flac", ".wav")
        else path.with_name(f"{path.name}{'.wav' if 'WAV' in kind else '.flac'}")
    )


def folder(parent: QWidget, title: str, setting: str, now: Path | None) -> Path | None:
    """Choose a folder; None where that was let be."""
    start = str(now) if now is not None else _last_folder(setting)
    chosen = QFileDialog.getExistingDirectory(parent, title, start)
    if not chosen:
        return None
    QSettings().setValue(setting, chosen)
    return Path(chosen)


def file(parent: QWidget, title: str, setting: str, name: str, kind: str) -> Path | None:
    """Choose where a file of one kind is written; None where that was let be."""
    ending = kind[kind.index("*.") + 1 : kind.rindex(")")]
    start = str(Path(_last_folder(setting)) / name.replace("/", "-"))
    chosen, _ = QFileDialog.getSaveFileName(parent, title, start, kind)
    if not chosen:
        return None
    path = Path(chosen)
    QSettings().setValue(setting, str(path.parent))
    return path if path.suffix.lower() == ending else path.with_name(f"{path.name}{ending}")


def existing(parent: QWidget, title: str, setting: str, kinds: str) -> Path | None:
    """Choose a file that is there; None where that was let be."""
    chosen, _ = QFileDialog.getOpenFileName(parent, title, _last_folder(setting), kinds)
    if not chosen:
        return None
    QSettings().setValue(setting, str(Path(chosen).parent))
    return Path(chosen)
