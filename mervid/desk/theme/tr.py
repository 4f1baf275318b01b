"""Texts in a person's language: every word of the window goes through one function.

`packaging/texts.py` gathers what is given to it, and Qt's own tool makes the file for translators of that.
"""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QLocale, QTranslator

CONTEXT = "Mervid"
FOLDER = Path(__file__).resolve().parents[2] / "translations"


def tr(text: str) -> str:
    """The text in the language in force; itself where there is no translation.

    What stands in braces is filled in afterwards: `tr("{0} of {1} tracks").format(done, of)`.

    >>> tr("Nothing here is translated")
    'Nothing here is translated'
    """
    return QCoreApplication.translate(CONTEXT, text) if text else ""


def marked(text: str) -> str:
    """The text itself, which is translated where it is shown: for constants, which are made before any language is."""
    return text


def load(app: QCoreApplication) -> QTranslator | None:
    """Use the desktop's language, where a translation of it ships."""
    translator = QTranslator(app)
    if translator.load(QLocale(), "mervid", "_", str(FOLDER)):
        app.installTranslator(translator)
        return translator
    return None
