"""Signals from what was counted: phases of turns that do not conflict, how long each should be green, and what that
costs.

Source: F. V. Webster, "Traffic Signal Settings", Road Research Technical Paper 39 (1958): the cycle of least delay,
green in proportion to each phase's critical ratio of flow to saturation flow, and the mean delay of random arrivals.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from woven_locus.core.junction_rules import JunctionRule, Phase, Rule, Turn
from woven_locus.core.traffic.fleet import asking
from woven_locus.core.traffic.run import TrafficRun
from woven_locus.core.value import Value
from woven_locus.core.vehicles import VehicleKind

AMBER = 2.0
# Seconds of a cycle, and of green, that are proposed at least and at most.
SHORTEST_CYCLE, LONGEST_CYCLE, SHORTEST_GREEN = 20.0, 150.0, 4.0
# A junction that is asked for more than this share of what it can pass is said to be too full.
FULL = 0.95


class Approach(Value):
    """One lane that leads into a junction. turns : that are made from it.  flows : vehicles a second that made each."""

    turns: tuple[Turn, ...]
    flows: tuple[float, ...]

    def flow(self, turns: Sequence[Turn]) -> float:
        """Vehicles a second that make one of some turns."""
        return sum(flow for turn, flow in zip(self.turns, self.flows, strict=True) if turn in turns)


class Prediction(Value):
    """load : the share of what the junction can pass that comes; above 1 queues grow without end.  delay : seconds that
    each vehicle loses on average, inf where queues grow.  never : turns that never get green."""

    load: float
    delay: float
    never: tuple[Turn, ...]


def approaches(run: TrafficRun, junction: int) -> list[Approach]:
    """The lanes that lead into a junction, with what came by each so far; who waits there counts too."""
    junctions, road = run.streets.junctions, run.streets.road
    moves = junctions.moves_of(junction)
    came = road.passed[moves].astype(float)
    fleet, tracks = run.fleet, run.streets.tracks
    for row in asking(road, fleet.cars, int(junctions.areas[junction])):
        came[tracks.movement[fleet.pieces[fleet.cars.line[row]]]] += 1
    found = []
    for lane in dict.fromkeys(junctions.lane[moves].tolist()):
        mine = junctions.lane[moves] == lane
        some = moves[mine]
        turns = tuple(
            zip(junctions.came[some].tolist(), junctions.goes[some].tolist(), strict=True)
        )
        flows = tuple((came[mine] / max(run.seconds, 1.0)).tolist())
        found.append(Approach(turns, flows))
    return found


def crossing_turns(
    run: TrafficRun, junction: int, turns: Sequence[Turn]
) -> list[tuple[Turn, Turn]]:
    """Pairs of turns, from different sides, that are in each other's way."""
    junctions, tracks = run.streets.junctions, run.streets.tracks
    moves = junctions.moves_of(junction)
    mask = tracks.mask[moves]
    bits = {turn: junctions.bits_of(junction, [turn]) for turn in turns}

    def conflict(a: Turn, b: Turn) -> bool:
        mine = [at for at in range(len(moves)) if bits[a] >> at & 1]
        return any(int(mask[at]) & bits[b] for at in mine)

    return [
        (a, b)
        for at, a in enumerate(turns)
        for b in turns[at + 1 :]
        if a[0] != b[0] and conflict(a, b)
    ]


def phases_apart(run: TrafficRun, junction: int) -> tuple[tuple[Turn, ...], ...]:
    """The turns of phases in which nobody is in another's way. All turns from one side have green together, since
    those behind a vehicle that may not go would wait for it; sides that do not conflict share a phase."""
    turns = run.streets.junctions.turns_of(junction)
    crossing = {(a[0], b[0]) for a, b in crossing_turns(run, junction, turns)}
    sides = sorted({came for came, _ in turns})
    # Opposite sides are tried first: they share most often.
    found: list[list[int]] = []
    for side in sorted(sides, key=lambda side: (side % 2, side)):
        for group in found:
            if not any((a, b) in crossing for s in group for a, b in ((s, side), (side, s))):
                group.append(side)
                break
        else:
            found.append([side])
    return tuple(tuple(turn for turn in turns if turn[0] in group) for group in found)


def saturation(kinds: Sequence[VehicleKind], top: float) -> float:
    """Vehicles a second that a lane passes while its queue is let go: the most that the following model carries in
    equilibrium at a speed up to `top`, the mean over the kinds."""
    headways = []
    for kind in kinds:
        fastest = min(kind.speed, top)
        v = np.linspace(0.02, 0.995, 200) * fastest
        flow = v / (kind.equilibrium_gap(v, fastest) + kind.length)
        headways.append(1 / float(flow.max()))
    return 1 / (sum(headways) / len(headways))


class Timing:
    """What a junction can pass. Lost in each phase: the amber, and what the first ones need to get going."""

    def __init__(self, run: TrafficRun, junction: int) -> None:
        self.approaches = approaches(run, junction)
        tracks, junctions = run.streets.tracks, run.streets.junctions
        pieces = np.flatnonzero(tracks.area == junctions.areas[junction])
        top = float(tracks.speed[tracks.begins[pieces]].max())
        self.saturation = saturation(run.kinds, top)
        slowest = min(kind.acceleration for kind in run.kinds)
        self.start = min(min(kind.speed for kind in run.kinds), top) / (2 * slowest)
        self.turns = junctions.turns_of(junction)

    def ratio(self, turns: Sequence[Turn]) -> float:
        """The largest share of a lane's saturation flow that comes for some turns."""
        return max((lane.flow(turns) / self.saturation for lane in self.approaches), default=0.0)

    def proposed(self, groups: Sequence[Sequence[Turn]]) -> tuple[Phase, ...]:
        """Phases for groups of turns: Webster's cycle, and green in proportion."""
        ratios = [max(self.ratio(group), 0.01) for group in groups]
        lost = len(groups) * (AMBER + self.start)
        free = 1 - sum(ratios)
        wish = (1.5 * lost + 5) / free if free > 0.05 else LONGEST_CYCLE
        cycle = min(max(wish, SHORTEST_CYCLE, 1.2 * lost), LONGEST_CYCLE)
        share = (cycle - lost) / sum(ratios)
        return tuple(
            Phase(
                tuple(sorted(group)),
                max(SHORTEST_GREEN, round(ratio * share + self.start, 1)),
                AMBER,
            )
            for group, ratio in zip(groups, ratios, strict=True)
        )

    def predicted(self, rule: JunctionRule) -> Prediction:
        """What signals would cost what came so far."""
        cycle = rule.cycle
        load = delay = total = 0.0
        for lane in self.approaches:
            flow = lane.flow(lane.turns)
            green = sum(
                max(0.0, phase.green - self.start)
                for phase in rule.phases
                if any(turn in phase.turns for turn in lane.turns)
            )
            if flow <= 0:
                continue
            share = green / cycle
            x = flow / (self.saturation * share) if share > 0 else math.inf
            load = max(load, x)
            total += flow
            if x < 1:
                uniform = cycle * (1 - share) ** 2 / (2 * (1 - share * x))
                delay += flow * 0.9 * (uniform + x * x / (2 * flow * (1 - x)))
            else:
                delay = math.inf
        return Prediction(load, delay / total if total else 0.0, rule.never_green(self.turns))


def propose(run: TrafficRun, junction: int, offset: float = 0.0) -> JunctionRule:
    """Signals for a junction, from what came there so far."""
    timing = Timing(run, junction)
    phases = timing.proposed(phases_apart(run, junction))
    cell = run.streets.junctions.cell(junction)
    return JunctionRule(cell, Rule.SIGNALS, phases, offset)
