"""Finished cells. A cell's look is a key; its pixels are composed once and then only copied."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.distinct import distinct_and_places
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.ground.terrain import TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.placing.feasibility import FREE
from woven_locus.core.render import ink
from woven_locus.core.render.ground_view import GroundOverlay
from woven_locus.core.render.palette import Palette, Rgb, mix, rgb
from woven_locus.core.ways.roads import PLAIN, RoadTable, Sign, class_of, sign_of

Pixels = npt.NDArray[np.uint32]
Colours = npt.NDArray[np.float64]

# Bit fields of a key, low to high.
VARIANT, TERRAIN, RESERVED, ROAD, LOOK, EDGES, DOORS, KIND, OVERLAY, BARRIER, WAY = (
    0,
    4,
    10,
    11,
    16,
    18,
    22,
    26,
    34,
    38,
    43,
)

# Below this size a pattern would be noise.
PATTERN_FROM = 6
# Pixels of a cell up to which a whole period of a pattern is engraved at once.
WHOLE_PERIOD_UP_TO = 84 * 84


class Stamps:
    """Composed cells of one zoom step in one palette."""

    def __init__(
        self,
        pw: int,
        ph: int,
        palette: Palette,
        terrain: TerrainTable,
        kinds: Catalogue,
        overlay: GroundOverlay = GroundOverlay.NONE,
        roads: RoadTable = PLAIN,
    ) -> None:
        """overlay : what the OVERLAY field of a key stands for: one more than the overlay's code."""
        self.pw, self.ph = pw, ph
        self._palette, self._terrain = palette, terrain
        self._kinds = list(kinds)
        self._roads = roads
        self._overlay = overlay
        self._at: dict[int, int] = {}
        self._periods: dict[tuple[int, bool], Colours] = {}
        self._atlas: Pixels = np.empty((16, ph, pw), np.uint32)
        self._cell = ink.Frame.of(pw, ph)
        # Cells that are not square repeat a pattern as often as keeps its shape.
        short = min(pw, ph)
        self._repeat_x, self._repeat_y = max(1, round(pw / short)), max(1, round(ph / short))

    @property
    def patterned(self) -> bool:
        """Whether cells are large enough for patterns."""
        return min(self.pw, self.ph) >= PATTERN_FROM

    @property
    def _by_period(self) -> bool:
        return self.patterned and self.pw * self.ph <= WHOLE_PERIOD_UP_TO

    def prepare(self) -> bool:
        """Engrave one more terrain class ahead of its use; False when all are there."""
        if self._by_period:
            for code in range(len(self._terrain)):
                if (code, False) not in self._periods:
                    self._bare(code, False, 0)
                    return True
        return False

    def look_up(self, keys: npt.NDArray[np.int64]) -> Pixels:
        """keys : (rows, cols) -> (rows * ph, cols * pw) uint32 RGB32."""
        found, which = distinct_and_places(keys)
        places = np.array([self._place(key) for key in found.tolist()], np.intp)
        rows, cols = keys.shape
        cells = self._atlas[places[which.reshape(keys.shape)]]
        if self.pw == self.ph == 1:
            return cells.reshape(rows, cols)
        return np.ascontiguousarray(cells.transpose(0, 2, 1, 3)).reshape(
            rows * self.ph, cols * self.pw
        )

    def _place(self, key: int) -> int:
        at = self._at.get(key)
        if at is None:
            at = len(self._at)
            if at == len(self._atlas):
                self._atlas = np.concatenate([self._atlas, np.empty_like(self._atlas)])
            self._atlas[at] = self._compose(key)
            self._at[key] = at
        return at

    def _compose(self, key: int) -> Pixels:
        kind = (key >> KIND) & 255
        pixels = self._structure(key, kind - 1) if kind else self._ground(key)
        if not kind and (key >> LOOK) & 3:
            body, line = ink.obstacle(LOOKS[((key >> LOOK) & 3) - 1], self._cell)
            fill = self._palette.lichen if (key >> LOOK) & 3 == 2 else self._palette.muted
            pixels = _over(pixels, mix(self._paper, rgb(fill), 0.75), body)
            pixels = _over(pixels, self._ink, line)
        whole = np.rint(pixels).astype(np.uint32)
        packed = whole[..., 0] << 16 | whole[..., 1] << 8 | whole[..., 2] | 0xFF000000
        return packed.astype(np.uint32)

    @property
    def _paper(self) -> Rgb:
        return rgb(self._palette.paper)

    @property
    def _ink(self) -> Rgb:
        return rgb("#2B2A33" if not self._palette.dark else "#14151A")

    def _ground(self, key: int) -> Colours:
        variant = key & 15
        code = (key >> OVERLAY) & 15
        if code:
            places = self._places(variant % ink.PERIOD, variant // ink.PERIOD, 1)
            pixels = self._ranked(code - 1, *places)
        else:
            pixels = self._bare((key >> TERRAIN) & 63, bool((key >> RESERVED) & 1), variant)
        barrier = (key >> BARRIER) & 31
        if barrier:
            if min(self.pw, self.ph) < 4:
                return np.broadcast_to(self._ink, (self.ph, self.pw, 3))
            body, line = ink.barrier(self._cell, barrier - 1)
            stone = mix(rgb(self._palette.muted), self._paper, 0.35)
            return _over(_over(pixels, stone, body), self._ink, line)
        road = (key >> ROAD) & 31
        if not road:
            return pixels
        way = (key >> WAY) & 255
        item = self._roads[max(0, class_of(way))]
        body_colour = self._palette.way(item.dye)
        if min(self.pw, self.ph) < 4:
            return np.broadcast_to(
                mix(body_colour, rgb(self._palette.walnut), 0.25), (self.ph, self.pw, 3)
            )
        ground = self._terrain[(key >> TERRAIN) & 63]
        bridge = not code and ground.bridge and not ground.buildable
        body, line = ink.road(self._cell, road - 1, item.lanes, bridge)
        walnut = rgb("#5C4636" if not self._palette.dark else "#2E241C")
        pixels = _over(_over(pixels, body_colour, body), walnut, line)
        if sign_of(way) and min(self.pw, self.ph) >= PATTERN_FROM:
            mark = rgb("#A5383F") if sign_of(way) is Sign.CLOSED else rgb("#2B2A33")
            pixels = _over(pixels, mark, ink.road_sign(self._cell, sign_of(way)))
        return pixels

    def _bare(self, code: int, reserved: bool, variant: int) -> Colours:
        """Terrain alone. Small cells are engraved a whole period at once, which costs hardly more
        than one of them; of large ones only those in sight are."""
        if not self._by_period:
            col, row = variant % ink.PERIOD, variant // ink.PERIOD
            return self._engraved(code, reserved, *self._places(col, row, 1))
        if (code, reserved) not in self._periods:
            places = self._places(0, 0, ink.PERIOD)
            self._periods[code, reserved] = self._engraved(code, reserved, *places)
        row, col = variant // ink.PERIOD * self.ph, variant % ink.PERIOD * self.pw
        return self._periods[code, reserved][row : row + self.ph, col : col + self.pw]

    def _places(self, col: int, row: int, count: int) -> tuple[Colours, Colours]:
        """Where the pixels of count x count cells lie in a pattern, from a cell of the period on."""
        x = (col + (np.arange(count * self.pw) + 0.5) / self.pw) * self._repeat_x
        y = (row + (np.arange(count * self.ph) + 0.5) / self.ph) * self._repeat_y
        shape = (len(y), len(x))
        return np.broadcast_to(x, shape), np.broadcast_to(y[:, None], shape)

    def _engraved(self, code: int, reserved: bool, x: Colours, y: Colours) -> Colours:
        item = self._terrain[code]
        pixels = np.empty((*x.shape, 3))
        pixels[:] = self._palette.ground(item.dye)
        if self.patterned:
            # Patterns fade in with size rather than snap in.
            strength = min(1.0, 0.35 + (min(self.pw, self.ph) - PATTERN_FROM) / 16)
            line = ink.pattern(item.pattern, x, y, self._cell.px) * strength
            pixels = _over(pixels, self._palette.engraving(item.dye), line)
        if reserved:
            heather = rgb(self._palette.heather)
            pixels = _over(pixels, heather, np.full(x.shape, 0.22))
            if self.patterned:
                pixels = _over(pixels, heather, ink.reserved(x, y, self._cell.px) * 0.9)
        return pixels

    def _ranked(self, code: int, x: Colours, y: Colours) -> Colours:
        """A class of the overlay: darker and more densely hatched from one to the next, so that it
        reads without hue."""
        palette = self._palette
        dye = rgb(palette.madder if self._overlay is GroundOverlay.SLOPE else palette.indigo)
        paper = rgb(palette.paper)
        if self._overlay is GroundOverlay.WHERE:
            # What is free is to catch the eye, in the dark theme too.
            dye = rgb("#A5383F")
            paper = mix(paper, rgb(palette.woad), 0.4) if code == FREE else paper
        pixels = np.empty((*x.shape, 3))
        pixels[:] = mix(paper, dye, 0.11 * max(0, code - 1))
        if self.patterned:
            line = ink.rank(code, x, y, self._cell.px)
            pixels = _over(pixels, mix(dye, rgb(palette.ink), 0.35), line * 0.8)
        return pixels

    def _structure(self, key: int, kind: int) -> Colours:
        dye = rgb(self._kinds[kind].dye)
        pixels = np.empty((self.ph, self.pw, 3))
        pixels[:] = mix(dye, rgb("#FFFFFF"), 0.12) if self._palette.dark else dye
        if min(self.pw, self.ph) < 3:
            return pixels
        line, stitch = ink.edges(self._cell, (key >> EDGES) & 15)
        pixels = _over(pixels, rgb("#F3EDE2"), stitch * 0.85)
        pixels = _over(pixels, mix(dye, rgb("#000000"), 0.55), line)
        doors = (key >> DOORS) & 15
        if doors:
            body, outline = ink.door(self._cell, doors)
            pixels = _over(pixels, rgb("#F3EDE2"), body)
            pixels = _over(pixels, mix(dye, rgb("#000000"), 0.55), outline)
        return pixels


def _over(pixels: Colours, colour: Rgb, cover: Colours) -> Colours:
    share = cover[..., None]
    return pixels * (1 - share) + colour * share
