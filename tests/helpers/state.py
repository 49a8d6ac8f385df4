"""What a plan holds, in a form that can be compared."""

from __future__ import annotations

import numpy as np

from woven_locus.core.placing.rules import block_bits
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json


def recorded(plan: Plan) -> bytes:
    """Everything that is saved."""
    return plan_json.dump(plan)


def assert_derived_is_current(plan: Plan) -> None:
    """What follows from the recorded layers is what a rebuild from scratch gives."""
    fresh = plan_json.parse(plan_json.dump(plan))
    np.testing.assert_array_equal(plan.occupant, fresh.occupant)
    np.testing.assert_array_equal(plan.blocks, block_bits(fresh, fresh.spec.box))
    np.testing.assert_array_equal(plan.movement, fresh.movement)
    ours, theirs = plan.network.labels, fresh.network.labels
    np.testing.assert_array_equal(ours > 0, theirs > 0)
    # Labels are names: the same cells must be together, whatever the numbers.
    pairs = np.unique(np.stack([ours[ours > 0], theirs[ours > 0]], axis=1), axis=0)
    assert len(np.unique(pairs[:, 0])) == len(pairs) == len(np.unique(pairs[:, 1]))
    for mine, other in pairs.tolist():
        assert plan.network.size(mine) == fresh.network.size(other)
