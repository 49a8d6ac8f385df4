"""`probe`: may this kind stand here?"""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import CELL, PLAN, answer
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import MIRRORED, Kind
from woven_locus.core.placing import judge
from woven_locus.core.placing.kind_words import turns_words
from woven_locus.files.verdict_json import verdict_json


@click.command("probe")
@click.argument("plan", type=PLAN)
@click.option("--kind", required=True, help="A kind's key, for instance loom-hall.")
@click.option("--cell", type=CELL, required=True, help="Lowest cell of the turned footprint.")
@click.option("--turn", type=click.IntRange(0, 3), default=0, help="Quarter turns clockwise.")
@click.option("--mirror", is_flag=True, help="Left for right, before it is turned.")
def command(plan: Path, kind: str, cell: tuple[int, int], turn: int, mirror: bool) -> int:
    """Say whether a kind may stand at a cell, and every reason why not."""
    from woven_locus.files import plan_json

    loaded = plan_json.load(plan)
    verdict = judge(
        loaded, loaded.kinds[kind], Cell(*cell), lying(loaded.kinds[kind], turn, mirror)
    )
    return answer(verdict_json(verdict), bool(verdict))


def lying(kind: Kind, turn: int, mirror: bool) -> int:
    """The turn that the options ask for. Raises UsageError for one that the kind does not take."""
    whole = turn + MIRRORED * mirror
    if not kind.may_turn(whole):
        raise click.UsageError(f"{kind.key} {turns_words(kind)}; see --turn and --mirror")
    return whole
