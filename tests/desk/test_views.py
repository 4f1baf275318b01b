"""What the views draw: pixels where they count, geometry elsewhere."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QWheelEvent
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from mervid.core.edits import grid_edits
from mervid.desk.theme.palette import DAY
from mervid.desk.views.bar_fold import GUTTER, HEAD
from mervid.desk.views.base import dots_image, image_of, ink_pixels, ramp
from mervid.desk.window import Window
from tests.desk.conftest import align, put
from tests.desk.test_align import mouse


def colours(view: QWidget) -> QImage:
    """What a view shows now."""
    QApplication.processEvents()
    return view.grab().toImage()


def near(image: QImage, x: float, y: float, color: str, reach: int = 2) -> bool:
    """Whether a colour is found around a place."""
    return any(
        image.pixelColor(int(x) + dx, int(y) + dy).name() == color
        for dx in range(-reach, reach + 1)
        for dy in range(-reach, reach + 1)
    )


def wheel(view: QWidget, x: float, y: float, step: int) -> None:
    place = QPointF(x, y)
    event = QWheelEvent(
        place,
        QPointF(view.mapToGlobal(place.toPoint())),
        QPoint(),
        QPoint(0, step),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, event)


def test_ink_becomes_colour_and_nothing_becomes_the_third(qtbot: QtBot) -> None:
    scale = ramp("#ffffff", "#000000", "#ff0000", 1.0)
    pixels = ink_pixels(np.array([[0.0, 1.0, np.nan, 2.0]], np.float32), scale)
    image = image_of(np.ascontiguousarray(pixels))
    assert [image.pixelColor(x, 0).name() for x in range(4)] == ["#ffffff", "#000000", "#ff0000", "#000000"]


def test_dots_lie_where_they_should_and_the_marked_are_marked(qtbot: QtBot) -> None:
    x, y = np.array([10.0, 30.0, -5.0, 99.0]), np.array([10.0, 20.0, 5.0, 99.0])
    image = dots_image((50, 60), x, y, np.ones(4), np.array([False, True, False, True]), ("#222222", "#bb3300"))
    assert image.pixelColor(10, 10).name() == "#222222"
    assert image.pixelColor(30, 20).name() == "#bb3300"
    assert image.pixelColor(20, 40).alpha() == 0
    faint = dots_image((50, 60), x[:1], y[:1], np.array([0.3]), np.array([False]), ("#222222", "#bb3300"))
    assert 0 < faint.pixelColor(10, 10).alpha() < image.pixelColor(10, 10).alpha()


def test_the_ribbon_and_the_margin_show_where_it_drifts(ferry: Window, qtbot: QtBot) -> None:
    view, trace = align(ferry).overview, ferry.session.track.drift()[0]
    image = colours(view)
    y = view.height() - 5
    over = np.abs(trace.error) > trace.tolerance
    worst, fine = int(np.argmax(np.abs(trace.error))), int(np.argmin(np.abs(trace.error)))
    assert over[worst]
    assert near(image, view.x_of(trace.times[worst]), y, DAY.attention)
    assert not near(image, view.x_of(trace.times[fine]), y, DAY.attention, 0)
    fold = align(ferry).fold
    row = fold.rows.row_of(float(ferry.session.track.grid.beat_at(trace.times[worst])) + 0.5)
    place = HEAD + (row + 0.5) * fold.row_height
    assert near(colours(fold), GUTTER - 6, place, DAY.attention)
    ferry.ask("fit", "follow")
    clean = sum(near(colours(fold), GUTTER - 6, HEAD + (r + 0.5) * fold.row_height, DAY.attention) for r in range(20))
    assert clean <= 2


def test_fold_places_and_beats_are_inverse(ferry: Window) -> None:
    fold = align(ferry).fold
    for beat in (0.0, 5.5, 41.25, 100.0):
        x, y = fold.place_of(beat)
        assert fold.beat_at(x, y + fold.row_height / 2) == pytest.approx(beat, abs=1e-6)
    assert fold.beat_at(3, 100) is None
    assert fold.beat_at(400, 5000) is None


def test_close_up_zooms_about_the_mouse_down_to_milliseconds(ferry: Window, qtbot: QtBot) -> None:
    view = align(ferry).closeup
    ferry.session.player.seek(30.0)
    x = 200.0
    kept = view.time_of(x)
    for _ in range(60):
        wheel(view, x, 50, 120)
    assert view.span == pytest.approx(0.004)
    assert view.time_of(x) == pytest.approx(kept, abs=1e-9)
    exact = colours(view)
    assert any(near(exact, c, view.height() / 2, DAY.sustained, 60) for c in range(100, view.width() - 100, 60))
    for _ in range(80):
        wheel(view, x, 50, -120)
    assert view.span == 20.0


def test_dragging_the_ground_of_the_close_up_moves_along(ferry: Window, qtbot: QtBot) -> None:
    view = align(ferry).closeup
    ferry.session.player.seek(30.0)
    grid = ferry.session.track.grid
    x = next(c for c in range(60, 700) if view.beat_near(c) is None)
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(x, 60))
    qtbot.mouseMove(view, QPoint(x + 50, 60))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(x + 50, 60))
    assert view.centre == pytest.approx(30.0 - 50 / view.width() * view.span, abs=0.02)
    assert ferry.session.track.grid == grid
    assert ferry.session.player.position == 30.0


def test_escape_lets_go_of_a_pin(ferry: Window, qtbot: QtBot) -> None:
    view, before = align(ferry).closeup, ferry.session.track.preparation
    ferry.session.player.seek(20.0)
    time = float(before.grid.time_at(np.ceil(before.grid.beat_at(20.0))))
    x = round(view.x_of(time))
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(x, 60))
    qtbot.mouseMove(view, QPoint(x + 30, 60))
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(x + 30, 60))
    assert ferry.session.track.shown is before
    assert ferry.session.track.preparation is before


@pytest.mark.parametrize("name", ["closeup", "fold", "overview"])
def test_another_track_opened_while_a_pin_or_a_zone_is_held(ferry: Window, qtbot: QtBot, name: str) -> None:
    view, s = getattr(align(ferry), name), ferry.session
    barge = put(ferry, "Night Barge")
    s.player.seek(20.0)
    beat = float(np.ceil(s.track.grid.beat_at(20.0)))
    held = s.track.preparation.mix_zones[0][1] if name == "overview" else float(s.track.grid.time_at(beat))
    x, y = view.place_of(beat) if name == "fold" else (view.x_of(held), 60)
    mouse(view, QEvent.Type.MouseButtonPress, x, y + 2)
    mouse(view, QEvent.Type.MouseMove, x + 9, y + 2)
    assert view.dragging
    s.open(barge)
    qtbot.waitUntil(lambda: s.track.row is not None and s.track.row.id == barge and s.track.grid is not None)
    before = s.track.preparation
    mouse(view, QEvent.Type.MouseMove, x + 12, y + 2)
    mouse(view, QEvent.Type.MouseButtonRelease, x + 12, y + 2)
    assert not view.dragging and s.track.preparation is before is s.track.shown


def test_a_long_fold_scrolls_with_the_playhead(ferry: Window, qtbot: QtBot) -> None:
    fold = align(ferry).fold
    ferry.resize(960, 600)
    ferry.ask("edit", grid_edits.double)
    QApplication.processEvents()
    assert fold._most_scroll() > 0
    ferry.session.player.seek(90.0)
    _, y = fold.place_of(float(ferry.session.track.grid.beat_at(90.0)))
    assert HEAD <= y <= fold.height()
    colours(fold)
    assert fold._cut_rows.sum() < len(fold.rows.first)
    wheel(fold, 300, 100, 10_000)
    assert fold.offset == 0


def test_the_trace_scales_to_what_there_is(ferry: Window, qtbot: QtBot) -> None:
    view = align(ferry).trace
    assert view.limit() >= 150
    ferry.ask("fit", "follow")
    assert view.limit() == 20
    x = round(view.x_of(ferry.session.track.grid.pins[2].time))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(x, view.height() - 9))
    assert align(ferry).chosen_pin == 2
    assert ferry.session.player.position == pytest.approx(ferry.session.track.grid.pins[2].time)
