"""Edits of the buildable window and of the grid itself."""

from __future__ import annotations

from woven_locus.core.editing import Edit, GridChange, Regrid, SnapChange, WindowChange
from woven_locus.core.geometry import cell_text
from woven_locus.core.grid import BuildWindow, SnapSettings
from woven_locus.core.plan import Plan


def set_window(plan: Plan, window: BuildWindow | None) -> Edit:
    """Build within a window, or on the whole terrain with None."""
    if window == plan.window:
        return Edit("", ())
    if window is None:
        label = "Opened the whole terrain to building"
    elif plan.window is not None and (window.cols, window.rows) == (
        plan.window.cols,
        plan.window.rows,
    ):
        label = f"Moved the window to {cell_text(window.low)}"
    else:
        label = f"Set a window of {window.cols} × {window.rows} at {cell_text(window.low)}"
    return Edit(label, (WindowChange(plan.window, window),))


def regrid(plan: Plan, question: Regrid) -> Edit:
    """Another grid under the content. Raises BadGrid, BadPlan."""
    if question.spec == plan.spec:
        return Edit("", ())
    made, _lost = question.work_out(plan)
    spec = question.spec
    label = f"Changed the grid to {spec.cols} × {spec.rows} cells, content kept by {question.keep.value}"
    return Edit(label, (GridChange(question, made),))


def set_snap(plan: Plan, settings: SnapSettings) -> Edit:
    """How points snap from now on; what is held is no part of it."""
    after = settings.kept
    if after == plan.snap:
        return Edit("", ())
    return Edit(f"Set snapping to {after.rule.value}", (SnapChange(plan.snap, after),))
