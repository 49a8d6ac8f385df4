"""An edit on trial: done, looked at, and taken back, without a step of the history."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from woven_locus.core.editing.edit import Edit
from woven_locus.core.plan import Plan


@contextmanager
def tried(plan: Plan, edit: Edit) -> Iterator[None]:
    """The plan as it would be after an edit, for the length of a block. Nobody is told of it; the block
    must not change the plan itself. The edit must fit the plan's cells. Copies taken meanwhile on other
    threads wait until it is over; to whoever holds an answer against the revision nothing has changed."""
    revision = plan.revision
    plan.version += 1
    try:
        edit.apply(plan)
        try:
            yield
        finally:
            edit.apply(plan, undo=True)
    finally:
        plan.revision = revision
        plan.version += 1
