"""Simulated time: whole steps, none lost, and the same places however the time comes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from woven_locus.core.clock import Clock
from woven_locus.core.routing import Route, find_route
from woven_locus.core.traffic import STEP, Simulation


@given(st.lists(st.floats(0, 3), max_size=60), st.sampled_from([1 / 60, 0.2, 1.0]))
def test_no_time_is_lost_between_calls(parts: list[float], step: float) -> None:
    clock = Clock(step, 2.0)
    steps = sum(clock.passed(part) for part in parts)
    assert steps == pytest.approx(2 * sum(parts) / step, abs=1.001)
    assert steps <= 2 * sum(parts) / step + 1e-6


def test_ten_tenths_are_one() -> None:
    clock = Clock(1.0)
    assert [clock.passed(0.1) for _ in range(10)] == [0] * 9 + [1]


def test_what_could_not_be_done_is_made_up() -> None:
    clock = Clock(1.0, 10)
    clock.hold(0.25)
    clock.hold(-5)  # a wall clock that was set back
    assert clock.take() == 2
    assert clock.passed(0.05) == 1
    clock.hold(3)
    clock.forget()
    assert clock.take() == 0
    with pytest.raises(ValueError, match="longer than 0"):
        Clock(0)


def street() -> Route:
    plan = draw("............\n============\n............")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 11, 0)
    route = find_route(plan, 1, 2)
    assert isinstance(route, Route)
    return route


def test_the_places_do_not_hang_on_how_time_comes() -> None:
    route, seen = street(), []
    for parts in ([2.0], [STEP] * 120, [0.37] * 5 + [0.15]):
        simulation = Simulation(1.0)
        simulation.send("a", route)
        for part in parts:
            simulation.advance(part)
        assert simulation.steps == 120
        assert simulation.seconds == pytest.approx(2.0)
        seen.append(simulation.walkers.position.copy())
    np.testing.assert_array_equal(seen[0], seen[1])
    np.testing.assert_array_equal(seen[0], seen[2])


def test_an_agent_leaves_when_its_way_is_no_longer_the_same() -> None:
    route = street()
    simulation = Simulation(1.0)
    for key in ("a", "b", "c"):
        simulation.send(key, route)
    simulation.advance(0.5)
    there = simulation.walkers.position[1].copy()
    assert simulation.follow(lambda key: route if key == "b" else None) == 2
    assert simulation.keys == ["b"]
    np.testing.assert_array_equal(simulation.walkers.position, [there])
    assert not simulation.over
    simulation.advance(60)
    assert simulation.over
    assert simulation.arrived == len(simulation) == 1
