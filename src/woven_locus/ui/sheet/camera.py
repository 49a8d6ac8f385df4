"""Where the sheet looks: cells to pixels and back. Plain numbers, no Qt.

Where y grows upwards, the first row of the screen is the last of the plan; only this module and the
raster know.
"""

from __future__ import annotations

import math

from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.grid import GridSpec
from woven_locus.core.render.scale import STEPS, Scale
from woven_locus.core.value import Record


class Camera(Record, dict=True):
    """x and y are pixels of the map's drawing area, from its top left.

    step : index into STEPS.  left, top : the map pixel at the area's top left, a whole pixel of the screen.
    width, height : the area's size.  sharp : pixels of the screen for one of these, on a screen that is
    scaled: the raster is made in those.  whole : whether the whole grid was brought into sight, and nobody
    has looked elsewhere since.
    """

    spec: GridSpec
    step: int = STEPS.index(8)
    left: float = 0
    top: float = 0
    width: int = 800
    height: int = 600
    sharp: float = 1.0
    whole: bool = False

    def __post_init__(self) -> None:
        self.set_step(self.step)

    def set_step(self, step: int) -> None:
        self.step = min(len(STEPS) - 1, max(0, step))
        self.scale = Scale.at(self.step, self.spec.cell_w, self.spec.cell_h, self.sharp)
        self.ppc_x, self.ppc_y = (each / self.sharp for each in self.scale.px_per_cell)

    def set_sharp(self, sharp: float) -> None:
        """On another screen; what is in the middle stays there."""
        col = (self.left + self.width / 2) / self.ppc_x
        row = (self.top + self.height / 2) / self.ppc_y
        self.sharp = sharp
        self.set_step(self.step)
        self.left = self._whole(col * self.ppc_x - self.width / 2)
        self.top = self._whole(row * self.ppc_y - self.height / 2)

    def _whole(self, pixels: float) -> float:
        """The nearest whole pixel of the screen."""
        if self.sharp == 1.0:
            return round(pixels)
        return round(pixels * self.sharp) / self.sharp

    # --- pixels to the world -----------------------------------------------------------------

    def point_at(self, x: float, y: float) -> Point:
        """The world point under a pixel."""
        spec = self.spec
        down = (y + self.top) / self.ppc_y * spec.cell_h
        return Point(
            spec.origin_x + (x + self.left) / self.ppc_x * spec.cell_w,
            spec.high.y - down if spec.y_up else spec.origin_y + down,
        )

    def cell_at(self, x: float, y: float) -> Cell:
        """The cell of the endless lattice under a pixel: the only place where y becomes a row."""
        col, row = math.floor((x + self.left) / self.ppc_x), math.floor((y + self.top) / self.ppc_y)
        if self.spec.y_up:
            row = self.spec.rows - 1 - row
        return Cell(col + self.spec.first_col, row + self.spec.first_row)

    @property
    def row_way(self) -> int:
        """What a step down the screen adds to the row."""
        return -1 if self.spec.y_up else 1

    # --- the world to pixels -----------------------------------------------------------------

    def x_of(self, world_x: float) -> float:
        return (world_x - self.spec.origin_x) / self.spec.cell_w * self.ppc_x - self.left

    def y_of(self, world_y: float) -> float:
        spec = self.spec
        down = spec.high.y - world_y if spec.y_up else world_y - spec.origin_y
        return down / spec.cell_h * self.ppc_y - self.top

    def corner_of(self, cell: Cell, rows: int = 1) -> tuple[float, float]:
        """Pixel of the top left corner of a cell, or of a block `rows` high whose lowest it is."""
        row = cell.row - self.spec.first_row
        if self.spec.y_up:
            row = self.spec.rows - row - rows
        return (
            (cell.col - self.spec.first_col) * self.ppc_x - self.left,
            row * self.ppc_y - self.top,
        )

    def middle_of(self, cell: Cell) -> tuple[float, float]:
        """Pixel of a cell's centre."""
        x, y = self.corner_of(cell)
        return x + self.ppc_x / 2, y + self.ppc_y / 2

    def visible(self) -> Box:
        """The slots of the grid that show."""
        return self.spec.mirrored(self.sight())

    def sight(self) -> Box:
        """The same as rows of the screen, counted from the grid's top edge."""
        return Box(
            math.floor(self.top / self.ppc_y),
            math.floor(self.left / self.ppc_x),
            math.floor((self.top + self.height - 1) / self.ppc_y) + 1,
            math.floor((self.left + self.width - 1) / self.ppc_x) + 1,
        ).clipped(self.spec.shape)

    # --- moving ------------------------------------------------------------------------------

    def pan(self, dx: int, dy: int) -> None:
        """Move the map by pixels; some of it always stays in sight."""
        self.whole = False
        self.left -= dx
        self.top -= dy
        self.keep_in_sight()

    def zoom(self, steps: int, x: float, y: float) -> None:
        """Change the step, keeping the world point under a pixel where it is."""
        self.whole = False
        col, row = (x + self.left) / self.ppc_x, (y + self.top) / self.ppc_y
        self.set_step(self.step + steps)
        self.left = self._whole(col * self.ppc_x - x)
        self.top = self._whole(row * self.ppc_y - y)
        self.keep_in_sight()

    def show_whole(self) -> None:
        """The largest step at which the whole grid fits, in the middle; it stays so when the area's size changes."""
        self._show(self.spec.box, len(STEPS) - 1)
        self.whole = True

    def show_box(self, box: Box) -> None:
        """A block of slots in the middle, no nearer than 1:1."""
        self._show(self.spec.mirrored(box).grown(2), STEPS.index(32))

    def _show(self, box: Box, nearest: int) -> None:
        self.whole = False
        rows, cols = box.shape
        for step in range(nearest, -1, -1):
            self.set_step(step)
            if cols * self.ppc_x <= self.width and rows * self.ppc_y <= self.height:
                break
        self.left = self._whole((box.c0 + cols / 2) * self.ppc_x - self.width / 2)
        self.top = self._whole((box.r0 + rows / 2) * self.ppc_y - self.height / 2)

    def centre_on(self, cell: Cell) -> None:
        self.whole = False
        x, y = self.middle_of(cell)
        self.left += self._whole(x - self.width / 2)
        self.top += self._whole(y - self.height / 2)
        self.keep_in_sight()

    def centre_at(self, point: Point) -> None:
        """Bring a world point to the middle."""
        self.whole = False
        self.left += self._whole(self.x_of(point.x) - self.width / 2)
        self.top += self._whole(self.y_of(point.y) - self.height / 2)
        self.keep_in_sight()

    def reveal(self, cell: Cell, margin: int = 48) -> None:
        """Pan just as far as needed for a cell to be well inside."""
        x, y = self.middle_of(cell)
        before = self.left, self.top
        if x < margin:
            self.left += self._whole(x - margin)
        elif x > self.width - margin:
            self.left += self._whole(x - self.width + margin)
        if y < margin:
            self.top += self._whole(y - margin)
        elif y > self.height - margin:
            self.top += self._whole(y - self.height + margin)
        if (self.left, self.top) != before:
            self.whole = False

    def resize(self, width: int, height: int) -> None:
        self.width, self.height = max(1, width), max(1, height)
        if self.whole:
            self.show_whole()
        self.keep_in_sight()

    def keep_in_sight(self) -> None:
        wide, tall = self.spec.cols * self.ppc_x, self.spec.rows * self.ppc_y
        keep_x, keep_y = min(wide, 64), min(tall, 64)
        lowest, highest = math.ceil(keep_x - self.width), math.floor(wide - keep_x)
        self.left = self._whole(min(max(self.left, lowest), highest))
        lowest, highest = math.ceil(keep_y - self.height), math.floor(tall - keep_y)
        self.top = self._whole(min(max(self.top, lowest), highest))
