"""Keeps the garbage collector out of frames, and off other threads.

A full collection walks over every object that is there: with a large plan and all imports that takes as
long as several frames, and it comes when it likes. So what is there to stay is walked over once, at a
quiet moment, and then set aside; later collections only see what has come since.

Python collects on whichever thread makes the next object. There a dialog that was closed, say, would be
destroyed while the interface's thread is at work in Qt, which ends in a crash. So Python's own collecting
is off as long as a window is open, and a timer of the interface does it.
"""

from __future__ import annotations

import gc
import threading

from PyQt6.QtCore import QObject, QTimer

from woven_locus.ui.session.session import Session

# After the window, or another plan, has been drawn.
QUIET_MSEC = 250
# How often it is looked whether enough has come together to collect.
_OFTEN_MSEC = 100
# After this it begins, drawn or not.
_LONGEST_START_MSEC = 10_000


# Held by whoever brings in a large package: two threads that look for the same optional package, which is not
# there, can trip over each other within Python's own import.
bringing_in = threading.Lock()


def set_aside() -> None:
    """What has just been brought in (a package, say) is there to stay."""
    gc.freeze()


def collect_due() -> None:
    """Collect as Python would by itself: the oldest generation for which enough has come together."""
    for generation in (2, 1, 0):
        if gc.get_count()[generation] > gc.get_threshold()[generation]:
            gc.collect(generation)
            return


class Collector(QObject):
    """Looks at everything once after the window opened, and once after another plan did; collects what has come since
    now and then."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        gc.disable()
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(QUIET_MSEC)
        self._quiet.timeout.connect(self._look)
        self._often = QTimer(self)
        self._often.setInterval(_OFTEN_MSEC)
        self._often.timeout.connect(collect_due)
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.timeout.connect(self.start)
        self._late.start(_LONGEST_START_MSEC)
        session.replaced.connect(self._quiet.start)

    @property
    def at_work(self) -> bool:
        """Whether it collects: from a quiet moment after the window has been drawn."""
        return self._often.isActive()

    def start(self) -> None:
        """The window has been drawn."""
        self._late.stop()
        self._quiet.start()

    def stop(self) -> None:
        """The window was closed, and no work of its goes on."""
        for timer in (self._late, self._quiet, self._often):
            timer.stop()
        gc.enable()

    def _look(self) -> None:
        # What was set aside before is looked at again: a plan that was closed must not stay.
        gc.unfreeze()
        gc.collect()
        gc.freeze()
        # Not before: what the start left behind is much, and looked at here.
        self._often.start()
