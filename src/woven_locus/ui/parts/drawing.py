"""Drawing many things at once, and painting from which nothing gets out: no painter is left open, and an
error is told once while the picture goes on without what failed."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPaintDevice, QPainter, QPolygonF

from woven_locus.ui.language import tr

# What failed already: it is told once, not with every frame.
_told: set[str] = set()


def forget_told() -> None:
    """Tell of everything again. For tests."""
    _told.clear()


@contextmanager
def painting(device: QPaintDevice, name: str = "") -> Iterator[QPainter]:
    """A painter that is closed whatever happens. An error inside ends the picture and is told once: Qt ends
    the process when one leaves a paint event with its painter open.  name : by default its class's."""
    painter = QPainter(device)
    # By what it says: figures stay in order in a window that is laid out right to left.
    painter.setLayoutDirection(Qt.LayoutDirection.LayoutDirectionAuto)
    try:
        with guarded(name or type(device).__name__):
            yield painter
    finally:
        if painter.isActive():
            painter.end()


@contextmanager
def guarded(name: str) -> Iterator[None]:
    """An error in painting one thing leaves that out, and is told once."""
    try:
        yield
    except Exception as error:  # noqa: BLE001 - told by whoever tells of bugs
        _tell(name, error)


def _tell(name: str, error: Exception) -> None:
    if name not in _told:
        _told.add(name)
        error.add_note(tr("{name} could not be drawn and is left out", name=name))
        # Not from within a paint event, in which no message can come up.
        QTimer.singleShot(0, lambda: sys.excepthook(type(error), error, error.__traceback__))


def apart(painter: QPainter, name: str, draw: Callable[[], object]) -> None:
    """Draw one thing with the painter's state its own: what fails leaves the next one as it was."""
    painter.save()
    try:
        with guarded(name):
            draw()
    finally:
        painter.restore()


def lines(painter: QPainter, them: Sequence[QLineF]) -> None:
    painter.drawLines(them)  # type: ignore[call-overload] # a list is taken, the stubs do not say so


def rects(painter: QPainter, them: Sequence[QRectF]) -> None:
    painter.drawRects(them)  # type: ignore[call-overload] # as with lines


def polygon(painter: QPainter, points: Sequence[QPointF]) -> None:
    painter.drawPolygon(QPolygonF(points))


def polyline(painter: QPainter, points: Sequence[QPointF]) -> None:
    painter.drawPolyline(QPolygonF(points))
