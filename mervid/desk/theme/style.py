"""Fonts, Qt palette, style sheet and icons, all from files that ship with the program."""

from __future__ import annotations

import logging
import re
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QIcon, QPainter, QPalette, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QApplication

from .palette import DAY, Palette

HERE = Path(__file__).parent
FAMILY = "IBM Plex Sans"
log = logging.getLogger(__name__)


def is_night(look: str) -> bool:
    """Whether it is night: as was chosen, or as the desktop is ('desktop')."""
    hints = QGuiApplication.styleHints()
    if look == "desktop":
        return hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
    return look == "night"


class Theme:
    """The palette in force; widgets that paint ask it at every paint."""

    palette: Palette = DAY


def load_fonts() -> None:
    """Register the bundled fonts; without them the system's sans serif stands in."""
    for f in sorted((HERE / "fonts").glob("*.woff2")):
        if QFontDatabase.addApplicationFont(str(f)) < 0:
            log.warning("The bundled font %s could not be loaded.", f.name)


def font(size: float = 10.0, *, bold: bool = False) -> QFont:
    """The interface font; its figures are tabular as they are."""
    f = QFont(FAMILY)
    f.setPointSizeF(size)
    f.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return f


def aligned(*, figures: bool = False) -> Qt.AlignmentFlag:
    """Where texts stand in a table: words at the left, figures at the right."""
    return (Qt.AlignmentFlag.AlignRight if figures else Qt.AlignmentFlag.AlignLeft) | Qt.AlignmentFlag.AlignVCenter


def icon(name: str, color: str, size: int = 20) -> QIcon:
    """An icon from `icons/NAME.svg`, drawn in one colour, sharp on any screen."""
    svg = (HERE / "icons" / f"{name}.svg").read_text("utf-8").replace("currentColor", color)
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    out = QIcon()
    for scale in (1, 2):
        pixmap = QPixmap(QSize(size * scale, size * scale))
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        renderer.render(painter, QRectF(0, 0, size * scale, size * scale))
        painter.end()
        pixmap.setDevicePixelRatio(scale)
        out.addPixmap(pixmap)
    return out


def apply(app: QApplication, palette: Palette) -> None:
    """Dress the whole application, unless it wears this already: dressing every widget anew takes a while."""
    sheet = (HERE / "desk.qss").read_text("utf-8")
    sheet = re.sub(r"@(\w+)", lambda m: getattr(palette, m[1]), sheet)
    if Theme.palette is palette and app.styleSheet() == sheet:
        return
    ground(app, palette)
    app.setStyleSheet(sheet)


def ground(app: QApplication, palette: Palette) -> None:
    """Style, letters and colours without the sheet: a window is built on it, for what wears a sheet already is dressed
    anew each time it is put into something."""
    Theme.palette = palette
    if app.styleSheet():
        app.setStyleSheet("")
    style = app.style()
    if style is None or style.objectName().lower() != "fusion":
        app.setStyle("Fusion")
    app.setFont(font(10))
    q = QPalette()
    roles = QPalette.ColorRole
    for role, color in {
        roles.Window: palette.paper,
        roles.Base: palette.raised,
        roles.AlternateBase: palette.panel,
        roles.Button: palette.raised,
        roles.WindowText: palette.ink,
        roles.Text: palette.ink,
        roles.ButtonText: palette.ink,
        roles.Highlight: palette.selected,
        roles.HighlightedText: palette.ink,
        roles.ToolTipBase: palette.raised,
        roles.ToolTipText: palette.ink,
        roles.PlaceholderText: palette.faint,
        roles.Link: palette.hand,
    }.items():
        q.setColor(role, QColor(color))
    app.setPalette(q)
