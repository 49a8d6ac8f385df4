"""Vehicles: true to size and heading when near, dots from afar; coloured by kind, speed or waiting."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPen

from woven_locus.core.kernels.traffic_state import AT_LINE, FOR_PEOPLE
from woven_locus.core.lines import turning_points
from woven_locus.core.traffic.fleet import Fleet
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import VehicleDyes
from woven_locus.ui.sheet.overlays import routes
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.tints import BANDS, ramp
from woven_locus.ui.theme import colour

# More in sight than this are drawn as points.
MOST_SHAPED = 400
# Pixels of a cell from which on shapes can be told apart.
_SHAPED_FROM = 10
_MARGIN = 24

Floats = npt.NDArray[np.float64]


def draw(canvas: Canvas) -> None:
    traffic = canvas.desk.traffic
    run = traffic.run
    if run is None:
        return
    rows = run.fleet.under_way()
    if not len(rows):
        return
    chosen = run.fleet.row_of(traffic.chosen)
    if chosen is not None:
        thick = max(2.0, min(6.0, canvas.cell_px * 0.1))
        way = turning_points(run.fleet.way_ahead(chosen))
        routes.thread(canvas, way, thick, strong=len(way) > 1)
    front = pixels(canvas, run.fleet.fronts(rows))
    camera = canvas.camera
    in_sight = (
        (front > -_MARGIN) & (front < (camera.width + _MARGIN, camera.height + _MARGIN))
    ).all(axis=1)
    rows, front = rows[in_sight], front[in_sight]
    if len(rows) > MOST_SHAPED or canvas.cell_px < _SHAPED_FROM:
        dots(canvas, front, _dyes(canvas, run.fleet, rows))
    else:
        _shapes(canvas, traffic, rows)


def pixels(canvas: Canvas, points: Floats) -> Floats:
    """World points, (..., 2), as pixels of the map area."""
    camera = canvas.camera
    spec = camera.spec
    to_px = np.array([camera.ppc_x / spec.cell_w, camera.row_way * camera.ppc_y / spec.cell_h])
    origin = (camera.x_of(spec.origin_x), camera.y_of(spec.origin_y))
    found: Floats = (points - (spec.origin_x, spec.origin_y)) * to_px + origin
    return found


def _dyes(canvas: Canvas, fleet: Fleet, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.uint32]:
    """(N,) colours of vehicles, by what they are to say."""
    run = canvas.desk.traffic.run
    assert run is not None
    cars, kinds = fleet.cars, fleet.cars.kind[rows]
    table: list[int]
    code = kinds.astype(np.intp)
    match canvas.session.choices.traffic.dyes:
        case VehicleDyes.SPEED:
            share = cars.v[rows] / run.streets.kinds.speed[kinds]
            # Slow is strong, as where mean speeds are shown.
            code = (BANDS - 1) - np.minimum((share * BANDS).astype(np.intp), BANDS - 1)
            shades = ramp(canvas.palette.dark)
            table = [colour(f"#{r:02X}{g:02X}{b:02X}").rgba() for r, g, b in shades]
        case VehicleDyes.WAITING:
            why, stands = cars.why[rows], cars.v[rows] < 1e-2
            code = stands.astype(np.intp)
            code[stands & (why >= AT_LINE) & (why <= FOR_PEOPLE)] = 2
            dyes = (canvas.palette.lichen, canvas.palette.weld, canvas.palette.madder)
            table = [colour(dye).rgba() for dye in dyes]
        case _:
            table = [colour(kind.dye).rgba() for kind in run.kinds]
    found: npt.NDArray[np.uint32] = np.array(table, np.uint32)[code]
    return found


def dots(canvas: Canvas, xy: Floats, dyes: npt.NDArray[np.uint32]) -> None:
    """Dots of 3 x 3 pixels, set in one picture: thousands cost as much as a few."""
    camera = canvas.camera
    # A margin takes the dots that hang over an edge, so that nothing has to be sorted out.
    wide, tall = camera.width + 2 * _MARGIN, camera.height + 2 * _MARGIN
    pixels = np.zeros(wide * tall, np.uint32)
    cols, rows = (np.rint(xy) + _MARGIN).astype(np.intp).T
    at = np.clip(rows, 1, tall - 2) * wide + np.clip(cols, 1, wide - 2)
    for step in (-wide - 1, -wide, -wide + 1, -1, 0, 1, wide - 1, wide, wide + 1):
        pixels[at + step] = dyes
    kind = QImage.Format.Format_ARGB32_Premultiplied
    image = QImage(pixels.data, wide, tall, 4 * wide, kind)  # type: ignore[call-overload]
    canvas.painter.drawImage(-_MARGIN, -_MARGIN, image)


def _shapes(canvas: Canvas, traffic: TrafficKeeper, rows: npt.NDArray[np.int64]) -> None:
    run = traffic.run
    assert run is not None
    fleet, painter = run.fleet, canvas.painter
    corners = pixels(canvas, fleet.shapes(rows))
    dyes = _dyes(canvas, fleet, rows).tolist()
    stands = (fleet.cars.v[rows] < 1e-2).tolist()
    numbers = fleet.number[rows].tolist()
    for shape, dye, still, number in zip(corners.tolist(), dyes, stands, numbers, strict=True):
        points = [QPointF(x, y) for x, y in shape]
        chosen = number == traffic.chosen
        painter.setPen(QPen(colour("#FBF7EF" if not chosen else "#C99A1E"), 3.0 if chosen else 1.2))
        painter.setBrush(QColor.fromRgba(dye))
        drawing.polygon(painter, points)
        # The front has a bar; who stands has it at the rear too, as brake lights.
        painter.setPen(QPen(colour("#FBF7EF"), 1.6))
        painter.drawLine(_inset(points, 0, 3, 0.22), _inset(points, 1, 2, 0.22))
        if still:
            painter.setPen(QPen(colour("#C99A1E"), 2.0))
            painter.drawLine(_inset(points, 3, 0, 0.12), _inset(points, 2, 1, 0.12))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _inset(points: list[QPointF], start: int, end: int, share: float) -> QPointF:
    """A place between two corners."""
    return points[start] + (points[end] - points[start]) * share
