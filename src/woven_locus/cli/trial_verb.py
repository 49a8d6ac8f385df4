"""`trial`: many runs over seeds and settings, as a table."""

from __future__ import annotations

import itertools
import signal
import sys
from collections.abc import Generator, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from types import FrameType
from typing import Any

import click

from woven_locus.cli.values import PLAN, answer


@click.command("trial")
@click.argument("spec", type=PLAN)
@click.option(
    "--out",
    type=PLAN,
    required=True,
    help="The table, CSV; what it holds already is not done again.",
)
@click.option(
    "--workers", type=click.IntRange(1, 4096), help="Processes; one for each core by default."
)
@click.option("--scheduler", metavar="ADDRESS", help="A Dask scheduler, like tcp://10.0.0.5:8786.")
@click.option("--force", is_flag=True, help="Begin anew where the table holds something.")
def command(spec: Path, out: Path, workers: int | None, scheduler: str | None, force: bool) -> int:
    """Run what the TOML file SPEC asks, over all cores or a cluster. Stopped, it goes on where it was when run again."""
    from woven_locus.trial.spec import load
    from woven_locus.trial.table import Table, settings_of

    if workers is not None and scheduler is not None:
        raise click.UsageError("--workers is for this machine; a cluster has its own")
    asked = load(spec)
    table = Table(asked, out, force)
    done, failed, stopped = table.done, 0, False
    left = itertools.islice(asked.runs(), table.done, None)
    results = _results(asked, workers, scheduler, table.done)
    try:
        with _interrupts() as interrupted, table.writing() as add, closing(results):
            for (plan, settings), cells in zip(left, results, strict=True):
                add([*settings_of(asked, plan, settings), *cells])
                done += 1
                failed += bool(cells[-1])
                _tell(done, asked.count)
                if interrupted:
                    # Where it arrived nobody could be told, as in a callback of the interpreter.
                    raise KeyboardInterrupt
    except KeyboardInterrupt:
        stopped = True
        click.echo(
            f"stopped after {done:,} of {asked.count:,} runs; run the same again to go on", err=True
        )
    found = {
        "out": str(out),
        "runs": asked.count,
        "done": done,
        "kept": table.done,
        "failed": failed,
    }
    return answer(found, not failed and not stopped)


@contextmanager
def _interrupts() -> Iterator[list[int]]:
    """Filled when the user interrupts the program, which raises KeyboardInterrupt as before."""
    seen: list[int] = []

    def handle(number: int, frame: FrameType | None) -> None:
        seen.append(number)
        signal.default_int_handler(number, frame)

    before = signal.signal(signal.SIGINT, handle)
    try:
        yield seen
    finally:
        signal.signal(signal.SIGINT, before)


def _results(
    asked: Any, workers: int | None, scheduler: str | None, first: int
) -> Generator[list[str], None, None]:
    from woven_locus.trial import runs
    from woven_locus.trial import workers as hands

    def jobs() -> Iterator[Any]:
        for plan, data, settings in asked.jobs(first):
            whole = settings | {"seconds": asked.seconds_of(settings)}
            yield data, str(plan), asked.run, whole, asked.note

    if scheduler is not None:
        return hands.cluster(jobs(), runs.outcome, scheduler)
    return hands.local(jobs(), runs.outcome, workers or -1)


def _tell(done: int, count: int) -> None:
    if sys.stderr.isatty() and (done % 10 == 0 or done == count):
        click.echo(f"\r{done:,} of {count:,} runs", err=True, nl=done == count)
