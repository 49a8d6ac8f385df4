"""`make bench`: one table of every figure that is measured so far, goals beside them.

``python -m benchmarks.run --small`` takes seconds and shows only that everything still runs.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys

from benchmarks import arrays, edits, networks, routing, starting
from benchmarks.table import Row, seconds, show
from woven_locus import kernel_cache


def frames(side: int, structures: int, agents: int, count: int, where: bool = False) -> list[Row]:
    arguments = [str(n) for n in (side, structures, agents, count)]
    if where:
        arguments.append("where")
    command = [sys.executable, "-m", "benchmarks.frames", *arguments]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    got = json.loads(done.stdout)
    case = f"{side}², {structures:,} structures, {agents:,} agents"
    if where:
        case += ", where it could go"
    made = []
    for name, what, goal in (
        ("paint", "paint", 8.0),
        ("whole", "hover, edit, agents' step and paint", 16.0),
    ):
        p95, most = got[f"{name} p95"], got[f"{name} most"]
        made += [
            Row(
                "7",
                f"{what}: 95 %, {case}",
                f"{p95:.2f} ms",
                "",
                None,
                f"≤ {goal:g} ms",
                p95 <= goal,
            ),
            Row("7", f"{what}: longest, {case}", f"{most:.2f} ms", "", None, "≤ 33 ms", most <= 33),
        ]
    return made


def long_work(side: int, structures: int) -> list[Row]:
    command = [sys.executable, "-m", "benchmarks.long_work", str(side), str(structures)]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    return [
        Row(
            "7",
            f"longest wait: {name}, {side}² ({seconds(took)} until drawn)",
            f"{gap * 1000:.0f} ms",
            "",
            None,
            "≤ 50 ms",
            gap <= 0.05,
        )
        for name, (took, gap) in json.loads(done.stdout).items()
    ]


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--small", action="store_true", help="small sizes, to see that all runs")
    small = parser.parse_args().small
    kernel_cache.install()
    rows: list[Row] = []
    rows += routing.rows((128,) if small else (512, 1024, 2048, 4096))
    rows += networks.rows(*((256, 6_000, 60, 128) if small else (4096, 1_000_000, 20_000, 1024)))
    rows += edits.rows(*((256, 200) if small else (4096, 20_000)))
    rows += arrays.judging(256 if small else 4096)
    rows += arrays.snapping(10_000 if small else 1_000_000)
    rows += frames(*((256, 200, 100, 60) if small else (1024, 10_000, 10_000, 480)))
    if not small:
        rows += frames(4096, 20_000, 10_000, 480)
        rows += frames(4096, 20_000, 10_000, 480, where=True)
    rows += long_work(*((256, 200) if small else (4096, 20_000)))
    rows += starting.rows(256 if small else 4096)
    print(show(rows))
    return 0


if __name__ == "__main__":
    sys.exit(main())
