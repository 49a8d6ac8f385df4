"""Another grid under what stands on it: what goes where, what falls outside, and the edit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import Enum
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.accepted import Accepted
from woven_locus.core.books import Funds
from woven_locus.core.editing.change import Boxes, Change
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow, GridSpec, low_cell
from woven_locus.core.ground import Obstacle
from woven_locus.core.layers import LAYERS
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, structure_id
from woven_locus.core.value import Value, field, replace
from woven_locus.core.vehicles import TrafficPlan
from woven_locus.core.wave_plan import WavePlan

Ints = npt.NDArray[np.int64]


class Keep(Enum):
    """How content finds its new cell: the cell with its old index, or the cell at its old place."""

    INDEX = "index"
    PLACE = "place"


class Losses(Value):
    """What a change of the grid would leave behind.

    structures, obstacles : numbers and names of those that find no cells on the new grid.
    cells : by layer, old cells with something on them (terrain: other than the first class) in whose place
    the new grid has none of it, be it that the place is gone or that something else took it. Of several
    cells that come to lie in one none is lost, but terrain of another class is. A height is lost where its
    place is gone.
    """

    structures: tuple[tuple[int, str], ...] = ()
    obstacles: tuple[tuple[int, str], ...] = ()
    cells: Mapping[str, int] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.structures or self.obstacles or any(self.cells.values()))


def _sources(old: GridSpec, new: GridSpec, keep: Keep) -> tuple[Ints, Ints]:
    """For each new row and each new column, the old one that its content comes from, or -1."""
    found = []
    for axis, count, first, old_axis, old_count, old_first in (
        (new.axes[1], new.rows, new.first_row, old.axes[1], old.rows, old.first_row),
        (new.axes[0], new.cols, new.first_col, old.axes[0], old.cols, old.first_col),
    ):
        if keep is Keep.INDEX:
            source = np.arange(count, dtype=np.int64) + (first - old_first)
        else:
            middles = axis.values(np.arange(count, dtype=np.float64) + 0.5)
            source = old_axis.indices(middles).astype(np.int64)
        source[(source < 0) | (source >= old_count)] = -1
        found.append(source)
    return found[0], found[1]


def _taken(layer: npt.NDArray[Any], rows: Ints, cols: Ints, empty: float = 0) -> npt.NDArray[Any]:
    out = np.full((len(rows), len(cols)), empty, layer.dtype)
    here, there = np.flatnonzero(rows >= 0), np.flatnonzero(cols >= 0)
    if not (len(here) and len(there)):
        return out
    across = slice(int(there[0]), int(there[-1]) + 1)
    from_ = cols[across]
    if (np.diff(from_) == 1).all():
        # Columns side by side stay so: whole runs can be copied.
        source = slice(int(from_[0]), int(from_[-1]) + 1)
        for row in here.tolist():
            out[row, across] = layer[rows[row], source]
    else:
        for row in here.tolist():
            out[row, across] = layer[rows[row], from_]
    return out


class _Landing(Value):
    """Where each old row and column comes to lie: the new one with its index, or under its middle; or -1."""

    rows: Ints
    cols: Ints

    def gather(self, taken: npt.NDArray[Any], layer: npt.NDArray[Any]) -> None:
        """Put into `taken`, where it is empty, what an old cell holds whose middle lies there: a wider cell
        must not lose the road that it happened not to sample. Of several the first counts. Neighbours come
        to lie in one cell or in neighbours, so that what was joined stays joined."""
        r, c = np.nonzero(layer)
        there = (self.rows[r] >= 0) & (self.cols[c] >= 0)
        r, c = r[there][::-1], c[there][::-1]  # the last of equal places is what stays written
        rows, cols = self.rows[r], self.cols[c]
        empty = taken[rows, cols] == 0
        taken[rows[empty], cols[empty]] = layer[r[empty], c[empty]]

    def lost(self, layer: npt.NDArray[Any], made: npt.NDArray[Any], alike: bool = False) -> int:
        """Old cells with something in whose place there is nothing, or (`alike`) another thing."""
        r, c = np.nonzero(layer)
        rows, cols = self.rows[r], self.cols[c]
        there = (rows >= 0) & (cols >= 0)
        found = made[rows[there], cols[there]]
        stays = found == layer[r[there], c[there]] if alike else found != 0
        return len(r) - int(np.count_nonzero(stays))

    def outside(self, mask: npt.NDArray[np.bool_]) -> int:
        """Old cells of a mask whose place is gone."""
        inside = mask[np.ix_(self.rows >= 0, self.cols >= 0)]
        return int(np.count_nonzero(mask)) - int(np.count_nonzero(inside))


class Regrid(Value):
    """A question: this grid in place of the plan's, keeping content in this way."""

    spec: GridSpec
    keep: Keep

    def work_out(self, plan: Plan) -> tuple[Plan, Losses]:
        """The plan on the new grid, and what is lost. The plan itself is not changed, and nothing of
        it is shared. Raises BadPlan where the new grid cannot hold a plan at all."""
        old, new = plan.spec, self.spec
        rows, cols = _sources(old, new, self.keep)
        landing = _Landing(*_sources(new, old, self.keep))
        layers: dict[str, npt.NDArray[Any]] = {}
        for row in LAYERS:
            layer = getattr(plan, row.name)
            if layer is not None:
                layers[row.name] = taken = _taken(layer, rows, cols, row.empty)
                if row.gathers:
                    landing.gather(taken, layer)
        # A road and a barrier that come to lie in one cell: the road passes.
        layers["barrier"][layers["road"] != 0] = 0
        held = np.zeros(new.shape, bool)
        # Structures first: they cannot be mended as easily as a road that runs beneath them.
        structures, no_room = self._structures(plan, held)
        obstacles, cleared = self._obstacles(plan, held)
        lost: dict[str, int] = {}
        for row in LAYERS:
            layer = getattr(plan, row.name)
            if layer is None:
                continue
            taken = layers[row.name]
            if row.yields:
                taken[held] = row.empty
            if row.dtype is np.float32:
                lost[row.name] = landing.outside(~np.isnan(layer))
            else:
                lost[row.name] = landing.lost(layer, taken, row.alike)
        made = Plan(
            plan.name,
            new,
            plan.terrain_table,
            plan.kinds,
            road_table=plan.road_table,
            window=self._window(plan),
            obstacles=obstacles,
            structures=structures,
            next_number=plan.register.next_number,
            money=plan.money,
            funds=self._funds(plan, structures),
            actor=plan.actor,
            keep=plan.keep,
            traffic=self._traffic(plan),
            waves=self._waves(plan),
            accepted=self._accepted(plan),
            snap=plan.snap,
            schema=plan.schema,
            **layers,
        )
        # Worked out here, where it may be another thread's time.
        _ = made.network.labels
        return made, Losses(tuple(no_room), tuple(cleared), lost)

    def _window(self, plan: Plan) -> BuildWindow | None:
        window = plan.window
        if window is None or self.keep is Keep.INDEX:
            return window
        low, last = plan.spec.corner(window.low), plan.spec.corner(window.last.moved(1, 1))
        return window.centred_on(self.spec, (low.x + last.x) / 2, (low.y + last.y) / 2)

    def _traffic(self, plan: Plan) -> TrafficPlan:
        """Ends of trips and junctions go with the ground that they are on."""
        if self.keep is Keep.INDEX:
            return plan.traffic

        def moved(cell: Cell) -> Cell:
            return self.spec.locate_virtual(*plan.spec.centre(cell))

        return plan.traffic.moved(moved)

    def _waves(self, plan: Plan) -> WavePlan:
        """So do entries and goals; those beyond the new grid are gone."""
        if self.keep is Keep.INDEX:
            return plan.waves.moved(lambda cell: cell, self.spec.contains)
        return plan.waves.moved(
            lambda cell: self.spec.locate_virtual(*plan.spec.centre(cell)), self.spec.contains
        )

    def _accepted(self, plan: Plan) -> tuple[Accepted, ...]:
        """And what is accepted at a cell."""
        found: dict[object, Accepted] = {}
        for item in plan.accepted:
            cell = item.cell
            if cell is not None and self.keep is Keep.PLACE:
                cell = self.spec.locate_virtual(*plan.spec.centre(cell))
            if cell is None or self.spec.contains(cell):
                moved = replace(item, cell=cell)
                found.setdefault(moved.key, moved)
        return tuple(found.values())

    @staticmethod
    def _funds(plan: Plan, stay: list[Structure]) -> Funds | None:
        """What finds no room counts as demolished."""
        if plan.funds is None:
            return None
        kept = {row.number for row in stay}
        lost = [row for row in plan.register if row.number not in kept]
        return plan.funds.without((row, plan.kinds[row.kind]) for row in lost)

    def _structures(
        self, plan: Plan, held: npt.NDArray[np.bool_]
    ) -> tuple[list[Structure], list[tuple[int, str]]]:
        stay, lost = [], []
        for row in plan.register:
            kind = plan.kinds[row.kind]
            footprint = kind.footprint.turned(row.turn)
            if self.spec.y_up:
                footprint = footprint.upside_down()
            cell = row.cell
            if self.keep is Keep.PLACE:
                low = plan.spec.corner(row.cell)
                x = low.x + footprint.cols * plan.spec.cell_w / 2
                y = low.y + footprint.rows * plan.spec.cell_h / 2
                cell = low_cell(self.spec, x, y, footprint.cols, footprint.rows)
            why = self._claim(held, footprint.at(cell))
            if why is not None:
                lost.append((row.number, f"{structure_id(row.number)} {kind.name}{why}"))
            else:
                stay.append(replace(row, cell=cell))
        return stay, lost

    def _obstacles(
        self, plan: Plan, held: npt.NDArray[np.bool_]
    ) -> tuple[list[Obstacle], list[tuple[int, str]]]:
        stay, lost = [], []
        for item in plan.obstacles.values():
            cells = item.cells
            if self.keep is Keep.PLACE:
                middles = (plan.spec.centre(cell) for cell in cells)
                cells = tuple(dict.fromkeys(self.spec.locate_virtual(*at) for at in middles))
            why = self._claim(held, cells)
            if why is not None:
                lost.append((item.number, f"{item.name}{why}"))
            else:
                stay.append(replace(item, cells=cells))
        return stay, lost

    def _claim(self, held: npt.NDArray[np.bool_], cells: Iterable[Cell]) -> str | None:
        """Take the cells, or say why not: outside without a word, or because they are taken."""
        cells = list(cells)
        if not all(self.spec.contains(cell) for cell in cells):
            return ""
        slots = [self.spec.slot(cell) for cell in cells]
        if any(held[slot] for slot in slots):
            return phrase(" (its cells are taken)")
        for slot in slots:
            held[slot] = True
        return None


class GridChange(Change):
    """The plan on another grid. Undo and redo only change two whole states for each other, whatever
    their size; `prepared` may be worked out ahead, elsewhere, from a snapshot."""

    layer = "grid"

    @property
    def dirties_cells(self) -> bool:
        return False  # the other state has its own

    @property
    def reforms(self) -> bool:
        return True

    def __init__(self, question: Regrid, prepared: Plan | None = None) -> None:
        self.question = question
        self._other: dict[str, object] | None = dict(vars(prepared)) if prepared else None

    def write(self, plan: Plan, undo: bool) -> Boxes:
        if self._other is None:
            self._other = dict(vars(self.question.work_out(plan)[0]))
        here = dict(vars(plan))
        vars(plan).update(self._other)
        # The counts go on, whichever state is there.
        plan.version, plan.revision = here["version"], here["revision"]
        plan.in_gesture = here["in_gesture"]
        self._other = here
        return (plan.spec.box,)
