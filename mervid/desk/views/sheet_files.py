"""The prep sheet as PDF: vectors, with the fonts inside."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter

from ...core.delivery.sheet import A4, Sheet
from ...formats import safe_file
from .prep_sheet import Setting, SheetPainter

DOTS = 720
"""Points of the writer an inch: ten for each point of paper."""


def write_pdf(path: Path, sheet: Sheet, setting: Setting) -> int:
    """Write a sheet; how many pages it has.

    Raises
    ------
    FormatError
        Something stands there that is no PDF of ours.
    OSError
        It can't be written.
    """
    held = QByteArray()
    device = QBuffer(held)
    device.open(QIODevice.OpenModeFlag.WriteOnly)
    pages = _draw(device, sheet, setting)
    device.close()
    data = held.data()
    safe_file.write(path, lambda f: f.write(data), kind=safe_file.PDF)
    return pages


def _draw(device: QIODevice, sheet: Sheet, setting: Setting) -> int:
    size = QPageSize.PageSizeId.A4 if setting.paper == A4 else QPageSize.PageSizeId.Letter
    writer = QPdfWriter(device)
    writer.setPageLayout(QPageLayout(QPageSize(size), QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    writer.setResolution(DOTS)
    writer.setTitle(sheet.title)
    writer.setCreator(safe_file.PDF_MARK.decode())
    painter = QPainter(writer)
    try:
        painter.scale(DOTS / 72, DOTS / 72)
        draws = SheetPainter(sheet, setting)
        for k in range(setting.pages(sheet)):
            if k:
                writer.newPage()
            draws.page(painter, k)
    finally:
        painter.end()
    return setting.pages(sheet)
