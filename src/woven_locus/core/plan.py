"""The plan: the document that holds grid, ground, kinds, structures and roads together.

Only `editing.History` changes a plan after it was made. What follows from the recorded layers
(`occupant`, `blocks`, `movement`, the road network) is kept current from the edited boxes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from copy import copy
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from woven_locus.core.accepted import Accepted, check_accepted
from woven_locus.core.books import Account, Funds
from woven_locus.core.claims import take_obstacles, take_structures
from woven_locus.core.derived.cells import derive_cells, derive_occupied
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.grid import BuildWindow, GridSpec, SnapSettings
from woven_locus.core.grid.snapping import PLAIN_SNAP
from woven_locus.core.ground import Obstacle, TerrainTable
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.lanes import KeepSide, LaneNetwork
from woven_locus.core.layers import LAYERS, checked
from woven_locus.core.names import name_problem
from woven_locus.core.phrase import phrase
from woven_locus.core.register import Alike, Register, Structure, structure_id
from woven_locus.core.side_by_side import THREADS, each
from woven_locus.core.vehicles import NO_TRAFFIC, TrafficPlan
from woven_locus.core.wave_plan import NO_WAVES, WavePlan
from woven_locus.core.ways.doors import approaches_alike
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import PLAIN, RoadTable

Kept = TypeVar("Kept")
ByteGrid = npt.NDArray[np.uint8]
Heights = npt.NDArray[np.float32]

# Slots from which on two threads are worth it.
_MANY_SLOTS = 1 << 15


class Plan:
    """See the module. All arrays are (rows, cols), C order.

    The recorded layers are those of `layers.LAYERS`, an attribute each:
    terrain : uint8, code of the terrain class.  reserved : uint8, 1 where only building is barred.
    road : uint8, 0 or a class and a sign, see `ways.roads`.  barrier : uint8, 1 where one runs; never
    both.  heights : float32, world units, NaN where the height is not known; None for a plan without.

    occupant : int32, a structure's number, minus an obstacle's number, or 0.
    blocks, movement : see `derived`.
    window : the part that may be built on, or None for all of it.
    funds : the money, or None where it is not kept.  account : what follows from it.
    actor : where the player's actor stands, or None.  keep : the side of the road on which traffic goes.
    traffic : the kinds of vehicle, and the trips that they make.  waves : entries, goals, and who comes.
    accepted : findings that are taken as they are.  snap : how points snap.  schema : where an editor of the document's text
    finds its schema, kept for it.
    network, lanes : the junction graph and the lane graph of the roads.
    """

    terrain: ByteGrid
    reserved: ByteGrid
    road: ByteGrid
    barrier: ByteGrid
    heights: Heights | None

    def __init__(
        self,
        name: str,
        spec: GridSpec,
        terrain_table: TerrainTable,
        kinds: Catalogue | None = None,
        *,
        road_table: RoadTable = PLAIN,
        window: BuildWindow | None = None,
        obstacles: Iterable[Obstacle] = (),
        structures: Iterable[Structure] = (),
        next_number: int = 1,
        money: str = "coins",
        funds: Funds | None = None,
        actor: Point | None = None,
        keep: KeepSide = KeepSide.RIGHT,
        traffic: TrafficPlan = NO_TRAFFIC,
        waves: WavePlan = NO_WAVES,
        accepted: tuple[Accepted, ...] = (),
        snap: SnapSettings = PLAIN_SNAP,
        schema: str | None = None,
        **layers: npt.NDArray[Any] | None,
    ) -> None:
        """layers : the recorded layers by name; one that is not given is empty. Arrays are taken over, not
        copied. Raises BadPlan when the parts contradict each other, TypeError for a layer that is none."""
        self.name, self.spec, self.money = name, spec, money
        for where, text in (("name", name), ("money", money)):
            if problem := name_problem(text):
                raise BadPlan(where, problem)
        # Grows by one when an edit begins to write, and by one when it has ended; see `snapshot`.
        self.version = 0
        # Which state this is: moves with everything that changes what is saved. Whoever works beside
        # the document holds its answer against this one number.
        self.revision = 0
        # What was worked out from it, by name, and for which `version`; each copy keeps its own.
        self._kept: dict[str, tuple[int, Any]] = {}
        # Whether a gesture is under way, of which only a part may be there.
        self.in_gesture = False
        self.terrain_table, self.road_table = terrain_table, road_table
        self.kinds = kinds if kinds is not None else Catalogue()
        self.window, self.funds, self.actor, self.keep = window, funds, actor, keep
        self.traffic, self.waves, self.accepted = traffic, waves, accepted
        self.snap, self.schema = snap.kept, schema
        check_accepted(accepted, spec.contains)
        _check_waves(waves, spec)
        self._take_layers(layers)
        self.occupant = np.zeros(spec.shape, np.int32)
        self.obstacles: dict[int, Obstacle] = {}
        take_obstacles(self, obstacles)
        self.register = Register()
        take_structures(self, structures, next_number)
        self.account = Account(self.register, self.kinds, funds)
        self.network = RoadNetwork(self.road, road_table, cell=(spec.cell_w, spec.cell_h))
        self.lanes = LaneNetwork(self.road, road_table, spec, keep)
        self.count_doors(self.register.alike(), 1)
        self.blocks: ByteGrid = np.empty(spec.shape, np.uint8)
        self.movement: ByteGrid = np.empty(spec.shape, np.uint8)
        derive_cells(self, spec.box)

    # --- making one ---------------------------------------------------------------------------------

    def _take_layers(self, given: dict[str, npt.NDArray[Any] | None]) -> None:
        for layer in LAYERS:
            array = given.pop(layer.name, None)
            if array is None:
                array = None if layer.optional else layer.made(self.spec.shape)
            else:
                array = checked(layer, array, self)
            setattr(self, layer.name, array)
        if given:
            raise TypeError(phrase("a plan has no layer {names}", names=", ".join(given)))
        if (both := (self.road != 0) & (self.barrier != 0)).any():
            row, col = np.argwhere(both)[0]
            raise BadPlan(
                "barriers", phrase("row {row}, column {col} holds a road too", row=row, col=col)
            )

    # --- asking ---------------------------------------------------------------------------------------

    def footprint(self, kind: Kind, turn: int) -> Footprint:
        """A kind's footprint in columns and rows of this plan, after a turn as seen on screen (see
        `kinds.turns`): where rows grow up the screen the same picture has its last row first."""
        turned = kind.footprint.turned(turn)
        return turned.upside_down() if self.spec.y_up else turned

    def footprint_of(self, structure: Structure) -> Footprint:
        """The footprint of a structure as it lies."""
        return self.footprint(self.kinds[structure.kind], structure.turn)

    def may_address(self, cell: Cell) -> bool:
        """The strict answer: whether the game's grid has the cell. It is the window, if there is one,
        and the terrain otherwise."""
        return self.spec.contains(cell) and (self.window is None or self.window.contains(cell))

    def cells_of(self, structure: Structure) -> list[Cell]:
        """The cells that a structure covers."""
        return self.footprint_of(structure).at(structure.cell)

    def approaches_of(self, structure: Structure) -> list[Cell]:
        """The cells just outside a structure's doors (every outer side, without doors)."""
        return self.footprint_of(structure).approaches(structure.cell)

    def box_of(self, structure: Structure) -> Box:
        """The block of slots around a structure."""
        footprint = self.footprint_of(structure)
        row, col = self.spec.slot(structure.cell)
        return Box(row, col, row + footprint.rows, col + footprint.cols)

    def middle_of(self, structure: Structure) -> Point:
        """World place of the middle of a structure's bounding box."""
        return self.middle_at(self.footprint_of(structure), structure.cell)

    def middle_at(self, footprint: Footprint, cell: Cell) -> Point:
        """World place of the middle of a footprint's bounding box whose lowest cell is `cell`."""
        spec = self.spec
        row, col = spec.slot(cell)
        return Point(
            spec.origin_x + (col + footprint.cols / 2) * spec.cell_w,
            spec.origin_y + (row + footprint.rows / 2) * spec.cell_h,
        )

    def title_of(self, who: int) -> str:
        """A name for what an occupant number stands for: ``S12 Dye works``, ``Old Tam``."""
        if who < 0:
            return self.obstacles[-who].name
        structure = self.register[who]
        return f"{structure_id(who)} {self.kinds[structure.kind].name}"

    def occupant_at(self, cell: Cell) -> int:
        """Structure number, minus obstacle number, or 0 (outside the grid too)."""
        return int(self.occupant[self.spec.slot(cell)]) if self.spec.contains(cell) else 0

    def worked_out(self, name: str, make: Callable[[Plan], Kept]) -> Kept:
        """What `make` says of the plan as it is; kept under a name until the plan is written to. For the thread that
        edits, or of a plan that nobody else writes to."""
        held = self._kept.get(name)
        if held is None or held[0] != self.version:
            held = self._kept[name] = self.version, make(self)
        found: Kept = held[1]
        return found

    # --- copies ---------------------------------------------------------------------------------------

    def snapshot(self) -> Plan:
        """A copy of what is recorded, for work that goes on while this plan changes. What is
        derived is shared and not kept current, but for the road network: read the recorded layers and
        the register only. `revision` says which state it holds.

        It may be taken on another thread than the one that edits, so that a large copy holds nobody
        up: an edit that comes in between is noticed, and the copy made again.
        """
        return self._between_writes(self._copied)

    def twin(self) -> Plan:
        """An independent copy that edits may be tried on, derived layers and all; otherwise as
        `snapshot`."""
        return self._between_writes(self._copied_whole)

    def _between_writes(self, copied: Callable[[], Plan]) -> Plan:
        while True:
            before = self.version
            try:
                twin = copied()
            except (RuntimeError, KeyError, IndexError, ValueError):
                # A dict, or a list of rows, changed while it was copied.
                if before == self.version and before % 2 == 0:
                    raise
                continue
            if before == self.version and before % 2 == 0:
                return twin

    def _copied(self) -> Plan:
        twin = copy(self)
        twin._kept = {}
        for layer in LAYERS:
            array = getattr(self, layer.name)
            setattr(twin, layer.name, array.copy() if array is not None else None)
        # Worked out anew when asked for: this plan's own may be in the middle of it.
        doors, cell = self.network.doors.copy(), self.network.cell
        twin.network = RoadNetwork(twin.road, self.road_table, doors, cell)
        twin.lanes = self.lanes.copied(twin.road)
        twin.obstacles = dict(self.obstacles)
        twin.register = self.register.copied()
        return twin

    def _copied_whole(self) -> Plan:
        twin = self._copied()
        twin.occupant, twin.blocks = self.occupant.copy(), self.blocks.copy()
        twin.movement = self.movement.copy()
        twin.account = self.account.copied()
        return twin

    # --- for edits only -------------------------------------------------------------------------------

    def put_obstacles(self, obstacles: Sequence[Obstacle]) -> None:
        """Add, in order of number. For edits only."""
        last = next(reversed(self.obstacles), 0)
        self.obstacles.update((item.number, item) for item in obstacles)
        if obstacles and min(item.number for item in obstacles) < last:
            self.obstacles = dict(sorted(self.obstacles.items()))

    def count_doors(self, structures: Iterable[Alike], by: int) -> None:
        """Doors that come (1) or go (-1) with structures. For edits only."""
        for group in structures:
            slots = approaches_alike(self, group).ravel()
            slots = slots[slots >= 0]
            np.add.at(self.network.doors.ravel(), slots, np.uint8(by % 256))
            self.network.touch_doors(slots)

    def occupy(self, slots: npt.NDArray[np.int64], who: npt.NDArray[np.integer] | int) -> None:
        """Another occupant at each of these flat slots, and what follows there. For edits only."""
        self.occupant.ravel()[slots] = who
        parts = np.array_split(slots, THREADS) if len(slots) > _MANY_SLOTS else [slots]
        each(parts, lambda: lambda some: derive_occupied(self, some))

    def refresh(self, box: Box, road_changed: bool) -> None:
        """Work out again, within a box, what follows from the recorded layers. For edits only."""
        if box.empty:
            return
        derive_cells(self, box)
        if road_changed:
            self.network.touch(box)
            self.lanes.touch(box)


def _check_waves(waves: WavePlan, spec: GridSpec) -> None:
    for cell in sorted(waves.cells()):
        if not spec.contains(cell):
            at = phrase("cell {col}, {row}", col=cell.col, row=cell.row)
            raise BadPlan(phrase("entries and goals"), phrase("{at} is outside the grid", at=at))
