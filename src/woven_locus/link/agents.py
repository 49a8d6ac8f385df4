"""A game's own agents, as it reports them: shown beside the plan, and no part of it."""

from __future__ import annotations

import math
from collections.abc import Iterable

import msgspec
import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import Refused
from woven_locus.core.value import Value
from woven_locus.link.method import Params

# Of one client at once.
MOST_AGENTS = 10_000
LONGEST_NAME = 80


class AgentRow(msgspec.Struct, forbid_unknown_fields=True):
    """x, y : world units.  heading : degrees, 0 towards higher columns and 90 towards higher rows; none is not shown."""

    agent: str
    x: float
    y: float
    heading: float | None = None
    kind: str = ""


class Report(Params):
    """agents : all that there are now, in place of what was reported before; none takes them off the sheet."""

    agents: list[AgentRow]


class Agents(Value, eq=False):
    """names, kinds : of each.  places : (N, 2) world.  headings : (N,) degrees, NaN for none."""

    names: tuple[str, ...]
    kinds: tuple[str, ...]
    places: npt.NDArray[np.float64]
    headings: npt.NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.names)


NOBODY = Agents((), (), np.empty((0, 2)), np.empty(0))


def reported(rows: list[AgentRow]) -> Agents:
    """What a client reports. Raises Refused for too many, for names that are too long, and for what is no place."""
    if len(rows) > MOST_AGENTS:
        raise Refused(f"{len(rows):,} agents are too many; at most {MOST_AGENTS:,}")
    for row in rows:
        if max(len(row.agent), len(row.kind)) > LONGEST_NAME:
            raise Refused(f"agent {row.agent[:20]!r}…: a name has at most {LONGEST_NAME} letters")
        if not all(math.isfinite(value) for value in (row.x, row.y, row.heading or 0.0)):
            raise Refused(f"agent {row.agent!r} is at no place")
    headings = [math.nan if row.heading is None else row.heading for row in rows]
    return Agents(
        tuple(row.agent for row in rows),
        tuple(row.kind for row in rows),
        np.array([(row.x, row.y) for row in rows], np.float64).reshape(-1, 2),
        np.array(headings, np.float64),
    )


def together(groups: Iterable[Agents]) -> Agents:
    """Those of all clients."""
    found = [group for group in groups if len(group)]
    if not found:
        return NOBODY
    return Agents(
        tuple(name for group in found for name in group.names),
        tuple(kind for group in found for kind in group.kinds),
        np.concatenate([group.places for group in found]),
        np.concatenate([group.headings for group in found]),
    )
