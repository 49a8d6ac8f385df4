"""`links`: which structures are joined by road."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, answer
from woven_locus.core.routing import find_links


@click.command("links")
@click.argument("plan", type=PLAN)
def command(plan: Path) -> int:
    """List the groups of structures that are joined by road, and those that are cut off."""
    from woven_locus.files import plan_json
    from woven_locus.files.answers_json import links_json

    return answer(links_json(find_links(plan_json.load(plan))))
