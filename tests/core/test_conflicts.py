"""What vehicles keep clear of where they turn, against many places of both of them."""

import math

import numpy as np
import numpy.typing as npt
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.helpers.depth import examples
from woven_locus.core.traffic.conflicts import Body, Path, conflicts, overlapping, rectangles

Floats = npt.NDArray[np.float64]


def arc(radius: float, turn: float) -> Path:
    """A path that comes from the west to the origin and turns by `turn` degrees."""
    at = np.radians(np.linspace(0.0, turn, 24))
    points = np.stack([radius * np.sin(at), radius * (1 - np.cos(at))], axis=1)
    goes = np.array([math.cos(at[-1]), math.sin(at[-1])])
    return Path(points, np.array([-1.0, 0.0]), 0.0, points[-1] + goes, turn)


def along(path: Path, far: Floats) -> Floats:
    """(N, 2) points so far along a path; far before and beyond it, it is straight."""
    goes = np.radians(path.goes)
    ahead = path.points[-1] + 20 * np.array([np.cos(goes), np.sin(goes)])
    line = np.concatenate(([[-20.0, 0.0]], path.points, [ahead]))
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T)))) - 20.0
    return np.stack([np.interp(far, ends, line[:, axis]) for axis in (0, 1)], axis=1)


def bodies(path: Path, front: Floats, body: Body) -> Floats:
    return rectangles(along(path, front), along(path, front - body.length), body.width, body.length)


@settings(max_examples=examples(60), deadline=None)
@given(
    st.floats(0.2, 3.0), st.sampled_from([30.0, 90.0, 180.0]),
    st.floats(0.5, 4.0), st.floats(0.1, 1.0), st.floats(0.02, 0.3),
)  # fmt: skip
@example(1.2, 90.0, 3.0, 0.9, 0.15)  # one turns right before another that waits
def test_who_follows_one_that_turns_does_not_touch_it(
    radius: float, turn: float, length: float, width: float, gap: float
) -> None:
    # Lanes are broader than those who drive there.
    path, body = arc(radius, turn), Body(length, min(width, length / 2, 1.8 * radius), gap)
    swing = float(conflicts([path], body).swing[0])
    way = float(np.hypot(*np.diff(path.points, axis=0).T).sum())
    # It has come so far beyond the line; who follows is before the line, by the gap and as much as it may have swung.
    come = np.linspace(0.0, min(way, length) + length, 80)[:, None]
    rear = come - length
    follows = np.minimum(rear - gap - np.minimum(swing, come), 0.0) - np.linspace(0, length, 80)
    ahead = bodies(path, come[:, 0], body)[:, None]
    behind = bodies(path, follows.ravel(), body).reshape(80, 80, 4, 2)
    assert not overlapping(ahead, behind).any()


def test_on_a_straight_or_a_wide_bend_the_gap_is_enough() -> None:
    cart = Body(0.9, 0.22, 0.125)
    assert conflicts([arc(4.0, 90.0)], cart).swing[0] == 0.0
    assert conflicts([arc(0.4, 90.0)], cart).swing[0] > 0.0
    straight = Path(np.array([[0.0, 0.0], [3.0, 0.0]]), np.array([-1.0, 0.0]), 0.0, np.array([4.0, 0.0]), 0.0)  # fmt: skip
    assert conflicts([straight], cart).swing[0] == 0.0
