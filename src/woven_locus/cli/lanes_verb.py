"""`lanes`: the lane graph, or one way through it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search
from woven_locus.core.plan import Plan
from woven_locus.core.routing import NoRoute, find_lane_way, parse_end


@click.command("lanes")
@click.argument("plan", type=PLAN)
@click.option("--from", "start", help="S12 or COL,ROW.")
@click.option("--to", "goal", help="S12 or COL,ROW.")
def command(plan: Path, start: str | None, goal: str | None) -> int:
    """Print the lane graph of PLAN, or the quickest way through it between two structures or cells."""
    from woven_locus.files import plan_json
    from woven_locus.files.answers_json import lane_way_json

    if (start is None) != (goal is None):
        raise click.UsageError("--from and --to belong together; give both or neither")
    loaded = plan_json.load(plan)
    if start is None or goal is None:
        return answer(_whole(loaded))
    if loaded.spec.cols * loaded.spec.rows > SMALL:
        compile_search()
    way = find_lane_way(loaded, parse_end(start), parse_end(goal))
    return answer(lane_way_json(loaded, way), not isinstance(way, NoRoute))


def _whole(plan: Plan) -> dict[str, Any]:
    from woven_locus.files.lane_rows import lane_edges, lane_nodes

    nodes = [
        {
            "id": at,
            "point": [node.x, node.y],
            "cell": [node.col, node.row],
            "heading": node.heading,
            "lane": node.lane,
            "turns_about": node.turns_about,
        }
        for at, node in enumerate(lane_nodes(plan), 1)
    ]
    edges = [
        {"from": edge.start, "to": edge.end, "length": edge.length, "seconds": edge.seconds}
        for edge in lane_edges(plan)
    ]
    return {"keep": plan.keep.value, "nodes": nodes, "edges": edges}
