"""A straight run of road between two junctions, pushed aside as one."""

from __future__ import annotations

from woven_locus.core.editing import Edit, Patch
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.phrase import counted, phrase
from woven_locus.core.placing import Verdict, judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.core.ways.roads import Sign, class_of, road_byte, sign_of

# The signs along a run that is pushed to the north or south, and to the east or west.
_ALONG = {True: (Sign.EAST, Sign.WEST), False: (Sign.NORTH, Sign.SOUTH)}


class Run(Value):
    """cells : in line, joints at both ends included.  what : "road" or "barrier".  along : the side 1 or 2
    (east or south) in which they follow one another."""

    cells: tuple[Cell, ...]
    what: str
    along: int


def _code(plan: Plan, what: str, cell: Cell) -> int:
    if not plan.spec.contains(cell):
        return 0
    return int(getattr(plan, what)[plan.spec.slot(cell)])


def _joined(plan: Plan, what: str, cell: Cell) -> list[int]:
    """The sides beyond which it goes on."""
    return [side for side in range(4) if _code(plan, what, cell.beyond(side))]


def run_at(plan: Plan, cell: Cell) -> Run | None:
    """The straight run that a cell belongs to, up to the joints where it bends, branches or ends; None
    where there is none, or nothing longer than a cell. A joint belongs to several: it is the longest."""
    found = []
    for what in ("road", "barrier"):
        if not _code(plan, what, cell):
            continue
        for along in (1, 2):
            before, after = (_line(plan, what, cell, side) for side in ((along + 2) & 3, along))
            if _is_joint(plan, what, cell, along):
                parts = [[*before[::-1], cell], [cell, *after]]
            else:
                parts = [[*before[::-1], cell, *after]]
            found += [Run(tuple(cells), what, along) for cells in parts if len(cells) > 1]
    return max(found, key=lambda run: len(run.cells), default=None)


def _is_joint(plan: Plan, what: str, cell: Cell, along: int) -> bool:
    """Whether something joins a cell from the side of a run."""
    return any(side % 2 != along % 2 for side in _joined(plan, what, cell))


def _line(plan: Plan, what: str, cell: Cell, side: int) -> list[Cell]:
    """The cells that follow one beyond a side, up to and with the first joint."""
    cells: list[Cell] = []
    at = cell.beyond(side)
    while _code(plan, what, at):
        cells.append(at)
        if _is_joint(plan, what, at, side):
            break
        at = at.beyond(side)
    return cells


class Push(Value):
    """What a push would do.  values : the new code of every cell that changes or stays for it.
    verdict : of the cells that are new."""

    run: Run
    by: int
    values: dict[Cell, int]
    verdict: Verdict

    def __bool__(self) -> bool:
        return bool(self.verdict)


def judge_push(plan: Plan, run: Run, by: int) -> Push:
    """Push a run by so many cells, to the south or east where `by` is above 0.

    Its joints are dragged along: a bend's other leg grows or shrinks, and what branches off or crosses is
    led on to where the run is now.
    """
    what = run.what
    side = 3 - run.along if by > 0 else (5 - run.along) & 3
    steps = abs(by)
    values: dict[Cell, int] = {}
    laid: dict[Cell, int] = {}
    if steps:
        for cell in run.cells:
            values[cell] = 0
        for cell, beyond in ((run.cells[0], (run.along + 2) & 3), (run.cells[-1], run.along)):
            others = [
                turn
                for turn in _joined(plan, what, cell)
                if turn % 2 != run.along % 2 or turn == beyond
            ]
            _drag(plan, what, cell, side, steps, others, values, laid)
        for cell in run.cells:
            to = cell.beyond(side, steps)
            laid[to] = _code(plan, what, cell)
    values.update(laid)
    new = [cell for cell in laid if not _code(plan, what, cell)]
    judged = (judge_road if what == "road" else judge_barrier)(plan, new)
    return Push(run, by, values, judged)


def _drag(
    plan: Plan,
    what: str,
    joint: Cell,
    side: int,
    steps: int,
    others: list[int],
    values: dict[Cell, int],
    laid: dict[Cell, int],
) -> None:
    """What becomes of a joint whose run goes to a side. others : the sides by which else it is joined."""
    if not others:
        return
    at, both = joint, sorted((side, (side + 2) & 3))
    if others == [side]:
        # A bend whose leg lies ahead: the leg is taken in as far as nothing else joins it.
        for _ in range(steps):
            if at != joint and _joined(plan, what, at) != both:
                break
            values[at] = 0
            at = at.beyond(side)
            if not _code(plan, what, at):
                break
    # New road to the joint has its class, but no sign: that pointed along the run.
    code = _code(plan, what, joint)
    code = road_byte(class_of(code)) if what == "road" else code
    gone = abs(at.col - joint.col) + abs(at.row - joint.row)
    for _ in range(steps - gone):
        there = _code(plan, what, at)
        pointed = what == "road" and at == joint and sign_of(there) in _ALONG[side % 2 == 0]
        laid.setdefault(at, code if pointed else there or code)
        at = at.beyond(side)


def push_edit(plan: Plan, push: Push) -> Edit:
    """Do it: all of it, or nothing. Raises Refused."""
    run = push.run
    if not push.verdict:
        raise Refused(
            phrase(
                "The {what} cannot go there: {sentence}",
                what=run.what,
                sentence=push.verdict.sentence(),
            )
        )
    patch = Patch.of_values(plan, run.what, push.values) if push.by else None
    count = abs(push.by)
    label = phrase(
        "Pushed {what} of {count} cells at {cells} by {cells2}",
        what=run.what,
        count=len(run.cells),
        cells=cell_text(run.cells[0]),
        cells2=counted(count, "{n} cell", "{n} cells"),
    )
    return Edit(label, (patch,) if patch else ())
