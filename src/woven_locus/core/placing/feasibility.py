"""Where could this kind go? The whole map's answer at once, kept current from edited boxes."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core.derived.rules import BIT, Mask, Reason
from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box, Cell, strips
from woven_locus.core.kinds import Kind
from woven_locus.core.placing import clearance
from woven_locus.core.placing.asking import Ask, KindRule, Spots
from woven_locus.core.placing.kind_rules import KIND_RULES
from woven_locus.core.placing.shifts import any_over, padded, reach_of, wide_of
from woven_locus.core.placing.things import is_terrain
from woven_locus.core.plan import Plan

Why = npt.NDArray[np.uint16]
# Masks of a block by reason.
Shared = dict[Reason, Mask]

# The bit of each reason in a `why` layer: those of the cells as in the blocks layer, the kind's above.
WHY_BIT: dict[Reason, int] = {
    **BIT,
    **{
        rule.reason: 256 << at
        for at, rule in enumerate(rule for rule in KIND_RULES if rule.spots is not None)
    },
}
# More than any `why` can be.
_WHYS = 2 * max(WHY_BIT.values())
# Classes of `Feasibility.shades`, each darker than the one before.
FREE, TURNED, ONE_REASON, SEVERAL = 1, 2, 3, 5
# More edited blocks than this are looked at as one.
FEW = 16
# Cells that are worked on at a time: few enough to stay in the processor's cache.
STRIP = 1 << 18


def always_refused(plan: Plan, kind: Kind, turn: int, lifted: int = 0) -> tuple[Reason, ...]:
    """The reasons that hold on every spot: funds, number, turn."""
    ask = Ask(plan, kind, Cell(0, 0), turn, plan.footprint(kind, turn), 0, 0, lifted)
    return tuple(
        rule.reason
        for rule in KIND_RULES
        if rule.spots is None and rule.asked(plan, kind) and rule.check(ask) is not None
    )


def why_not(plan: Plan, kind: Kind, turn: int, box: Box, lifted: int = 0) -> Why:
    """Which reasons refuse the kind on each spot of a block.

    A spot is the slot of the footprint's lowest cell. Returns (box rows, box cols) uint16 of WHY_BIT
    bits, 0 where it may stand as far as the map is asked; see `always_refused` for the rest.
    box : within the grid.
    """
    out = np.empty(box.shape, np.uint16)
    for part in strips(box, STRIP):
        out[part.seen_from(box).slices] = _why_not(plan, kind, turn, part, lifted, {})
    return out


def _why_not(plan: Plan, kind: Kind, turn: int, box: Box, lifted: int, shared: Shared) -> Why:
    """`why_not` of one strip; see `_kind_refuses`."""
    out: Why = _cells_refuse(plan, kind, turn, box, lifted).astype(np.uint16)
    for reason, mask in _kind_refuses(plan, kind, turn, box, lifted, shared):
        # Not `where=mask`: NumPy takes that one cell at a time.
        out |= np.multiply(mask, np.uint16(WHY_BIT[reason]), dtype=np.uint16)
    return out


def _fits(plan: Plan, kind: Kind, turn: int, box: Box, lifted: int, shared: Shared) -> Mask:
    """Whether nothing refuses the kind, on each spot of a block; see `_kind_refuses`."""
    bits = _cells_refuse(plan, kind, turn, box, lifted)
    for _reason, mask in _kind_refuses(plan, kind, turn, box, lifted, shared):
        bits |= mask.view(np.uint8)
    return np.equal(bits, 0)


def _cells_refuse(
    plan: Plan, kind: Kind, turn: int, box: Box, lifted: int
) -> npt.NDArray[np.uint8]:
    """The bits of the cells under the footprint, on each spot of a block; an array of its own."""
    footprint = plan.footprint(kind, turn)
    reach = reach_of(footprint.cells)
    wide = wide_of(box, reach)
    bits = padded(plan.blocks, wide, BIT[Reason.OUTSIDE])
    if kind.demands.terrain is not None:
        bits = _own_terrain(plan, kind, bits, wide)
    if lifted:
        gone = padded(plan.occupant, wide, 0) == lifted
        bits = np.where(gone, bits & ~np.uint8(BIT[Reason.OCCUPIED]), bits)
    return any_over(bits, reach, box.shape, footprint.cells)


def _kind_refuses(
    plan: Plan, kind: Kind, turn: int, box: Box, lifted: int, shared: Shared
) -> Iterator[tuple[Reason, Mask]]:
    """Where the rules of the kind itself refuse it, in a block.

    shared : masks that are the same in every turn, handed on from turn to turn of the same block.
    """
    asked: list[KindRule] = [r for r in KIND_RULES if r.spots is not None and r.asked(plan, kind)]
    if not asked:
        return
    spots = Spots(plan, kind, turn, plan.footprint(kind, turn), box, lifted, shared)
    for rule in asked:
        assert rule.spots is not None
        yield rule.reason, rule.spots(spots)


def _own_terrain(
    plan: Plan, kind: Kind, bits: npt.NDArray[np.uint8], wide: Box
) -> npt.NDArray[np.uint8]:
    """The blocks with the terrain that the kind allows in place of what may be built on."""
    inside = wide.clipped(plan.blocks.shape)
    part = inside.seen_from(wide).slices
    bits = bits & ~np.uint8(BIT[Reason.TERRAIN])
    bad = ~is_terrain(plan, kind.demands.terrain or (), inside)
    bits[part] |= bad.view(np.uint8) * np.uint8(BIT[Reason.TERRAIN])
    return bits


def feasible_map(plan: Plan, kind: Kind, turn: int = 0) -> Mask:
    """For every slot: may the kind stand with its lowest cell there?

    Returns (rows, cols) bool. Agrees with `judge` for every slot. Full rectangles and runs of cells are
    looked at by windows whose width doubles, so that the cost hardly grows with the footprint.
    """
    if always_refused(plan, kind, turn):
        return np.zeros(plan.spec.shape, bool)
    out = np.empty(plan.spec.shape, bool)
    for part in strips(plan.spec.box, STRIP):
        out[part.slices] = _fits(plan, kind, turn, part, 0, {})
    return out


def feasible_maps(plan: Plan, kind: Kind) -> list[Mask]:
    """`feasible_map` for every turn that the kind takes, side by side: what does not depend on the turn
    is worked out once."""
    turns = kind.all_turns
    out = [np.zeros(plan.spec.shape, bool) for _turn in turns]
    for part in strips(plan.spec.box, STRIP):
        shared: Shared = {}
        for turn, fits in zip(turns, out, strict=True):
            fits[part.slices] = _fits(plan, kind, turn, part, 0, shared)
    for turn, fits in zip(turns, out, strict=True):
        if always_refused(plan, kind, turn):
            fits[:] = False
    return out


def margin(plan: Plan, kind: Kind) -> int:
    """Cells around a footprint on which its rules depend."""
    return max(1, clearance.furthest(plan, kind))


def looked_at(boxes: Sequence[Box]) -> Sequence[Box]:
    """The blocks that are looked at again after an edit of some: of very many the one around them."""
    return boxes if len(boxes) <= FEW else [Box.around_all(boxes)]


class Feasibility:
    """The map of one kind: for the turn in hand with all its reasons, for the others whether.

    why : (rows, cols) uint16, see `why_not`.  fits : (rows, cols) uint8, bit t where the kind fits turned
    by t.  free, free_any : spots for the turn in hand, for any turn that the kind takes; they leave out
    `always`.  always : reasons that hold everywhere.
    """

    def __init__(
        self,
        plan: Plan,
        kind: Kind,
        turn: int,
        lifted: int = 0,
        stopped: Callable[[], bool] = lambda: False,
    ) -> None:
        """`stopped` ends it early; the result is then not to be used."""
        self._plan, self.kind, self.turn, self.lifted = plan, kind, turn, lifted
        self.why = np.zeros(plan.spec.shape, np.uint16)
        self.fits = np.zeros(plan.spec.shape, np.uint8)
        self._counts = np.zeros(_WHYS, np.int64)
        self.free_any = 0
        self.always: tuple[Reason, ...] = ()
        self._had_entries = bool(plan.waves.entries)
        for part in strips(plan.spec.box, STRIP):
            if stopped():
                return
            self._work_out(part, first=True)
        self.ask_again()

    def now_of(self, plan: Plan) -> None:
        """It was worked out on a copy of this plan, which is still the same."""
        self._plan = plan

    def ask_again(self) -> None:
        """What holds everywhere may be another answer now."""
        self.always = always_refused(self._plan, self.kind, self.turn, self.lifted)

    @property
    def free(self) -> int:
        """How many spots there are in a turn."""
        return int(self._counts[0])

    def alone(self) -> dict[Reason, int]:
        """For each reason of the map: spots that it alone rules out."""
        return {reason: int(self._counts[bit]) for reason, bit in WHY_BIT.items()}

    def shades(
        self, box: Box, any_turn: bool, skip: int = 1, upside_down: bool = False
    ) -> npt.NDArray[np.uint8]:
        """The overlay's class of each cell of a block, a spot shown at the middle of its footprint, where
        the pointer holds it: FREE, TURNED, ONE_REASON or SEVERAL. (box rows, box cols) uint8.

        any_turn : a spot counts as free when the kind fits there in any turn.  skip : only every n-th row
        and column only.  upside_down : the last row first.
        """
        r, c = self._middle()
        spots = Box(box.r0 - r, box.c0 - c, box.r1 - r, box.c1 - c)
        step = (slice(None, None, -skip if upside_down else skip), slice(None, None, skip))
        why = padded(self.why, spots, np.uint16(BIT[Reason.OUTSIDE] | BIT[Reason.TERRAIN]))[step]
        fits = padded(self.fits, spots, np.uint8(0))[step]
        out = np.full(why.shape, SEVERAL, np.uint8)
        if self.always:
            return out
        out[(why & (why - np.uint16(1))) == 0] = ONE_REASON
        out[fits != 0] = FREE if any_turn else TURNED
        out[why == 0] = FREE
        return out

    def shown(self, box: Box) -> Box:
        """Where a block of spots is shown: see `shades`."""
        r, c = self._middle()
        return Box(box.r0 + r, box.c0 + c, box.r1 + r, box.c1 + c)

    def _middle(self) -> tuple[int, int]:
        """Rows and columns from a spot to the cell that shows it."""
        footprint = self._plan.footprint(self.kind, self.turn)
        return (footprint.rows - 1) // 2, (footprint.cols - 1) // 2

    def is_void(self, notice: Notice) -> bool:
        """Whether an edit changed the answer elsewhere than near what it touched: the map is to be worked out anew."""
        return (
            notice.reformed
            or ("actor" in notice.layers and self.kind.demands.reach is not None)
            # What takes the last way may now be another spot far away.
            or self._had_entries
            or bool(self._plan.waves.entries)
        )

    def update(self, notice: Notice) -> list[Box]:
        """Look again at what an edit touched; returns the blocks of spots that it did. Not for an edit
        after which it `is_void`."""
        self.ask_again()
        changed: list[Box] = []
        if not notice.boxes:
            return changed
        footprints = [self._plan.footprint(self.kind, turn) for turn in self.kind.all_turns]
        more = margin(self._plan, self.kind)
        side_r = max(footprint.rows for footprint in footprints) - 1
        side_c = max(footprint.cols for footprint in footprints) - 1
        for box in looked_at(notice.boxes):
            wide = Box(
                box.r0 - more - side_r, box.c0 - more - side_c, box.r1 + more, box.c1 + more
            ).clipped(self._plan.spec.shape)
            if not wide.empty:
                changed.append(wide)
        for box in changed:
            for part in strips(box, STRIP):
                self._work_out(part, first=False)
        return changed

    def _work_out(self, box: Box, first: bool) -> None:
        why, fits = self.why[box.slices], self.fits[box.slices]
        if not first:
            self._counts -= np.bincount(why.ravel(), minlength=_WHYS)
            self.free_any -= int(np.count_nonzero(fits))
        fits[:] = 0
        shared: Shared = {}
        why[:] = _why_not(self._plan, self.kind, self.turn, box, self.lifted, shared)
        for turn in self.kind.all_turns:
            free = (
                why == 0
                if turn == self.turn
                else _fits(self._plan, self.kind, turn, box, self.lifted, shared)
            )
            fits |= free.view(np.uint8) << np.uint8(turn)
        self._counts += np.bincount(why.ravel(), minlength=_WHYS)
        self.free_any += int(np.count_nonzero(fits))


def nearest_spot(
    plan: Plan,
    kind: Kind,
    turn: int,
    cell: Cell,
    lifted: int = 0,
    furthest: int | None = None,
) -> Cell | None:
    """The spot nearest to a low cell where the kind may stand, by world distance; None when there is none
    (within `furthest` cells). Ties go to the lowest row, then column."""
    if always_refused(plan, kind, turn, lifted):
        return None
    spec = plan.spec
    row, col = spec.slot(cell)
    most = max(abs(row), abs(col), abs(row - spec.rows), abs(col - spec.cols)) + 1
    ring = 16
    while True:
        ring = min(ring, most if furthest is None else furthest)
        box = Box(row - ring, col - ring, row + ring + 1, col + ring + 1).clipped(spec.shape)
        if not box.empty:
            slots = np.argwhere(why_not(plan, kind, turn, box, lifted) == 0)
            d_row = (slots[:, 0] + box.r0 - row) * spec.cell_h
            d_col = (slots[:, 1] + box.c0 - col) * spec.cell_w
            away = d_row * d_row + d_col * d_col
            if len(slots):
                best = int(np.argmin(away))
                # A nearer one can only lie beyond the block if its corner is further than its side.
                side = ring * min(spec.cell_w, spec.cell_h)
                if away[best] <= side * side or ring in (most, furthest):
                    r, c = slots[best].tolist()
                    return spec.cell_of_slot((box.r0 + r, box.c0 + c))
        if ring in (most, furthest):
            return None
        ring *= 4
