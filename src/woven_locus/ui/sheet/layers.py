"""What lies over the map, in the order in which it is drawn."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtGui import QPainter

from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import apart
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import (
    compared,
    findings,
    ghost,
    grid,
    ground,
    junctions,
    lanes,
    measures,
    people,
    plumb,
    reported,
    routes,
    structures,
    survey,
    tints,
    vehicles,
    waves,
    ways,
)
from woven_locus.ui.sheet.overlays.base import Canvas


def over_map(canvas: Canvas, contours: ground.Contours | None, patient: bool) -> bool:
    """Draw one thing after the other: what fails is left out, the rest is drawn.

    contours : where they are shown.  patient : they may take their time.  Returns whether they are to be
    drawn again.
    """
    session, painter = canvas.session, canvas.painter
    stale = False

    def draw_contours(canvas: Canvas) -> None:
        nonlocal stale
        if contours is not None:
            stale = contours.draw(canvas, patient)

    # Lines between cells are crisp, all else is smooth.
    lines = not session.hand.empty or session.choices.stage is not Stage.TRAFFIC
    apart(painter, tr("The grid"), lambda: grid.draw(canvas, lines))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    over: tuple[tuple[str, Callable[[Canvas], object]], ...] = (
        (tr("The contours"), draw_contours),
        (tr("The window"), _window),
        (tr("What lies over the map"), tints.draw),
        (tr("What was measured"), measures.draw),
        (tr("The structures' marks"), structures.draw),
        (tr("The routes"), routes.draw),
        (tr("The marks of Ways"), ways.draw),
        (tr("The lanes"), lanes.draw),
        (tr("The junctions"), junctions.draw),
        (tr("The vehicles"), vehicles.draw),
        (tr("The people"), people.draw),
        (tr("The waves"), waves.draw),
        (tr("The game's agents"), reported.draw),
        (tr("Findings"), findings.draw),
        (tr("Compare"), compared.draw),
        (tr("The stage's marks"), _stage),
        (tr("The ghost"), lambda canvas: ghost.draw(canvas, canvas.desk.tools.current)),
        (tr("The plumb lines"), plumb.draw),
    )
    for name, draw in over:
        apart(painter, name, partial(draw, canvas))
    return stale


def over_other(canvas: Canvas) -> None:
    """Over the plan that the open one is compared with, while that is shown."""
    apart(canvas.painter, tr("The grid"), lambda: grid.draw(canvas, True))
    canvas.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    apart(canvas.painter, tr("Compare"), partial(compared.draw, canvas))
    apart(canvas.painter, tr("Which plan it is"), partial(compared.which, canvas))


def _window(canvas: Canvas) -> None:
    window = canvas.session.plan.window
    if window is not None:
        ground.window(canvas, window)


def _stage(canvas: Canvas) -> None:
    """What only one stage lays over the map."""
    session = canvas.session
    if session.choices.stage is Stage.SURVEY:
        survey.lattice(canvas)
        if session.choices.survey.art is not None:
            survey.art(canvas, session.choices.survey.art)
        if session.choices.survey.actor is not None:
            survey.actor(canvas, session.choices.survey.actor)
    elif session.choices.stage is Stage.GROUND:
        ground.profile(canvas)
