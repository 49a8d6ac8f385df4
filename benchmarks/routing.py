"""Row 1: A* on cells against the C++ yardstick."""

from __future__ import annotations

import statistics
from functools import partial

import numpy as np

from benchmarks.grounds import COSTS, FAMILIES, far_ends
from benchmarks.reference import build
from benchmarks.table import Row, best_of, seconds
from woven_locus.core.geometry import Slot
from woven_locus.core.routing.mended import Mended, Tree
from woven_locus.core.routing.search import find_path


def rows(sides: tuple[int, ...]) -> list[Row]:
    library = build.load()
    if library is None:
        return [Row("1", "A* on cells", "", "no g++ on this machine", None, "", False)]
    made = []
    ratios = []
    for family, make in FAMILIES.items():
        for side in sides:
            code = make(side, 7)
            start, goal = far_ends(code)
            cost = COSTS[code].astype(np.float32)
            repeats = 5 if side <= 1024 else 3
            for moves in (4, 8):
                path = find_path(code, COSTS, [Slot(*start)], [Slot(*goal)], moves=moves)
                theirs_cost, _ = build.astar(library, cost, start, goal, moves, 1.0)
                same = bool(np.isclose(path.cost, theirs_cost, rtol=1e-9))
                ours = best_of(
                    lambda code=code, start=start, goal=goal, moves=moves: find_path(
                        code, COSTS, [Slot(*start)], [Slot(*goal)], moves=moves
                    ),
                    repeats,
                )
                theirs = best_of(
                    lambda cost=cost, start=start, goal=goal, moves=moves: build.astar(
                        library, cost, start, goal, moves, 1.0
                    ),
                    repeats,
                )
                ratios.append(ours / theirs)
                case = f"A* {family} {side}², {moves} moves" + ("" if same else ", COSTS DIFFER")
                ok = same and ours <= theirs
                made.append(
                    Row("1", case, seconds(ours), seconds(theirs), ours / theirs, "≤ 1 × C++", ok)
                )
    median = statistics.median(ratios)
    made.append(Row("1", "A*, the median case", "", "", median, "≤ 0.5 × C++", median <= 0.5))
    return made + _of_one_cost(library, sides) + _mended(library, sides)


def _of_one_cost(library: object, sides: tuple[int, ...]) -> list[Row]:
    """8 moves over ground of one cost."""
    made, costs = [], np.full(256, np.inf)
    costs[1] = 1.0
    for family, make in FAMILIES.items():
        for side in sides:
            code = (make(side, 7) > 0).astype(np.uint8)
            start, goal = far_ends(code)
            cost = costs[code].astype(np.float32)
            ends = [Slot(*start)], [Slot(*goal)]
            path = find_path(code, costs, *ends, moves=8)
            theirs_cost, _ = build.astar(library, cost, start, goal, 8, 1.0)  # type: ignore[arg-type]
            same = bool(np.isclose(path.cost, theirs_cost, rtol=1e-9))
            ours = best_of(lambda code=code, ends=ends: find_path(code, costs, *ends, moves=8), 3)
            theirs = best_of(
                lambda cost=cost, start=start, goal=goal: build.astar(
                    library,
                    cost,
                    start,
                    goal,
                    8,
                    1.0,  # type: ignore[arg-type]
                ),
                3,
            )
            case = f"found anew, {family} {side}², 8 moves" + ("" if same else ", COSTS DIFFER")
            ratio = ours / theirs
            made.append(Row("1b", case, seconds(ours), seconds(theirs), ratio, "information", same))
    return made


def _mended(library: object, sides: tuple[int, ...]) -> list[Row]:
    """The same ground with a cell in the middle of the way closed, as a piece of a maze is set down: the way mended,
    against one that is found anew. What the mending goes by is known from before."""
    made, costs = [], np.full(256, np.inf)
    costs[1] = 1.0
    for family, make in FAMILIES.items():
        for side in sides:
            code = (make(side, 7) > 0).astype(np.uint8)
            start, goal = (Slot(*end) for end in far_ends(code))
            way = find_path(code, costs, [start], [goal], moves=8).slots
            ends = (Tree(code, costs, [end], moves=8) for end in (start, goal))
            mended = Mended(*ends)
            # The first cell from the middle on that does not cut the two ends off.
            for k in range(len(way) // 2, len(way) - 1):
                closed = Slot(*way[k].tolist())
                path = mended.find([closed])
                if path:
                    break
            after = code.copy()
            after[closed] = 0
            cost = costs[after].astype(np.float32)
            theirs_cost, _ = build.astar(library, cost, start, goal, 8, 1.0)  # type: ignore[arg-type]
            same = bool(np.isclose(path.cost, theirs_cost, rtol=1e-8))
            ours = best_of(partial(mended.find, [closed]), 3)
            theirs = best_of(partial(build.astar, library, cost, start, goal, 8, 1.0), 3)  # type: ignore[arg-type]
            case = f"mended, {family} {side}², 8 moves" + ("" if same else ", COSTS DIFFER")
            ratio, ok = ours / theirs, same and ours <= 0.2 * theirs
            made.append(Row("1b", case, seconds(ours), seconds(theirs), ratio, "≤ 1/5 × C++", ok))
    return made
