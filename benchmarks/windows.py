"""The real window, offscreen in software, for benches: everything that a user has on, and nothing of a user's."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path
from typing import Any


def prepare() -> Path:
    """No user's settings or journals: neither read nor written. Call it before Qt is imported."""
    folder = tempfile.mkdtemp(prefix="woven-locus-bench-")
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = folder
    return Path(folder)


def open_window(plan: Any) -> tuple[Any, Any]:
    """(application, window) on a plan, with its journal kept and all that opening a file works out."""
    folder = prepare()
    from woven_locus import kernel_cache
    from woven_locus.document import Document
    from woven_locus.ui.start import make_app
    from woven_locus.ui.theme import Theme
    from woven_locus.ui.window import Window

    kernel_cache.install()
    app = make_app([])
    document = Document(plan)
    document.links()
    document.unsound()
    window = Window(document, Theme(app))
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    document.keep_journal(folder)
    return app, window


def look_around(app: Any, window: Any) -> None:
    """Every stage has been looked at, as after a while of work: their pages and tabs are there, and follow the plan."""
    from woven_locus.ui.session.stages import Stage

    for stage in Stage:
        window.session.set_stage(stage)
        rest(app, 0.2)


def rest(app: Any, seconds: float) -> None:
    """What is made ready in idle moments is, as it would be for a user."""
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        app.processEvents()


def blit(app: Any, width: int = 1280, height: int = 800, count: int = 60) -> list[float]:
    """Seconds of each frame of a bare widget that draws one ready image of its size: the least that a frame
    of that size can take here."""
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtWidgets import QWidget

    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(0x335577)

    class Bare(QWidget):
        def paintEvent(self, _event: Any) -> None:
            painter = QPainter(self)
            painter.drawImage(0, 0, image)
            painter.end()

    bare = Bare()
    bare.resize(width, height)
    bare.show()
    app.processEvents()
    times = []
    for _ in range(count):
        start = time.perf_counter()
        bare.update()
        app.processEvents()
        times.append(time.perf_counter() - start)
    bare.close()
    bare.deleteLater()
    app.processEvents()
    return times[5:]
