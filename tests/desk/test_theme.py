"""The look: contrasts by the book, fonts and icons from the program's own files, figures as they are said."""

from __future__ import annotations

import re

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QFontInfo, QFontMetrics
from pytestqt.qtbot import QtBot

from mervid.core.fitting.drift import Summary
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.desk.theme import figures
from mervid.desk.theme.palette import DAY, NIGHT, ROLES, Palette, role_inks, tint
from mervid.desk.theme.style import FAMILY, HERE, font, icon, load_fonts


def contrast(a: str, b: str) -> float:
    """Contrast ratio as WCAG 2.2 defines it (relative luminance, success criterion 1.4.3)."""

    def luminance(color: str) -> float:
        parts = [c / 255 for c in QColor(color).getRgb()[:3]]
        r, g, b = (c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
        return 0.2126 * r + 0.7152 * g + 0.0722 * b

    hi, lo = sorted((luminance(a), luminance(b)), reverse=True)
    return (hi + 0.05) / (lo + 0.05)


@pytest.mark.parametrize("palette", [DAY, NIGHT], ids=lambda p: p.name)
def test_text_and_controls_can_be_read(palette: Palette) -> None:
    """WCAG 2.2 AA: text 4.5:1 (1.4.3), controls and inks that carry meaning 3:1 (1.4.11), on every ground."""
    grounds = (palette.paper, palette.panel, palette.raised, palette.selected)
    for ground in grounds:
        for ink in (palette.ink, palette.faint, palette.attention, palette.hand):
            assert contrast(ink, ground) >= 4.5, (ink, ground)
        assert contrast(palette.border, ground) >= 3, ground
    assert contrast(palette.on_hand, palette.hand) >= 4.5
    # checked buttons are paper on ink
    assert contrast(palette.paper, palette.ink) >= 4.5
    tints = [tint(palette, k).name() for k in range(8)]
    for ground in (*grounds, palette.zone, palette.band, *tints):
        for ink in (palette.percussive, palette.sustained, palette.coming, palette.hand, palette.attention):
            assert contrast(ink, ground) >= 3, (ink, ground)
        assert contrast(palette.ink, ground) >= 4.5 and contrast(palette.faint, ground) >= 4.5
    for role in ROLES:
        hue, ink = role_inks(palette, role)
        assert contrast(ink.name(), hue.name()) >= 4.5, role
        assert all(contrast(hue.name(), ground) >= 3 for ground in (palette.paper, palette.raised)), role


# Machado, Oliveira & Fernandes 2009, 'A Physiologically-based Model for Simulation of Color Vision Deficiency',
# IEEE TVCG 15(6), severity 1.0: linear RGB to linear RGB
SIMULATED = {
    "protanopia": ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998)),
    "deuteranopia": ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881)),
}


@pytest.mark.parametrize("kind", SIMULATED)
@pytest.mark.parametrize("palette", [DAY, NIGHT], ids=lambda p: p.name)
def test_inks_that_are_compared_stay_apart_for_colour_blind_eyes(palette: Palette, kind: str) -> None:
    """Two inks that a picture sets against each other differ, for these eyes, by more than is just noticed."""
    pairs = [
        (palette.percussive, palette.sustained), (palette.ink, palette.coming), (palette.hand, palette.attention),
        (palette.hand, palette.ink), (palette.attention, palette.ink),
    ]  # fmt: skip
    for one, other in pairs:
        a, b = (lab(_simulated(c, kind)) for c in (one, other))
        # CIE 1976 colour difference; about 2.3 is just noticeable (Mahy et al. 1994)
        assert float(np.linalg.norm(a - b)) > 15, (one, other)


def _linear(color: str) -> np.ndarray:
    c = np.array(QColor(color).getRgb()[:3]) / 255
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def _simulated(color: str, kind: str) -> np.ndarray:
    return np.clip(np.array(SIMULATED[kind]) @ _linear(color), 0, 1)


def lab(linear: np.ndarray) -> np.ndarray:
    """CIE L*a*b* of linear sRGB under D65 (IEC 61966-2-1, CIE 15)."""
    xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]) @ linear
    t = xyz / np.array([0.9505, 1.0, 1.089])
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


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
