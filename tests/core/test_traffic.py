import numpy as np
import pytest

from woven_locus.core.errors import WovenError
from woven_locus.core.traffic import Gait, Walkers

CELL = 24.0
STEP = 1 / 60


def run(walkers: Walkers, seconds: float) -> np.ndarray:
    """Positions after each step: (steps, N, 2)."""
    track = []
    for _ in range(round(seconds / STEP)):
        walkers.step(STEP)
        track.append(walkers.position.copy())
    return np.array(track)


def bend() -> np.ndarray:
    """Six cells east, then six south, as centres."""
    east = [(12 + CELL * k, 12.0) for k in range(7)]
    return np.array(east + [(east[-1][0], 12 + CELL * k) for k in range(1, 7)])


def test_an_agent_arrives_and_stops_at_the_end() -> None:
    walkers = Walkers(CELL)
    walkers.send(bend())
    track = run(walkers, 12)
    assert walkers.arrived.tolist() == [True]
    assert walkers.position.tolist() == [bend()[-1].tolist()]
    assert walkers.velocity.tolist() == [[0, 0]]
    # It never went past the end, not even for a step.
    assert track[:, 0, 1].max() <= bend()[-1][1] + 1e-6


def test_it_moves_smoothly_and_slows_into_the_bend() -> None:
    gait = Gait()
    walkers = Walkers(CELL, gait)
    walkers.send(bend())
    track = run(walkers, 12)[:, 0]
    speed = np.hypot(*np.diff(track, axis=0).T) / STEP / CELL
    assert speed.max() <= gait.speed + 1e-9
    # No leap: faster by no more than the engine allows.
    assert np.diff(speed).max() <= gait.acceleration * STEP + 1e-9
    corner = bend()[6]
    near = np.hypot(*(track[1:] - corner).T) < 0.5 * CELL
    cruising = np.hypot(*(track[1:] - bend()[3]).T) < 0.5 * CELL
    assert speed[near].min() < 0.75 * gait.speed
    assert speed[cruising].max() > 0.95 * gait.speed


def test_it_stays_on_the_road() -> None:
    walkers = Walkers(CELL)
    walkers.send(bend())
    track = run(walkers, 12)[:, 0]
    a, b = bend()[:-1], bend()[1:]
    along = np.clip(((track[:, None] - a) * (b - a)).sum(2) / CELL**2, 0, 1)
    off = np.hypot(*np.moveaxis(a + along[..., None] * (b - a) - track[:, None], 2, 0)).min(axis=1)
    assert off.max() < 0.31 * CELL


def test_many_agents_walk_as_one_would() -> None:
    alone = Walkers(CELL)
    alone.send(bend())
    together = Walkers(CELL)
    assert together.send_all([bend(), bend()[::-1], bend()[3:]]) == 0
    assert together.send(bend()[:1]) == 3
    np.testing.assert_allclose(run(alone, 4)[:, 0], run(together, 4)[:, 0])
    assert together.arrived.tolist()[3]
    together.keep([2, 0])
    np.testing.assert_allclose(together.position[1], alone.position[0])
    run(together, 9)
    assert together.arrived.all()


@pytest.mark.parametrize("points", [np.empty((0, 2)), np.zeros(4), np.zeros((3, 3))])
def test_a_route_must_be_points(points: np.ndarray) -> None:
    with pytest.raises(WovenError, match="points"):
        Walkers(CELL).send(points)


def test_nobody_moves_without_time() -> None:
    walkers = Walkers(CELL)
    walkers.step(STEP)
    walkers.send(bend())
    walkers.step(0)
    assert walkers.position.tolist() == [[12, 12]]
