"""Routes that the user asked for, kept current through every edit."""

from __future__ import annotations

from functools import cached_property

from woven_locus.core.editing import Notice
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.routing import (
    BY_ROAD,
    End,
    Manner,
    NoRoute,
    Over,
    Route,
    RouteQuery,
    end_name,
    finish_route,
    prepare_route,
)
from woven_locus.core.value import Record

Answer = Route | NoRoute


class PinnedRoute(Record, eq=False, dict=True):
    """A question and its newest answer. note : what the last edit did to it, in words."""

    start: End
    goal: End
    manner: Manner = BY_ROAD
    title: str = ""
    answer: Answer | None = None
    note: str = ""
    stale: bool = True

    @cached_property
    def ends(self) -> frozenset[int]:
        """The structures that it leads from and to."""
        return frozenset(end for end in (self.start, self.goal) if isinstance(end, int))


# What decides where a walker may go.
_GROUND = frozenset({"terrain", "road", "barrier", "structures", "obstacles"})


def _moves_ground(notice: Notice) -> bool:
    """Whether a walker may find other ground."""
    return bool(notice.layers & _GROUND)


class RouteBook:
    """The pinned routes of a document.

    A stale route is worked out by `update` here and now, or step by step with `question` and
    `answer`, so that a long search may run elsewhere in between.
    """

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self.pins: list[PinnedRoute] = []

    def pin(self, start: End, goal: End, manner: Manner = BY_ROAD) -> PinnedRoute:
        """Ask for a route; it is stale until worked out. Raises Unknown for an unknown number."""
        title = f"{end_name(self._plan, start)} \N{RIGHTWARDS ARROW} {end_name(self._plan, goal)}"
        pin = PinnedRoute(start, goal, manner, title)
        self.pins.append(pin)
        return pin

    def unpin(self, pin: PinnedRoute) -> None:
        """Let a route go."""
        self.pins.remove(pin)

    def follow(self, notice: Notice) -> None:
        """Mark what an edit may have changed as stale."""
        for pin in self.pins:
            over_roads = pin.manner.over is Over.ROADS
            if (
                notice.reformed
                or "road" in notice.layers
                or pin.ends & notice.structures
                or (not over_roads and _moves_ground(notice))
            ):
                pin.stale = True

    def question(self, pin: PinnedRoute) -> RouteQuery | NoRoute:
        """The search that a pin needs, or the answer when none is needed."""
        for end in sorted(pin.ends):
            if end not in self._plan.register:
                return NoRoute(phrase("S{end} is no longer there", end=end))
        return prepare_route(self._plan, pin.start, pin.goal, pin.manner)

    def answer(self, pin: PinnedRoute, answer: Answer) -> None:
        """Keep an answer, and say what changed since the one before."""
        before, pin.answer, pin.stale = pin.answer, answer, False
        if before is None or (
            isinstance(before, Route) and isinstance(answer, Route) and before.same_way(answer)
        ):
            pin.note = ""
        elif isinstance(answer, NoRoute):
            pin.note = "broke" if before else pin.note
        elif isinstance(before, NoRoute):
            pin.note = "mended"
        else:
            change = answer.length - before.length
            word = "longer" if change > 0 else "shorter"
            pin.note = (
                f"{abs(change):g} {word}" if abs(change) > 1e-9 else phrase("goes another way")
            )

    def update(self) -> list[PinnedRoute]:
        """Work out every stale route now; returns those."""
        stale = [pin for pin in self.pins if pin.stale]
        for pin in stale:
            query = self.question(pin)
            if isinstance(query, NoRoute):
                self.answer(pin, query)
            else:
                self.answer(pin, finish_route(self._plan, query, query.search()))
        return stale
