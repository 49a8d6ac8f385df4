"""The stepped simulation of agents: the same routes and steps give the same places, whoever runs it."""

from __future__ import annotations

from collections.abc import Callable, Hashable

from woven_locus.core.clock import Clock
from woven_locus.core.routing import Route
from woven_locus.core.traffic.walkers import Walkers

# Simulated seconds of a step; frames come as they can, steps are always alike.
STEP = 1 / 60


class Simulation:
    """Agents under way.

    walkers : where they are.  keys, routes : by row of `walkers`, what each was sent for and the way it
    walks.  seconds : simulated time since the beginning.
    """

    def __init__(self, cell_size: float, speed: float = 1.0) -> None:
        """cell_size : world units of one cell, the scale of the gait.  speed : of the clock."""
        self.clock = Clock(STEP, speed)
        self.walkers = Walkers(cell_size)
        self.keys: list[Hashable] = []
        self.routes: list[Route] = []
        self.steps = 0

    def __len__(self) -> int:
        return len(self.walkers)

    @property
    def seconds(self) -> float:
        """Simulated time since the beginning."""
        return self.steps * STEP

    @property
    def arrived(self) -> int:
        """How many are at their goal."""
        return int(self.walkers.arrived.sum())

    @property
    def over(self) -> bool:
        """Whether all agents have arrived, and there are some."""
        return len(self) > 0 and self.arrived == len(self)

    def send(self, key: Hashable, route: Route) -> None:
        """Start an agent at the first point of a route."""
        self.walkers.send(route.points)
        self.keys.append(key)
        self.routes.append(route)

    def step(self) -> None:
        """One step of STEP seconds."""
        self.steps += 1
        self.walkers.step(STEP)

    def advance(self, seconds: float) -> int:
        """So much time has passed on the clock; returns how many steps were done."""
        steps = self.clock.passed(seconds)
        for _ in range(steps):
            self.step()
        return steps

    def follow(self, route_of: Callable[[Hashable], Route | None]) -> int:
        """Take away the agents whose way is no longer theirs; returns how many.

        route_of : by key, the route as it is now, None for a broken one.
        """
        stays = []
        for row, (key, walked) in enumerate(zip(self.keys, self.routes, strict=True)):
            now = route_of(key)
            if now is not None and now.cells == walked.cells:
                stays.append(row)
        gone = len(self) - len(stays)
        if gone:
            self.walkers.keep(stays)
            self.keys = [self.keys[row] for row in stays]
            self.routes = [self.routes[row] for row in stays]
        return gone
