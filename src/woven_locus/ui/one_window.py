"""One window a plan: who opens a plan that another window has open brings that one up.

Each window with a plan's file listens on a local socket whose name follows from the file. Whoever would open the same file
asks there first.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtNetwork import QLocalServer, QLocalSocket

from woven_locus.ui.session.session import Session

# An answer of another window on this machine, milliseconds: it may be busy with a long step just then.
PATIENCE_MSEC = 2000
_UP = b"up\n"


def _name(path: Path) -> str:
    """Of the socket: the same for every name of a file, another for every user."""
    known = f"{os.getuid()}:{os.path.realpath(path)}".encode("utf-8", "surrogateescape")
    return f"woven-locus-{hashlib.sha256(known).hexdigest()[:24]}"


def raised_elsewhere(path: Path) -> bool:
    """Whether a window of another process has this plan open; it was asked to come up."""
    socket = QLocalSocket()
    socket.connectToServer(_name(path))
    if not socket.waitForConnected(PATIENCE_MSEC):
        return False
    socket.write(_UP)
    socket.waitForBytesWritten(PATIENCE_MSEC)
    # A process that hangs does not answer, and its plan may be opened.
    found = socket.waitForReadyRead(PATIENCE_MSEC) and bytes(socket.readAll().data()) == _UP
    socket.close()
    return found


class OneWindow(QObject):
    """Listens for the plan that is open."""

    def __init__(self, session: Session, come_up: Callable[[], object]) -> None:
        super().__init__(session)
        self._session, self._come_up = session, come_up
        self._server: QLocalServer | None = None
        self._path: Path | None = None
        session.replaced.connect(self._follow)
        session.saved.connect(self._follow)
        self._follow()

    def _follow(self) -> None:
        path = self._session.document.path
        if path == self._path:
            return
        self.end()
        self._path = path
        if path is None:
            return
        server = QLocalServer(self)
        server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        server.newConnection.connect(self._asked)
        if not server.listen(_name(path)):
            # Of a process that was killed, unless somebody answers there.
            probe = QLocalSocket()
            probe.connectToServer(_name(path))
            if probe.waitForConnected(PATIENCE_MSEC):
                return
            QLocalServer.removeServer(_name(path))
            server.listen(_name(path))
        self._server = server

    def _asked(self) -> None:
        socket = self._server.nextPendingConnection() if self._server is not None else None
        if socket is None:
            return
        socket.disconnected.connect(socket.deleteLater)

        def read() -> None:
            if _UP in bytes(socket.readAll().data()):
                socket.write(_UP)
                socket.flush()
                self._come_up()

        socket.readyRead.connect(read)
        if socket.bytesAvailable():
            read()

    def end(self) -> None:
        """Nobody is asked for any more."""
        if self._server is not None:
            self._server.close()
            self._server.deleteLater()
        self._server = self._path = None
