"""Edits of the buildable window and of the grid itself."""

from __future__ import annotations

from woven_locus.core.editing import Edit, GridChange, Regrid, SnapChange, WindowChange
from woven_locus.core.geometry import cell_text
from woven_locus.core.grid import BuildWindow, SnapSettings
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan


def set_window(plan: Plan, window: BuildWindow | None) -> Edit:
    """Build within a window, or on the whole terrain with None."""
    if window == plan.window:
        return Edit("", ())
    if window is None:
        label = phrase("Opened the whole terrain to building")
    elif plan.window is not None and (window.cols, window.rows) == (
        plan.window.cols,
        plan.window.rows,
    ):
        label = phrase("Moved the window to {low}", low=cell_text(window.low))
    else:
        label = phrase(
            "Set a window of {cols} × {rows} at {low}",
            cols=window.cols,
            rows=window.rows,
            low=cell_text(window.low),
        )
    return Edit(label, (WindowChange(plan.window, window),))


def regrid(plan: Plan, question: Regrid) -> Edit:
    """Another grid under the content. Raises BadGrid, BadPlan."""
    if question.spec == plan.spec:
        return Edit("", ())
    made, _lost = question.work_out(plan)
    spec = question.spec
    label = phrase(
        "Changed the grid to {cols} × {rows} cells, content kept by {keep}",
        cols=spec.cols,
        rows=spec.rows,
        keep=phrase(question.keep.value),
    )
    return Edit(label, (GridChange(question, made),))


def set_snap(plan: Plan, settings: SnapSettings) -> Edit:
    """How points snap from now on; what is held is no part of it."""
    after = settings.kept
    if after == plan.snap:
        return Edit("", ())
    return Edit(
        phrase("Set snapping to {rule}", rule=phrase(after.rule.value)),
        (SnapChange(plan.snap, after),),
    )
