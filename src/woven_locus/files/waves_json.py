"""The ways of attackers, the towers along them, and what came of the waves, as JSON."""

from __future__ import annotations

from typing import Any

from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.cut import least_cut
from woven_locus.core.waves.ranges import in_range
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.towers import towers_of
from woven_locus.core.waves.ways import EntryWay, find_ways


def waves_json(plan: Plan) -> dict[str, Any]:
    """The ways of a plan's entries, what its towers reach of them, and the least cuts."""
    ways = find_ways(plan)
    towers = [
        {
            "structure": placed.number,
            "kind": placed.kind,
            "range": [placed.tower.least, placed.tower.most],
            "in_range": [
                {
                    "entry": way.entry,
                    "moves": way.moves.value,
                    "length": in_range(way.points, placed.centre, placed.tower),
                }
                for way in ways
                if way.found
            ],
        }
        for placed in towers_of(plan)
    ]
    cuts = []
    for entry in plan.waves.entries:
        for moves in plan.waves.moves_from(entry):
            if moves is not Moves.AIR:
                cut = least_cut(plan, entry, moves)
                cells = [[cell.col, cell.row] for cell in cut.cells]
                cuts.append(
                    {"entry": entry.id, "moves": moves.value, "cells": cells, "why": cut.why}
                )
    return {"paths": [_way(plan, way) for way in ways], "towers": towers, "cut": cuts}


def _way(plan: Plan, way: EntryWay) -> dict[str, Any]:
    spec = plan.spec
    cells = [[c + spec.first_col, r + spec.first_row] for r, c in way.slots.tolist()]
    found: dict[str, Any] = {
        "entry": way.entry,
        "goal": way.goal or None,
        "found": way.found,
        "over": way.moves.value,
        "moves": 4 if way.moves is Moves.ROADS else plan.waves.moves,
    }
    if way.found:
        found |= {"length": way.length, "cost": way.cost}
    return found | {"cells": cells, "points": way.points.tolist()}


def outcome_json(run: WaveRun) -> dict[str, Any]:
    """What came of a run so far."""
    waves = [
        {
            "wave": nth,
            "name": wave.name,
            "sent": tally.sent,
            "stopped": tally.stopped,
            "through": tally.through,
            "lives": tally.lives,
            "earned": tally.earned,
        }
        for nth, (wave, tally) in enumerate(zip(run.plan_waves.waves, run.waves, strict=True), 1)
    ]
    return {
        "seed": run.seed,
        "seconds": run.seconds,
        "waves": waves,
        "towers": [
            {
                "structure": number,
                "shots": tally.shots,
                "stopped": tally.stopped,
                "dealt": tally.dealt,
                "wasted": tally.wasted,
                "idle": tally.idle / tally.there if tally.there else None,
            }
            for number, tally in sorted(run.tallies.items())
        ],
        "no_way": run.no_way,
        "lives": run.lives,
        "funds": run.funds,
        "held": run.held,
        "digest": run.digest(),
    }
