"""Simulated time: whole steps, none lost."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from woven_locus.core.clock import Clock


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
