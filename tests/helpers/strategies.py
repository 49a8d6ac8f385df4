"""Hypothesis strategies: grids, footprints, plans, and edits on them."""

from __future__ import annotations

import string

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.helpers.builders import KINDS
from tests.helpers.wave_strategies import towers, wave_plans
from woven_locus.core.accepted import Accepted
from woven_locus.core.books import Funds
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import BuildWindow, GridSpec, SnapSettings
from woven_locus.core.grid import Rule as SnapRule
from woven_locus.core.ground import Obstacle
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule
from woven_locus.core.kinds import (
    Catalogue,
    Clear,
    Demands,
    Footprint,
    Kind,
    Lattice,
    Stand,
    Thing,
    Touch,
)
from woven_locus.core.lanes import KeepSide
from woven_locus.core.layers import LAYERS
from woven_locus.core.names import name_problem
from woven_locus.core.plan import Plan
from woven_locus.core.vehicles import (
    Spacing,
    TrafficPlan,
    Trip,
    TripRule,
    VehicleKind,
)
from woven_locus.core.ways.roads import PLAIN, SIGN_SHIFT, RoadClass, RoadTable, Sign
from woven_locus.document.starter import starter_terrain

ROADS = RoadTable([*PLAIN, RoadClass("path", "Path", "p", 2.0, 1.75, 1, "#C0A070")])

sizes = st.floats(0.01, 1000, allow_nan=False)
places = st.floats(-1e6, 1e6, allow_nan=False)
words = st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=12).filter(
    lambda text: not name_problem(text)
)


@st.composite
def grids(draw: st.DrawFn, largest: int = 40) -> GridSpec:
    return GridSpec(
        draw(st.integers(1, largest)),
        draw(st.integers(1, largest)),
        draw(sizes),
        draw(sizes),
        draw(places),
        draw(places),
        draw(st.booleans()),
        draw(st.integers(-1000, 1000)),
        draw(st.integers(-1000, 1000)),
        draw(words),
        draw(st.booleans()),
    )


@st.composite
def cells_of(draw: st.DrawFn, spec: GridSpec, beyond: int = 0) -> Cell:
    return Cell(
        draw(st.integers(spec.first_col - beyond, spec.last.col + beyond)),
        draw(st.integers(spec.first_row - beyond, spec.last.row + beyond)),
    )


footprints = st.builds(
    Footprint,
    st.sets(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=1, max_size=8).map(
        lambda cells: tuple(
            (c - min(x for x, _ in cells), r - min(y for _, y in cells)) for c, r in cells
        )
    ),
)


_terrain_keys = [item.key for item in starter_terrain()] + ["no-such-ground"]
_kind_keys = ["", "hut", "barn", "k0", "no-such-kind"]
_things = st.sampled_from(Thing).flatmap(
    lambda thing: st.tuples(
        st.just(thing),
        st.sampled_from(
            _terrain_keys if thing is Thing.TERRAIN else _kind_keys if thing is Thing.KIND else [""]
        ),
    )
)
_some_terrain = st.lists(st.sampled_from(_terrain_keys), min_size=1, max_size=4).map(tuple)
_sides = st.sets(st.integers(0, 3), min_size=1).map(tuple)
demands = st.builds(
    Demands,
    terrain=st.none() | st.none() | _some_terrain,
    slope=st.none() | st.floats(0, 89),
    stand=st.none() | st.builds(Stand, _some_terrain, st.integers(0, 3)),
    touch=st.lists(
        st.builds(lambda w, n, s: Touch(*w, n, s), _things, st.integers(1, 3), _sides), max_size=2
    ).map(tuple),
    clear=st.lists(
        st.builds(lambda w, n: Clear(*w, n), _things, st.integers(1, 3)), max_size=2
    ).map(tuple),
    lattice=st.none()
    | st.builds(
        Lattice,
        st.integers(1, 3),
        st.integers(1, 3),
        st.integers(-5, 5),
        st.integers(-5, 5),
    ),
    reach=st.none() | st.floats(0.5, 5e3),
    least=st.integers(0, 2),
    most=st.none() | st.integers(2, 4),
    access=st.booleans(),
)
turns = st.sets(st.integers(0, 3), min_size=1).map(tuple)


@st.composite
def kinds(draw: st.DrawFn, key: str) -> Kind:
    """A kind with or without rules, turns, doors and yields of its own."""
    shape = draw(footprints)
    doors = draw(st.lists(st.sampled_from(shape.open_sides()), max_size=2))
    return Kind(
        key,
        draw(words),
        draw(st.text("ABCÄ", min_size=1, max_size=3)),
        "#112233",
        draw(st.integers(0, 99)),
        Footprint(shape.cells, tuple(doors)),
        draw(st.just((0, 1, 2, 3)) | turns),
        draw(st.booleans()),
        draw(st.none() | st.tuples(sizes, sizes)),
        draw(st.integers(-5, 50)),
        draw(st.integers(0, 40)),
        draw(st.just(Demands()) | demands),
        draw(st.none() | towers()),
    )


levels = st.floats(-1000, 1000, width=32) | st.just(float("nan"))


@st.composite
def windows(draw: st.DrawFn, spec: GridSpec) -> BuildWindow:
    low = draw(cells_of(spec, beyond=3))
    return BuildWindow(low, draw(st.integers(1, 12)), draw(st.integers(1, 12)))


# Layers that are drawn together, since they must agree with one another.
_OWN_WAY = ("terrain", "reserved", "road", "barrier", "heights")


@st.composite
def traffics(draw: st.DrawFn, spec: GridSpec) -> TrafficPlan:
    """Kinds of vehicle, trips between cells and structures that may be there or not, rules of junctions."""
    vehicles = tuple(
        VehicleKind(
            f"v{k}", draw(words.filter(str.strip)), "#102030", *(draw(sizes) for _ in range(7))
        )
        for k in range(draw(st.integers(0, 2)))
    )
    ends = st.integers(1, 9) | cells_of(spec)
    trips = st.builds(
        Trip,
        ends,
        ends,
        st.floats(0, 1e6),
        st.sampled_from(["", *(kind.key for kind in vehicles)]),
        st.floats(0, 1e6),
        st.integers(1, 1000),
    )
    rules = st.builds(
        TripRule,
        st.sampled_from(["hut", "barn", "gone"]),
        st.sampled_from(["hut", "barn"]),
        st.sampled_from(["", *(kind.key for kind in vehicles)]),
        st.floats(0, 1e6),
        st.floats(0.1, 1e6),
        st.integers(1, 1000),
        st.sampled_from(Spacing),
    )
    made = TrafficPlan(
        vehicles,
        tuple(draw(st.lists(trips, max_size=3))),
        rules=tuple(draw(st.lists(rules, max_size=2))),
    )
    for cell in draw(st.sets(cells_of(spec), max_size=3)):
        made = made.with_rule(cell, draw(junction_rules(cell)))
    return made


@st.composite
def junction_rules(draw: st.DrawFn, cell: Cell) -> JunctionRule:
    if draw(st.booleans()):
        return JunctionRule(cell, Rule.LARGER)
    turn = st.tuples(st.integers(0, 3), st.integers(0, 3))
    phase = st.builds(
        Phase,
        st.sets(turn, max_size=5).map(lambda some: tuple(sorted(some))),
        st.floats(0.1, 99),
        st.floats(0, 9),
    )
    phases = draw(st.lists(phase, min_size=1, max_size=3))
    return JunctionRule(cell, Rule.SIGNALS, tuple(phases), draw(st.floats(0, 99)))


@st.composite
def plans(draw: st.DrawFn, largest: int = 12) -> Plan:
    """Random ground, obstacles and road; nothing built yet."""
    spec = draw(grids(largest))
    layer = lambda top: hnp.arrays(np.uint8, spec.shape, elements=st.integers(0, top))  # noqa: E731
    table = starter_terrain()
    road = draw(layer(3)) == 3
    signs = draw(hnp.arrays(np.uint8, spec.shape, elements=st.sampled_from([0] * 9 + [*Sign])))
    classes = draw(layer(1)) + np.uint8(1)
    where = draw(st.sets(cells_of(spec), max_size=4))
    free = [cell for cell in sorted(where) if not road[spec.slot(cell)]]
    barrier = (draw(layer(4)) == 4) & ~road
    free = [cell for cell in free if not barrier[spec.slot(cell)]]
    others = {
        row.name: draw(hnp.arrays(np.uint8, spec.shape, elements=st.sampled_from(codes)))
        for row in LAYERS
        if row.name not in _OWN_WAY and row.known is not None
        for codes in (np.flatnonzero(row.known(None)).tolist(),)  # type: ignore[arg-type]
    }
    return Plan(
        draw(words),
        spec,
        table,
        Catalogue([*KINDS, *(draw(kinds(f"k{k}")) for k in range(2))]),
        terrain=draw(layer(len(table) - 1)),
        reserved=(draw(layer(5)) == 5).astype(np.uint8),
        road=np.where(road, classes | signs << np.uint8(SIGN_SHIFT), 0).astype(np.uint8),
        road_table=ROADS,
        barrier=barrier.astype(np.uint8),
        heights=draw(st.none() | hnp.arrays(np.float32, spec.shape, elements=levels)),
        window=draw(st.none() | windows(spec)),
        obstacles=[Obstacle(k + 1, draw(words), "rowan", (c,)) for k, c in enumerate(free)],
        money="".join(draw(st.lists(st.sampled_from(string.ascii_letters), max_size=5))),
        funds=draw(
            st.none()
            | st.builds(Funds, st.integers(0, 2000), st.integers(0, 100), st.integers(0, 99))
        ),
        actor=draw(st.none() | st.builds(Point, places, places)),
        keep=draw(st.sampled_from(KeepSide)),
        traffic=draw(traffics(spec)),
        waves=draw(wave_plans(spec)),
        accepted=draw(accepted(spec)),
        snap=draw(snaps),
        **others,
    )


_steps = st.none() | st.floats(0.01, 100, allow_nan=False)
snaps = st.builds(
    SnapSettings,
    *(st.sampled_from(SnapRule), _steps, _steps, st.booleans()),
    *(st.integers(1, 9), st.integers(1, 9), st.integers(-3, 3), st.integers(-3, 3)),
)


@st.composite
def accepted(draw: st.DrawFn, spec: GridSpec) -> tuple[Accepted, ...]:
    """Findings that are taken as they are: at cells, of structures (which may not be there), of the whole plan."""
    cells = st.builds(
        Cell,
        st.integers(spec.first_col, spec.last.col),
        st.integers(spec.first_row, spec.last.row),
    )
    one = st.one_of(
        st.builds(Accepted, st.sampled_from(["near-miss", "dead-end"]), words, cells),
        st.builds(Accepted, st.just("cut-off"), words, st.none(), st.integers(1, 9)),
        st.builds(Accepted, st.just("debt"), words),
    )
    found = draw(st.lists(one, max_size=3))
    return tuple({item.key: item for item in found}.values())
