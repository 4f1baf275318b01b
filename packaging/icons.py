"""The icon in the sizes that desktops want, drawn from the one picture: icons.py HICOLOR."""

from __future__ import annotations

import sys
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QGuiApplication, QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

SIZES = (16, 24, 32, 48, 64, 128, 256)


def main(folder: Path) -> None:
    """Draw them."""
    app = QGuiApplication([])
    renderer = QSvgRenderer(str(Path(__file__).with_name("mervid.svg")))
    for size in SIZES:
        image = QImage(size, size, QImage.Format.Format_ARGB32)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        renderer.render(painter, QRectF(0, 0, size, size))
        painter.end()
        target = folder / f"{size}x{size}" / "apps" / "mervid.png"
        target.parent.mkdir(parents=True, exist_ok=True)
        image.save(str(target))
    del app


if __name__ == "__main__":
    main(Path(sys.argv[1]))
