"""One window per library: a second start hands its files to the first, which comes to the front.

The first listens on a local socket named after the library. The lock is the operating system's own, on a file beside
the library, so that it goes when the program does, however it ends.

A message is `MAGIC`, the length of what follows (8 bytes, big-endian), and absolute file names separated by NUL: names
are bytes without NUL, so nothing has to be parsed. The answer is one line: 'taken 3', or 'refused' and why.
"""

from __future__ import annotations

import fcntl
import hashlib
import logging
import os
import socket as sockets
import struct
from pathlib import Path

from PyQt6.QtCore import QDir, QObject, QTimer, pyqtSignal
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

from .. import places
from ..core.errors import MervidError
from ..core.sound.names import is_name

log = logging.getLogger(__name__)

WAIT_MS = 500
ANSWER_MS = 10_000
"""How long a start waits for the answer to what it has handed over."""
MAGIC = b"mervid-1"
HEAD = struct.Struct(">8sQ")
LONGEST_MESSAGE = 64 << 20
"""Bytes. A hundred thousand names of common length are 10 MB."""
LONGEST_SOCKET = 100
"""Bytes of the name of a socket, a little below what unix(7) has room for."""


class NotTaken(MervidError):
    """The window that has the library did not take the files."""


def message_of(files: list[Path]) -> bytes:
    """The message that hands over files."""
    body = b"\0".join(os.fsencode(f.absolute()) for f in files)
    return HEAD.pack(MAGIC, len(body)) + body


class _Visitor(QObject):
    """A connection to a second start: reads one message, whole, and answers it."""

    taken = pyqtSignal(list)

    def __init__(self, socket: QLocalSocket, parent: QObject) -> None:
        super().__init__(parent)
        self._socket, self._data, self._length, self._done = socket, bytearray(), -1, False
        socket.setParent(self)
        # what comes in is read by us in pieces: Qt keeps no more of it than this
        socket.setReadBufferSize(1 << 20)
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(ANSWER_MS)
        self._patience.timeout.connect(lambda: self._refuse("only half a message came"))
        self._patience.start()
        socket.disconnected.connect(self.deleteLater)

    def begin(self) -> None:
        """Read what is there already, and what comes."""
        if not _is_own_user(self._socket):
            self._refuse("another user may not hand over files")
            return
        self._socket.readyRead.connect(self._read)
        self._read()

    def _read(self) -> None:
        more = self._socket.readAll().data()
        if self._done:
            # it was answered: whatever else comes is dropped
            return
        self._data += more
        if self._length < 0 and len(self._data) >= HEAD.size:
            magic, length = HEAD.unpack_from(self._data)
            if magic != MAGIC:
                self._refuse("this is not a message of Mervid")
                return
            if length > LONGEST_MESSAGE:
                self._refuse("the message is too long")
                return
            del self._data[: HEAD.size]
            self._length = length
        if self._length < 0:
            if not MAGIC.startswith(bytes(self._data[: len(MAGIC)])):
                self._refuse("this is not a message of Mervid")
            return
        if len(self._data) > self._length:
            self._refuse("the message is longer than it says")
        elif len(self._data) == self._length:
            names = bytes(self._data).split(b"\0") if self._data else []
            paths = [Path(os.fsdecode(n)) for n in names if is_name(n)]
            if len(paths) < len(names):
                self._refuse(f"{len(names) - len(paths)} of {len(names)} names can't be names of files")
                return
            self._answer(f"taken {len(paths)}\n")
            self.taken.emit(paths)

    def _refuse(self, why: str) -> None:
        log.warning("A start that called was refused: %s.", why)
        self._answer(f"refused {why}\n")

    def _answer(self, line: str) -> None:
        self._patience.stop()
        self._data.clear()
        self._done = True
        self._socket.write(line.encode())
        # now: the files may keep this program busy for longer than the caller waits
        self._socket.flush()
        self._socket.disconnectFromServer()


def _is_own_user(socket: QLocalSocket) -> bool:
    """Whether the other end of a socket runs as this user (SO_PEERCRED, unix(7))."""
    try:
        with sockets.socket(fileno=os.dup(int(socket.socketDescriptor()))) as end:
            credentials = end.getsockopt(sockets.SOL_SOCKET, sockets.SO_PEERCRED, struct.calcsize("3i"))
    except OSError:
        return False
    return bool(struct.unpack("3i", credentials)[1] == os.geteuid())


class Sole(QObject):
    """Holds the library's lock while the program runs; `called` with files that another start was given."""

    called = pyqtSignal(list)

    def __init__(self, library: Path) -> None:
        super().__init__()
        self._path = library.with_name(f"{library.name}.lock")
        self.name = "mervid-" + hashlib.sha256(os.fsencode(library.absolute())).hexdigest()[:24]
        if len(os.fsencode(QDir.tempPath())) + len(self.name) > LONGEST_SOCKET:
            # the system takes no longer name for a socket, however deep the temporary folder lies
            self.name = f"/tmp/{self.name}"
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
        QLocalServer.removeServer(self.name)
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._hear)
        self._server.listen(self.name)

    def _hear(self) -> None:
        while self._server is not None and (socket := self._server.nextPendingConnection()) is not None:
            visitor = _Visitor(socket, self)
            visitor.taken.connect(self.called)
            visitor.begin()

    def call(self, files: list[Path]) -> int | None:
        """Ask the program that has the library to come to the front and to take these files.

        How many it took; None where it doesn't answer at all.

        Raises
        ------
        NotTaken
            It answered and refused, or did not answer to the end.
        """
        socket = QLocalSocket()
        socket.connectToServer(self.name)
        if not socket.waitForConnected(WAIT_MS):
            return None
        socket.write(message_of(files))
        while socket.bytesToWrite() and socket.waitForBytesWritten(ANSWER_MS):
            pass
        answer = b""
        while b"\n" not in answer and (socket.bytesAvailable() or socket.waitForReadyRead(ANSWER_MS)):
            answer += socket.readAll().data()
        word, _, rest = answer.decode("utf-8", "replace").strip().partition(" ")
        if word == "taken" and rest == str(len(files)):
            return len(files)
        if not answer and not files:
            return None
        why = rest if word == "refused" else "it did not answer"
        raise NotTaken(f"The open window of your library did not take the files: {why}. Try again, or open them there.")

    def close(self) -> None:
        """Let others have the library."""
        if self._server is not None:
            self._server.close()
        if self._file is not None:
            os.close(self._file)
            self._file = None
