"""Work off the interface's thread: progress, a stop flag, and answers that may be out of date."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

# Plans up to this many cells are worked on within a frame; larger ones in a job.
AT_ONCE = 256 * 256


class _Signals(QObject):
    done = pyqtSignal(object)
    failed = pyqtSignal(object)
    ended = pyqtSignal()


class Job(QRunnable):
    """One piece of work. `function` gets `stopped`, to be asked now and then."""

    def __init__(self, label: str, function: Callable[[Callable[[], bool]], Any]) -> None:
        super().__init__()
        self.setAutoDelete(False)
        self.label = label
        self.signals = _Signals()
        self._function = function
        self._stop = threading.Event()

    def stop(self) -> None:
        self._stop.set()

    @property
    def stopped(self) -> bool:
        return self._stop.is_set()

    def run(self) -> None:
        try:
            self.signals.done.emit(self._function(self._stop.is_set))
        except Exception as error:  # noqa: BLE001 - handed to the caller, who tells kinds apart
            self.signals.failed.emit(error)
        finally:
            self.signals.ended.emit()


class Jobs(QObject):
    """The running jobs of a session. A stopped job's answer is dropped."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self.running: list[Job] = []
        self._shut = False

    def start(
        self,
        label: str,
        function: Callable[[Callable[[], bool]], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None] | None = None,
        stopped: Callable[[], None] | None = None,
    ) -> Job:
        """Run `function` elsewhere; `done` or `failed` is called here, or, once it has ended after it was
        stopped, `stopped`. After `shut` nothing is run any more."""
        job = Job(label, function)

        def finish(answer: Any) -> None:
            if not job.stopped:
                done(answer)

        def fail(error: Exception) -> None:
            if job.stopped:
                return
            if failed is None:
                raise error
            failed(error)

        def end() -> None:
            if sip.isdeleted(self):
                return  # it came in after its window was gone
            self.running.remove(job)
            if job.stopped and stopped is not None and not self._shut:
                stopped()
            self.changed.emit()

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

    def shut(self, msec: int) -> bool:
        """The window closes: stop what runs, begin nothing more, and wait. False when some have not
        ended; a worker that outlives the interpreter takes the process down with it."""
        self._shut = True
        self.stop_all()
        return self.wait(msec)

    def stop_all(self) -> None:
        for job in self.running:
            job.stop()

    def wait(self, msec: int) -> bool:
        """Wait for all jobs to end; False when some have not."""
        return self._pool.waitForDone(msec)
