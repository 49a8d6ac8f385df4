"""The cache of raster tiles: what was shaded once is only copied to the screen."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Iterable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import NOWHERE, Box
from woven_locus.core.render import Raster, Scale
from woven_locus.core.render.stamps import Pixels
from woven_locus.core.value import Record
from woven_locus.ui.sheet.camera import Camera

# Bytes of pixels that are kept; a screen full of tiles is about 5 MB.
ROOM = 96 * 1024 * 1024
# Time for making new tiles in one frame; what is left over is made in the frames after.
BUDGET = 0.0015
# Cells of a tile that are mended in the frame of the edit, budget or not.
AT_ONCE_CELLS = 4096


class Tile(Record):
    """pixels is what `image` borrows; `dirty` is the block of slots to shade again before it is drawn."""

    box: Box
    pixels: Pixels
    image: QImage
    dirty: Box = NOWHERE

    def dirty_part(self, skip: int) -> Box:
        """What is dirty in whole pixels of the map; empty where that lies beside the tile."""
        changed = self.dirty
        low = changed.r0 // skip * skip, changed.c0 // skip * skip
        return Box(*low, -(-changed.r1 // skip) * skip, -(-changed.c1 // skip) * skip).common(
            self.box
        )

    def put(self, part: Box, fresh: Pixels, scale: Scale) -> None:
        """Lay a block that was shaded again over what was there; nothing is dirty then."""
        self.dirty = NOWHERE
        block = _cut(self.pixels, self.box, part, scale)
        block[...] = fresh


def _cut(pixels: Pixels, box: Box, part: Box, scale: Scale) -> Pixels:
    """The pixels of a part of a block."""
    y = (part.r0 - box.r0) // scale.skip * scale.ph
    x = (part.c0 - box.c0) // scale.skip * scale.pw
    tall = -(-(part.r1 - part.r0) // scale.skip) * scale.ph
    wide = -(-(part.c1 - part.c0) // scale.skip) * scale.pw
    return pixels[y : y + tall, x : x + wide]


TileKey = tuple[int, int, int]


class Tiles:
    """Tiles of one raster, by (step, tile row, tile column), least recently drawn first out."""

    def __init__(self, raster: Raster) -> None:
        self.raster = raster
        self._tiles: OrderedDict[TileKey, Tile] = OrderedDict()
        self._held = 0
        self._complete = -1  # the step that was last drawn with nothing missing

    def forget(self, notice: Notice) -> None:
        """An edit touched these boxes; roads and edges take their look from neighbours too."""
        self.raster.learn(notice.structures)
        self.mend(notice.boxes)

    def mend(self, changed: Iterable[Box]) -> None:
        """These blocks of slots look different now."""
        spec = self.raster.spec
        # Hill shade and slope, too, look one cell around.
        boxes = [spec.mirrored(box).grown(1) for box in changed]
        if not boxes:
            return
        for tile in self._tiles.values():
            for box in boxes:
                if box.touches(tile.box):
                    tile.dirty = tile.dirty.union(box.common(tile.box))

    def draw(self, painter: QPainter, camera: Camera, patient: bool = False) -> bool:
        """Draw what is in sight; True when tiles are still missing (draw again soon).

        patient : make every tile, however long it takes.
        """
        scale = camera.scale
        tall, wide = scale.tile_cells
        sight = camera.sight()
        if sight.empty:
            return False
        until = time.perf_counter() + (3600 if patient else BUDGET)
        ready: list[Tile] = []
        dirty: list[tuple[Tile, Box]] = []
        missing = made = False
        for row in range(sight.r0 // tall, (sight.r1 - 1) // tall + 1):
            for col in range(sight.c0 // wide, (sight.c1 - 1) // wide + 1):
                key = (camera.step, row, col)
                tile = self._tiles.get(key)
                if tile is None:
                    if made and time.perf_counter() > until:
                        missing = True
                        continue
                    tile, made = self._make(key, scale, camera), True
                elif not tile.dirty.empty:
                    dirty.append((tile, tile.dirty_part(scale.skip)))
                self._tiles.move_to_end(key)
                ready.append(tile)
        stale = bool(dirty) and self._mend_all(dirty, scale, until)
        if missing:
            self._draw_stand_ins(painter, camera, sight)
        else:
            self._complete = camera.step
        painter.save()
        if camera.sharp != 1.0:
            # In pixels of the screen, of which the tiles are made: a copy, nothing enlarged.
            painter.scale(1 / camera.sharp, 1 / camera.sharp)
        across, down = scale.px_per_cell
        left, top = round(camera.left * camera.sharp), round(camera.top * camera.sharp)
        for tile in ready:
            x, y = tile.box.c0 * across - left, tile.box.r0 * down - top
            painter.drawImage(int(x), int(y), tile.image)
        painter.restore()
        self._trim()
        return missing or stale

    def _make(self, key: TileKey, scale: Scale, camera: Camera) -> Tile:
        box = scale.tile_box(key[1], key[2]).clipped(camera.spec.shape)
        pixels = self.raster.shade(box, scale)
        tall, wide = pixels.shape
        image = QImage(pixels.data, wide, tall, 4 * wide, QImage.Format.Format_RGB32)  # type: ignore[call-overload]
        tile = Tile(box, pixels, image)
        self._tiles[key] = tile
        self._held += pixels.nbytes
        return tile

    def _mend_all(self, dirty: list[tuple[Tile, Box]], scale: Scale, until: float) -> bool:
        """Mend these tiles and the parts of them; True when some are left for a later frame."""
        whole = Box.around_all(part for _tile, part in dirty)
        if whole.shape[0] * whole.shape[1] <= AT_ONCE_CELLS:
            # What the pointer just did, over several tiles: to shade a small block takes as long for any size.
            fresh = self.raster.shade(whole, scale)
            for tile, part in dirty:
                tile.put(part, _cut(fresh, whole, part, scale), scale)
            return False
        stale = False
        for place, (tile, part) in enumerate(dirty):
            # Large mends may take their turns. One is done in each frame: whoever works beside can take all the time there is.
            cells = part.shape[0] * part.shape[1]
            if place == 0 or cells <= AT_ONCE_CELLS or time.perf_counter() < until:
                tile.put(part, self.raster.shade(part, scale), scale)
            else:
                stale = True
        return stale

    def _draw_stand_ins(self, painter: QPainter, camera: Camera, sight: Box) -> None:
        """Until all tiles are made: the same ground from the step last seen whole, scaled."""
        for (step, _row, _col), tile in self._tiles.items():
            if step == self._complete and step != camera.step and tile.box.touches(sight):
                box = tile.box
                painter.drawImage(
                    QRectF(
                        box.c0 * camera.ppc_x - camera.left,
                        box.r0 * camera.ppc_y - camera.top,
                        (box.c1 - box.c0) * camera.ppc_x,
                        (box.r1 - box.r0) * camera.ppc_y,
                    ),
                    tile.image,
                )

    def _trim(self) -> None:
        while self._held > ROOM and len(self._tiles) > 1:
            _key, tile = self._tiles.popitem(last=False)
            self._held -= tile.pixels.nbytes
