"""`demo`: a plan that ships, in the window or as a file."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from woven_locus.cli.values import PLAN, answer, in_folder
from woven_locus.cli.windows import show
from woven_locus.core.errors import FileProblem
from woven_locus.demo import NAMES

if TYPE_CHECKING:
    from woven_locus.document import Document


@click.command("demo")
@click.argument("name", default=NAMES[0])
@click.option("--copy", type=PLAN, help="Write it to this file; no window.")
@click.option("--force", is_flag=True, help="Replace a file that is there.")
def command(name: str, copy: Path | None, force: bool) -> int:
    """Open a fresh copy of a plan that ships, or write one."""
    from woven_locus.demo import open_demo

    if copy is not None:
        from woven_locus.files import plan_json

        plan = open_demo(name)
        if copy.exists() and not force:
            raise FileProblem(copy, "", "is there already; choose another name, or give --force")
        plan_json.save(plan, in_folder(copy))
        return answer({"plan": str(copy), "name": plan.name})

    def made() -> Document:
        from woven_locus.document import Document

        return Document(open_demo(name))

    return show(made)
