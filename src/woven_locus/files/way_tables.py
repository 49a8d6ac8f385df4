"""Roads and routes as tables and lines for other programs. See docs/format.md.

CSV with a header and comma, or JSON. World places are in the plan's own units.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid.spec import GridSpec
from woven_locus.core.lines import step_lengths
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.routing import End, Manner, Route, end_name
from woven_locus.core.routing.trips import Matrix
from woven_locus.core.ways.roads import Sign, class_of, sign_of
from woven_locus.core.ways.shapes import SHAPES, neighbour_masks
from woven_locus.files.row_values import num
from woven_locus.files.tables import rows_of, table

# A route that was asked for: its ends, how, and what came of it.
Asked = tuple[End, End, Manner, Route]

_SIGNS = {
    Sign.NONE: "",
    Sign.NORTH: "north",
    Sign.EAST: "east",
    Sign.SOUTH: "south",
    Sign.WEST: "west",
    Sign.CLOSED: "closed",
    Sign.CROSSING: "crossing",
}


def road_shapes(plan: Plan) -> str:
    """Every road cell on a line, row by row: where it is, its shape and turn as on screen, the number that
    holds both, its class, its sign, and whether it is a bridge."""
    spec, roads = plan.spec, plan.road_table
    up = spec.y_up
    # Shapes are told as they look, so that rows that grow upwards are turned over first.
    layer = plan.road[::-1] if up else plan.road
    masks = neighbour_masks(layer, Box(0, 0, *layer.shape))
    turned = {Sign.NORTH: Sign.SOUTH, Sign.SOUTH: Sign.NORTH} if up else {}

    def rows() -> Iterable[list[object]]:
        for row, col in np.argwhere(plan.road).tolist():
            byte = int(plan.road[row, col])
            mask = int(masks[spec.rows - 1 - row if up else row, col])
            sign = sign_of(byte)
            sign = turned.get(sign, sign)
            ground = plan.terrain_table[int(plan.terrain[row, col])]
            cell = spec.cell_of_slot((row, col))
            yield [
                cell.col,
                cell.row,
                SHAPES[mask].name,
                SHAPES[mask].turn,
                mask,
                roads[class_of(byte)].key,
                _SIGNS[sign],
                "yes" if ground.bridge and not ground.buildable else "no",
            ]

    return table(("col", "row", "shape", "turn", "number", "class", "sign", "bridge"), rows())


def end_id(end: End) -> str:
    """An end as the command line takes it: ``S12``, or a cell as ``14,-9``."""
    return f"{end.col},{end.row}" if isinstance(end, Cell) else structure_id(end)


def routes_csv(plan: Plan, routes: Iterable[Asked]) -> Iterator[str]:
    """Every cell of every route on a line, with its world centre and the cost up to there; piece by piece."""
    header = ("route", "from", "to", "step", "col", "row", "x", "y", "cost")
    yield table(header, ())
    for at, (start, goal, manner, route) in enumerate(routes, 1):
        spent = _spent(plan, manner, route)
        cells = zip(route.cells, route.points.tolist(), spent, strict=True)
        ends = (at, end_id(start), end_id(goal))
        yield rows_of(
            (*ends, step, *cell, num(x), num(y), num(round(cost, 9)))
            for step, (cell, (x, y), cost) in enumerate(cells)
        )


def _spent(plan: Plan, manner: Manner, route: Route) -> list[float]:
    """The cost of a route up to each of its cells."""
    rows, cols = route.slots[:, 0], route.slots[:, 1]
    if manner.over.value == "roads":
        cost = plan.road_table.costs[plan.road[rows, cols]]
    else:
        cost = movement_costs(plan)[plan.movement[rows, cols]]
    steps = step_lengths(route.points)
    each = steps * (cost[:-1] + cost[1:]) / 2
    return [0.0, *np.cumsum(each).tolist()]


class _CentreTexts:
    """The world centres of cells as they stand in a file: a column or a row is worded once, not once a cell."""

    def __init__(self, spec: GridSpec) -> None:
        across, down = (np.zeros((count, 2), np.int64) for count in (spec.cols, spec.rows))
        across[:, 1], down[:, 0] = np.arange(spec.cols), np.arange(spec.rows)
        self._xs, self._ys = (
            np.array([json.dumps(num(value)) for value in values.tolist()], "S")
            for values in (spec.centres(across)[:, 0], spec.centres(down)[:, 1])
        )
        x, y = self._xs.dtype, self._ys.dtype
        self._form = np.dtype([("[", "S1"), ("x", x), (", ", "S2"), ("y", y), ("], ", "S3")])

    def points(self, slots: npt.NDArray[np.int64]) -> str:
        """``[4, 2], [12, 2]``. slots : (N, 2)."""
        texts = np.empty(len(slots), self._form)
        for mark in ("[", ", ", "], "):
            texts[mark] = mark.encode()
        texts["x"], texts["y"] = self._xs[slots[:, 1]], self._ys[slots[:, 0]]
        # Shorter numbers than the longest are padded with zero bytes.
        data = texts.view(np.uint8)
        found: bytes = data[data != 0].tobytes()
        return found[: -len(", ")].decode()


def routes_lines(plan: Plan, routes: Iterable[Asked]) -> Iterator[str]:
    """Routes as a feature collection of lines, in the shape of GeoJSON (RFC 7946) but in plan units: no
    place on the earth is meant, which the member `units` says. Piece by piece: tens of thousands of routes
    have millions of points."""
    centres = _CentreTexts(plan.spec)
    whole = {"type": "FeatureCollection", "units": plan.spec.unit or "units"}
    yield _flat(whole)[:-1] + ', "features": ['
    before = after = ""
    for start, goal, manner, route in routes:
        where, shape = centres.points(route.slots), "Point"
        if len(route.slots) > 1:
            where, shape = f"[{where}]", "LineString"
        about = {
            "from": end_id(start),
            "to": end_id(goal),
            "names": [end_name(plan, start), end_name(plan, goal)],
            "over": manner.over.value,
            "moves": manner.moves,
            "length": num(route.length),
            "cost": num(route.cost),
            "detour": num(round(route.detour, 9)),
        }
        yield (
            f'{before}\n  {{"type": "Feature", "geometry": {{"type": "{shape}", "coordinates": {where}}}, '
            f'"properties": {_flat(about)}}}'
        )
        before, after = ",", "\n"
    yield f"{after}]}}\n"


def _flat(value: dict[str, Any]) -> str:
    return json.dumps(value, ensure_ascii=False)


def matrix_csv(matrix: Matrix) -> str:
    """Costs between structures: the row's to the column's, empty where there is no way."""
    names = [structure_id(number) for number in matrix.numbers]

    def rows() -> Iterable[list[object]]:
        for name, costs in zip(names, matrix.cost.tolist(), strict=True):
            yield [name, *("" if cost == np.inf else num(cost) for cost in costs)]

    return table(["from", *names], rows())
