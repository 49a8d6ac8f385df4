"""`open`: the window."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from woven_locus.cli.values import PLAN
from woven_locus.cli.windows import show

if TYPE_CHECKING:
    from woven_locus.document import Document


@click.command("open")
@click.argument("plan", type=PLAN, required=False)
def command(plan: Path | None) -> int:
    """Open PLAN in the window; without one, the plan that was open last, or else a fresh copy of the demo."""

    def made() -> Document | None:
        from woven_locus.document import Document

        return Document.open(plan) if plan else None

    return show(made)
