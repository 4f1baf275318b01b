"""A recording that another program asks Mervid to open: looked at, and shown to the person before it is added."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtWidgets import QMessageBox, QWidget

from ...core.errors import AudioError
from ...core.sound import decoding
from ...core.sound.names import shown
from ..session.session import Session
from ..theme.tr import tr
from ..widgets.file_dialogs import dropped_paths

_HERE = ("", "localhost")


def recording_of(uri: str) -> Path:
    """The recording on this machine that a URI names.

    Raises
    ------
    AudioError
        It names no file here, or none that begins as a recording does; the text says which.
    """
    url = QUrl(uri, QUrl.ParsingMode.StrictMode)
    if url.scheme() != "file" or url.host() not in _HERE or "%00" in uri or "\0" in uri:
        raise AudioError("Another program asked for something that is no file on this machine.")
    (path,) = dropped_paths([url]) or (None,)
    if path is None or not path.is_absolute():
        raise AudioError("Another program asked for something that is no file on this machine.")
    if not decoding.begins_as_sound(path):
        raise AudioError(f"{shown(path)} is not a recording that Mervid can read.")
    return path


class Offered:
    """Asks the person about one file at a time; what comes while a question stands is refused."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        self._session, self._parent = session, parent
        self.question: QMessageBox | None = None

    def take(self, uri: str) -> None:
        """Show what is asked for, and add it where the person says so."""
        try:
            path = recording_of(uri)
        except AudioError as e:
            self._session.say.refused(str(e))
            return
        if self.question is not None:
            self._session.say.refused(tr("Another program asks for one file after the other: answer the first."))
            return
        box = QMessageBox(self._parent)
        box.setWindowTitle(tr("Add a recording?"))
        box.setText(tr("Another program asks Mervid to add {0}.").format(shown(path)))
        # the whole place: a name alone may pretend
        box.setInformativeText("/".join(shown(part) for part in path.parts).replace("//", "/", 1))
        add = box.addButton(tr("Add it"), QMessageBox.ButtonRole.AcceptRole)
        box.addButton(tr("Don't add it"), QMessageBox.ButtonRole.RejectRole)
        box.setModal(False)
        self.question = box

        def answered() -> None:
            self.question = None
            if box.clickedButton() is add:
                self._session.queue.add_files([path])
            box.deleteLater()

        box.finished.connect(lambda _: answered())
        box.show()
