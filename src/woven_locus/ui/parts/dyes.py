"""Choosing a dye: the colour of a kind, or of a class."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QColorDialog, QPushButton, QWidget

from woven_locus.ui.language import tr
from woven_locus.ui.theme import em

# For what is made new, so that it is told apart from what is there.
_FRESH = ("#2F4B7C", "#A5383F", "#C99A1E", "#5B86A8", "#5C4636", "#7C8A5A", "#8A6A93")


def fresh_dye(taken: Iterable[str], first: str = _FRESH[0]) -> str:
    """A dye that is not taken yet, `first` if that is free; `first` as well where all are taken."""
    used = {dye.upper() for dye in taken}
    return next((dye for dye in (first, *_FRESH) if dye.upper() not in used), first)


def ask_dye(parent: QWidget, now: str) -> str:
    """The dye that the user picks, ``#RRGGBB``; the one from before when nothing is picked."""
    chosen = QColorDialog.getColor(QColor(now), parent, tr("Dye"))
    return chosen.name().upper() if chosen.isValid() else now


# Around a dye, so that one as light, or as dark, as the sheet is seen.
_EDGE = QColor(128, 128, 128)


class DyeButton(QPushButton):
    """A dye, drawn and as ``#RRGGBB``."""

    def __init__(self, dye: str) -> None:
        super().__init__()
        self.setStyleSheet("text-align: left; padding-left: 5px; padding-right: 2px;")
        self.setIconSize(QSize(em(16), em(14)))
        self.set_dye(dye)

    def set_dye(self, dye: str) -> None:
        self.setText(dye)
        size, sharp = self.iconSize(), self.devicePixelRatioF()
        picture = QPixmap(size * sharp)
        picture.setDevicePixelRatio(sharp)
        picture.fill(QColor(dye))
        painter = QPainter(picture)
        painter.setPen(_EDGE)
        painter.drawRect(0, 0, size.width() - 1, size.height() - 1)
        painter.end()
        self.setIcon(QIcon(picture))
