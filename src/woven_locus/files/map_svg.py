"""The map as vectors: SVG 1.1, a unit a world unit, y down as on screen; one group a layer, with names and ids to find
things by."""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Footprint
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, structure_id
from woven_locus.core.render import Palette
from woven_locus.core.ways.roads import CLASS_BITS
from woven_locus.files.map_frame import PLAIN_LOOK, Frame, MapLook, Swatch, frame_of, hex_text

# As parts of a cell: how wide a road is, and the edge of a structure.
_ROAD, _EDGE = 0.56, 0.08
# From the middle of a line of words to its base, as a part of their size.
_BASE = 0.36


def map_svg(plan: Plan, look: MapLook = PLAIN_LOOK) -> str:
    """The map's area, with scales and a legend around it where they are asked for."""
    spec, box, palette = plan.spec, look.box(plan), look.palette
    rows, cols = box.shape
    wide, tall = cols * spec.cell_w, rows * spec.cell_h
    frame = frame_of(plan, look, spec.cell_w, spec.cell_h)
    full_wide = wide + frame.left + frame.right
    full_tall = tall + frame.top + frame.bottom
    x, y = box.c0 * spec.cell_w, box.r0 * spec.cell_h
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_num(full_wide)}" height="{_num(full_tall)}" '
        f'viewBox="{_num(x - frame.left)} {_num(y - frame.top)} {_num(full_wide)} {_num(full_tall)}">',
        f"<title>{escape(plan.name)}</title>",
        '<g id="terrain" shape-rendering="crispEdges">',
        # Below all: what shows through where two classes meet on half a pixel.
        f'<rect x="{_num(x)}" y="{_num(y)}" width="{_num(wide)}" height="{_num(tall)}" '
        f'fill="{hex_text(palette.ground(_most(plan)))}"/>',
        *_terrain(plan, palette),
        "</g>",
    ]
    for name, group in (
        ("reserved", _reserved(plan, palette)),
        ("roads", _roads(plan, palette)),
        ("barriers", _barriers(plan, palette)),
        ("obstacles", _obstacles(plan, palette)),
        ("structures", _structures(plan, palette)),
    ):
        if name not in look.hidden:
            parts += [f'<g id="{name}">', *group, "</g>"]
    if frame.marks:
        parts += ['<g id="frame">', *_frame(frame, palette, (x, y, wide, tall)), "</g>"]
    return "\n".join([*parts, "</svg>"]) + "\n"


def _frame(
    frame: Frame, palette: Palette, area: tuple[float, float, float, float]
) -> Iterator[str]:
    """The room around the map, which covers what of the map lies there, and what stands in it."""
    x, y, wide, tall = area
    left, top = x - frame.left, y - frame.top
    full_wide, full_tall = wide + frame.left + frame.right, tall + frame.top + frame.bottom
    yield (
        f'<path fill="{palette.panel}" fill-rule="evenodd" d="M{_num(left)} {_num(top)}h{_num(full_wide)}'
        f"v{_num(full_tall)}h-{_num(full_wide)}zM{_num(x)} {_num(y)}h{_num(wide)}v{_num(tall)}"
        f'h-{_num(wide)}z"/>'
    )
    for mark in frame.marks:
        at_x, at_y = _num(left + mark.x), top + mark.y
        if isinstance(mark, Swatch):
            yield (
                f'<rect x="{at_x}" y="{_num(at_y)}" width="{_num(mark.wide)}" height="{_num(mark.tall)}" '
                f'fill="{mark.colour}"/>'
            )
        else:
            weight = ' font-weight="bold"' if mark.bold else ""
            yield (
                f'<text x="{at_x}" y="{_num(at_y + _BASE * frame.text)}" fill="{mark.colour}" '
                f'font-family="sans-serif"{weight} font-size="{_num(frame.text)}" '
                f'text-anchor="{mark.anchor}">{escape(mark.text)}</text>'
            )


def _num(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") or "0"


def _rect(plan: Plan, row: int, first: int, last: int) -> str:
    """Path of the cells from one column to before another, in a row of the screen."""
    w, h = plan.spec.cell_w, plan.spec.cell_h
    x, y, wide = _num(first * w), _num(row * h), _num((last - first) * w)
    return f"M{x} {y}h{wide}v{_num(h)}h-{wide}z"


def _runs(plan: Plan, where: npt.NDArray[np.bool_]) -> str:
    """Path of all cells in a mask, a rectangle for each run in a row."""
    seen = where[::-1] if plan.spec.y_up else where
    edges = np.diff(seen.astype(np.int8), axis=1, prepend=0, append=0)
    rows, starts = np.nonzero(edges == 1)
    ends = np.nonzero(edges == -1)[1]
    return "".join(
        _rect(plan, row, first, last)
        for row, first, last in zip(rows.tolist(), starts.tolist(), ends.tolist(), strict=True)
    )


def _most(plan: Plan) -> str:
    """The dye of the class that most cells have."""
    counts = np.bincount(plan.terrain.ravel(), minlength=len(plan.terrain_table))
    return plan.terrain_table[int(counts.argmax())].dye


def _terrain(plan: Plan, palette: Palette) -> Iterator[str]:
    for code, item in enumerate(plan.terrain_table):
        if path := _runs(plan, plan.terrain == code):
            tint = hex_text(palette.ground(item.dye))
            yield f'<path id="terrain-{escape(item.key)}" fill="{tint}" d="{path}"/>'


def _reserved(plan: Plan, palette: Palette) -> Iterator[str]:
    if path := _runs(plan, plan.reserved > 0):
        yield f'<path fill="{palette.heather}" fill-opacity="0.3" d="{path}"/>'


def _barriers(plan: Plan, palette: Palette) -> Iterator[str]:
    if path := _runs(plan, plan.barrier > 0):
        yield f'<path fill="{palette.walnut}" d="{path}"/>'


def _middle(plan: Plan, row: float, col: float) -> tuple[float, float]:
    """Of a slot, as it is drawn."""
    row = plan.spec.rows - 1 - row if plan.spec.y_up else row
    return (col + 0.5) * plan.spec.cell_w, (row + 0.5) * plan.spec.cell_h


def _roads(plan: Plan, palette: Palette) -> Iterator[str]:
    """A line from the middle of each road cell to those of its right and lower neighbours, a dot where it is alone."""
    classes = plan.road & np.uint8(CLASS_BITS)
    thick = _ROAD * min(plan.spec.cell_w, plan.spec.cell_h)
    for code, item in enumerate(plan.road_table, 1):
        mine = classes == code
        lines = []
        for row, col in np.argwhere(mine).tolist():
            x, y = _middle(plan, row, col)
            start = f"M{_num(x)} {_num(y)}"
            joined = False
            for down, across in ((0, 1), (1, 0)):
                r, c = row + down, col + across
                if r < classes.shape[0] and c < classes.shape[1] and classes[r, c]:
                    x1, y1 = _middle(plan, r, c)
                    lines.append(f"{start}L{_num(x1)} {_num(y1)}")
                    joined = True
            if not joined:
                lines.append(f"{start}h0")
        if lines:
            # A dark line below the light one is its edge.
            path = "".join(lines)
            dye = hex_text(palette.way(item.dye))
            for name, ink, wide in (
                ("edge", palette.walnut, 1.16 * thick),
                ("road", dye, thick),
            ):
                yield (
                    f'<path id="{name}-{escape(item.key)}" fill="none" stroke="{ink}" stroke-width="{_num(wide)}" '
                    f'stroke-linecap="round" d="{path}"/>'
                )


def _obstacles(plan: Plan, palette: Palette) -> Iterator[str]:
    size = 0.36 * min(plan.spec.cell_w, plan.spec.cell_h)
    for item in plan.obstacles.values():
        for cell in item.cells:
            slot = plan.spec.slot(cell)
            x, y = _middle(plan, slot.row, slot.col)
            yield (
                f'<circle cx="{_num(x)}" cy="{_num(y)}" r="{_num(size)}" fill="{palette.walnut}">'
                f"<title>O{item.number} {escape(item.name)}</title></circle>"
            )


def _structures(plan: Plan, palette: Palette) -> Iterator[str]:
    edge = _EDGE * min(plan.spec.cell_w, plan.spec.cell_h)
    size = 0.5 * plan.spec.cell_h
    for row in plan.register:
        kind = plan.kinds[row.kind]
        path = _outline(plan, plan.footprint_of(row), row.cell)
        x, y = place_of_code(plan, row)
        name = f"{structure_id(row.number)} {kind.name}"
        yield (
            f'<g id="{structure_id(row.number)}"><title>{escape(name)}</title>'
            f'<path fill="{kind.dye}" stroke="{palette.ink}" stroke-width="{_num(edge)}" d="{path}"/>'
            f'<text x="{_num(x)}" y="{_num(y + _BASE * size)}" fill="#FBF7EF" font-family="sans-serif" '
            f'font-weight="bold" font-size="{_num(size)}" text-anchor="middle">'
            f"{escape(kind.code)}</text></g>"
        )


def place_of_code(plan: Plan, row: Structure) -> tuple[float, float]:
    """Of a structure, from the map's upper left corner in world units: its middle, or that of the cell nearest to it where
    nothing is built there."""
    box = plan.box_of(row)
    middle = (box.r0 + box.r1 - 1) / 2, (box.c0 + box.c1 - 1) / 2
    slots = [plan.spec.slot(cell) for cell in plan.cells_of(row)]
    near = min(slots, key=lambda slot: abs(slot.row - middle[0]) + abs(slot.col - middle[1]))
    full = len(slots) == box.shape[0] * box.shape[1]
    return _middle(plan, *(middle if full else near))


def _outline(plan: Plan, footprint: Footprint, cell: Cell) -> str:
    """The cells of a footprint, without edges between them: the sides that only one of its cells has, joined to loops."""
    low = plan.spec.slot(cell)
    rows = plan.spec.rows
    cells = set()
    for col, row in footprint.cells:
        at = low.row + row
        cells.add((rows - 1 - at if plan.spec.y_up else at, low.col + col))
    # Clockwise, with the inside at the right hand.
    after: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for r, c in cells:
        for start, end, beyond in (
            ((r, c), (r, c + 1), (r - 1, c)),
            ((r, c + 1), (r + 1, c + 1), (r, c + 1)),
            ((r + 1, c + 1), (r + 1, c), (r + 1, c)),
            ((r + 1, c), (r, c), (r, c - 1)),
        ):
            if beyond not in cells:
                after.setdefault(start, []).append(end)
    found = []
    while after:
        corner = first = min(after)
        loop = []
        while True:
            loop.append(corner)
            ends = after[corner]
            following = ends.pop()
            if not ends:
                del after[corner]
            corner = following
            if corner == first:
                break
        w, h = plan.spec.cell_w, plan.spec.cell_h
        points = (f"{_num(c * w)} {_num(r * h)}" for r, c in loop)
        found.append("M" + "L".join(points) + "z")
    return "".join(found)
