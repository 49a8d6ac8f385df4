"""Rules asked of very many structures in array passes: each as the judge has it."""

from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.strategies import demands
from tests.helpers.towns import random_town
from woven_locus.core.derived.rules import Reason
from woven_locus.core.kinds import Demands
from woven_locus.core.placing import at_once, judge
from woven_locus.core.placing.at_once import AT_ONCE
from woven_locus.core.placing.kind_rules import KIND_RULES, rules_of
from woven_locus.core.plan import Plan
from woven_locus.core.proof.soundness import Soundness
from woven_locus.core.register import alike
from woven_locus.core.value import replace


@cache
def built(seed: int) -> Plan:
    return random_town(seed)


def town(seed: int, asked: list[Demands]) -> Plan:
    """Structures that stood there when their kinds came to ask something else."""
    plan = built(seed).twin()
    kinds = zip(plan.kinds, asked, strict=True)
    plan.kinds = type(plan.kinds)(replace(kind, demands=new) for kind, new in kinds)
    return plan


@given(
    st.integers(0, 5), st.lists(demands, min_size=8, max_size=8), st.sampled_from([1, 7, 1 << 18])
)
def test_each_rule_is_as_judged_one_by_one(seed: int, asked: list[Demands], many: int) -> None:
    plan = town(seed, asked)
    unsound = set()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(at_once, "_AT_A_TIME", many)
        for group in alike(plan.register):
            kind = plan.kinds[group.kind]
            asks = {rule.reason for rule in rules_of(plan, kind)} & AT_ONCE.keys()
            asks |= {Reason.TERRAIN} if kind.demands.terrain is not None else set()
            found = {reason: AT_ONCE[reason](plan, group).tolist() for reason in asks}
            for at, number in enumerate(group.numbers.tolist()):
                row = plan.register[number]
                reasons = judge(plan, kind, row.cell, row.turn, number).reasons
                assert {reason for reason in asks if found[reason][at]} == set(reasons) & asks
                if set(reasons) - {Reason.FUNDS, Reason.REACH, Reason.OUTSIDE, Reason.SEALS}:
                    unsound.add(number)
        assert Soundness(plan).unsound == unsound


def test_every_rule_of_a_place_can_be_asked_so() -> None:
    every = {rule.reason for rule in KIND_RULES} | {Reason.TERRAIN}
    assert AT_ONCE.keys() == every - {Reason.FUNDS, Reason.SEALS, Reason.TURN}
