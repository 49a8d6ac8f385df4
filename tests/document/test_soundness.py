"""Which structures could not be placed where they stand, kept current: as judging each of them says."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, paint, put
from tests.helpers.random_steps import random_step
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.derived.rules import Reason
from woven_locus.core.editing import History, Notice
from woven_locus.core.edits import heights
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Clear, Demands, Thing, Touch
from woven_locus.core.placing import judge
from woven_locus.core.placing.at_once import breakers
from woven_locus.core.placing.judge import PASSING
from woven_locus.core.placing.kind_rules import rules_of
from woven_locus.core.plan import Plan
from woven_locus.core.proof import soundness
from woven_locus.core.proof.soundness import Soundness
from woven_locus.core.register import alike
from woven_locus.core.value import replace


def by_judging(plan: Plan) -> set[int]:
    return {
        row.number
        for row in plan.register
        if not judge(plan, plan.kinds[row.kind], row.cell, row.turn, row.number, PASSING)
    }


def follower(plan: Plan, kept: list[Soundness]) -> Callable[[Notice], None]:
    def follow(notice: Notice) -> None:
        if notice.reformed:
            kept[0] = Soundness(plan)  # as the document does
        kept[0].update(notice)

    return follow


@given(plans(10), st.integers(0, 2**32 - 1), st.booleans())
def test_what_is_kept_is_what_judging_each_says(plan: Plan, seed: int, at_once: bool) -> None:
    rng = np.random.default_rng(seed)
    history = History(plan)
    for _ in range(6):
        random_step(plan, history, rng)
    kept = [Soundness(plan)]
    history.listen(follower(plan, kept))
    assert kept[0].unsound == by_judging(plan)
    for _ in range(5):
        random_step(plan, history, rng)
        if at_once:
            assert kept[0].unsound == by_judging(plan)
    assert kept[0].unsound == by_judging(plan)


def ask_little(plan: Plan, rng: np.random.Generator) -> None:
    """All kinds ask for no more than what is asked of all structures at once."""
    keys = ["", *plan.kinds.keys()]
    made = []
    for kind in plan.kinds:
        things = [thing for thing in Thing if thing is not Thing.TERRAIN]
        thing = things[rng.integers(len(things))]
        key = keys[rng.integers(len(keys))] if thing is Thing.KIND else ""
        asked = (Clear(thing, key, int(rng.integers(1, 4))), Clear(Thing.TERRAIN, "stream", 1))
        demands = Demands(
            slope=float(rng.integers(5, 60)) if rng.integers(2) else None,
            clear=asked[: rng.integers(3)],
        )
        made.append(replace(kind, demands=demands))
    plan.kinds = type(plan.kinds)(made)


@given(plans(10), st.integers(0, 2**32 - 1))
def test_many_at_once_are_as_judged_one_by_one(plan: Plan, seed: int) -> None:
    ask_little(plan, np.random.default_rng(seed))
    kept = Soundness(plan)
    assert kept.unsound == by_judging(plan)
    # Nothing is named that has nothing against it by these two rules.
    for group in alike(plan.register):
        kind = plan.kinds[group.kind]
        asked = {rule.reason for rule in rules_of(plan, kind)} & {Reason.CLEARANCE, Reason.SLOPE}
        named = set(group.numbers[breakers(plan, group, asked)].tolist())
        for number in named:
            row = plan.register[number]
            verdict = judge(plan, plan.kinds[row.kind], row.cell, row.turn, number, PASSING)
            assert {Reason.CLEARANCE, Reason.SLOPE} & set(verdict.reasons)


@given(st.integers(0, 2**32 - 1))
def test_edits_that_come_between_are_minded(seed: int) -> None:
    """Of those that are asked all at once some have moved, or stand on other ground, before it is their turn."""
    rng = np.random.default_rng(seed)
    plan = draw("\n".join(["." * 14] * 12))
    spec, history = plan.spec, History(plan)

    def somewhere() -> Cell:
        return spec.cell_of_slot((int(rng.integers(spec.rows)), int(rng.integers(spec.cols))))

    for _ in range(20):
        kind, at = ("hut", "barn")[rng.integers(2)], somewhere()
        if judge(plan, plan.kinds[kind], at):
            put(plan, kind, *at)
    ask_little(plan, rng)
    hills = rng.normal(0, spec.cell_w / 4, spec.shape).astype(np.float32)
    history.do(heights.set_heights(plan, hills, "Hills"))
    kept = [Soundness(plan)]
    history.listen(follower(plan, kept))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(soundness, "_ASKED_AT_A_TIME", 1)
        patch.setattr(soundness, "_AT_A_TIME", 1)
        for _ in range(3):
            kept[0].known(lambda: True)
            random_step(plan, history, rng, calm=True)
            for row in list(plan.register):
                at = somewhere()
                if judge(plan, plan.kinds[row.kind], at, row.turn, row.number):
                    history.do(edits.move(plan, row.number, at, row.turn))
        assert kept[0].unsound == by_judging(plan)


def test_a_little_at_a_time_comes_to_the_same() -> None:
    plan = draw("\n".join(["." * 30] * 10))
    kinds = [
        replace(kind, demands=Demands(clear=(Clear(Thing.TERRAIN, "stream", 1),)))
        if kind.key == "hut"
        else kind
        for kind in plan.kinds
    ]
    plan.kinds = type(plan.kinds)(kinds)
    for at in range(0, 30, 2):
        for row in (0, 4, 8):
            put(plan, "hut", at, row)
    History(plan).do(paint(plan, [Cell(4, 5), Cell(20, 1)], 3))
    kept = Soundness(plan)
    seen = set()
    found, done = kept.known(lambda: True)
    seen |= found
    while not done:
        found, done = kept.known(lambda: True)
        assert seen <= found
        seen = set(found)
    assert found == by_judging(plan)
    assert found


def test_a_very_large_edit_has_all_looked_at_again(monkeypatch: object) -> None:
    plan = draw("....\n....")
    put(plan, "hut", 0, 0)
    history, kept = History(plan), Soundness(plan)
    assert kept.unsound == set()
    history.listen(kept.update)
    before = soundness.MANY_CELLS
    soundness.MANY_CELLS = 0
    try:
        history.do(paint(plan, [Cell(0, 0)], 3))
        assert kept.unsound == {1}
    finally:
        soundness.MANY_CELLS = before


def test_hundreds_that_an_edit_touches_are_judged_a_little_at_a_time() -> None:
    plan = draw("\n".join(["." * 30] * 10))
    history = History(plan)
    for at in range(0, 30, 2):
        for row in range(0, 9, 2):
            put(plan, "hut", at, row)
    asking = Demands(touch=(Touch(Thing.ROAD),))
    plan.kinds = type(plan.kinds)([replace(kind, demands=asking) for kind in plan.kinds])
    kept = Soundness(plan)
    history.listen(kept.update)
    everybody = set(plan.register.numbers())
    assert kept.unsound == everybody
    history.do(edits.demolish(plan, [number for number in everybody if number > 4]))
    history.undo()
    assert not kept.known(lambda: True)[1]
    # Another edit comes while they wait.
    history.do(edits.demolish(plan, [1, 2, 3]))
    done = False
    while not done:
        found, done = kept.known(lambda: True)
    assert found == by_judging(plan) == everybody - {1, 2, 3}
