"""The work of a process that was killed, out of its journal."""

from __future__ import annotations

from collections.abc import Iterable

from woven_locus.core.editing import Edit, History
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.journal_book import Base
from woven_locus.files.left_over import LeftOver, Step, unreadable


def restored(journal: LeftOver) -> tuple[Plan, History, Base]:
    """The plan as it was shown last, its history and what the journal began with. Raises FileProblem,
    whatever the journal holds."""
    data, base, steps = journal.read()
    plan = plan_json.parse(data, journal.path)
    history = History(plan)
    try:
        replay(history, steps)
        # A journal that was tampered with may make a plan that contradicts itself.
        plan_json.parse(plan_json.dump(plan), journal.path)
    except Exception as err:
        raise unreadable(journal.path, err) from err
    return plan, history, base


def replay(history: History, steps: Iterable[Step]) -> None:
    """Do recorded steps again on the plan that they began with. See `files.journal_book.ACTIONS`. A stroke
    that was never finished ends as it was shown last."""
    behind = 0
    for action, what in steps:
        if isinstance(what, Edit):
            if action == "part" and not history.in_gesture:
                history.begin(what.label)
            if action in ("back", "forth"):
                history.apply_outside(what, undo=action == "back")
                behind += 1 if action == "back" else -1
            else:
                history.do(what, joining=action == "join")
        elif action == "commit":
            history.commit(what or "")
        elif action == "cancel":
            history.cancel()
        elif action == "undo":
            history.undo()
        else:
            history.redo()
    if history.in_gesture:
        history.commit()
    if behind:
        # What was undone last is no step here, so that what is redoable no longer follows on.
        history.forget_undone()
