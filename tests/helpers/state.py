"""What a plan holds, in a form that can be compared."""

from __future__ import annotations

import numpy as np

from tests.helpers.lanes import assert_lanes_are_current
from tests.helpers.networks import assert_network_is_current
from woven_locus.core.derived.cells import block_bits
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
    np.testing.assert_array_equal(plan.network.doors, fresh.network.doors)
    assert_network_is_current(plan.network, plan.road)
    assert_lanes_are_current(plan)
