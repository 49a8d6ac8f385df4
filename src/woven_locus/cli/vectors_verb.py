"""`vectors`: test vectors for a game that does the same as the plan, and what its answers get wrong."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, SMALL, answer, compile_search, in_folder

# As in `vectors_json`, which is imported once it is needed.
MOST_CASES = 1_000_000


@click.command("vectors")
@click.argument("plan", type=PLAN)
@click.option("--out", type=PLAN, help="Write the cases to this file.")
@click.option("--check", "answers", type=PLAN, help="Compare these answers.")
@click.option("--seed", type=click.IntRange(0, 2**63 - 1), default=0, show_default=True)
@click.option(
    "--count",
    type=click.IntRange(1, MOST_CASES),
    help="Cases; 1,000 by default, and with --check up to the highest id that is answered.",
)
def command(
    plan: Path, out: Path | None, answers: Path | None, seed: int, count: int | None
) -> int:
    """Write questions about PLAN with the answers that a game must give, or check what it gave."""
    from woven_locus.files import plan_json
    from woven_locus.files.atomic import read_bytes, write_bytes
    from woven_locus.files.vectors_json import answers_from, differences, vectors_bytes

    if (out is None) == (answers is None):
        raise click.UsageError("give either --out FILE or --check ANSWERS")
    loaded = plan_json.load(plan)
    given = answers_from(read_bytes(answers), answers) if answers is not None else []
    if loaded.terrain.size > SMALL:
        compile_search()
    if out is not None:
        write_bytes(in_folder(out), vectors_bytes(loaded, seed, 1000 if count is None else count))
        return 0
    found = differences(loaded, seed, given, count)
    return answer(found, not (found["differ"] or found["missing"] or found["unknown"]))
