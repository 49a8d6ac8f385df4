"""Test vectors: questions of a plan with the answers that a game must give, and what another's answers get wrong."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from woven_locus.core.errors import FileProblem
from woven_locus.core.geometry import Box
from woven_locus.core.grid import SnapSettings, low_cell, snap
from woven_locus.core.phrase import phrase
from woven_locus.core.placing import judge
from woven_locus.core.plan import Plan
from woven_locus.core.proof.questions import Ask, Question, questions
from woven_locus.core.routing import Manner, find_lane_way, find_links, find_route
from woven_locus.core.ways.shapes import SHAPES, neighbour_masks
from woven_locus.files.answers_json import lane_way_json, links_json, route_json
from woven_locus.files.plan_rows import GridRow
from woven_locus.files.strict_json import BROKEN, problem
from woven_locus.files.verdict_json import verdict_json
from woven_locus.files.way_tables import end_id
from woven_locus.package_data import package_data

VERSION = 1
# Cases that a file may have.
MOST_CASES = 1_000_000
# Costs and lengths are sums, and may be summed up in another order.
CLOSE = 1e-9


def schema() -> dict[str, Any]:
    """The published JSON Schema of a file of vectors."""
    found: dict[str, Any] = json.loads(package_data("woven_locus.files", "vectors.schema.json"))
    return found


def vectors_json(plan: Plan, seed: int, count: int) -> dict[str, Any]:
    """The file: the grid, and `count` cases."""
    cases = [_case(plan, q) for q in questions(plan, seed, count)]
    grid = msgspec.to_builtins(GridRow.of(plan.spec))
    return {"version": VERSION, "plan": plan.name, "seed": seed, "grid": grid, "cases": cases}


def _case(plan: Plan, q: Question) -> dict[str, Any]:
    given, expected = given_json(q), expected_json(plan, q)
    return {"id": q.id, "ask": q.ask.value, "given": given, "expected": expected}


def vectors_bytes(plan: Plan, seed: int, count: int) -> bytes:
    """The bytes of that file, a case on a line."""
    whole = vectors_json(plan, seed, count)
    head = [f'"{key}": {_flat(whole[key])}' for key in whole if key != "cases"]
    cases = ",\n".join("  " + _flat(case) for case in whole["cases"])
    body = ",\n".join([*head, f'"cases": [\n{cases}\n]'])
    return f"{{\n{body}\n}}\n".encode()


def _flat(value: object) -> str:
    return json.dumps(value, ensure_ascii=False)


def given_json(q: Question) -> dict[str, Any]:
    """What a case gives; what it does not need is left out, but for a step, which may be null."""
    found: dict[str, Any] = {}
    if q.world is not None:
        found["world"] = [q.world.x, q.world.y]
    if q.cell is not None:
        found["cell"] = [q.cell.col, q.cell.row]
    if q.rule is not None:
        found |= {"rule": q.rule.value, "step": list(q.step) if q.step is not None else None}
    if q.holding is not None:
        found["holding"] = list(q.holding)
    if q.kind is not None:
        found |= {"kind": q.kind, "turn": q.turn}
    if q.start is not None and q.goal is not None:
        found |= {"from": end_id(q.start), "to": end_id(q.goal)}
    if q.over is not None:
        found |= {"over": q.over.value, "moves": q.moves}
    return found


def expected_json(plan: Plan, q: Question) -> dict[str, Any]:
    """What the verb says that answers the same question."""
    spec = plan.spec
    if q.ask is Ask.LINKS:
        # Asked again and again, and the same for the whole plan.
        return links_json(plan.worked_out("links", find_links))
    if q.start is not None and q.goal is not None:
        if q.over is None or q.moves is None:
            return lane_way_json(plan, find_lane_way(plan, q.start, q.goal))
        return route_json(find_route(plan, q.start, q.goal, Manner(q.over, q.moves)))
    if q.world is not None:
        x, y = q.world
        if q.ask is Ask.SNAP:
            assert q.rule is not None
            settings = SnapSettings(q.rule, *(q.step or (None, None)))
            return {"snapped": list(snap(spec, settings, x, y).at)}
        if q.holding is not None:
            return {"low_cell": list(low_cell(spec, x, y, *q.holding))}
        cell = spec.locate(x, y)
        if cell is not None and plan.window is not None and not plan.window.contains(cell):
            cell = None
        virtual = list(spec.locate_virtual(x, y))
        return {"cell": list(cell) if cell is not None else None, "virtual_cell": virtual}
    assert q.cell is not None
    if q.kind is not None and q.turn is not None:
        kind = plan.kinds[q.kind]
        if q.ask is Ask.PROBE:
            return verdict_json(judge(plan, kind, q.cell, q.turn))
        return {"cells": sorted(list(c) for c in plan.footprint(kind, q.turn).at(q.cell))}
    if q.ask is Ask.CENTRE:
        return {"world": list(spec.centre(q.cell))}
    return _shape(plan, q)


def _shape(plan: Plan, q: Question) -> dict[str, Any]:
    """Of a road cell; null and null where there is none."""
    assert q.cell is not None
    if plan.spec.contains(q.cell):
        row, col = plan.spec.slot(q.cell)
        if plan.road[row, col]:
            mask = int(neighbour_masks(plan.road, Box(row, col, row + 1, col + 1))[0, 0])
            shape = SHAPES[_on_screen(mask, plan.spec.y_up)]
            return {"shape": shape.name, "turn": shape.turn}
    return {"shape": None, "turn": None}


def _on_screen(mask: int, y_up: bool) -> int:
    """Where rows grow up the screen north and south change places."""
    return (mask & 0b1010) | (mask & 1) << 2 | (mask & 4) >> 2 if y_up else mask


# --- what another says ------------------------------------------------------------------------------


class Answer(msgspec.Struct):
    """One of an answers file."""

    id: int
    answer: dict[str, Any]


class _Answers(msgspec.Struct):
    answers: list[Answer]


def answers_from(data: bytes, path: object) -> list[Answer]:
    """The answers of a file. Raises FileProblem."""
    try:
        found = msgspec.json.decode(data, type=_Answers).answers
    except BROKEN as err:
        raise problem(err, data, path) from err
    seen: set[int] = set()
    for at, item in enumerate(found):
        if item.id in seen or not 0 <= item.id < MOST_CASES:
            why = phrase("is there twice") if item.id in seen else phrase("is no id of a case")
            raise FileProblem(path, f"answers[{at}].id", f"{item.id} {why}")
        seen.add(item.id)
    if not found:
        raise FileProblem(path, "answers", phrase("there is none; expected one for each case"))
    return found


def differences(
    plan: Plan, seed: int, answers: Sequence[Answer], count: int | None
) -> dict[str, Any]:
    """What answers get wrong, by id, and the cases that have none. count : of cases; by default up to the highest id."""
    asked = questions(plan, seed, max(item.id for item in answers) + 1 if count is None else count)
    there = {item.id for item in answers}
    cases = (_case(plan, q) if q.id in there else {"id": q.id} for q in asked)
    return compared(cases, answers)


def compared(cases: Iterable[dict[str, Any]], answers: Sequence[Answer]) -> dict[str, Any]:
    """What answers get wrong of some cases, as in a file of vectors."""
    given = {item.id: item.answer for item in answers}
    wrong, missing, count = [], [], 0
    for case in cases:
        count += 1
        answer = given.pop(case["id"], None)
        if answer is None:
            missing.append(case["id"])
            continue
        expected = case["expected"]
        keys = _differ(Ask(case["ask"]), expected, answer)
        if keys:
            wrong.append(
                {
                    "id": case["id"],
                    "ask": case["ask"],
                    "given": case["given"],
                    "differs": keys,
                    "expected": {key: expected.get(key) for key in keys},
                    "answer": {key: answer.get(key) for key in keys},
                }
            )
    return {
        "cases": count,
        "right": count - len(missing) - len(wrong),
        "differ": wrong,
        "missing": missing,
        "unknown": sorted(given),
    }


# What is compared of each answer. Of several ways that cost the same any is right.
_COMPARED: dict[Ask, tuple[str, ...]] = {
    Ask.LOCATE: ("cell", "virtual_cell"),
    Ask.CENTRE: ("world",),
    Ask.SNAP: ("snapped",),
    Ask.LOW_CELL: ("low_cell",),
    Ask.CELLS: ("cells",),
    Ask.PROBE: ("ok", "cells", "reasons"),
    Ask.ROUTE: ("found", "cost"),
    Ask.LINKS: ("groups", "cut_off"),
    Ask.SHAPE: ("shape", "turn"),
    Ask.LANE: ("found", "seconds"),
}


def _differ(ask: Ask, expected: dict[str, Any], answer: dict[str, Any]) -> list[str]:
    return [
        key
        for key in _COMPARED[ask]
        if not _same(_plain(ask, key, expected.get(key)), _plain(ask, key, answer.get(key)))
    ]


def _plain(ask: Ask, key: str, value: Any) -> Any:
    """A value in which the order of what has none does not count."""
    if not isinstance(value, list):
        return value
    if ask is Ask.PROBE and key == "cells":
        cells = (item for item in value if isinstance(item, dict))
        return sorted(
            ([item.get("cell"), item.get("ok"), _sorted(item.get("reasons"))] for item in cells),
            key=repr,
        )
    if ask is Ask.LINKS and key == "groups":
        groups = (item for item in value if isinstance(item, dict))
        return sorted(
            ([_sorted(item.get("structures")), item.get("road_cells")] for item in groups), key=repr
        )
    unordered = key in ("reasons", "cut_off") or ask is Ask.CELLS
    return _sorted(value) if unordered else value


def _sorted(value: Any) -> Any:
    return sorted(value, key=repr) if isinstance(value, Iterable) else value


def _same(a: Any, b: Any) -> bool:
    """Numbers as close as sums are; all else alike. True and 1 are not the same."""
    if isinstance(a, bool) or isinstance(b, bool):
        return a is b
    if isinstance(a, int | float) and isinstance(b, int | float):
        return math.isclose(a, b, rel_tol=CLOSE, abs_tol=0.0) or a == b
    if isinstance(a, list) and isinstance(b, list):
        return len(a) == len(b) and all(map(_same, a, b))
    return bool(a == b)
