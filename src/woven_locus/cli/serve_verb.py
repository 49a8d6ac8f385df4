"""`serve`: the live link without a window."""

from __future__ import annotations

import asyncio
import signal
import sys
from pathlib import Path

import click

from woven_locus.cli.values import PLAN, compile_search


@click.command("serve")
@click.argument("plan", type=PLAN)
@click.option("--port", type=click.IntRange(0, 65_535), default=0, help="A free one by default.")
@click.option("--read-only", is_flag=True, help="Refuse every edit.")
def command(plan: Path, port: int, read_only: bool) -> int:
    """Let a running game read, ask and edit PLAN: JSON-RPC 2.0 over WebSocket, on this machine only. Ends, saved, on SIGTERM."""
    from woven_locus.document import Document
    from woven_locus.document.journals import journal_folder

    document = Document.open(plan)
    compile_search()
    if not read_only:
        document.keep_journal(journal_folder())
    asyncio.run(_serve(document, port, read_only))
    if not read_only and not document.history.saved:
        document.save()
    document.close()
    return 0


async def _serve(document: object, port: int, read_only: bool) -> None:
    from woven_locus.link.method import Host
    from woven_locus.link.server import Link, greeting

    link = Link(Host(document, read_only), port)  # type: ignore[arg-type]
    ended = asyncio.Event()
    loop = asyncio.get_running_loop()
    for name in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(name, ended.set)
    await link.start()
    sys.stdout.write(greeting(link) + "\n")
    sys.stdout.flush()
    await ended.wait()
    await link.stop()
