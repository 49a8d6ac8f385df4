"""`route`: the route between two ends."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search
from woven_locus.core.routing import Manner, NoRoute, Over, find_route, parse_end


@click.command("route")
@click.argument("plan", type=PLAN)
@click.option("--from", "start", required=True, help="S12 or COL,ROW.")
@click.option("--to", "goal", required=True, help="S12 or COL,ROW.")
@click.option("--over", type=click.Choice([over.value for over in Over]), default="roads")
@click.option("--moves", type=click.Choice(["4", "8"]), default="4")
@click.option(
    "--size", type=click.Choice(["1", "2", "3"]), default="1", help="Cells that the agent is wide."
)
def command(plan: Path, start: str, goal: str, over: str, moves: str, size: str) -> int:
    """Find the cheapest route between two structures or cells."""
    from woven_locus.files import plan_json
    from woven_locus.files.answers_json import route_json

    loaded = plan_json.load(plan)
    if loaded.spec.cols * loaded.spec.rows > SMALL:
        compile_search()
    found = find_route(
        loaded, parse_end(start), parse_end(goal), Manner(Over(over), int(moves), int(size))
    )
    return answer(route_json(found), not isinstance(found, NoRoute))
