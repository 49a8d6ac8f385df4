"""Agents that follow a list of points with an *arrive* behaviour, many at once.

Source: C. Reynolds, "Steering Behaviors for Autonomous Characters", GDC 1999 (path following and
arrive). An agent steers towards its next point; near the point it takes the one after; its speed is
bounded so that it can still brake for the bend ahead, and so that it stops at the end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Point

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Gait:
    """How agents move, in cells (the mean of a cell's two sides) and seconds.

    speed : cells/s.  acceleration : cells/s2, braking too.  bend_speed : share of the speed kept in
    a right-angled bend.  near : distance in cells at which the next point is taken.
    """

    speed: float = 3.0
    acceleration: float = 6.0
    bend_speed: float = 0.35
    near: float = 0.3


class Walkers:
    """Agents as arrays; agent k is row k of each.

    position, velocity : (N, 2) float64, world units and units/s.  target : (N,) index of the point
    that each goes for.  arrived : (N,) bool.
    """

    def __init__(self, cell_size: float, gait: Gait | None = None) -> None:
        """cell_size : world units of one cell, the scale of the gait."""
        gait = gait or Gait()
        self._speed = gait.speed * cell_size
        self._force = gait.acceleration * cell_size
        self._near = gait.near * cell_size
        self._bend = gait.bend_speed
        self._points: Floats = np.empty((0, 2))
        self._allowed: Floats = np.empty(0)
        self._last = np.empty(0, np.int64)
        self.position: Floats = np.empty((0, 2))
        self.velocity: Floats = np.empty((0, 2))
        self.target = np.empty(0, np.int64)
        self.arrived = np.empty(0, bool)

    def __len__(self) -> int:
        return len(self.position)

    def send(self, points: Floats) -> int:
        """Start an agent at the first point of a route; returns its row. See `send_all`."""
        return self.send_all([points])

    def send_all(self, routes: Sequence[Floats]) -> int:
        """Start an agent on each route; returns the row of the first.

        routes : arrays (P, 2) of world points, P at least 1. Raises WovenError otherwise.
        """
        first, base = len(self.position), len(self._points)
        lasts, targets, alone = [], [], []
        checked = [np.asarray(points, np.float64) for points in routes]
        for points in checked:
            if points.ndim != 2 or points.shape[1] != 2 or not len(points):
                raise WovenError(f"a route must be (P, 2) points with P >= 1, not {points.shape}")
            lasts.append(base + len(points) - 1)
            targets.append(min(base + 1, lasts[-1]))
            alone.append(len(points) == 1)
            base += len(points)
        if not checked:
            return first
        allowed = [self._bend_speeds(points) for points in checked]
        self._points = np.concatenate([self._points, *checked])
        self._allowed = np.concatenate([self._allowed, *allowed])
        self._last = np.append(self._last, lasts)
        starts = np.stack([points[0] for points in checked])
        self.position = np.concatenate([self.position, starts])
        self.velocity = np.concatenate([self.velocity, np.zeros_like(starts)])
        self.target = np.append(self.target, targets)
        self.arrived = np.append(self.arrived, alone)
        return first

    def nearest(self, to: Point) -> Point:
        """Where the agent nearest to a world point is; there must be one."""
        far = np.hypot(self.position[:, 0] - to.x, self.position[:, 1] - to.y)
        x, y = self.position[int(np.argmin(far))].tolist()
        return Point(x, y)

    def keep(self, rows: Sequence[int]) -> None:
        """Take away all agents but these rows, which are numbered anew in this order."""
        at = np.asarray(rows, np.intp)
        self.position, self.velocity = self.position[at], self.velocity[at]
        self.target, self.arrived = self.target[at], self.arrived[at]
        self._last = self._last[at]

    def _bend_speeds(self, points: Floats) -> Floats:
        """The speed allowed at each point: full on a straight, less the sharper the bend; 0 last,
        and what brakes from each point to the next in time."""
        legs = np.diff(points, axis=0)
        lengths = np.maximum(np.hypot(legs[:, 0], legs[:, 1]), 1e-12)
        allowed = np.full(len(points), self._speed)
        if len(points) > 2:
            cosine = (legs[1:] * legs[:-1]).sum(axis=1) / (lengths[1:] * lengths[:-1])
            # 1 straight on .. `bend` at a right angle .. half of that for a turn about.
            share = np.interp(np.clip(cosine, -1, 1), [-1, 0, 1], [self._bend / 2, self._bend, 1])
            allowed[1:-1] = self._speed * share
        allowed[-1] = 0.0
        # Braking: the square of the speed may fall by 2 a d on the way to each later point, so the
        # bound at a point is the least over all points ahead of (their square + way to them).
        way = np.concatenate([[0.0], np.cumsum(lengths)]) * (2 * self._force)
        ahead = np.minimum.accumulate((allowed**2 + way)[::-1])[::-1] - way
        bounded: Floats = np.sqrt(np.maximum(ahead, 0.0))
        return bounded

    def step(self, dt: float) -> None:
        """Move all agents on by `dt` seconds (at most 0.1 at a time keeps bends round)."""
        if not len(self.position) or dt <= 0:
            return
        go = ~self.arrived
        ahead = self._points[self.target] - self.position
        distance = _length(ahead)
        at_last = self.target == self._last
        take = np.flatnonzero(go & ~at_last & (distance < self._near))
        if len(take):
            self.target[take] += 1
            ahead[take] = self._points[self.target[take]] - self.position[take]
            distance[take] = _length(ahead[take])
            at_last[take] = self.target[take] == self._last[take]
        # Fast as the brakes allow for the speed at the next point, and never past it in one step.
        wanted = np.sqrt(self._allowed[self.target] ** 2 + (1.6 * self._force) * distance)
        wanted = np.minimum(np.minimum(wanted, self._speed), distance / dt)
        wanted /= np.maximum(distance, 1e-12)
        ahead *= wanted[:, None]
        # Steering is stronger than the engine, so that bends stay on the road.
        change = ahead
        change -= self.velocity
        most = self._force * 4.0 * dt
        change *= np.minimum(1.0, most / np.maximum(_length(change), 1e-12))[:, None]
        before = _length(self.velocity)
        velocity = self.velocity + change
        # Only gaining speed is bounded by the engine.
        limit = np.minimum(before + self._force * dt, self._speed)
        velocity *= np.minimum(1.0, limit / np.maximum(_length(velocity), 1e-12))[:, None]
        velocity[self.arrived] = 0.0
        self.velocity = velocity
        self.position = self.position + velocity * dt
        ends = np.flatnonzero(go & at_last)
        if len(ends):
            goals = self._points[self._last[ends]]
            done = ends[_length(goals - self.position[ends]) < self._near * 0.003]
            self.position[done] = self._points[self._last[done]]
            self.velocity[done] = 0.0
            self.arrived[done] = True


def _length(vectors: Floats) -> Floats:
    """(N, 2) -> (N,)."""
    x, y = vectors[:, 0], vectors[:, 1]
    length: Floats = np.sqrt(x * x + y * y)
    return length
