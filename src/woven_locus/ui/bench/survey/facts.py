"""The derived figures of a grid, in words."""

from __future__ import annotations

from woven_locus.core.geometry import cell_text
from woven_locus.core.grid import GridSpec
from woven_locus.core.grid.snapping import number
from woven_locus.ui.language import tr

# Bytes a cell in the layers of an open plan: terrain, reserved, road, barrier, doors, blocks and movement
# 1 each, occupant and road runs 4 each; heights, in a plan that has them, 4 more.
BYTES_A_CELL, BYTES_OF_HEIGHT = 15, 4


def grid_facts(spec: GridSpec, heights: bool = False) -> list[tuple[str, str]]:
    """(name, value) pairs: extent, first and last cell and centre, last coordinate, memory."""
    wide, tall = spec.extent
    first, last = spec.centre(spec.first), spec.centre(spec.last)
    memory = spec.cols * spec.rows * (BYTES_A_CELL + heights * BYTES_OF_HEIGHT)
    size = (
        tr("{memory:.1f} MiB", memory=memory / 2**20)
        if memory >= 2**20
        else tr("{memory:.0f} KiB", memory=memory / 1024)
    )
    grows = tr("y up") if spec.y_up else tr("y down")
    return [
        (tr("cells"), f"{spec.cols} × {spec.rows} = {spec.cols * spec.rows:,}"),
        (tr("cell"), f"{number(spec.cell_w)} × {number(spec.cell_h)} {spec.unit}"),
        (tr("extent"), f"{number(wide)} × {number(tall)}"),
        (
            tr("origin"),
            f"{number(spec.origin_x)}, {number(spec.origin_y)}, {grows}",
        ),
        (tr("first"), cell_text(spec.first)),
        (tr("  centre"), f"{number(first.x)}, {number(first.y)}"),
        (tr("last"), cell_text(spec.last)),
        (tr("  centre"), f"{number(last.x)}, {number(last.y)}"),
        (tr("below"), f"{number(spec.high.x)}, {number(spec.high.y)}"),
        (tr("memory"), size),
    ]
