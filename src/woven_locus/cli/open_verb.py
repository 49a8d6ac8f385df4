"""`open`: the window."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN


@click.command("open")
@click.argument("plan", type=PLAN, required=False)
def command(plan: Path | None) -> int:
    """Open PLAN in the window; without one, the plan that was open last, or else a fresh copy of the demo."""
    from woven_locus.document import Document
    from woven_locus.ui.start import start

    return start(Document.open(plan) if plan else None)
