"""Changes of single values of a plan, from which nothing on the map follows."""

from __future__ import annotations

from typing import Any

from woven_locus.core.accepted import Accepted
from woven_locus.core.editing.change import Boxes, Change
from woven_locus.core.grid.snapping import SnapSettings
from woven_locus.core.lanes import KeepSide
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.core.vehicles import TrafficPlan
from woven_locus.core.wave_plan import WavePlan


class ValueChange(Change, Value):
    """A value of the plan, in the field that `layer` names. Nothing on the map follows from it."""

    before: Any
    after: Any

    @property
    def dirties_cells(self) -> bool:
        return False

    def write(self, plan: Plan, undo: bool) -> Boxes:
        setattr(plan, self.layer, self.before if undo else self.after)
        return ()


class NameChange(ValueChange):
    """What the plan is called."""

    before: str
    after: str

    layer = "name"


class MoneyChange(ValueChange):
    """What the money is called."""

    before: str
    after: str

    layer = "money"

    @property
    def reforms(self) -> bool:
        return True  # prices of kinds are shown in it


class KeepSideChange(ValueChange):
    """The side of the road on which traffic goes."""

    before: KeepSide
    after: KeepSide

    layer = "keep"

    def write(self, plan: Plan, undo: bool) -> Boxes:
        ValueChange.write(self, plan, undo)
        plan.lanes.reset(plan.road_table, plan.keep)
        return ()


class TrafficChange(ValueChange):
    """The kinds of vehicle and the trips. Nothing on the map changes."""

    before: TrafficPlan
    after: TrafficPlan

    layer = "traffic"


class WavesChange(ValueChange):
    """Entries, goals, attackers and waves. Nothing on the map changes, but where one may build."""

    before: WavePlan
    after: WavePlan

    layer = "waves"


class AcceptedChange(ValueChange):
    """The findings that are taken as they are. Nothing else changes."""

    before: tuple[Accepted, ...]
    after: tuple[Accepted, ...]

    layer = "accepted"


class SnapChange(ValueChange):
    """How points snap. Nothing on the map changes."""

    before: SnapSettings
    after: SnapSettings

    layer = "snap"

    def joined(self, later: Change) -> SnapChange | None:
        """This and the next one as one: a rule is tried out among others."""
        return SnapChange(self.before, later.after) if isinstance(later, SnapChange) else None
