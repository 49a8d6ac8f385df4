"""A trial and its table, which grows while a process of its own, here or elsewhere, writes it."""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QObject, QProcess, QTimer, pyqtSignal

from woven_locus.core.errors import WovenError
from woven_locus.trial.results import Results, read_results
from woven_locus.trial.spec import Spec, load
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.jobs.watching import PathWatch
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

# After the file was written before it is read, and between two looks while the trial runs.
SOON_MSEC, OFTEN_MSEC = 150, 700
# So long one waits for a process that was asked to stop before it is made to.
HEARS_MSEC = 2500
# A process that was asked to stop is waited for so long when the program ends.
PATIENCE_MSEC = 3000


class TrialKeeper(QObject):
    """path, table : the files.  spec, results : None until they were read.  problem : why not, or what the run said."""

    changed = pyqtSignal()

    def __init__(self, session: Session, path: Path) -> None:
        super().__init__(session)
        self._session = session
        self.path, self.table = path, path.with_suffix(".csv")
        self.spec: Spec | None = None
        self.results: Results | None = None
        self.problem = ""
        self._process: QProcess | None = None
        self._reading = self._stopped = self._over = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self.read)
        # A file that is watched tells of each line; a folder, of a file that is new.
        self._often = QTimer(self)
        self._often.setInterval(OFTEN_MSEC)
        self._often.timeout.connect(self.read)
        self._files = PathWatch(self)
        self._files.written.connect(self._written)
        self._watch()
        app = QCoreApplication.instance()
        assert app is not None
        app.aboutToQuit.connect(self._wait)

    @property
    def running(self) -> bool:
        """Whether it runs, begun from here."""
        return self._process is not None

    def _watch(self) -> None:
        self._files.hold(self.path, self.table)

    def _written(self) -> None:
        self._watch()
        if not self._soon.isActive():
            self._soon.start()

    def hold(self, table: Path) -> None:
        """Another table."""
        self.table = table
        self.results = None
        self._watch()
        self.read()

    def read(self) -> None:
        """Read both files, in a worker."""
        if self._reading:
            self._soon.start()
            return
        self._reading = True
        path, table = self.path, self.table

        def work(_control: Control) -> tuple[Spec, Results]:
            spec = load(path)
            return spec, read_results(spec, table)

        def done(found: tuple[Spec, Results]) -> None:
            self._reading = False
            if table != self.table:
                self.read()
                return
            fresh = found != (self.spec, self.results)
            self.spec, self.results = found
            if not self.running and self._from_reading:
                self.problem, self._from_reading, fresh = "", False, True
            if fresh:
                self.changed.emit()

        def failed(error: WovenError) -> None:
            self._reading, self._from_reading = False, True
            self.problem, self.results = tr(error), None
            self.changed.emit()

        def stopped() -> None:
            self._reading = False

        self._session.jobs.start(tr("Reading {path}", path=path.name), work, done, failed, stopped)

    _from_reading = False

    def run(self) -> None:
        """Do the runs that are missing, in a process of their own."""
        if self.running:
            return
        self.problem, self._stopped = "", False
        process = self._process = QProcess(self)
        # Methods, not functions: these are not called once the keeper is gone.
        process.finished.connect(self._finished)
        process.errorOccurred.connect(self._failed)
        words = ["-m", "woven_locus", "trial", str(self.path), "--out", str(self.table)]
        process.start(sys.executable, words)
        self._often.start()
        self.changed.emit()

    def stop(self) -> None:
        """What was under way is lost, and done again by the next run."""
        process, self._stopped = self._process, True
        if process is None or not process.processId():
            return
        os.kill(process.processId(), signal.SIGINT)
        # Whoever was begun in the background of a shell does not hear of that. What is on disk stays, however it ends.
        for after, end in ((HEARS_MSEC, process.terminate), (2 * HEARS_MSEC, process.kill)):
            QTimer.singleShot(after, partial(self._end_if_it_runs, process, end))

    def _end_if_it_runs(self, process: QProcess, end: Callable[[], object]) -> None:
        if process is self._process:
            end()

    def _finished(self, code: int, _how: QProcess.ExitStatus) -> None:
        self._ended(code)

    def _failed(self, _error: QProcess.ProcessError) -> None:
        self._ended(2)

    def _ended(self, code: int) -> None:
        process, self._process = self._process, None
        if process is None:
            return
        self._often.stop()
        said = bytes(process.readAllStandardError().data()).decode("utf-8", "replace").strip()
        # 1 is a run that failed, which is a row that says so.
        if code not in (0, 1) and not self._stopped:
            self.problem = said.splitlines()[-1] if said else tr("The trial could not be run")
        process.deleteLater()
        if not self._over:
            self._written()
            self.changed.emit()

    def _wait(self) -> None:
        """The program ends."""
        self.stop()
        if self._process is not None:
            self._process.waitForFinished(PATIENCE_MSEC)

    def end(self) -> None:
        """Nobody looks any more. What runs is stopped, and ends when it likes."""
        self._over = True
        self.stop()
        self._soon.stop()
        self._often.stop()
        self._files.hold()
