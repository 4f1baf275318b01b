"""The look: contrasts by the book, fonts and icons from the program's own files, figures as they are said."""

from __future__ import annotations

import re

import pytest
from PyQt6.QtGui import QColor, QFontInfo, QFontMetrics
from pytestqt.qtbot import QtBot

from mervid.core.fitting.drift import Summary
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.desk.theme import figures
from mervid.desk.theme.palette import DAY, NIGHT, ROLES, Palette
from mervid.desk.theme.style import FAMILY, HERE, font, icon, load_fonts


def contrast(a: str, b: str) -> float:
    """Contrast ratio as WCAG 2.1 defines it (relative luminance, success criterion 1.4.3)."""

    def luminance(color: str) -> float:
        parts = [c / 255 for c in QColor(color).getRgb()[:3]]
        r, g, b = (c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
        return 0.2126 * r + 0.7152 * g + 0.0722 * b

    hi, lo = sorted((luminance(a), luminance(b)), reverse=True)
    return (hi + 0.05) / (lo + 0.05)


@pytest.mark.parametrize("palette", [DAY, NIGHT], ids=lambda p: p.name)
def test_text_and_controls_can_be_read(palette: Palette) -> None:
    grounds = (palette.paper, palette.panel, palette.raised, palette.selected)
    for ground in grounds:
        assert contrast(palette.ink, ground) >= 4.5
        assert contrast(palette.faint, ground) >= 4.5, ground
    for ground in grounds[:3]:
        assert contrast(palette.attention, ground) >= 4.5
        assert contrast(palette.border, ground) >= 3
        assert contrast(palette.hand, ground) >= 3
    assert contrast(palette.on_hand, palette.hand) >= 4.5
    for hue, _ in ROLES.values():
        assert contrast("#ffffff", hue) >= 3.5


def test_every_role_has_a_letter_of_its_own() -> None:
    letters = [letter for _, letter in ROLES.values()]
    assert len(set(letters)) == len(letters)


def test_the_style_sheet_names_only_known_colours_and_shows_focus() -> None:
    sheet = (HERE / "desk.qss").read_text("utf-8")
    assert set(re.findall(r"@(\w+)", sheet)) <= set(Palette.__annotations__)
    for widget in ("QPushButton", "QToolButton", "QLineEdit", "QSlider", "QTableView", "QListWidget"):
        assert f"{widget}:focus" in sheet


def test_bundled_font_has_real_weights_and_tabular_figures(qtbot: QtBot) -> None:
    load_fonts()
    normal, bold = QFontMetrics(font(11)), QFontMetrics(font(11, bold=True))
    assert len({normal.horizontalAdvance(d * 8) for d in "0123456789"}) == 1
    assert bold.horizontalAdvance("Mervid") > normal.horizontalAdvance("Mervid")
    assert QFontInfo(font()).family() == FAMILY


def test_icons_are_drawn_in_the_ink_asked_for(qtbot: QtBot) -> None:
    for file in sorted((HERE / "icons").glob("*.svg")):
        image = icon(file.stem, "#ff0000").pixmap(20, 20).toImage()
        colours = {image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height())}
        assert "#ff0000" in colours, file.stem


def test_figures_are_said_in_one_way() -> None:
    assert [figures.clock(s) for s in (0, 59.4, 59.6, 3599.9, -3)] == ["0:00", "0:59", "1:00", "60:00", "0:00"]
    assert figures.clock(63.0456, digits=3) == "1:03.046"
    assert figures.clock(59.9996, digits=3) == "1:00.000"
    assert [figures.ms(v) for v in (None, 3.14159, 99.96, 1234.5)] == ["–", "3.1 ms", "100.0 ms", "1 234 ms"]
    assert [figures.share(v) for v in (0.0, 0.114, 0.994, 0.9989, 1.0)] == ["0 %", "11 %", "99 %", "99.9 %", "100 %"]
    assert figures.tempo(steady(tempo=134.994, first=0)) == "134.994"
    assert figures.tempo(Grid((Pin(0, 0), Pin(10, 20), Pin(20, 38)))) == "108.0–120.0"
    summary = Summary(1.0, 7.5, 2.0, 14.84, 1.0, None, 3.0)
    assert figures.achieves(summary) == "worst 14.8 ms, 100 %"
    assert figures.achieves(None) == ""
