"""`handover`: source for a game that says what the plan says."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, answer

# As in `core.handover.LANGUAGES`, which is imported once it is needed.
LANGUAGES = ("python", "javascript", "csharp", "cpp", "lua")


@click.command("handover")
@click.argument("plan", type=PLAN)
@click.option("--language", type=click.Choice(LANGUAGES), required=True)
@click.option("--out", type=PLAN, required=True, help="Write to this folder.")
@click.option("--force", is_flag=True, help="Replace files that were changed.")
def command(plan: Path, language: str, out: Path, force: bool) -> int:
    """Write source without dependencies that follows the rules of PLAN, with a runner that answers test vectors."""
    from woven_locus.core import handover
    from woven_locus.files import plan_json
    from woven_locus.files.handover_folder import source_texts, write_folder

    texts = source_texts(plan_json.load(plan), handover.LANGUAGES[language], plan.name)
    write_folder(out, texts, force)
    return answer({"folder": str(out), "language": language, "files": sorted(texts)})
