"""What a new plan is to be, and where its kinds and classes come from."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.core.wave_plan import NO_WAVES, WavePlan
from woven_locus.demo import open_demo
from woven_locus.document.starter import bare_terrain, new_plan, starter_kinds
from woven_locus.files import catalogue, plan_json

# A source that is no file.
DEMO, NONE = "demo", "none"
# A file, or one of the two words above.
Source = str | Path


class Purpose(Value):
    """kinds, terrain : the sources that are proposed.  stage : where the work begins, a stage's name.
    demo : the kinds and attackers that "demo" stands for."""

    key: str
    name: str
    words: str
    kinds: Source
    terrain: Source
    spec: GridSpec
    stage: str
    demo: Callable[[], tuple[Catalogue, WavePlan]] = lambda: (starter_kinds(), NO_WAVES)


def _defence() -> tuple[Catalogue, WavePlan]:
    """Kinds and attackers, without what belongs to the demo's map."""
    plan = open_demo("thornmoth-pass")
    return plan.kinds, WavePlan(attackers=plan.waves.attackers)


PURPOSES = (
    Purpose(
        "city",
        phrase("A city on roads"),
        phrase("Structures with doors, joined by roads; vehicles and people go between them."),
        DEMO,
        DEMO,
        GridSpec(64, 48, 24, 24),
        phrase("Build"),
    ),
    Purpose(
        "maze",
        phrase("A maze with waves"),
        phrase(
            "Towers and walls that attackers walk around; what would take their last way is refused."
        ),
        DEMO,
        DEMO,
        GridSpec(40, 28, 24, 24),
        phrase("Waves"),
        _defence,
    ),
    Purpose(
        "grid",
        phrase("Only a grid to study"),
        phrase("Points, cells and snapping; one plain class of ground and no kinds."),
        NONE,
        NONE,
        GridSpec(32, 24, 24, 24),
        phrase("Survey"),
    ),
)


class NewPlan(Value):
    """What was asked for. kinds : a catalogue or plan; terrain : a plan, for its classes of terrain and road."""

    spec: GridSpec
    name: str
    kinds: Source = DEMO
    terrain: Source = DEMO
    purpose: Purpose = PURPOSES[0]

    def make(self) -> Plan:
        """The empty plan. Raises FileProblem for a source that cannot be read."""
        given: dict[str, Any] = {}
        if self.kinds == NONE:
            given["kinds"] = Catalogue()
        elif self.kinds == DEMO:
            given["kinds"], given["waves"] = self.purpose.demo()
        else:
            given["kinds"] = catalogue.load(Path(self.kinds))
        if self.terrain == NONE:
            given["terrain"] = bare_terrain()
        elif self.terrain != DEMO:
            source = plan_json.load(Path(self.terrain))
            given |= {"terrain": source.terrain_table, "roads": source.road_table}
        return new_plan(self.spec, self.name, **given)
