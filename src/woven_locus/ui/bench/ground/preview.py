"""Small pictures of ground that is not on the map yet."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QLabel

from woven_locus.core.ground.relief import hill_shade
from woven_locus.core.plan import Heights
from woven_locus.core.render.palette import rgb

SIDE = 240


class Preview(QLabel):
    """A square in which a map is shown as large as it fits, the top of the screen first."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setFixedSize(SIDE, SIDE)
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName(name)

    def show_map(
        self,
        dyes: list[str],
        terrain: npt.NDArray[np.uint8] | None,
        heights: Heights | None,
        cell: tuple[float, float],
        y_up: bool,
    ) -> None:
        """terrain : codes into `dyes`, 255 where nothing is known.  heights : NaN where unknown. Either
        may be None; both have the map's rows. Of a large map every nth cell is shown."""
        layer = terrain if terrain is not None else heights
        assert layer is not None
        skip = max(1, max(layer.shape) // SIDE)
        every = (slice(None, None, skip), slice(None, None, skip))
        shape = layer[every].shape
        colours = np.full((*shape, 3), 214.0)
        if terrain is not None:
            table = np.full((256, 3), 120.0)
            table[: len(dyes)] = [rgb(dye) for dye in dyes]
            colours = table[terrain[every]]
        if heights is not None:
            part = np.ascontiguousarray(heights[every])
            lit = hill_shade(part, cell[0] * skip, cell[1] * skip, y_up)
            colours = colours * (0.4 + 0.85 * lit[..., None])
            if terrain is None:
                # Where nothing is known the paper stays, with a weave in it.
                unknown = np.isnan(part)
                weave = (np.indices(shape).sum(axis=0) // 3 % 2) * 40.0
                colours[unknown] = (230 - weave[unknown])[:, None]
        pixels = np.clip(colours, 0, 255).astype(np.uint32)
        packed = 0xFF000000 | pixels[..., 0] << 16 | pixels[..., 1] << 8 | pixels[..., 2]
        packed = np.ascontiguousarray(packed[::-1] if y_up else packed, np.uint32)
        tall, wide = packed.shape
        image = QImage(packed.data, wide, tall, 4 * wide, QImage.Format.Format_RGB32)  # type: ignore[call-overload]
        aspect = Qt.AspectRatioMode.KeepAspectRatio
        self.setPixmap(QPixmap.fromImage(image.copy()).scaled(SIDE, SIDE, aspect))
