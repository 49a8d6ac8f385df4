"""What the Reading says in Waves: of the ways with the ghost in hand, of the attacker that was clicked, of a tower."""

from __future__ import annotations

from woven_locus.core.grid.snapping import number
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.waves.run import WaveRun
from woven_locus.ui.answers.wave_ways import Growth
from woven_locus.ui.language import tr


def growth_lines(growth: tuple[Growth, ...]) -> list[str]:
    """What the ghost does to each way."""
    return [item.words for item in growth]


def attacker_lines(plan: Plan, run: WaveRun, chosen: int) -> list[str]:
    """About an attacker on the map; one line for one that is gone."""
    row = chosen - 1
    men = run.attackers
    if not (0 <= row < len(men.here)):
        return []
    kind = run.kinds[men.kind[row]]
    if not men.here[row]:
        return [tr("A{chosen} {kind} is gone", chosen=chosen, kind=kind.name)]
    unit = plan.spec.unit
    wave = run.plan_waves.waves[int(men.wave[row])]
    left = run.way_left(row)
    aims = [structure_id(number_) for number_, tally in run.tallies.items() if tally.aim == chosen]
    return [
        f"A{chosen} {kind.name}",
        tr("wave      {wave}", wave=wave.name),
        tr(
            "health    {health} of {health2}",
            health=number(round(float(men.health[row]), 1)),
            health2=number(kind.health),
        ),
        tr("to go     {left} {unit}", left=number(round(left, 1)), unit=unit),
        tr(
            "speed     {speed_of} of {speed} {unit}/s",
            speed_of=number(round(run.speed_of(row), 2)),
            speed=number(kind.speed),
            unit=unit,
        ),
        tr("shot at   {names}", names=", ".join(aims) or "by nobody"),
    ]


def tower_line(run: WaveRun, number_: int) -> str:
    """``takes A7: furthest of 3 in range``."""
    tally = run.tallies.get(number_)
    placed = next((item for item in run.towers if item.number == number_), None)
    if tally is None or placed is None or not tally.shots:
        return ""
    return tr(
        "takes     A{aim}: {takes} of {of} in range",
        aim=tally.aim,
        takes=tr(placed.tower.takes.value),
        of=tally.of,
    )
