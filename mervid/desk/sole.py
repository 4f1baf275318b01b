"""One window on a library: a second one says so to the first, which comes to the front, or opens for reading only.

The first listens on a local socket named after the library; the lock is the operating system's own on a file beside it,
so that it goes when the program does, however it ends.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

from .. import places

WAIT_MS = 500


class Sole(QObject):
    """Holds the library's lock while the program runs; `called` with files that another start was given."""

    called = pyqtSignal(list)

    def __init__(self, library: Path) -> None:
        super().__init__()
        self._path = library.with_name(f"{library.name}.lock")
        self._name = "mervid-" + hashlib.sha256(os.fsencode(library.absolute())).hexdigest()[:24]
        self._file: int | None = None
        self._server: QLocalServer | None = None

    def take(self) -> bool:
        """Take the lock; False where another program has it. Where no lock can be written, nobody else can write."""
        try:
            places.make_private(self._path.parent)
            self._file = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError:
            return True
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(self._file)
            self._file = None
            return False
        os.ftruncate(self._file, 0)
        os.write(self._file, f"{os.getpid()}\n".encode())
        return True

    def listen(self) -> None:
        """Hear from other starts."""
        QLocalServer.removeServer(self._name)
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._hear)
        self._server.listen(self._name)

    def _hear(self) -> None:
        socket = self._server.nextPendingConnection() if self._server is not None else None
        if socket is None:
            return
        socket.readyRead.connect(lambda: self._take_files(socket))

    def _take_files(self, socket: QLocalSocket) -> None:
        try:
            names = json.loads(socket.readAll().data().decode())
            paths = [Path(os.fsdecode(bytes.fromhex(n))) for n in names]
        except (ValueError, TypeError):
            paths = []
        socket.write(b"heard")
        # now: the files may keep this program busy for longer than the caller waits
        socket.flush()
        socket.disconnectFromServer()
        self.called.emit(paths)

    def call(self, files: list[Path]) -> bool:
        """Ask the program that has the library to come to the front and to take these files. Whether it answered."""
        socket = QLocalSocket()
        socket.connectToServer(self._name)
        if not socket.waitForConnected(WAIT_MS):
            return False
        # file names are bytes
        socket.write(json.dumps([os.fsencode(f.absolute()).hex() for f in files]).encode())
        socket.flush()
        return bool(socket.waitForReadyRead(WAIT_MS) and socket.readAll().data() == b"heard")

    def close(self) -> None:
        """Let others have the library."""
        if self._server is not None:
            self._server.close()
        if self._file is not None:
            os.close(self._file)
            self._file = None
