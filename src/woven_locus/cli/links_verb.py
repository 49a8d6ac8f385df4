"""`links`: which structures are joined by road."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, answer
from woven_locus.core.register import structure_id
from woven_locus.core.routing import find_links


@click.command("links")
@click.argument("plan", type=PLAN)
def command(plan: Path) -> int:
    """List the groups of structures that are joined by road, and those that are cut off."""
    from woven_locus.files import plan_json

    links = find_links(plan_json.load(plan))
    return answer(
        {
            "groups": [
                {
                    "structures": [structure_id(number) for number in group.structures],
                    "road_cells": group.road_cells,
                }
                for group in links.groups
            ],
            "cut_off": [structure_id(number) for number in links.cut_off],
        }
    )
