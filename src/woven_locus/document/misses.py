"""The near misses of a plan, kept current from edited boxes."""

from __future__ import annotations

from collections.abc import Iterable

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box
from woven_locus.core.plan import Plan
from woven_locus.core.proof.misses import Miss, NearMiss, candidates

# Edits of more cells than this are looked at as a whole.
MANY_CELLS = 1 << 16


class MissBook:
    """See `ways.misses`. What depends on pieces of road being apart is asked when it is read."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._found: set[NearMiss] | None = None
        self._holding: list[NearMiss] | None = None

    @property
    def ready(self) -> bool:
        """Whether `found` answers without a look at the whole map."""
        return self._found is not None

    def learn(self, every: Iterable[NearMiss]) -> None:
        """The candidates of the plan as it is now, worked out elsewhere."""
        self._found, self._holding = set(every), None

    @property
    def found(self) -> list[NearMiss]:
        """All that hold now, in order of kind and place."""
        if self._found is None:
            self._found = set(candidates(self._plan))
        if self._holding is None:
            self._holding = sorted(miss for miss in self._found if miss.holds(self._plan))
        return self._holding

    def follow(self, notice: Notice) -> None:
        """Look again at what an edit touched."""
        if self._found is None or not _concerns(notice):
            return
        self._holding = None
        if notice.reformed or notice.cells > MANY_CELLS:
            self._found = None
            return
        for box in notice.boxes:
            # An end lies within three cells of whatever makes it a miss, a door's structure further off.
            around = box.grown(4).clipped(self._plan.spec.shape)
            near = {miss for miss in self._found if self._lies(miss, around)}
            self._found -= near
            self._found.update(candidates(self._plan, around))
        gone = {
            miss
            for miss in self._found
            if miss.structure and miss.structure not in self._plan.register
        }
        self._found -= gone

    def _lies(self, miss: NearMiss, box: Box) -> bool:
        plan = self._plan
        if miss.kind is Miss.DOOR:
            # As `candidates` asks: of the structures that stand in the block, or next to it.
            if miss.structure not in plan.register:
                return True
            cells = plan.cells_of(plan.register[miss.structure])
            return any(box.grown(1).has(plan.spec.slot(cell)) for cell in cells)
        return box.has(plan.spec.slot(miss.at))


# What changes neither where a way runs or could run, nor where a door is.
_PASSING = frozenset({"heights", "funds", "actor"})


def _concerns(notice: Notice) -> bool:
    return notice.reformed or bool(notice.layers - _PASSING)
