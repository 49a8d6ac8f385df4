"""What the pointer does. A tool gets cells and world points, never mouse events."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Box
from woven_locus.core.placing import Verdict
from woven_locus.core.strokes.base import Stroke
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session

Cover = tuple[Box, npt.NDArray[np.bool_]]


class Tool:
    """One tool of one stage. `stroke` is the gesture in progress, if any."""

    hint = ""

    def __init__(self, session: Session, told: Callable[[], None]) -> None:
        """told : to be called when what the tool shows is another."""
        self.session, self.told = session, told
        self.stroke: Stroke | None = None

    def press(self, at: Hover, held: bool) -> None:
        """The button went down. held : Shift."""

    def drag(self, at: Hover, held: bool) -> None:
        """The pointer moved with the button down."""

    def release(self, at: Hover | None, held: bool) -> None:
        """The button came up; None when the pointer is known to be nowhere."""

    def cancel(self) -> bool:
        """Take back what is in progress; False when nothing is."""
        if self.stroke is None:
            return False
        self.stroke.cancel()
        self.stroke = None
        self.told()
        return True

    def walk(self, cols: int, rows: int, far: bool) -> bool:
        """An arrow key, in columns and rows; False leaves it to the cell cursor. far : Shift."""
        return False

    def cover(self) -> Cover | None:
        """Cells that a press, or letting go, would change: a box, perhaps beyond the grid, and a mask
        of its shape."""
        return None

    def marks(self) -> Verdict | None:
        """Cells to mark on the sheet besides the ghost's."""
        return None


class StrokeTool(Tool):
    """A tool whose drag is one core stroke."""

    def begin(self) -> Stroke:
        raise NotImplementedError

    def press(self, at: Hover, held: bool) -> None:
        self.stroke = self.begin()
        self.stroke.start(at.cell)
        self.told()

    def drag(self, at: Hover, held: bool) -> None:
        if self.stroke is not None:
            self.stroke.to(at.cell, held)
            self.told()

    def release(self, at: Hover | None, held: bool) -> None:
        stroke, self.stroke = self.stroke, None
        if stroke is not None:
            stroke.finish()
            self.after(stroke)
            self.told()

    def after(self, stroke: Stroke) -> None:
        """Say what the stroke did, where that is not plain to see."""
