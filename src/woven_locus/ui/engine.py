"""Brings in the compiled search without ever holding the window: from the cache in a thread, or, on
a cold cache, after a process of its own has filled it."""

from __future__ import annotations

import subprocess

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from woven_locus import kernel_cache
from woven_locus.core import kernels
from woven_locus.ui.collector import bringing_in, set_aside
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

_POLL_MSEC = 250


class Engine(QObject):
    """Until it is ready, routes are found by the plain search."""

    told = pyqtSignal(str)  # what is going on, or nothing

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._process: subprocess.Popen[bytes] | None = None
        self._stopped = False
        self._poll = QTimer(self)
        self._poll.setInterval(_POLL_MSEC)
        self._poll.timeout.connect(self._look)

    def start(self) -> None:
        if self._stopped or kernels.compiled_ready():
            return
        if kernel_cache.is_filled():
            self._load()
            return
        self._process = kernel_cache.fill_in_process()
        self._tell()
        self._poll.start()

    def _tell(self) -> None:
        done, count = len(kernel_cache.filled()), len(kernels.GROUPS)
        self.told.emit(
            tr("Compiling fast kernels, once: {done} of {count}", done=done, count=count)
        )

    def _look(self) -> None:
        assert self._process is not None
        if self._process.poll() is None:
            self._tell()
            return
        self._poll.stop()
        self.told.emit("")
        if kernel_cache.is_filled():
            self._load()
        # Otherwise the plain search stays: slower on large plans, the same answers.

    def _load(self) -> None:
        def install(stopped: Control) -> None:
            for group in kernels.GROUPS:
                if stopped():
                    return
                with bringing_in:
                    kernel_cache.install((group,))

        self._session.jobs.start(
            tr("Loading the fast search"), install, lambda _nothing: set_aside()
        )

    def stop(self) -> None:
        self._stopped = True
        self._poll.stop()
        if self._process is not None and self._process.poll() is None:
            self._process.terminate()
            self._process.wait(2)
