"""The derived figures of a grid, in words."""

from __future__ import annotations

from woven_locus.core.geometry import cell_text
from woven_locus.core.grid import GridSpec
from woven_locus.core.grid.snapping import number

# Bytes a cell in the layers of an open plan: terrain, reserved, road, barrier, doors, blocks and movement
# 1 each, occupant and road runs 4 each; heights, in a plan that has them, 4 more.
BYTES_A_CELL, BYTES_OF_HEIGHT = 15, 4


def grid_facts(spec: GridSpec, heights: bool = False) -> list[tuple[str, str]]:
    """(name, value) pairs: extent, first and last cell and centre, last coordinate, memory."""
    wide, tall = spec.extent
    first, last = spec.centre(spec.first), spec.centre(spec.last)
    memory = spec.cols * spec.rows * (BYTES_A_CELL + heights * BYTES_OF_HEIGHT)
    size = f"{memory / 2**20:.1f} MiB" if memory >= 2**20 else f"{memory / 1024:.0f} KiB"
    return [
        ("cells", f"{spec.cols} × {spec.rows} = {spec.cols * spec.rows:,}"),
        ("cell", f"{number(spec.cell_w)} × {number(spec.cell_h)} {spec.unit}"),
        ("extent", f"{number(wide)} × {number(tall)}"),
        (
            "origin",
            f"{number(spec.origin_x)}, {number(spec.origin_y)}, y {'up' if spec.y_up else 'down'}",
        ),
        ("first", cell_text(spec.first)),
        ("  centre", f"{number(first.x)}, {number(first.y)}"),
        ("last", cell_text(spec.last)),
        ("  centre", f"{number(last.x)}, {number(last.y)}"),
        ("below", f"{number(spec.high.x)}, {number(spec.high.y)}"),
        ("memory", size),
    ]
