"""`integrate`: the program in the menus of a user's desktop."""

from __future__ import annotations

from pathlib import Path

import click

from woven_locus.cli.values import PLAN, answer


@click.command("integrate")
@click.option("--remove", "away", is_flag=True, help="Take it away again.")
@click.option(
    "--prefix", type=PLAN, help="A data folder, like /usr/share; this user's own by default."
)
@click.option("--command", "program", help="The program to start; this one by default.")
def command(away: bool, prefix: Path | None, program: str | None) -> int:
    """Install a desktop entry, icons, the type of plans, metainfo, a manual page and completions for this user."""
    from woven_locus.cli.main import woven_locus
    from woven_locus.integration import install

    folder = prefix if prefix is not None else install.data_home()
    if away:
        files = install.remove(folder, woven_locus)
    else:
        from woven_locus.ui.icon_picture import icon_png

        files = install.install(folder, program or install.own_command(), woven_locus, icon_png)
    return answer({"folder": str(folder), "removed": away, "files": sorted(map(str, files))})
