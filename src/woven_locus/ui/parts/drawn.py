"""A part that draws itself, and is an image to a screen reader."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLabel, QWidget


class Drawn(QLabel):
    """Base of what paints all that it shows.

    A bare widget is a *filler* in the tree that screen readers go by, and PyQt has no way to say otherwise; a label that
    holds a picture is an *image*. There is nothing to see of that picture.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        nothing = QPixmap(1, 1)
        nothing.fill(Qt.GlobalColor.transparent)
        self.setPixmap(nothing)

    def sizeHint(self) -> QSize:
        # Not the picture's.
        return QWidget.sizeHint(self)

    def minimumSizeHint(self) -> QSize:
        return QWidget.minimumSizeHint(self)
