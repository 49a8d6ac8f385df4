"""The benchmarks still run; nothing here looks at how long they take."""

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from benchmarks import grounds
from benchmarks.table import Row, seconds, show
from benchmarks.towns import town

from woven_locus.files import plan_json

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize(
    ("asked", "given"),
    [
        ("7b", "7b"),
        ("4 7", "4 7"),
        ("5 9", "5 9 10"),
        ("1 2 6 8 8b", "1 1b 2 2b 3 4 6 8 8b"),
        ("11 pairs handover", "11 pairs handover"),
    ],
)
def test_the_small_table_has_a_row_for_each_goal(asked: str, given: str) -> None:
    command = [sys.executable, "-m", "benchmarks.run", "--small", "--only", *asked.split()]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "COSTS DIFFER" not in done.stdout
    numbers = {line.split()[0] for line in done.stdout.splitlines()[2:]}
    assert numbers == set(given.split())


@pytest.mark.parametrize("family", grounds.FAMILIES)
def test_grounds_are_seeded_and_their_far_ends_are_joined(family: str) -> None:
    make = grounds.FAMILIES[family]
    code = make(64, 5)
    np.testing.assert_array_equal(code, make(64, 5))
    start, goal = grounds.far_ends(code)
    assert code[start]
    assert code[goal]
    assert abs(start[0] - goal[0]) + abs(start[1] - goal[1]) > 64


def test_a_maze_is_one_connected_whole() -> None:
    from scipy import ndimage

    assert ndimage.label(grounds.maze(65, 2))[1] == 1


def test_towns_are_plans_like_any_other() -> None:
    plan = town(128, 100)
    assert len(plan.register) == 100
    assert plan_json.dump(plan_json.parse(plan_json.dump(plan))) == plan_json.dump(plan)


def test_the_table_lines_up_and_says_what_was_missed() -> None:
    text = show(
        [Row("1", "a", "1 s", "2 s", 0.5, "≤ 1", True), Row("10", "b", "", "", None, "", False)]
    )
    head, _rule, first, second = text.splitlines()
    assert head.index("goal") == first.index("≤ 1")
    assert first.endswith("met")
    assert second.endswith("NOT MET")


@pytest.mark.parametrize(
    ("value", "text"), [(2.5, "2.50 s"), (0.0125, "12.50 ms"), (4e-5, "40.00 µs"), (5e-8, "50 ns")]
)
def test_times_are_written_with_the_unit_that_fits(value: float, text: str) -> None:
    assert seconds(value) == text
