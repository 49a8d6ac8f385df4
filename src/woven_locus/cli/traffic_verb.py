"""`traffic`: let the plan's traffic run, and say what came of it."""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING

import click

from woven_locus.cli.values import PLAN, answer, compile_search
from woven_locus.core.vehicles import LONGEST_RUN

if TYPE_CHECKING:
    from woven_locus.core.traffic.report import Watch
    from woven_locus.core.traffic.run import TrafficRun


def _seconds(name: str, least: float, most: float) -> Callable[..., float | None]:
    def check(_ctx: click.Context, _param: click.Parameter, value: float | None) -> float | None:
        if value is not None and not (math.isfinite(value) and least <= value <= most):
            raise click.BadParameter(f"{name} must be {least:g} to {most:g} seconds, not {value:g}")
        return value

    return check


@click.command("traffic")
@click.argument("plan", type=PLAN)
@click.option(
    "--seconds",
    required=True,
    type=float,
    callback=_seconds("a run", 0.0, LONGEST_RUN),
    help="How long it runs.",
)
@click.option(
    "--step",
    type=float,
    callback=_seconds("a step", 0.001, 0.5),
    help="Of a step; 1/30 by default.",
)
@click.option(
    "--seed",
    type=click.IntRange(0, 2**63 - 1),
    default=0,
    help="For trips that rules make by chance.",
)
@click.option("--trips", type=PLAN, help="A CSV of trips in place of the plan's own.")
@click.option("--trace", type=PLAN, help="A CSV to write: where everybody is.")
@click.option(
    "--trace-every",
    type=float,
    callback=_seconds("the time between two looks", 0.001, LONGEST_RUN),
    help="Seconds between two looks; each step by default.",
)
def command(
    plan: Path,
    seconds: float,
    step: float | None,
    seed: int,
    trips: Path | None,
    trace: Path | None,
    trace_every: float | None,
) -> int:
    """Let the traffic of PLAN run for so many seconds."""
    from woven_locus.core.clock import STEP
    from woven_locus.core.traffic.report import Watch, figures
    from woven_locus.core.traffic.run import TrafficRun
    from woven_locus.core.traffic.trips import all_trips
    from woven_locus.files import plan_json, traffic_rows
    from woven_locus.files.atomic import streamed
    from woven_locus.files.trace_csv import Trace

    if trace_every is not None and trace is None:
        raise click.UsageError("--trace-every says how often --trace is written; give that too")
    loaded = plan_json.load(plan)
    soon = ["trips", "traffic"]
    if loaded.traffic.rules:
        soon.append("lanes")  # for the nearest structure
    if loaded.traffic.people:
        soon.append("routes")  # for their ways over ground
    compile_search(*soon)
    table = all_trips(loaded, seed) if trips is None else traffic_rows.load(trips, loaded)
    run = TrafficRun(loaded, table, loaded.traffic.vehicles, STEP if step is None else step, seed)
    watch = Watch(run)
    with ExitStack() as stack:
        looks: list[Callable[[TrafficRun], None]] = []
        if trace is not None:
            looks.append(Trace(stack.enter_context(streamed(trace)), trace_every).look)
        _drive(run, watch, seconds, looks)
    found = {**figures(run, watch, loaded), "seed": seed}
    return answer(found, not (found["overlaps"] or found["stuck"] or found["no_way"]))


def _drive(
    run: TrafficRun, watch: Watch, seconds: float, looks: list[Callable[[TrafficRun], None]]
) -> None:
    from woven_locus.core.traffic.record import EVERY

    steps = round(seconds / run.step)
    often = max(1, round(EVERY / run.step))
    for at in range(1, steps + 1):
        run.advance()
        if at % often == 0 or at == steps:
            watch.look()
        for look in looks:
            look(run)
