"""Edits of the funds, and of the clock by which structures pay."""

from __future__ import annotations

from woven_locus.core.books import Funds
from woven_locus.core.clock import clock_text
from woven_locus.core.editing import ActorChange, Edit, FundsChange, StructuresChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Point
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import Rows
from woven_locus.core.value import replace


def set_funds(plan: Plan, opening: int | None, share: int = 50) -> Edit:
    """Keep funds, with so much to begin with and so many percent returned; None keeps none. What was
    demolished while none were kept cost nothing. Raises BadPlan."""
    if opening is None:
        if plan.funds is None:
            return Edit("", ())
        return Edit(phrase("Stopped keeping funds"), (FundsChange(plan.funds, None),))
    old = plan.funds
    if old is None:
        # Structures may remember a later time from when funds were kept before.
        clock = max((row.since for row in plan.register), default=0)
        made = Funds(opening, share, clock)
        return Edit(phrase("Began to keep funds"), (FundsChange(None, made),))
    made = replace(old, opening=opening, share=share)
    if made == old:
        return Edit("", ())
    return Edit(phrase("Changed the funds"), (FundsChange(old, made),))


def advance(plan: Plan, seconds: int) -> Edit:
    """Let the plan's clock go on; structures pay meanwhile. Raises Refused, BadPlan."""
    if plan.funds is None:
        raise Refused(phrase("this plan keeps no funds; begin to keep them first"))
    if seconds < 1:
        raise Refused(
            phrase("the clock goes on by 1 second or more, not {seconds}", seconds=seconds)
        )
    made = replace(plan.funds, clock=plan.funds.clock + seconds)
    return Edit(
        phrase("Ran the clock to {clock_text}", clock_text=clock_text(made.clock)),
        (FundsChange(plan.funds, made),),
    )


def begin_again(plan: Plan) -> Edit:
    """The clock at 0 with all that stands as if it had been placed then, and nothing ever demolished."""
    if plan.funds is None:
        raise Refused(phrase("this plan keeps no funds; begin to keep them first"))
    late = Rows(row for row in plan.register if row.since)
    changes = [StructuresChange(late, Rows(replace(row, since=0) for row in late))] if late else []
    made = replace(plan.funds, clock=0, gone=())
    if made == plan.funds and not late:
        return Edit("", ())
    return Edit(
        phrase("Set the clock back to the beginning"), (*changes, FundsChange(plan.funds, made))
    )


def place_actor(plan: Plan, at: Point | None) -> Edit:
    """Put the actor somewhere, or take it away with None."""
    if at == plan.actor:
        return Edit("", ())
    label = (
        phrase("Took the actor away")
        if at is None
        else phrase("Put the actor at {x:.6g}, {y:.6g}", x=at.x, y=at.y)
    )
    return Edit(label, (ActorChange(plan.actor, at),))
