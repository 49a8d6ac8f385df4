"""`proof`: everything that is wrong with plans, for people and build servers."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, as_completed
from pathlib import Path
from typing import Any

import click

from woven_locus.cli.main import EXIT_BAD
from woven_locus.cli.values import PLAN, SMALL, answer, compile_search
from woven_locus.core.errors import Refused, WovenError

# Plans from which on several processes are worth starting, and seconds between two words on how far it is.
_MANY, _SAY_EVERY = 8, 2.0


@click.command("proof")
@click.argument("plans", metavar="PLAN…", nargs=-1, required=True, type=PLAN)
@click.option(
    "--as", "form", type=click.Choice(["json", "text", "junit", "sarif"]), default="json",
    help="What is printed; json by default.",
)  # fmt: skip
@click.option("--strict", is_flag=True, help="Exit 1 on warnings too.")
@click.option("--only", metavar="CODE,…", default="", help="These checks only.")
@click.option(
    "--traffic", "seconds", type=click.FloatRange(0, 86_400), default=0.0, metavar="SECONDS",
    help="Let traffic pass for so long, and look for gridlock and vehicles that find no room.",
)  # fmt: skip
def command(plans: tuple[Path, ...], form: str, strict: bool, only: str, seconds: float) -> int:
    """Check each PLAN, and all *.plan.json in a PLAN that is a folder. Exit 1 on an error, with --strict on a warning too."""
    from woven_locus.core.proof.table import known_codes

    codes = tuple(sorted(known_codes(code.strip() for code in only.split(",") if code.strip())))
    paths, several = _files(plans)
    found: dict[Path, dict[str, Any]] = {}
    unread = False
    for path, result, why in _prove_all(paths, codes, seconds):
        if why and not several:
            raise Refused(why)
        if why:
            click.echo(why, err=True)
            unread = True
        found[path] = result
    proofs = [(str(path), found[path]) for path in paths]
    bad = any(
        result["counts"]["error"] or (strict and result["counts"]["warning"])
        for _path, result in proofs
    )
    _print(proofs, form, several, strict)
    return EXIT_BAD if unread else int(bad)


def _files(plans: tuple[Path, ...]) -> tuple[list[Path], bool]:
    """The files that are meant, each once, and whether there may be several. Raises Refused for an empty folder."""
    found: dict[Path, None] = {}
    for plan in plans:
        if not plan.is_dir():
            found[plan] = None
            continue
        inside = sorted(plan.rglob("*.plan.json"))
        if not inside:
            raise Refused(f"{plan}: there is no *.plan.json in this folder")
        found.update(dict.fromkeys(inside))
    return list(found), len(plans) > 1 or plans[0].is_dir()


def _prove_all(
    paths: list[Path], codes: tuple[str, ...], seconds: float
) -> Iterator[tuple[Path, dict[str, Any], str]]:
    """Each plan with its proof, and why there is none; over all cores where there are many."""
    cores = len(os.sched_getaffinity(0))
    if len(paths) < _MANY or cores == 1:
        for path in paths:
            yield path, *_prove(path, codes, seconds)
        return
    said = time.monotonic()
    with ProcessPoolExecutor(cores) as pool:
        # A few plans at a time, so that no process waits for another at the end.
        size = max(1, min(16, len(paths) // (4 * cores)))
        shares = [paths[at : at + size] for at in range(0, len(paths), size)]
        jobs = {pool.submit(_prove_some, share, codes, seconds): share for share in shares}
        done = 0
        for job in as_completed(jobs):
            for path, (result, why) in zip(jobs[job], job.result(), strict=True):
                yield path, result, why
            done += len(jobs[job])
            if time.monotonic() - said > _SAY_EVERY and sys.stderr.isatty():
                said = time.monotonic()
                click.echo(f"{done:,} of {len(paths):,} plans", err=True)


def _prove_some(
    paths: list[Path], codes: tuple[str, ...], seconds: float
) -> list[tuple[dict[str, Any], str]]:
    return [_prove(path, codes, seconds) for path in paths]


def _prove(path: Path, codes: tuple[str, ...], seconds: float) -> tuple[dict[str, Any], str]:
    """The proof of a plan as JSON, and why it could not be read."""
    from woven_locus.core.proof.table import prove
    from woven_locus.files import plan_json
    from woven_locus.files.proof_json import proof_json, unreadable_json

    try:
        plan = plan_json.load(path)
        if seconds or plan.terrain.size > SMALL:
            compile_search()
        return proof_json(prove(plan, codes, seconds)), ""
    except WovenError as err:
        return unreadable_json(str(err)), str(err)


def _print(
    proofs: list[tuple[str, dict[str, Any]]], form: str, several: bool, strict: bool
) -> None:
    from woven_locus.files.junit import junit_xml
    from woven_locus.files.proof_json import proof_text
    from woven_locus.files.sarif import sarif_json

    if form == "json":
        whole: Any = {"plans": [{"plan": path, **found} for path, found in proofs]}
        answer(whole if several else proofs[0][1])
    elif form == "sarif":
        answer(sarif_json(proofs))
    elif form == "junit":
        click.echo(junit_xml(proofs, strict), nl=False)
    else:
        text = "\n".join(proof_text(path, found) for path, found in proofs)
        click.echo(text.encode("utf-8", "backslashreplace"))
