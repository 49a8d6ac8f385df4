"""Builds what a first look at a stage needs, while nobody does anything: built by that look, it would hold it up for
several frames."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication

from woven_locus.ui.bench.bench import Bench
from woven_locus.ui.desk import Desk
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.view import Sheet
from woven_locus.ui.tray.tray import Tray

# Between two looks whether anything happens; after so many at which nothing did, one piece is built a look.
LOOK_MSEC = 120
QUIET_LOOKS = 4


class Ahead(QTimer):
    """A piece at a time, each as long as a few frames: the page of a stage, a picture on it, its tab in the tray. Whatever is
    wanted before is built by whoever wants it, as without this."""

    def __init__(self, desk: Desk, bench: Bench, sheet: Sheet, tray: Tray) -> None:
        super().__init__(bench)
        self._desk, self._sheet = desk, sheet
        # Each says whether there is more of it.
        self._pieces: list[Callable[[], bool]] = []
        for stage in Stage:
            self._pieces += partial(bench.prepare, stage), partial(tray.prepare, stage)
        self._seen: object = None
        self._quiet = 0
        self.setInterval(LOOK_MSEC)
        self.timeout.connect(self._look)

    def _now(self) -> object:
        """What is another whenever something happens; None while something goes on."""
        desk, session, camera = self._desk, self._desk.session, self._sheet.camera
        document = session.document
        if (
            session.jobs.running
            or document.history.in_gesture
            or desk.traffic.running
            or desk.waves.running
            or QApplication.mouseButtons() != Qt.MouseButton.NoButton
            or QApplication.activePopupWidget() is not None
        ):
            return None
        at, focus = QCursor.pos(), QApplication.focusWidget()
        stage, selected = session.choices.stage, session.selection.numbers
        return (
            *(at.x(), at.y(), focus, stage, selected),
            *(document, document.revision, camera.left, camera.top, camera.step),
        )

    def _look(self) -> None:
        now = self._now()
        if now is None or now != self._seen:
            self._seen, self._quiet = now, 0
            return
        self._quiet += 1
        if self._quiet < QUIET_LOOKS:
            return
        # Taken out first: one that fails is not tried again.
        piece = self._pieces.pop(0)
        if piece():
            self._pieces.insert(0, piece)
        if not self._pieces:
            self.stop()
