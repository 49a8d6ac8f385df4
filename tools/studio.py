"""The window in which pictures of the documentation are taken."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtWidgets import QApplication

from woven_locus.core.geometry import Cell, Point
from woven_locus.demo import NAMES, open_demo
from woven_locus.document import Document
from woven_locus.ui.parts.charts import Chart
from woven_locus.ui.theme import Theme
from woven_locus.ui.window import Window

SIZE = (1280, 800)


class Studio:
    """A fresh window for each picture."""

    def __init__(self, app: QApplication, theme: Theme) -> None:
        self.app, self.theme = app, theme

    def window(self, dark: bool = False, demo: str = NAMES[0]) -> Window:
        self.theme.choose("dark" if dark else "light")
        window = Window(Document(open_demo(demo)), self.theme)
        window.sheet.patient = True
        window.resize(*SIZE)
        window.show()
        self.settle()
        return window

    def rest(self, done: Callable[[], bool]) -> None:
        """Until something is there. Raises TimeoutError: a picture without it would be wrong."""
        until = time.monotonic() + 300
        while not done():
            if time.monotonic() > until:
                raise TimeoutError("what the picture is to show did not come")
            self.settle()
        self.settle()

    def settle(self) -> None:
        """Until all is drawn and no question is open: what is checked in a worker is to be seen."""
        until = time.monotonic() + 20
        for _ in range(8):
            self.app.processEvents()
        while self._at_work() and time.monotonic() < until:
            self.app.processEvents()
        self.app.processEvents()

    def _at_work(self) -> bool:
        windows = [each for each in self.app.topLevelWidgets() if isinstance(each, Window)]
        return any(
            each.isVisible() and (each.session.jobs.running or not each.desk.proof.current)
            for each in windows
        )


def point(window: Window, cell: Cell, right: float = 0.5, down: float = 0.5) -> None:
    spec = window.session.plan.spec
    low = spec.corner(cell)
    window.session.pointer.to(Point(low.x + right * spec.cell_w, low.y + down * spec.cell_h))


def zoom_to(window: Window, cell: Cell, size: int) -> None:
    camera = window.sheet.camera
    while camera.scale.pw < size:
        camera.zoom(1, 0, 0)
    camera.centre_on(cell)


def charted(studio: Studio, chart: Chart) -> None:
    """Wait for a chart, whose package is brought in when it is first wanted."""
    studio.rest(lambda: chart.plot is not None)
