"""`demo`: the window with a plan that ships."""

from __future__ import annotations

import click

from woven_locus.demo import NAMES


@click.command("demo")
@click.argument("name", default=NAMES[0])
def command(name: str) -> int:
    """Open a fresh copy of a plan that ships."""
    from woven_locus.demo import open_demo
    from woven_locus.document import Document
    from woven_locus.ui.start import start

    return start(Document(open_demo(name)))
