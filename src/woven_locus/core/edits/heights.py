"""Edits of heights: raise, lower, level, smooth under a brush, and whole new heights."""

from __future__ import annotations

from enum import Enum

import numpy as np

from woven_locus.core.editing import Edit, LayerChange, Patch
from woven_locus.core.edits.ground import Mask
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box
from woven_locus.core.ground.relief import smoothed
from woven_locus.core.layers import checked_heights
from woven_locus.core.phrase import mark, phrase
from woven_locus.core.plan import Heights, Plan

# The most by which a stroke raises or lowers; and how far heights may get, short of infinity.
HIGHEST, ENDLESS = 1e5, 1e30


class Sculpt(Enum):
    """What a brush does to heights."""

    RAISE = mark("Raise")
    LOWER = mark("Lower")
    LEVEL = mark("Level")
    SMOOTH = mark("Smooth")


_DONE = {
    Sculpt.RAISE: phrase("Raised"),
    Sculpt.LOWER: phrase("Lowered"),
    Sculpt.LEVEL: phrase("Levelled"),
    Sculpt.SMOOTH: phrase("Smoothed"),
}


def sculpt_label(how: Sculpt) -> str:
    """A sculpting step in words."""
    return phrase("{done} the ground", done=_DONE[how])


def sculpt(plan: Plan, how: Sculpt, box: Box, mask: Mask, amount: float) -> Edit:
    """Change heights where a mask of the box's shape is True; what lies outside is passed over.

    amount : units to raise or lower by, or the height to level to. Raising, lowering and smoothing
    leave cells of unknown height unknown; levelling gives them one. Raises Refused without heights.
    """
    if plan.heights is None:
        raise Refused(phrase("this plan has no heights yet"))
    inside = box.clipped(plan.spec.shape)
    if inside.empty:
        return Edit("", ())
    part = mask[inside.seen_from(box).slices]
    now = plan.heights[inside.slices]
    if how is Sculpt.SMOOTH:
        fresh = smoothed(plan.heights, inside)
    elif how is Sculpt.LEVEL:
        fresh = np.full_like(now, amount)
    else:
        fresh = now + np.float32(amount if how is Sculpt.RAISE else -amount)
    fresh = np.clip(fresh, -ENDLESS, ENDLESS)
    patch = Patch.of_block(plan, "heights", inside, np.where(part, fresh, now))
    return Edit(sculpt_label(how), (patch,) if patch else ())


def set_heights(plan: Plan, heights: Heights | None, label: str) -> Edit:
    """All heights at once, or none. The array is taken over. Raises BadPlan."""
    after = checked_heights(plan.spec, heights) if heights is not None else None
    return Edit(label, (LayerChange("heights", plan.heights, after),))


def flat(plan: Plan) -> Heights:
    """Heights of 0 all over, to begin from."""
    return np.zeros(plan.spec.shape, np.float32)
