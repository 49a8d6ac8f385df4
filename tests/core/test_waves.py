"""Waves that run: by hand, by what must always hold, and the same for everybody."""

import math
from copy import deepcopy

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.depth import examples
from woven_locus.core import edits
from woven_locus.core.books import Funds
from woven_locus.core.editing import History
from woven_locus.core.edits import money
from woven_locus.core.edits.kinds import add_kind
from woven_locus.core.edits.roads import raise_barrier
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.kinds.tower import Hits, Takes, Tower
from woven_locus.core.placing import Reason, judge, judge_barrier, judge_ground
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Group, Moves, Wave, WavePlan
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.timeline import WaveTimeline
from woven_locus.core.waves.ways import EntryWay, find_ways
from woven_locus.document.starter import starter_terrain

BOLT = Tower(0.0, 2.5, 4.0, 0.5)
MOTH = AttackerKind("moth", "Moth", "#A5383F", 0.4, 1.0, 10.0, 0.0, 7, 2)
POST = Kind("post", "Post", "P", "#112233", 10, Footprint.from_rows(["#"]), tower=BOLT)
WALL = Kind("wall", "Wall", "W", "#112233", 1, Footprint.from_rows(["##"]))


def field(
    rows: int = 5,
    cols: int = 20,
    kinds: tuple[AttackerKind, ...] = (MOTH,),
    waves: tuple[Wave, ...] = (Wave("One", 0.0, (Group("E1", "moth", 1),)),),
    post: Kind = POST,
    **more: object,
) -> Plan:
    """Open ground with an entry in the west and a goal in the east of the middle row."""
    middle = rows // 2
    plan = WavePlan(
        (Entry("E1", "Hollow", (Cell(0, middle),)),),
        (Goal("G1", "Store", (Cell(cols - 1, middle),)),),
        kinds,
        waves,
        **more,  # type: ignore[arg-type]
    )
    spec = GridSpec(cols, rows, 1.0, 1.0, 0.0, 0.0)
    catalogue = Catalogue([post, WALL])
    return Plan("Field", spec, starter_terrain(), catalogue, funds=Funds(1000, 0, 0), waves=plan)


def put(plan: Plan, kind: str, col: int, row: int, turn: int = 0) -> None:
    History(plan).do(edits.place(plan, kind, Cell(col, row), turn, "now"))


def test_one_tower_against_one_walker_by_hand() -> None:
    plan = field()
    put(plan, "post", 9, 1)
    run = WaveRun(plan, step=0.1)
    # Its middle is at 9.5, 1.5, one above the way at y = 2.5: in range from 9.5 - sqrt 5.25 = 7.209 on. The walker begins
    # at x = 0.5 and is shot at first when it has come 6.709, then every half second; 3 shots of 4 stop a health of 10.
    run.finish()
    (fall,) = run.falls
    assert fall.x == pytest.approx(0.1 * math.ceil(6.709 / 0.1) + 1.0, abs=0.11)
    tally = run.tallies[1]
    assert (tally.shots, tally.stopped) == (3, 1)
    assert tally.dealt == pytest.approx(10.0)
    assert tally.wasted == pytest.approx(2.0)
    (wave,) = run.waves
    assert (wave.sent, wave.stopped, wave.through, wave.earned) == (1, 1, 0, 7)
    assert run.held
    assert run.funds == 1000 - 10 + 7
    assert run.lives == 20


def test_armour_is_taken_off_every_hit_and_may_make_it_nothing() -> None:
    for armour, shots, stopped in ((1.5, 4, 1), (4.0, 10, 0)):
        plan = field(kinds=(replace(MOTH, armour=armour),))
        put(plan, "post", 9, 1)
        run = WaveRun(plan)
        run.finish()
        assert run.waves[0].stopped == stopped
        assert run.tallies[1].shots >= shots
        assert run.lives == (20 if stopped else 18)


def test_whom_it_takes_and_whom_it_can_hit() -> None:
    weak, strong = replace(MOTH, health=5.0), replace(MOTH, key="ox", health=50.0, speed=0.8)
    waves = (Wave("One", 0.0, (Group("E1", "moth", 1), Group("E1", "ox", 1))),)
    for takes, number in ((Takes.STRONGEST, 2), (Takes.WEAKEST, 1), (Takes.FURTHEST, 1)):
        plan = field(
            kinds=(weak, strong),
            waves=waves,
            post=replace(POST, tower=replace(BOLT, most=9, takes=takes)),
        )
        put(plan, "post", 9, 1)
        run = WaveRun(plan)
        while not run.shots:
            run.advance()
        # The first comes into range alone; with both there the rule decides.
        run.advance(120)
        assert run.tallies[1].aim == (number if run.attackers.here[number - 1] else 3 - number)
    flier = replace(MOTH, moves=Moves.AIR)
    for hits, sees in ((Hits.FLIERS, True), (Hits.WALKERS, False), (Hits.ALL, True)):
        plan = field(kinds=(flier,), post=replace(POST, tower=replace(BOLT, hits=hits)))
        put(plan, "post", 9, 1)
        run = WaveRun(plan)
        run.finish()
        assert bool(run.tallies[1].shots) is sees


def test_splash_hits_those_around_and_slowing_slows() -> None:
    waves = (Wave("One", 0.0, (Group("E1", "moth", 4, 0.2),)),)
    plan = field(waves=waves, post=replace(POST, tower=replace(BOLT, splash=1.0)))
    put(plan, "post", 9, 1)
    run = WaveRun(plan)
    run.finish()
    assert run.tallies[1].dealt == pytest.approx(40.0)
    assert run.tallies[1].shots < 12
    slow = replace(POST, tower=replace(BOLT, damage=0.0, slowing=0.5, slow_for=60.0))
    plan = field(post=slow)
    quick = WaveRun(plan)
    quick.finish()
    put(plan, "post", 9, 1)
    run = WaveRun(plan)
    run.finish()
    # From where it is hit first it takes twice as long.
    assert run.seconds == pytest.approx(quick.seconds + (19 - 6.709), abs=0.2)


def test_those_that_queue_stay_behind_one_another() -> None:
    ox = AttackerKind("ox", "Ox", "#112233", 1.0, 0.5, 1.0, queues=True)
    cat = replace(ox, key="cat", speed=3.0, size=0.6)
    waves = (Wave("One", 0.0, (Group("E1", "ox", 3, 0.1), Group("E1", "cat", 5, 0.1, 1.0))),)
    run = WaveRun(field(kinds=(ox, cat), waves=waves))
    while not run.over:
        run.advance()
        rows = run.attackers.there()
        rows = rows[np.argsort(-run.attackers.x[rows], kind="stable")]
        gaps = -np.diff(run.attackers.x[rows])
        size = run.attackers.sizes(rows)
        assert (gaps >= (size[1:] + size[:-1]) / 2 - 1e-9).all()
    assert run.waves[0].through == 8


def test_ground_and_height_count_when_the_plan_says_so() -> None:
    slow = field(terrain_slows=True)
    costly = next(k for k, item in enumerate(slow.terrain_table) if item.passable and item.cost > 1)
    slow.terrain[:] = costly
    slow.refresh(slow.spec.box, False)
    run, plain = WaveRun(slow), WaveRun(field())
    run.finish()
    plain.finish()
    assert run.seconds == pytest.approx(plain.seconds * slow.terrain_table[costly].cost, rel=0.01)
    high = field(height_reach=0.5)
    high.heights = np.zeros(high.spec.shape, np.float32)
    high.heights[1, 9] = 4.0
    put(high, "post", 9, 1)
    run = WaveRun(high)
    while not run.shots:
        run.advance()
    # It stands 4 above the way: its range of 2.5 grows by 2.
    assert run.attackers.x[0] + 0.5 == pytest.approx(9.5 - math.sqrt(4.5**2 - 1), abs=0.06)


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_everybody_is_accounted_for_and_the_same_seed_is_the_same_run(seed: int) -> None:
    rng = np.random.default_rng(seed)
    kinds = tuple(
        AttackerKind(
            f"k{k}", f"K{k}", "#112233", 0.5, float(rng.uniform(0.5, 4)), float(rng.uniform(1, 30)),
            float(rng.uniform(0, 2)), int(rng.integers(9)), int(rng.integers(4)),
            list(Moves)[int(rng.integers(1, 3))], bool(rng.integers(2)),
        )
        for k in range(3)
    )  # fmt: skip
    waves = tuple(
        Wave(
            f"W{n}",
            8.0 * n,
            tuple(Group("E1", f"k{k}", int(rng.integers(1, 12)), 0.3, 0.0, 1.0) for k in range(3)),
        )
        for n in range(3)
    )
    plan = field(9, 16, kinds, waves, lives=12)
    for col in rng.choice(14, 5, replace=False).tolist():
        put(plan, "post", col + 1, int(rng.choice([1, 2, 6, 7])))
    run, again = WaveRun(plan, seed), WaveRun(plan, seed, run_step := 1 / 30)
    timeline, seen = WaveTimeline(again), []
    assert run.step == run_step
    last = run.funds
    while not run.over and run.seconds < 120:
        run.advance(5)
        here = np.bincount(run.attackers.wave[run.attackers.there()], minlength=3)
        for n, tally in enumerate(run.waves):
            assert tally.sent == tally.stopped + tally.through + here[n]
        assert (run.attackers.health[run.attackers.there()] > 0).all()
        assert run.lives == 12 - sum(tally.lives for tally in run.waves) >= 0
        assert run.funds >= last
        last = run.funds
    assert run.funds == plan.account.balance + sum(tally.earned for tally in run.waves)
    dealt = sum(tally.dealt for tally in run.tallies.values())
    lost = sum(k.health for k in (kinds[k] for k in run.attackers.kind[: run.sent].tolist()))
    lost -= float(run.attackers.health[: run.sent].sum())
    assert dealt == pytest.approx(lost, abs=1e-6)
    for _ in range(run.steps):
        seen.append(
            (
                again.digest(),
                deepcopy(again.tallies),
                again.shots,
                len(again.falls),
                again.account[-1],
            )
        )
        timeline.advance()
    assert again.digest() == run.digest()
    # Turned back, and on again, it is what it was.
    for at in rng.integers(0, run.steps, 6).tolist():
        timeline.advance(timeline.go_to(at))
        assert again.steps == at
        assert (
            again.digest(),
            again.tallies,
            again.shots,
            len(again.falls),
            again.account[-1],
        ) == seen[at]
    timeline.advance(timeline.go_to(run.steps))
    assert again.digest() == run.digest()
    other = WaveRun(plan, seed)
    other.finish()
    if run.over:
        assert other.digest() == run.digest()


def test_structures_pay_while_waves_run_and_rewards_can_be_built_with() -> None:
    pays = replace(WALL, key="inn", pays=5, every=3)
    plan = field(waves=(Wave("One", 0.0, (Group("E1", "moth", 2, 20.0),)),))
    history = History(plan)
    history.do(add_kind(plan, pays))
    history.do(money.set_funds(plan, 12, 0))
    put(plan, "inn", 0, 0)
    history.do(money.advance(plan, 2))
    put(plan, "post", 9, 1)
    assert plan.account.balance == 1
    assert judge(plan, POST, Cell(5, 1), 0).reasons == (Reason.FUNDS,)
    run = WaveRun(plan)
    # The inn was placed at 0 of the clock, and it is 2: it pays after a second, and then every third.
    for seconds, funds in ((0.99, 1), (1.1, 6), (3.9, 6), (4.1, 11)):
        run.advance(round(seconds / run.step) - run.steps)
        assert run.funds == funds
    # Another one pays three seconds after it was placed; what is demolished pays no more.
    put(plan, "inn", 4, 0)
    run.rebuild(plan)
    assert run.funds == 10
    run.advance(round(6.9 / run.step) - run.steps)
    assert run.funds == 10
    run.advance(12)
    assert run.funds == 20
    history.do(edits.demolish(plan, [1]))
    run.rebuild(plan)
    run.advance(round(10.3 / run.step) - run.steps)
    assert run.funds == 25 + run.waves[0].earned
    # What the run has can be spent, on the one that is judged and on several.
    plan.account.earned = run.funds - plan.account.balance
    assert plan.account.there == run.funds
    assert judge(plan, POST, Cell(5, 1), 0)
    plan.account.earned = 0
    assert not judge(plan, POST, Cell(5, 1), 0)


def test_who_is_under_way_finds_another_way_when_one_builds() -> None:
    plan = field(waves=(Wave("One", 0.0, (Group("E1", "moth", 6, 1.0),)),))
    run = WaveRun(plan)
    run.advance(30 * 4)
    before = run.points(run.attackers.there())
    for row in (1, 2, 3):
        put(plan, "post", 10, row)
    run.rebuild(plan)
    # Three posts at 10 each are paid out of what the run has.
    assert run.funds == 1000 - 30
    assert run.account[-1] == (run.seconds, 970, 20)
    after = run.points(run.attackers.there())
    np.testing.assert_allclose(after, before, atol=1e-9)
    seen = set()
    while not run.over:
        last = {
            int(row): at
            for row, at in zip(
                run.attackers.there(), run.points(run.attackers.there()), strict=True
            )
        }
        run.advance()
        rows = run.attackers.there()
        for row, at in zip(rows.tolist(), run.points(rows), strict=True):
            cell = plan.spec.locate_virtual(*at.tolist())
            seen.add(cell)
            if row in last:
                assert math.hypot(*(at - last[row])) <= MOTH.speed * run.step + 1e-9
    assert not seen & {Cell(10, row) for row in (1, 2, 3)}
    assert run.sent == 6


def test_the_last_way_is_not_taken_by_anything() -> None:
    plan = field(5, 8)
    for row in (0, 1, 3):
        put(plan, "post", 4, row)
    history = History(plan)
    history.do(raise_barrier(plan, [Cell(4, 4)]))
    verdict = judge(plan, POST, Cell(4, 2))
    assert verdict.reasons == (Reason.SEALS,)
    assert "takes the last way from Hollow" in verdict.sentence()
    assert judge_barrier(plan, [Cell(4, 2)]).reasons == (Reason.SEALS,)
    assert judge_ground(plan, [Cell(4, 2)]).reasons == (Reason.SEALS,)
    with pytest.raises(Refused, match="last way from Hollow"):
        edits.place(plan, "post", Cell(4, 2), 0, "now")
    # Anywhere else it may stand, and the one in the way may move on.
    assert judge(plan, POST, Cell(2, 2))
    assert judge(plan, POST, Cell(4, 2), lifted=plan.register.numbers()[0])
    # A whole line at once, of which no part alone closes the way.
    open_ = field(3, 8)
    assert judge_barrier(open_, [Cell(4, 0), Cell(4, 1)])
    assert judge_barrier(open_, [Cell(4, row) for row in range(3)]).reasons == (Reason.SEALS,)
    # On the entry itself.
    assert judge(open_, POST, Cell(0, 1)).reasons == (Reason.SEALS,)


def beside(way: EntryWay, at: np.ndarray) -> float:
    """How far a point is from a way."""
    start, step = way.points[:-1], np.diff(way.points, axis=0)
    share = ((at - start) * step).sum(axis=1) / (step * step).sum(axis=1)
    near = start + step * share.clip(0, 1)[:, None]
    return float(np.hypot(*(near - at).T).min())


@settings(max_examples=examples(30), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_those_that_queue_do_so_after_one_built_too(seed: int) -> None:
    rng = np.random.default_rng(seed)
    slow, fast = (
        replace(MOTH, key=key, queues=True, speed=speed, health=1e6)
        for key, speed in (("slow", 0.6), ("fast", 2.5))
    )
    groups = (Group("E1", "slow", 6, 1.3), Group("E1", "fast", 6, 1.3, 0.4))
    plan = field(5, 24, (slow, fast), (Wave("One", 0.0, groups),), post=replace(POST, tower=None))
    run = WaveRun(plan)
    run.advance(int(rng.integers(60, 400)))
    for _ in range(3):
        col, row = int(rng.integers(2, 22)), int(rng.integers(5))
        before = run.points(run.attackers.there())
        if judge(plan, plan.kinds["post"], Cell(col, row), 0):
            put(plan, "post", col, row)
        run.rebuild(plan)
        np.testing.assert_allclose(run.points(run.attackers.there()), before, atol=1e-6)
        # All who are on the way of their entry go on along the same line.
        rows = run.attackers.there()
        (way,) = find_ways(plan)
        on_it = [
            row for row, at in zip(rows.tolist(), before, strict=True) if beside(way, at) < 1e-9
        ]
        assert len(set(run.attackers.line[on_it].tolist())) <= 1
        for _ in range(40):
            run.advance(5)
            men = run.attackers
            rows = men.there()
            for line in set(men.line[rows].tolist()):
                x = np.sort(men.x[rows[men.line[rows] == line]])
                assert (np.diff(x) >= MOTH.size - 1e-9).all()
