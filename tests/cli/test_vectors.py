"""`vectors`: cases that are right by another program's own working, and answers that are compared."""

import json
import math
from fractions import Fraction
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from tests.cli.conftest import Answer
from woven_locus.files.vectors_json import schema

COMMANDS = {
    "locate",
    "centre",
    "snap",
    "low_cell",
    "cells",
    "probe",
    "route",
    "links",
    "shape",
    "lane",
}


def written(run: Any, plan: Path, *more: str) -> dict[str, Any]:
    out = plan.with_name("vectors.json")
    got: Answer = run("vectors", plan, "--out", out, *more)
    assert (got.code, got.err) == (0, "")
    found: dict[str, Any] = json.loads(out.read_text("utf-8"))
    return found


def answers(vectors: dict[str, Any], plan: Path) -> Path:
    path = plan.with_name("answers.json")
    rows = [{"id": case["id"], "answer": case["expected"]} for case in vectors["cases"]]
    path.write_text(json.dumps({"answers": rows}))
    return path


def test_the_file_is_what_its_schema_says(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    found = written(run, plan, "--count", "400")
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(found, schema())
    assert {case["ask"] for case in found["cases"]} == COMMANDS
    assert [case["id"] for case in found["cases"]] == list(range(400))
    assert found["grid"]["cols"] == 7
    # The first cases are the same however many there are; another seed asks for others.
    assert written(run, plan, "--count", "40")["cases"] == found["cases"][:40]
    assert written(run, plan, "--count", "40", "--seed", "5")["cases"] != found["cases"][:40]
    assert len(written(run, plan)["cases"]) == 1000


def test_points_are_what_plain_arithmetic_says(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    """By fractions, which do not round."""
    found = written(run, plan, "--count", "2000")
    cell, first = (Fraction(24), Fraction(16)), (-2, -1)
    borders = 0
    for case in found["cases"]:
        given, expected = case["given"], case["expected"]
        if "world" not in given:
            continue
        world = [Fraction(x) for x in given["world"]]
        if case["ask"] == "locate":
            index = [math.floor(p / s) for p, s in zip(world, cell, strict=True)]
            borders += any(p % s == 0 for p, s in zip(world, cell, strict=True))
            assert expected["virtual_cell"] == [i + f for i, f in zip(index, first, strict=True)]
            inside = 0 <= index[0] < 7 and 0 <= index[1] < 4
            assert (expected["cell"] is not None) is inside
        elif case["ask"] == "low_cell":
            low = [
                math.floor(p / s - Fraction(n, 2) + Fraction(1, 2)) + f
                for p, s, n, f in zip(world, cell, given["holding"], first, strict=True)
            ]
            assert expected["low_cell"] == low
        else:
            for p, got, step in zip(
                world, expected["snapped"], map(Fraction, given["step"] or cell), strict=True
            ):
                q = p / step
                if min(q * 2 % 1, -q * 2 % 1) < Fraction(1, 10**12) and step not in cell:
                    continue  # a line of such a lattice is itself rounded; docs/decisions/0007
                place = {
                    "corner": math.floor(q),
                    "centre": math.floor(q) + Fraction(1, 2),
                    "intersection": math.floor(q + Fraction(1, 2)),
                }[given["rule"]]
                assert math.isclose(got, float(place * step), rel_tol=1e-12, abs_tol=1e-12)
    assert borders > 20


def test_the_same_answers_are_right_whatever_their_order(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    vectors = written(run, plan, "--count", "300")
    path = answers(vectors, plan)
    got = run("vectors", plan, "--check", path)
    assert (got.code, got.value) == (
        0,
        {"cases": 300, "right": 300, "differ": [], "missing": [], "unknown": []},
    )
    # What has no order may come in any, a sum may be a hair off, and of equal ways any will do.
    held = json.loads(path.read_text())["answers"]
    for item in held:
        answer = item["answer"]
        for key in ("reasons", "cut_off", "groups"):
            answer.get(key, []).reverse()
        if isinstance(answer.get("cost"), float):
            answer["cost"] *= 1 + 1e-12
            answer["cells"] = []
    path.write_text(json.dumps({"answers": held[::-1]}))
    assert run("vectors", plan, "--check", path).code == 0


def test_what_is_wrong_is_named_by_id(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    vectors = written(run, plan, "--count", "60")
    path = answers(vectors, plan)
    held = {item["id"]: item for item in json.loads(path.read_text())["answers"]}
    bad = {}
    for case in vectors["cases"]:
        if case["ask"] in bad:
            continue
        answer = held[case["id"]]["answer"]
        key = {
            "locate": "virtual_cell", "centre": "world", "snap": "snapped", "low_cell": "low_cell",
            "cells": "cells", "probe": "ok", "route": "found", "links": "cut_off", "shape": "shape",
            "lane": "found",
        }[case["ask"]]  # fmt: skip
        value = answer[key]
        if isinstance(value, bool):
            answer[key] = not value
        elif isinstance(value, list):
            answer[key] = [*value[:-1], 99] if value and not isinstance(value[-1], list) else []
        else:
            answer[key] = "ring"
        if answer[key] != value:
            bad[case["ask"]] = (case["id"], key)
    del held[59]
    held[777] = {"id": 777, "answer": {}}
    path.write_text(json.dumps({"answers": list(held.values())}))
    got = run("vectors", plan, "--check", path, "--count", "60")
    assert got.code == 1
    assert {item["ask"]: (item["id"], item["differs"][0]) for item in got.value["differ"]} == bad
    assert (got.value["missing"], got.value["unknown"]) == ([59], [777])
    assert got.value["right"] == 60 - len(bad) - 1
    for item in got.value["differ"]:
        assert item["expected"] != item["answer"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("{", "answers.json"),
        ('{"answers": []}', "answers: there is none; expected one for each case"),
        (
            '{"answers": [{"id": 1, "answer": {}}, {"id": 1, "answer": {}}]}',
            "answers[1].id: 1 is there twice",
        ),
        ('{"answers": [{"id": -1, "answer": {}}]}', "answers[0].id: -1 is no id of a case"),
        ('{"answers": [{"id": "x", "answer": {}}]}', "answers[0].id"),
        ('{"cases": []}', "answers"),
    ],
)
def test_an_answers_file_that_makes_no_sense(run, plan: Path, text: str, words: str) -> None:  # type: ignore[no-untyped-def]
    path = plan.with_name("answers.json")
    path.write_text(text)
    bad = run("vectors", plan, "--check", path)
    assert bad.code == 2
    assert words in bad.err


def test_bad_questions(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    assert "either --out FILE or --check" in run("vectors", plan).err
    assert run("vectors", plan, "--out", plan.with_name("x.json"), "--count", "0").code == 2
    gone = run("vectors", plan, "--check", plan.with_name("gone.json"))
    assert gone.code == 2
    assert "gone.json" in gone.err
