"""People on foot: round, so that they are told from vehicles; with a ring while they wait at a crossing."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPen

from woven_locus.core.traffic.walkers import WAITING
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.vehicles import pixels
from woven_locus.ui.theme import colour

# More on foot than this in sight are left out by turns.
MOST = 3000
_MARGIN = 8


def draw(canvas: Canvas) -> None:
    run = canvas.desk.traffic.run
    if run is None:
        return
    walkers = run.walkers
    rows = walkers.under_way()
    if not len(rows):
        return
    if len(rows) > MOST:
        rows = rows[:: -(-len(rows) // MOST)]
    places = pixels(canvas, walkers.places(rows))
    camera, painter = canvas.camera, canvas.painter
    in_sight = (
        (places > -_MARGIN) & (places < (camera.width + _MARGIN, camera.height + _MARGIN))
    ).all(axis=1)
    unit = canvas.cell_px / min(camera.spec.cell_w, camera.spec.cell_h)
    sizes = np.array([kind.size for kind in walkers.kinds])[walkers.kind[rows]] * unit / 2
    dyes = [colour(kind.dye) for kind in walkers.kinds]
    for at in np.flatnonzero(in_sight).tolist():
        row = int(rows[at])
        radius = max(1.8, float(sizes[at]))
        painter.setPen(QPen(colour("#FBF7EF"), 1.0))
        painter.setBrush(dyes[int(walkers.kind[row])])
        middle = QPointF(*places[at].tolist())
        painter.drawEllipse(middle, radius, radius)
        if walkers.state[row] == WAITING and canvas.cell_px >= 14:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("#C99A1E"), 1.4))
            painter.drawEllipse(middle, radius + 2.2, radius + 2.2)
    painter.setBrush(Qt.BrushStyle.NoBrush)
