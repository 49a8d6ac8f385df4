"""`make bench`: one table of every figure that is measured so far, goals beside them.

``python -m benchmarks.run --small`` takes seconds and shows only that everything still runs; ``--only 4 7`` runs
the cases of some rows.
"""

from __future__ import annotations

import argparse
import json
import statistics
import subprocess
import sys
from typing import Any

from benchmarks import arrays, handovers, networks, pairs, proofs, routing, starting, traffic, waves
from benchmarks.table import Row, seconds, show
from woven_locus import kernel_cache


def _of(module: str, *arguments: object) -> Any:
    """What a bench prints that is a program of its own."""
    command = [sys.executable, "-m", f"benchmarks.{module}", *map(str, arguments)]
    done = subprocess.run(command, stdout=subprocess.PIPE, text=True, check=True)
    return json.loads(done.stdout)


def frames(side: int, structures: int, agents: int, count: int, where: bool = False) -> list[Row]:
    got = _of("frames", side, structures, agents, count, *(["where"] if where else []))
    case = f"{side}², {structures:,} structures, {agents:,} agents"
    if where:
        case += ", where it could go"
    bare = got["blit"]
    made = []
    for key, what, times in (
        ("median", "median", 30),
        ("p95", "95 %", 60),
        ("most", "longest", 200),
    ):
        ours = got[key]
        reference = f"{bare:.2f} ms (blit)"
        goal = f"≤ {times} × blit"
        row = Row(
            "7",
            f"a frame: {what}, {case}",
            f"{ours:.2f} ms",
            reference,
            ours / bare,
            goal,
            ours <= times * bare,
        )
        made.append(row)
    p95 = got["p95"]
    made.append(
        Row("7", f"a frame, quiet: 95 %, {case}", f"{p95:.2f} ms", "", None, "≤ 8 ms", p95 <= 8)
    )
    return made


def long_work(side: int, structures: int, cells: int) -> list[Row]:
    made = []
    for what, place in (("plain", ()), ("ways", (cells,))):
        got = _of("long_work", what, side, structures, *place)
        copying = got.pop("copying the layers")[0]
        goal = max(0.05, copying / 4)
        for name, (took, gap) in got.items():
            made.append(
                Row(
                    "7b",
                    f"longest wait: {name}, {side}² ({seconds(took)} until drawn)",
                    f"{gap * 1000:.0f} ms",
                    f"{seconds(copying)} (copying the layers)",
                    gap / copying,
                    f"≤ {goal * 1000:.0f} ms",
                    gap <= goal,
                )
            )
    return made


def edits(small: tuple[int, int], large: tuple[int, int], repeats: int) -> list[Row]:
    """One frame each, and no dearer on a large plan than on a small one."""
    of_small, of_large = _of("edits", *small, repeats), _of("edits", *large, repeats)
    made = []
    for name, times in of_large.items():
        middle, most = statistics.median(times), max(times)
        before = statistics.median(of_small[name])
        case = f"{name}, {large[0]}², {large[1]:,} structures, panels painted"
        made.append(
            Row(
                "4",
                f"{case}: longest of {len(times)}",
                seconds(most),
                "",
                None,
                "≤ 16 ms",
                most <= 0.016,
            )
        )
        made.append(
            Row(
                "4",
                f"{case}: median",
                seconds(middle),
                f"{seconds(before)} ({small[0]}²)",
                middle / before,
                "≤ 1.5 ×",
                middle <= 1.5 * before,
            )
        )
    return made


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--small", action="store_true", help="small sizes, to see that all runs")
    parser.add_argument(
        "--only", nargs="*", help="numbers of rows: 1 2 4 5 7 7b 8 8b 9 11 pairs handover"
    )
    asked = parser.parse_args()
    small = asked.small
    kernel_cache.install()
    large = (256, 200) if small else (4096, 20_000)
    cases: dict[str, Any] = {
        "1": lambda: routing.rows((128,) if small else (512, 1024, 2048, 4096)),
        "2": lambda: networks.rows(
            *((256, 6_000, 60, 128) if small else (4096, 1_000_000, 20_000, 1024))
        ),
        "pairs": lambda: pairs.rows(*((96, 20) if small else (512, 280))),
        "4": lambda: edits((128, 20) if small else (512, 300), large, 2 if small else 15),
        "5": lambda: arrays.judging(256 if small else 4096),
        "6": lambda: arrays.snapping(10_000 if small else 1_000_000),
        "7": lambda: [
            row
            for arguments in (
                [(256, 200, 100, 60)]
                if small
                else [
                    (1024, 10_000, 10_000, 480),
                    (4096, 20_000, 10_000, 480),
                    (4096, 20_000, 10_000, 480, True),
                ]
            )
            for row in frames(*arguments)
        ],
        "7b": lambda: long_work(*large, 6_000 if small else 1_000_000),
        "8": lambda: traffic.rows(
            *(
                (((64, 40), (96, 80)), (256, 6_000, 60))
                if small
                else (((320, 1_000), (1024, 10_000), (3232, 100_000)), (4096, 1_000_000, 20_000))
            )
        ),
        "8b": lambda: waves.rows(*((128, 500, 20) if small else (1024, 10_000, 200))),
        "9": lambda: starting.rows(*((256, 2) if small else (4096, 6))),
        "11": lambda: proofs.rows(*((96, 40, 12) if small else (1024, 2_000, 1_000))),
        "handover": lambda: handovers.rows(*((48, 12, 100) if small else (256, 200, 1_000))),
    }
    rows: list[Row] = []
    for name, make in cases.items():
        if asked.only is None or name in asked.only:
            rows += make()
            print(f"row {name} done", file=sys.stderr, flush=True)
    print(show(rows))
    return 0


if __name__ == "__main__":
    sys.exit(main())
