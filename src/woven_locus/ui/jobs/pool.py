"""Work off the interface's thread, of two sorts: *questions*, which Stop ends and whose answer is then
dropped, and *acts*, which have an effect outside (a file, the journal) and whose end always arrives."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any, TypeVar

from PyQt6 import sip
from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from woven_locus.core.errors import WovenError

# Plans up to this many cells are worked on within a frame; larger ones in a job.
AT_ONCE = 256 * 256
# Less than that says nothing about how long the rest takes.
_LEAST_SHARE, _LEAST_SECONDS = 0.02, 1.0

Answer = TypeVar("Answer")


class Control:
    """Handed to the work: calling it says whether to stop. share : how much is done, 0 to 1, if told."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self.share = 0.0

    def __call__(self) -> bool:
        return self._stop.is_set()

    def stop(self) -> None:
        self._stop.set()

    def tell(self, share: float) -> None:
        """So much of the work is done."""
        self.share = share


class _Signals(QObject):
    done = pyqtSignal(object)
    failed = pyqtSignal(object)
    ended = pyqtSignal()


class Job(QRunnable):
    """One piece of work. acts : it has an effect, so that it is not stopped and its end arrives."""

    def __init__(self, label: str, function: Callable[[Control], Any], acts: bool = False) -> None:
        super().__init__()
        self.setAutoDelete(False)
        self.label, self.acts = label, acts
        self.signals = _Signals()
        self.control = Control()
        self._function = function
        self._began = time.monotonic()

    def stop(self) -> None:
        self.control.stop()

    @property
    def stopped(self) -> bool:
        return self.control()

    def seconds_left(self) -> float | None:
        """About how long it goes on, from how far it came in how long; None as long as that says little."""
        share, gone = self.control.share, time.monotonic() - self._began
        if share < _LEAST_SHARE or gone < _LEAST_SECONDS:
            return None
        return gone * (1.0 - min(share, 1.0)) / share

    def run(self) -> None:
        try:
            self.signals.done.emit(self._function(self.control))
        except Exception as error:  # noqa: BLE001 - handed to the caller, who tells kinds apart
            self.signals.failed.emit(error)
        finally:
            self.signals.ended.emit()


def nothing() -> None:
    """Called where there is nothing to do."""


def now(
    work: Callable[[], Answer],
    done: Callable[[Answer], object],
    failed: Callable[[WovenError], object],
) -> None:
    """Work that fits into a frame, here: then one of the two."""
    try:
        answer = work()
    except WovenError as err:
        failed(err)
    else:
        done(answer)


class Jobs(QObject):
    """The running jobs of a session."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self.running: list[Job] = []
        self._shut = False
        self._afterwards: list[Callable[[], object]] = []

    def start(
        self,
        label: str,
        function: Callable[[Control], Any],
        done: Callable[[Any], object],
        failed: Callable[[WovenError], object] | None = None,
        stopped: Callable[[], object] = nothing,
    ) -> Job:
        """Ask a question elsewhere: exactly one of the three is called here, `stopped` once the work has
        ended after Stop, or after an error that is a bug. After `shut` nothing is run any more."""
        return self._start(Job(label, function), done, failed, stopped)

    def act(
        self,
        label: str,
        function: Callable[[Control], Any],
        done: Callable[[Any], object],
        failed: Callable[[WovenError], object],
    ) -> Job:
        """Do something elsewhere that has an effect. One of the two is called here, whatever happens; only
        when the program ends is it asked to stop waiting."""
        return self._start(Job(label, function, acts=True), done, failed, nothing)

    def _start(
        self,
        job: Job,
        done: Callable[[Any], object],
        failed: Callable[[WovenError], object] | None,
        stopped: Callable[[], object],
    ) -> Job:
        told = False

        def finish(answer: Any) -> None:
            nonlocal told
            if job.acts or not job.stopped:
                told = True
                done(answer)

        def fail(error: Exception) -> None:
            nonlocal told
            if job.stopped and not job.acts:
                return
            if failed is not None and isinstance(error, WovenError):
                told = True
                failed(error)
                return
            raise error  # a bug: for the hook that tells of them

        def end() -> None:
            if sip.isdeleted(self):
                return  # it came in after its window was gone
            self.running.remove(job)
            if not told and not self._shut:
                stopped()
            self.changed.emit()
            if not self.acting:
                waiting, self._afterwards = self._afterwards, []
                for go_on in waiting:
                    go_on()

        job.signals.done.connect(finish)
        job.signals.failed.connect(fail)
        job.signals.ended.connect(end)
        if self._shut:
            job.stop()
            return job
        self.running.append(job)
        self._pool.start(job)
        self.changed.emit()
        return job

    @property
    def acting(self) -> list[Job]:
        """The jobs that have an effect."""
        return [job for job in self.running if job.acts]

    def after_acting(self, go_on: Callable[[], object]) -> None:
        """Call `go_on` once no job that has an effect is running."""
        if self.acting:
            self._afterwards.append(go_on)
        else:
            go_on()

    def shut(self, msec: int) -> bool:
        """The window closes: stop what runs, begin nothing more, and wait. False when some have not
        ended; a worker that outlives the interpreter takes the process down with it."""
        self._shut = True
        for job in self.running:
            job.stop()
        return self.wait(msec)

    def stop_all(self) -> None:
        """Stop: every question. What has an effect goes on to its end."""
        for job in self.running:
            if not job.acts:
                job.stop()

    def wait(self, msec: int) -> bool:
        """Wait for all jobs to end; False when some have not."""
        return self._pool.waitForDone(msec)
