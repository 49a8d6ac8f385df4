"""Where the pointer is on the map, and where the snapping rule takes it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec, Snapped, SnapSettings, snap
from woven_locus.core.value import Value


class Hover(Value):
    """Where the pointer is. cell : of the endless lattice; inside : whether the grid has it."""

    point: Point
    cell: Cell
    inside: bool
    snapped: Snapped


class Pointer(QObject):
    """hover : where the pointer is, None when it is nowhere on the sheet."""

    moved = pyqtSignal()

    def __init__(
        self, spec: Callable[[], GridSpec], snapping: Callable[[], SnapSettings], parent: QObject
    ) -> None:
        """spec : the grid of the open plan.  snapping : the rule in force."""
        super().__init__(parent)
        self._spec, self._snapping = spec, snapping
        self.hover: Hover | None = None

    def to(self, point: Point | None) -> None:
        """It is at a world point, or has left the sheet. Nothing is told when it stands still."""
        hover = self._at(point)
        if hover != self.hover:
            self.hover = hover
            self.moved.emit()

    def again(self) -> None:
        """The rule is another one: work out anew where the same point snaps to."""
        if self.hover is not None:
            self.to(self.hover.point)

    def forget(self) -> None:
        """Its place was worked out on another grid."""
        self.to(None)

    def _at(self, point: Point | None) -> Hover | None:
        if point is None:
            return None
        spec = self._spec()
        cell = spec.locate_virtual(*point)
        return Hover(point, cell, spec.contains(cell), snap(spec, self._snapping(), *point))
