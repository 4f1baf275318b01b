"""Deliver in the real window: from the list to the stick to the player that reads it; all other ways out."""

from __future__ import annotations

import hashlib
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtWidgets import QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits
from mervid.core.form import phrase_edits
from mervid.core.model.preparation import LOCKED
from mervid.core.sound import packets
from mervid.desk.stages.deliver.stage import DeliverStage
from mervid.desk.stages.deliver.surface import KEEP, PAPER, STICK, STRAIGHT, TAGS, DeliverSurface
from mervid.desk.window import Window
from mervid.formats import chapters, tag_files
from mervid.jobs.errands import PlanSeen
from mervid.store import straightened
from mervid.store.straightened import DONE
from tests.conftest import heard_demo
from tests.desk.conftest import FakeTime, put


@pytest.fixture(autouse=True)
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Nothing is written where a person's own things are."""
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    (tmp_path / "music").mkdir()
    return tmp_path


def deliver(window: Window) -> DeliverSurface:
    stage = window.stages["deliver"]
    assert isinstance(stage, DeliverStage)
    return stage.view


@pytest.fixture
def music(window: Window, home: Path, qtbot: QtBot) -> Window:
    """Copies of two recordings, one with four cues; Deliver is seen."""
    ferry = put(window, "Copper Ferry", home / "music")
    put(window, "Pontoon Static", home / "music")
    s = window.session
    s.tags.wake()
    qtbot.waitUntil(lambda: all(t.artists for t in s.library.tracks()))
    first, heard = s.library.history(ferry).preparation, heard_demo("Copper Ferry")[1].heard
    s.library.edit(ferry, "Follow", grid_edits.follow_recording(first, heard))
    s.open(ferry)
    for k, (name, time) in enumerate((("In", 0.4), ("Mid", 17.3), ("Break", 51.2), ("Out", 76.0))):
        s.track.apply(cue_edits.add_cue, time, name=name, slot=k)
    qtbot.mouseClick(window.header.tabs["deliver"], Qt.MouseButton.LeftButton)
    return window


def page(window: Window, name: str, qtbot: QtBot) -> DeliverSurface:
    """Turn to a page by its tab."""
    view = deliver(window)
    at = next(i for i, p in enumerate(view.pages.pages) if p.name == name)
    button = view.pages.tabs.button(at)
    assert button is not None
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert view.seen == name
    return view


def planned(window: Window, qtbot: QtBot) -> PlanSeen:
    d = window.session.delivering
    qtbot.waitUntil(lambda: d.plan is not None)
    assert d.plan is not None
    return d.plan


def choose_folder(monkeypatch: pytest.MonkeyPatch, folder: Path) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(folder))


def choose_file(monkeypatch: pytest.MonkeyPatch, path: Path, kind: str = "") -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), kind))


def to_stick(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, player: str, out: Path) -> DeliverSurface:
    """Choose a player and a folder with the mouse, press Write and wait until it is done."""
    view, d = deliver(window), window.session.delivering
    view.target.player.setCurrentText(player)
    view.target.player.textActivated.emit(player)
    choose_folder(monkeypatch, out)
    folder = next(b for b in view.target.findChildren(QPushButton) if b.text().startswith("Folder"))
    qtbot.mouseClick(folder, Qt.MouseButton.LeftButton)
    planned(window, qtbot)
    qtbot.waitUntil(view.target.write.isEnabled)
    qtbot.mouseClick(view.target.write, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not d.writing and d.report is not None)
    planned(window, qtbot)
    return view


def test_from_the_list_to_the_stick_to_the_player_that_reads_it(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path, clock: FakeTime
) -> None:
    """The stick is moved before it is read, and the recordings are away: only what lies on it is left."""
    out, s = home / "stick", music.session
    view = to_stick(music, qtbot, monkeypatch, "An old player with three hot cues", out)
    rows = [[view.delivery.table.item(r, c).text() for c in range(4)] for r in range(2)]  # type: ignore[union-attr]
    assert rows[0][:2] == ["Copper Ferry", "AIFF 16 bits"] and "ms off: straighten it." in rows[0][2]
    assert "3 hot cues: Out would be lost; kept as standby cues, too." in rows[0][2]
    assert all(r[3].startswith("written") for r in rows)
    assert "2 tracks written and read back" in view.delivery.ledger.toPlainText()
    moved = Path(shutil.move(out, home / "elsewhere"))
    shutil.rmtree(home / "music")
    s.delivering.set_out(moved)
    view = page(music, STICK, qtbot)
    qtbot.waitUntil(lambda: view.stick.table.rowCount() == 2)
    view.stick.table.setFocus()
    view.stick.table.setCurrentCell(0, 0)
    qtbot.keyClick(view.stick.table, Qt.Key.Key_Return)
    loaded = s.stick_playing.loaded
    assert loaded is not None and (loaded.title, loaded.artists) == ("Copper Ferry", "Tern & Tiller")
    # one tempo a track, and that is told
    assert loaded.grid is not None and len(loaded.grid.pins) == 2 and loaded.worst > 100
    assert "one tempo" in view.stick.about.text()
    player = view.stick.player
    assert [b.text().split("\n")[0] for b in player.slots if b.isVisible()] == ["1 In", "2 Mid", "3 Break"]
    assert [c.name for c in player.standing] == ["Out"]
    qtbot.waitUntil(lambda: s.player.program is not None)
    program = s.player.program
    assert program is not None and program.duration == pytest.approx(loaded.preparation.grid and 97.26, abs=0.5)
    # hit a hot cue, then wait at the standby cue
    qtbot.mouseClick(player.slots[2], Qt.MouseButton.LeftButton)
    at = {c.name: s.stick_playing.instant(c) for c in loaded.preparation.cues}
    assert s.player.playing and s.player.position == pytest.approx(at["Break"], abs=1e-6)
    qtbot.mouseClick(player.waits[0], Qt.MouseButton.LeftButton)
    assert not s.player.playing and s.player.position == pytest.approx(at["Out"], abs=1e-6)
    # the open track comes back with another stage
    qtbot.mouseClick(music.header.tabs["align"], Qt.MouseButton.LeftButton)
    assert s.stick_playing.loaded is None


def test_only_what_changed_is_written_again_and_strangers_are_left_alone(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path
) -> None:
    out, s = home / "stick", music.session
    (out / "Music").mkdir(parents=True)
    mine = out / "Music" / "Buoy Signal - Pontoon Static.ogg"
    mine.write_bytes(b"somebody's own")
    view = to_stick(music, qtbot, monkeypatch, "A phone", out)
    assert mine.read_bytes() == b"somebody's own"
    files = {p.name: p.stat().st_mtime_ns for p in (out / "Music").iterdir()}
    assert "Buoy Signal - Pontoon Static (2).ogg" in files
    assert planned(music, qtbot).todo == 0
    # bit for bit: the same packets, with tags and chapters beside them
    copy = out / "Music" / "Tern & Tiller - Copper Ferry.ogg"
    assert packets.digest(copy) == packets.digest(home / "music" / "Copper Ferry.ogg")
    assert chapters.read(copy).words["tempo"].startswith("113.")
    s.track.apply(phrase_edits.write_line, "a line of one's own")
    s.delivering.look()
    assert [x.state for x in planned(music, qtbot).steps] == ["again", "same"]
    # a track that leaves the library's list leaves a file that may go, and the stranger's stays
    s.library.remove(next(t.id for t in s.library.tracks() if t.title == "Copper Ferry"))
    s.catalogue.reread()
    qtbot.waitUntil(lambda: len(s.shown) == 1)
    s.delivering.look()
    assert [f for f in planned(music, qtbot).leftovers if f.startswith("Music")] == [f"Music/{copy.name}"]
    qtbot.waitUntil(view.target.remove.isVisible)
    qtbot.mouseClick(view.target.remove, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(view.target.write, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not s.delivering.writing and s.delivering.report is not None)
    assert not copy.exists() and mine.exists()


def test_a_full_stick_is_told_before_a_byte_is_written(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path
) -> None:
    out, s = home / "stick", music.session
    s.delivering.out = out
    s.delivering.look()
    full = planned(music, qtbot)
    # the process is another one: what it would say of a full stick is said here
    import attrs

    s.delivering.plan = attrs.evolve(full, fits=False, sentences=("There is too little room: 2 GB are needed.",))
    s.delivering.changed.emit()
    view = deliver(music)
    assert not view.target.write.isEnabled() and "too little room" in view.target.sentences.text()
    assert not out.exists()


def test_straightened_into_a_track_of_its_own(music: Window, qtbot: QtBot, home: Path) -> None:
    s, view = music.session, page(music, STRAIGHT, qtbot)
    qtbot.waitUntil(lambda: s.straightening.shown is not None)
    wish = s.straightening.shown
    assert wish is not None and (wish.tempo, wish.hold_pitch) == (114.0, True)
    assert view.wish.tempo.text() == "114"
    # another tempo is typed, nonsense is refused and said
    view.wish.tempo.selectAll()
    qtbot.keyClicks(view.wish.tempo, "abc")
    qtbot.keyClick(view.wish.tempo, Qt.Key.Key_Return)
    assert s.straightening.shown.tempo == 114.0 and view.wish.tempo.text() == "114"  # type: ignore[union-attr]
    view.wish.tempo.selectAll()
    qtbot.keyClicks(view.wish.tempo, "115")
    qtbot.keyClick(view.wish.tempo, Qt.Key.Key_Return)
    qtbot.mouseClick(view.wish.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(s.straightening.entries()) and s.straightening.running is None)
    entry = s.straightening.entries()[-1]
    assert entry.state == DONE and entry.target.name == "Copper Ferry.straight.flac"
    assert entry.told["before"]["p95"] > 100
    assert entry.told["after"]["p95"] < 20
    made = s.library.track(entry.made)
    assert made.title == "Copper Ferry (straight at 115)"
    p = s.library.history(entry.made).preparation
    assert p.grid is not None and p.grid.tempi.tolist() == [pytest.approx(115.0)]
    # cues lie where their sound lies now: each at the same beat
    source = s.library.history(entry.source).preparation
    assert [c.name for c in p.cues] == ["In", "Mid", "Break", "Out"]
    assert [c.beat for c in p.cues] == [c.beat for c in source.cues]
    assert straightened.made_of(s.library, entry.made) == entry
    # heard by no one else, its preparation is not replaced by what hearing proposes
    qtbot.waitUntil(lambda: s.library.track(entry.made).state == "ready")
    assert s.library.history(entry.made).preparation == p
    assert view.straight.table.item(0, 5).text().startswith("done")  # type: ignore[union-attr]
    assert view.straight.before._grid is not None
    # once more, at another tempo: the first result stays
    s.straightening.ask_for(tempo=112.0, hold_pitch=False)
    s.straightening.begin([entry.source])
    qtbot.waitUntil(lambda: len(s.straightening.entries()) == 2 and s.straightening.running is None)
    again = s.straightening.entries()[-1]
    assert (again.target.name, again.state) == ("Copper Ferry.straight (2).flac", DONE)
    assert s.library.history(entry.made).preparation == p
    s.open(entry.made)
    s.straightening.begin([entry.made])
    assert "was straightened already" in music.note.text.text()
    # and Gather tells where it came from
    music.go_to_stage("gather")
    values = music.stages["gather"].view.panel.about.values  # type: ignore[attr-defined]
    qtbot.waitUntil(lambda: values["Made from"].text() == "Copper Ferry" and values["Made from"].isVisible())
    s.open(entry.source)
    qtbot.waitUntil(values["Made from"].isHidden)


def test_stopped_in_the_middle_nothing_half_is_left(music: Window, qtbot: QtBot, home: Path) -> None:
    s, view = music.session, page(music, STRAIGHT, qtbot)
    qtbot.waitUntil(lambda: s.straightening.shown is not None)
    s.straightening.begin([int(i) for i in s.shown.ids])
    assert len(s.straightening.entries()) == 2
    qtbot.waitUntil(lambda: s.work.hands.share > 0.05)
    qtbot.mouseClick(view.wish.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: s.straightening.running is None)
    assert s.straightening.entries() == []
    assert not [p.name for p in (home / "music").iterdir() if "straight" in p.name or p.name.startswith(".")]


def test_tags_are_seen_written_and_taken_back(music: Window, qtbot: QtBot, home: Path) -> None:
    s, view = music.session, page(music, TAGS, qtbot)
    t = s.tag_writing
    files = sorted((home / "music").glob("*.ogg"))
    before = [hashlib.sha256(f.read_bytes()).hexdigest() for f in files]
    qtbot.waitUntil(lambda: t.seen is not None)
    view.tags.template.selectAll()
    qtbot.keyClicks(view.tags.template, "{tempo} {comment}; title: no")
    qtbot.keyClick(view.tags.template, Qt.Key.Key_Return)
    assert "'title' is no tag" in music.note.text.text()
    view.tags.template.selectAll()
    qtbot.keyClicks(view.tags.template, "{tempo} in {cues} {comment}")
    qtbot.keyClick(view.tags.template, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: t.seen is not None)
    texts = [view.preview.table.item(r, 3).text() for r in range(view.preview.table.rowCount())]  # type: ignore[union-attr]
    assert "113.84 in 4" in texts and "10 chapters" in texts
    assert [hashlib.sha256(f.read_bytes()).hexdigest() for f in files] == before, "nothing is written by looking"
    qtbot.mouseClick(view.tags.write, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not t.writing and t.seen is not None and t.todo == 0)
    assert tag_files.read(files[0])[0].tags.comment == "113.84 in 4"
    assert [c.text for c in chapters.read(files[0]).chapters][:2] == ["intro A", "In"]
    # another tag is no other recording
    assert s.library.track(s.track.row.id).state == "ready"  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: all(x.comment for x in s.library.tracks()))

    def ways_back() -> list[QPushButton]:
        return [b for b in view.tags.findChildren(QPushButton) if b.text() == "Take back" and b.isVisible()]

    qtbot.waitUntil(lambda: len(ways_back()) == 1)
    qtbot.mouseClick(ways_back()[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not t.writing and t.seen is not None and t.todo == 2)
    assert [hashlib.sha256(f.read_bytes()).hexdigest() for f in files] == before


def test_a_sheet_on_screen_as_pdf_and_as_tsv(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path
) -> None:
    s, view = music.session, page(music, PAPER, qtbot)
    qtbot.waitUntil(lambda: s.paper.sheet is not None)
    choose_file(monkeypatch, home / "sheet.pdf")
    qtbot.mouseClick(view.paper.pdf, Qt.MouseButton.LeftButton)
    document = QPdfDocument(None)
    assert document.load(str(home / "sheet.pdf")) == QPdfDocument.Error.None_
    size = document.pagePointSize(0)
    assert (document.pageCount(), size.width(), size.height()) == (1, 595.0, 842.0)
    text = document.getAllText(0).text()
    for words in ("Copper Ferry", "Tern & Tiller", "113.8", "intro 8", "1 In 0:00", "Pontoon Static", "20 = 16 + 4"):
        assert words in text
    data = (home / "sheet.pdf").read_bytes()
    # letters, not a picture of them, and their font inside
    assert b"/FontFile2" in data and b"/Subtype /Image" not in data
    view.paper.rows.setCurrentText("Half a page a track")
    view.paper.rows.textActivated.emit("Half a page a track")
    view.paper.paper.textActivated.emit("Letter")
    qtbot.mouseClick(view.paper.pdf, Qt.MouseButton.LeftButton)
    document.load(str(home / "sheet.pdf"))
    assert document.pagePointSize(0).width() == 612.0
    choose_file(monkeypatch, home / "sheet.tsv")
    qtbot.mouseClick(view.paper.tsv, Qt.MouseButton.LeftButton)
    lines = [x.split("\t") for x in (home / "sheet.tsv").read_text("utf-8").splitlines()]
    assert [x[1] for x in lines] == ["title", "Copper Ferry", "Pontoon Static"]
    assert "0:17 2 Mid" in lines[1][lines[0].index("cues")]
    assert "apart from the next in tempo" in lines[1][lines[0].index("holds")]
    # a recording is never written over, whatever it is called
    choose_file(monkeypatch, home / "music" / "Copper Ferry.ogg")
    before = (home / "music" / "Copper Ferry.ogg").read_bytes()
    music.ask("sheet-tsv", None)
    assert (home / "music" / "Copper Ferry.ogg").read_bytes() == before


def test_backed_up_looked_into_and_put_back(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path
) -> None:
    s, view = music.session, page(music, KEEP, qtbot)
    target = home / "library.zip"
    choose_file(monkeypatch, target)
    view.keep.jams.setChecked(True)
    music.ask("back-up", None)
    qtbot.waitUntil(lambda: target.exists() and not s.keeping.busy)
    s.track.apply(cue_edits.add_cue, 30.0, name="Later")
    s.library.remove(next(t.id for t in s.library.tracks() if t.title == "Pontoon Static"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(target), ""))
    music.ask("look-backup", None)
    qtbot.waitUntil(lambda: s.keeping.look is not None)
    assert "1 tracks come back: Pontoon Static." in view.keep.look.text()
    assert "1 tracks were edited since, and are as they were then: Copper Ferry." in view.keep.look.text()
    qtbot.mouseClick(view.keep.put, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: s.keeping.waits)
    path = s.library.path
    assert path is not None
    # the window goes on with what it has; the next start takes the other
    assert s.library.size() == 1
    from mervid.store import backup

    music.close()
    assert "put back from a backup" in backup.settle(path)
    with closing(sqlite3.connect(path)) as db:
        assert db.execute("SELECT count(*) FROM tracks").fetchone() == (2,)
    assert list(path.parent.glob("library.before-*.sqlite"))


def test_jams_made_elsewhere_are_taken_over_and_locked_tracks_stay(
    music: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, home: Path
) -> None:
    s = music.session
    folder = home / "jams"
    folder.mkdir()
    from mervid.jobs import jams_folder

    assert s.library.path is not None
    for name, data in jams_folder.each(s.library.path):
        (folder / Path(name).name).write_bytes(data)
    (folder / "nobody.jams").write_text("{}")
    s.track.apply(cue_edits.add_cue, 30.0, name="Later")
    number = s.track.row.id if s.track.row is not None else 0
    choose_folder(monkeypatch, folder)
    music.ask("take-jams", None)
    qtbot.waitUntil(lambda: not s.keeping.busy)
    assert "1 tracks took over" in music.note.text.text() and "nobody.jams" in music.note.text.text()
    assert len(s.library.history(number).preparation.cues) == len(s.track.preparation.cues) == 4
    s.catalogue.undo(number)
    assert len(s.library.history(number).preparation.cues) == 5
    from mervid.core.model import preparation

    s.catalogue.replace(number, preparation.set_readiness(s.library.history(number).preparation, LOCKED))
    music.ask("take-jams", None)
    qtbot.waitUntil(lambda: not s.keeping.busy)
    assert len(s.library.history(number).preparation.cues) == 5 and "locked" in music.note.text.text()


def test_an_empty_library_has_nothing_to_deliver(window: Window, qtbot: QtBot, home: Path) -> None:
    qtbot.mouseClick(window.header.tabs["deliver"], Qt.MouseButton.LeftButton)
    s = window.session
    s.delivering.set_out(home / "stick")
    assert "no track in sight" in s.delivering.why
    s.paper.look()
    assert "no track in sight" in s.paper.why
    window.ask_of("deliver", "deliver")
    window.ask_of("deliver", "straighten")
    assert not (home / "stick").exists()


def test_a_track_with_no_grid_is_told_apart(music: Window, qtbot: QtBot, home: Path) -> None:
    """A second of noise and a vanished file: both are said, the rest goes."""
    s = music.session
    track, _ = s.library.add(home / "music" / "not heard.wav")
    (home / "music" / "Pontoon Static.ogg").unlink()
    s.catalogue.reread()
    s.delivering.set_out(home / "stick")
    plan = planned(music, qtbot)
    assert [x.title for x in plan.steps] == ["Copper Ferry"]
    assert any("isn't heard yet" in p for p in plan.problems) and any("not there" in p for p in plan.problems)
    s.straightening.begin([track.id])
    assert "has no grid yet" in music.note.text.text()
