"""Proofs: one large plan, and a folder of small ones over all cores."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.table import Row, seconds
from benchmarks.towns import town
from woven_locus.core.proof.table import prove
from woven_locus.files import plan_json


def rows(side: int, structures: int, small: int) -> list[Row]:
    plan = town(side, structures)
    spent = []
    for _ in range(3):
        fresh = plan.twin()
        start = time.perf_counter()
        prove(fresh)
        spent.append(time.perf_counter() - start)
    case = f"proof of a plan, {side}², {structures:,} structures"
    made = [Row("11", case, seconds(min(spent)), "", None, "≤ 2 s", min(spent) <= 2)]
    with tempfile.TemporaryDirectory() as folder:
        for at in range(small):
            plan_json.save(town(48, 12, at), Path(folder) / f"{at:04}.plan.json")
        took, busy = _folder(folder)
    case = f"proof of {small:,} plans of 48², {took / small * 1000:.1f} ms each"
    made.append(Row("11", case, seconds(took), "", None, "information", True))
    busy_ok = busy >= 0.85
    made.append(
        Row("11", "the same: share of the cores' time", f"{busy:.0%}", "", None, "≥ 85 %", busy_ok)
    )
    return made


def _folder(folder: str) -> tuple[float, float]:
    """Seconds, and the share of all cores' time that was worked in."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    start = time.perf_counter()
    command = [sys.executable, "-m", "woven_locus", "proof", folder]
    subprocess.run(command, stdout=subprocess.DEVNULL, check=False)
    took = time.perf_counter() - start
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    worked = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return took, worked / took / len(os.sched_getaffinity(0))
