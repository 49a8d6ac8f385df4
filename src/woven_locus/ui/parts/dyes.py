"""Choosing a dye: the colour of a kind, or of a class."""

from __future__ import annotations

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QWidget

from woven_locus.ui.language import tr


def ask_dye(parent: QWidget, now: str) -> str:
    """The dye that the user picks, ``#RRGGBB``; the one from before when nothing is picked."""
    chosen = QColorDialog.getColor(QColor(now), parent, tr("Dye"))
    return chosen.name().upper() if chosen.isValid() else now
