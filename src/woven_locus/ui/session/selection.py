"""Which structures are selected."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.geometry import Box
from woven_locus.core.register import Register


class Selection(QObject):
    """numbers : all that is selected, the one in front first.  area : the block that was dragged over to
    select it, or None."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.numbers: tuple[int, ...] = ()
        self.area: Box | None = None

    @property
    def front(self) -> int:
        """The structure in front, or 0."""
        return self.numbers[0] if self.numbers else 0

    def select(self, number: int, more: bool = False) -> None:
        """Select a structure by number; 0 selects nothing. more : beside what is selected, or no more
        if it was."""
        if more and number:
            rest = [n for n in self.numbers if n != number]
            self.select_all(rest if number in self.numbers else [number, *rest])
        else:
            self.select_all([number] if number else ())

    def select_all(self, numbers: Sequence[int], area: Box | None = None) -> None:
        """Select structures, the first of them in front. area : the block dragged over for it."""
        chosen = tuple(numbers)
        self.area = area
        if chosen != self.numbers or area is not None:
            self.numbers = chosen
            self.changed.emit()

    def fit(self, register: Register, reformed: bool) -> None:
        """Keep only what the register still has. reformed : blocks of before mean nothing now."""
        stays = tuple(row.number for row in register.those_of(self.numbers))
        if stays != self.numbers or (reformed and self.area is not None):
            self.select_all(stays)
            self.area = None
