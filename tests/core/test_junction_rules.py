"""Who goes first at a junction: the larger road, signals; and signals worked out from what was counted."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_lanes import TABLE, drawn
from tests.core.test_run import CART, CROSSING, WAIN, town, trips_in
from tests.helpers.depth import examples
from woven_locus.core.editing import History
from woven_locus.core.edits.traffic import set_rule
from woven_locus.core.errors import BadPlan, Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule, turn_words
from woven_locus.core.kernels.traffic_state import AT_RED, GIVES_WAY
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import signals
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.traffic.waiting import waits_for
from woven_locus.core.value import replace
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.core.ways.roads import road_byte

MIDDLE = Cell(2, 9)  # of CROSSING
EASTWARDS, NORTHWARDS = (3, 1), (2, 0)


pytestmark = pytest.mark.usefixtures("compiled_kernels")


def ruled(plan: Plan, *rules: JunctionRule) -> Plan:
    plan.traffic = TrafficPlan(junctions=rules)
    return plan


def order_of_arrival(run: TrafficRun) -> list[int]:
    while not run.over and run.steps < 5000:
        run.advance()
    return list(run.arrivals.trip)


def crossing_trips(first: float, second: float) -> list[Trip]:
    return [
        Trip(Cell(-2, 9), Cell(6, 9), first),  # eastwards
        Trip(Cell(2, 13), Cell(2, 5), second),  # northwards
    ]


def test_the_larger_road_goes_first() -> None:
    plan = drawn(*CROSSING)
    # The road from the south is of a class with more lanes.
    larger = max(range(len(TABLE)), key=lambda code: TABLE[code].lanes)
    for row in range(10, 14):
        plan.road[plan.spec.slot(Cell(2, row))] = road_byte(larger)
    plan.lanes.reset(plan.road_table, plan.keep)
    trips = [replace(trip, every=1.0, count=20) for trip in crossing_trips(0, 0)]

    def delays(run: TrafficRun) -> tuple[float, float]:
        order_of_arrival(run)
        trip, delay = np.array(run.arrivals.trip), np.array(run.arrivals.delay)
        return float(delay[trip == 0].mean()), float(delay[trip == 1].mean())

    smaller, other = delays(TrafficRun(plan, trips, [WAIN]))
    assert smaller < 1.5 * other
    ruled(plan, JunctionRule(MIDDLE, Rule.LARGER))
    run = TrafficRun(plan, trips, [WAIN])
    seen = set()
    while not run.over and run.steps < 5000:
        run.advance()
        waits = waits_for(run)
        rows = run.fleet.under_way()
        gives = rows[run.fleet.cars.why[rows] == GIVES_WAY]
        seen |= {(int(run.fleet.trip[row]), int(run.fleet.trip[waits[row]])) for row in gives}
    # Who comes by the smaller road waits for those who come by the larger one, which wait no more than they would alone.
    assert seen == {(0, 1)}
    smaller, other = delays(run)
    assert smaller > 2 * other


def signal(green: float, other: float, amber: float = 1.0, offset: float = 0.0) -> JunctionRule:
    turns = [(came, goes) for came in range(4) for goes in range(4) if came != goes]
    first = tuple(turn for turn in turns if turn[0] in (1, 3))
    second = tuple(turn for turn in turns if turn[0] in (0, 2))
    phases = (Phase(first, green, amber), Phase(second, other, amber))
    return JunctionRule(MIDDLE, Rule.SIGNALS, phases, offset)


@pytest.mark.parametrize("offset", [0.0, 7.5])
def test_nobody_has_leave_at_a_red_signal(offset: float) -> None:
    plan = ruled(drawn(*CROSSING), signal(6, 9, offset=offset))
    trips = [replace(trip, every=2.0, count=12) for trip in crossing_trips(0, 0)]
    run = TrafficRun(plan, trips, [CART])
    junctions, road = run.streets.junctions, run.streets.road
    moves = junctions.moves_of(0)
    last, reds = road.passed[moves].copy(), 0
    while not run.over and run.steps < 10_000:
        run.advance()
        time = (run.seconds - run.step - offset) % 17.0
        allowed = {1, 3} if time < 6 else {0, 2} if 7 <= time < 16 else set()
        went = moves[road.passed[moves] > last]
        assert set(junctions.came[went].tolist()) <= allowed
        last = road.passed[moves].copy()
        reds += int((run.fleet.cars.why[run.fleet.under_way()] == AT_RED).sum())
    assert run.arrived == 24
    assert reds > 0


@settings(max_examples=examples(20), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans())
def test_vehicles_never_touch_under_any_rule(seed: int, lanes: bool) -> None:
    rng = np.random.default_rng(seed)
    plan = town(rng, 10, lanes, bool(rng.integers(2)))
    junctions = TrafficRun(plan, []).streets.junctions
    rules = []
    for at in range(len(junctions.areas)):
        turns = junctions.turns_of(at)
        cell, kind = junctions.cell(at), int(rng.integers(3))
        if kind == 1:
            rules.append(JunctionRule(cell, Rule.LARGER))
        if kind == 2:
            # Any turns together, those in each other's way too.
            some = [
                tuple(turn for turn in turns if rng.integers(2)) or tuple(turns) for _ in range(2)
            ]
            phases = tuple(Phase(group, 3.0, 0.5) for group in (*some, tuple(turns)))
            rules.append(JunctionRule(cell, Rule.SIGNALS, phases, float(rng.integers(9))))
    ruled(plan, *rules)
    run = TrafficRun(plan, trips_in(plan, rng, 25), [CART, WAIN], step=0.1)
    for _ in range(500):
        run.advance()
        counts = run.counts()
        assert counts.sent == counts.arrived + len(run.fleet.under_way())
        assert run.fleet.overlaps() == []


def test_a_queue_is_let_go_at_the_models_own_flow() -> None:
    wide = 60
    street = "." * (wide // 2) + "#" + "." * (wide // 2 - 1)
    plan = drawn(*[street] * 4, "#" * wide, *[street] * 4)
    cell = TrafficRun(plan, []).streets.junctions.cell(0)
    first, (going, waiting) = plan.spec.first_col, signal(300, 60, 0.0).phases
    ruled(plan, JunctionRule(cell, Rule.SIGNALS, (waiting, going)))
    trips = [Trip(Cell(first + 1, cell.row), Cell(first + wide - 2, cell.row), 0.0, "", 0.5, 40)]
    run = TrafficRun(plan, trips, [CART])
    run.advance(round(60 / run.step))
    queued = run.counts().under_way
    assert queued > 30
    passed, times = 0, []
    while len(times) < 25:
        run.advance()
        now = int(run.streets.road.passed[run.streets.junctions.moves_of(0)].sum())
        times += [run.seconds] * (now - passed)
        passed = now
    # The same queue by the model alone: nobody asks for leave.
    x, v = -(CART.gap + CART.length) * np.arange(queued), np.zeros(queued)
    crossed = np.full(queued, np.nan)
    for step in range(30 * 60):
        gap = np.concatenate(([1e9], x[:-1] - CART.length - x[1:]))
        closing = np.concatenate(([0.0], v[1:] - v[:-1]))
        wish = CART.gap + np.maximum(
            0, v * CART.headway + v * closing / (2 * math.sqrt(CART.acceleration * CART.braking))
        )
        v = np.maximum(0, v + CART.acceleration * (1 - (v / 3.0) ** 4 - (wish / gap) ** 2) / 30)
        x = x + v / 30
        crossed[(x > 0) & np.isnan(crossed)] = step / 30
    mine = (times[24] - times[4]) / 20
    assert mine == pytest.approx((crossed[24] - crossed[4]) / 20, rel=0.06)
    # That is what signals are worked out with.
    assert mine == pytest.approx(1 / signals.saturation([CART], 4.0), rel=0.03)


def test_phases_hold_no_turns_that_cross_and_every_turn_has_green() -> None:
    for rows in (CROSSING, ("#########", "....#....", "....#....")):
        run = TrafficRun(drawn(*rows), [])
        turns = run.streets.junctions.turns_of(0)
        crossing = signals.crossing_turns(run, 0, turns)
        assert crossing
        groups = signals.phases_apart(run, 0)
        assert sorted(turn for group in groups for turn in group) == turns
        for group in groups:
            assert not [pair for pair in crossing if set(pair) <= set(group)]


def test_a_proposal_gives_green_in_proportion_to_what_came() -> None:
    plan = drawn(*CROSSING)
    trips = [
        Trip(Cell(-2, 9), Cell(6, 9), 0.0, "", 4.0, 200),
        Trip(Cell(2, 13), Cell(2, 5), 0.0, "", 16.0, 50),
    ]
    run = TrafficRun(plan, trips, [CART])
    run.advance(30 * 300)
    rule = signals.propose(run, 0)
    assert {turn for phase in rule.phases for turn in phase.turns} == set(
        run.streets.junctions.turns_of(0)
    )
    timing = signals.Timing(run, 0)
    effective = {phase.turns[0][0]: phase.green - timing.start for phase in rule.phases}
    # Four times as many come from the west as from the south.
    assert effective[3] / effective[2] == pytest.approx(4.0, rel=0.15)
    found = timing.predicted(rule)
    assert 0 < found.load < 1
    assert found.never == ()
    # Webster's delay by hand, for the lane from the west and the one from the south.
    total = weight = 0.0
    for came, flow in ((3, 0.25), (2, 1 / 16)):
        c, share = rule.cycle, effective[came] / rule.cycle
        x = flow / (timing.saturation * share)
        delay = c * (1 - share) ** 2 / (2 * (1 - share * x)) + x * x / (2 * flow * (1 - x))
        total, weight = total + 0.9 * delay * flow, weight + flow
    assert found.delay == pytest.approx(total / weight, rel=0.05)


def test_what_comes_to_a_full_junction_is_said() -> None:
    plan = ruled(drawn(*CROSSING), signal(2, 30, 4))
    run = TrafficRun(plan, [Trip(Cell(-2, 9), Cell(6, 9), 0.0, "", 2.0, 200)], [CART])
    run.advance(30 * 100)
    found = signals.Timing(run, 0).predicted(plan.traffic.junctions[0])
    assert found.load > 1
    assert found.delay == math.inf
    only = replace(plan.traffic.junctions[0], phases=plan.traffic.junctions[0].phases[:1])
    assert (2, 0) in signals.Timing(run, 0).predicted(only).never


def test_rules_are_edits_and_obeyed_while_traffic_runs() -> None:
    plan = drawn(*CROSSING)
    history = History(plan)
    trips = [replace(trip, every=2.0, count=30) for trip in crossing_trips(0, 0)]
    run = TrafficRun(plan, trips, [CART])
    run.advance(300)
    history.do(set_rule(plan, MIDDLE, signal(5, 500)))
    assert plan.traffic.rule_at(MIDDLE) == signal(5, 500)
    assert history.entries[-1] == "Junction 2, 9: signals"
    run.obey(plan)
    run.advance(300)
    rows = run.fleet.under_way()
    assert (run.fleet.cars.why[rows] == AT_RED).any()
    assert run.fleet.overlaps() == []
    history.undo()
    assert plan.traffic.rule_at(MIDDLE) is None
    run.obey(plan)
    assert order_of_arrival(run).count(0) == 30
    assert set_rule(plan, MIDDLE, None).changes == ()
    with pytest.raises(Refused, match="99, 9 is outside the grid"):
        set_rule(plan, Cell(99, 9), None)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: JunctionRule(MIDDLE, Rule.FIRST), "first come, first served needs no rule"),
        (lambda: JunctionRule(MIDDLE, Rule.SIGNALS), "signals need 1 to 12 phases, not 0"),
        (lambda: replace(signal(5, 5), rule=Rule.LARGER), "only signals have phases"),
        (lambda: signal(0, 5), "phase 1: green must be above 0"),
        (lambda: signal(math.nan, 5), "phase 1: green must be above 0"),
        (lambda: signal(5, 5, -1), "phase 1: amber must be 0 to 3600 s"),
        (lambda: signal(5, 5, 1, -3), "offset must be 0 to 3600 s"),
        (
            lambda: JunctionRule(MIDDLE, Rule.SIGNALS, (Phase(((1, 0), (1, 0)), 5, 1),)),
            "turns must be given once each",
        ),
        (
            lambda: TrafficPlan(junctions=(signal(5, 5), signal(6, 6))),
            "the junction at 2, 9 stands there twice",
        ),
    ],
)
def test_rules_that_make_no_sense_are_refused_in_words(make, words: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadPlan, match=words):
        make()


def test_turns_are_named_as_on_screen() -> None:
    assert turn_words(EASTWARDS) == "west to east"
    assert turn_words(NORTHWARDS) == "south to north"
    assert turn_words(NORTHWARDS, y_up=True) == "north to south"
