"""Keeps the garbage collector out of frames.

A full collection walks over every object that is there: with a large plan and all imports that takes as
long as several frames, and it comes when it likes. So what is there to stay is walked over once, at a
quiet moment, and then set aside; later collections only see what has come since.
"""

from __future__ import annotations

import gc
import threading

from PyQt6.QtCore import QObject, QTimer

from woven_locus.ui.session.session import Session

# After the window, or another plan, has been drawn.
QUIET_MSEC = 250


# Held by a worker that brings in a large package: two threads that look for the same optional package, which
# is not there, can trip over each other within Python's own import.
bringing_in = threading.Lock()


def set_aside() -> None:
    """What has just been brought in (a package, say) is there to stay."""
    gc.freeze()


class Collector(QObject):
    """Looks at everything once after the window opened, and once after another plan did."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(QUIET_MSEC)
        self._quiet.timeout.connect(self._look)
        session.replaced.connect(self._quiet.start)

    def start(self) -> None:
        """The window has been drawn."""
        self._quiet.start()

    def _look(self) -> None:
        # What was set aside before is looked at again: a plan that was closed must not stay.
        gc.unfreeze()
        gc.collect()
        gc.freeze()
        # It was off while the window was built; see `start.open_window`.
        gc.enable()
