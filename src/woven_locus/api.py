"""Woven Locus for scripts: what `import woven_locus` gives.

A script opens a plan, asks, changes it through functions that judge as the window does, and saves it:

>>> import woven_locus as wl
>>> plan = wl.new_plan(12, 8, cell=24)
>>> bool(wl.probe(plan, "loom-hall", (2, 2)))
True
>>> first = wl.place(plan, "loom-hall", (2, 2))
>>> second = wl.place(plan, "dye-works", (8, 2))
>>> wl.probe(plan, "loom-hall", (3, 3)).sentence()
'occupied by S1 Loom hall'
>>> wl.lay_road(plan, [(col, 4) for col in range(2, 11)])
9
>>> route = wl.route(plan, first, second)
>>> route.cells[0], route.length
(Cell(col=3, row=4), 120.0)
>>> wl.links(plan).cut_off
()

Cells are (col, row) as the plan counts them, points (x, y) in world units, turns quarter turns clockwise. Everything
raises a `WovenError` whose text says what is wrong, where, and what to do. What is not named here is no part of the
interface and may change.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path

from woven_locus import kernel_cache
from woven_locus.core import edits
from woven_locus.core.editing import Edit, History
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec, Snapped
from woven_locus.core.grid.snapping import snap as snap_point
from woven_locus.core.placing import Verdict, judge
from woven_locus.core.plan import Plan
from woven_locus.core.proof.table import Proof, prove
from woven_locus.core.routing import (
    Links,
    Manner,
    NoRoute,
    Over,
    Route,
    find_links,
    find_route,
)
from woven_locus.document.purposes import DEMO, NewPlan, Source
from woven_locus.files import plan_json

__all__ = [
    "Cell",
    "Links",
    "NoRoute",
    "Plan",
    "Point",
    "Proof",
    "Route",
    "Snapped",
    "Verdict",
    "WovenError",
    "compile_kernels",
    "demolish",
    "lay_road",
    "links",
    "new_plan",
    "open_plan",
    "place",
    "probe",
    "proof",
    "route",
    "save_plan",
    "snap",
]


def open_plan(path: str | os.PathLike[str]) -> Plan:
    """The plan in a file. Raises WovenError with the place in the file when it is no plan, or cannot be read.

    >>> open_plan("nowhere.plan.json")
    Traceback (most recent call last):
    woven_locus.core.errors.FileProblem: nowhere.plan.json: no such file
    """
    return plan_json.load(Path(path))


def save_plan(plan: Plan, path: str | os.PathLike[str]) -> None:
    """Write the plan, whole or not at all; the same plan gives the same bytes. Raises WovenError."""
    plan_json.save(plan, Path(path))


def new_plan(
    cols: int,
    rows: int,
    *,
    cell: float | tuple[float, float] = 1.0,
    first: tuple[int, int] = (0, 0),
    name: str = "Untitled plan",
    kinds: Source = DEMO,
    terrain: Source = DEMO,
) -> Plan:
    """An empty plan.

    cell : width and height of a cell, world units.  first : the indices of the low corner's cell.  kinds, terrain : "demo",
    "none", or a file to take them from (a catalogue or a plan; a plan). Raises WovenError.

    >>> plan = new_plan(4, 3, kinds="none", terrain="none")
    >>> plan.spec.cols, plan.spec.rows, len(plan.kinds)
    (4, 3, 0)
    """
    size = cell if isinstance(cell, tuple) else (cell, cell)
    spec = GridSpec(cols, rows, *size, first_col=first[0], first_row=first[1])
    return NewPlan(spec, name, kinds, terrain).make()


def snap(plan: Plan, x: float, y: float) -> Snapped:
    """Where the plan's snapping rule puts a point. `Snapped.at` is the point, `Snapped.cell` the cell. Raises WovenError
    for a point that is not finite.

    >>> snap(new_plan(8, 8, cell=24), 50.0, 12.0).at
    Point(x=60.0, y=12.0)
    """
    return snap_point(plan.spec, plan.snap, x, y)


def probe(plan: Plan, kind: str, cell: tuple[int, int], turn: int = 0) -> Verdict:
    """May a structure of this kind stand with the low corner of its box on this cell? True in a condition when it may;
    `Verdict.sentence()` says why not, `Verdict.doubts` what is warned of. Raises WovenError for an unknown kind."""
    return judge(plan, plan.kinds[kind], Cell(*cell), turn)


def place(
    plan: Plan, kind: str, cell: tuple[int, int], turn: int = 0, when: str | None = None
) -> int:
    """Place a structure; returns its number. when : ISO 8601 text for the register, now by default. Raises WovenError with
    the reasons when it may not stand there; the plan is then as it was.

    >>> plan = new_plan(8, 8)
    >>> place(plan, "loom-hall", (7, 7))
    Traceback (most recent call last):
    woven_locus.core.errors.Refused: Loom hall cannot stand at 7, 7: outside the grid
    """
    number = plan.register.next_number
    moment = when or datetime.now(UTC).isoformat(timespec="seconds")
    _do(plan, edits.place(plan, kind, Cell(*cell), turn, moment))
    return number


def demolish(plan: Plan, *numbers: int) -> None:
    """Remove structures. Raises WovenError for a number that is not in the register."""
    _do(plan, edits.demolish(plan, numbers))


def lay_road(plan: Plan, cells: Iterable[tuple[int, int]], road_class: str | None = None) -> int:
    """Road on every cell that allows it; returns on how many cells that changed something. road_class : the key of a class,
    the first by default. Raises WovenError for an unknown class."""
    keys = [item.key for item in plan.road_table]
    if road_class is not None and road_class not in keys:
        raise WovenError(f"no class of road {road_class!r}; there is {', '.join(keys)}")
    code = keys.index(road_class) if road_class is not None else 0
    wanted = [Cell(*cell) for cell in cells]
    slots = [plan.spec.slot(cell) for cell in set(wanted) if plan.spec.contains(cell)]
    before = [plan.road[slot] for slot in slots]
    _do(plan, edits.lay_road(plan, wanted, code))
    return sum(int(plan.road[slot] != old) for slot, old in zip(slots, before, strict=True))


def route(
    plan: Plan,
    start: int | tuple[int, int],
    goal: int | tuple[int, int],
    *,
    over: str = "roads",
    moves: int = 4,
) -> Route | NoRoute:
    """The cheapest route. start, goal : a structure's number or a cell.  over : "roads", "ground" or "preferred" (the ground, roads
    rather).  moves : 4 or 8. Returns a `Route` (cells, points (N, 2) float64 in world units, length, cost), or a `NoRoute`,
    which is False and says why. Raises WovenError for an unknown end."""
    ends = [end if isinstance(end, int) else Cell(*end) for end in (start, goal)]
    return find_route(plan, ends[0], ends[1], Manner(_over(over), moves))


def _over(over: str) -> Over:
    try:
        return Over(over)
    except ValueError:
        known = ", ".join(each.value for each in Over)
        raise WovenError(f"no way over {over!r}; there is {known}") from None


def links(plan: Plan) -> Links:
    """Which structures roads join: `Links.groups`, and in `Links.cut_off` the numbers of those that reach no other."""
    return find_links(plan)


def proof(plan: Plan) -> Proof:
    """Every finding of the whole plan, errors first."""
    return prove(plan)


def compile_kernels() -> None:
    """Use the compiled kernels in this process: worth it from about 128 x 128 cells on. Compiles each when it is first needed
    where the cache does not hold it (seconds); without, the same answers come from plain Python."""
    kernel_cache.install_when_needed(lambda _words: None)


def _do(plan: Plan, edit: Edit) -> None:
    History(plan).do(edit)
