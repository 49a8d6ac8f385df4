"""The parts of a plan besides its layers, one table: what they hold by key, so that plans can be held against one another.

A part whose things have keys of their own holds them by these. Where they have none (trips, rules that make trips), a
thing is its own key, with a count of how many like it came before. Waves go by name, as far as names tell them apart.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Iterable
from typing import Any

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.value import Value

Held = dict[Hashable, Any]


class Part(Value):
    """name : as in the document, or what is compared as one.  of : its things by key, in the plan's order.
    words : a key, for people."""

    name: str
    of: Callable[[Plan], Held]
    words: Callable[[Any], str] = str


class Thing(Value):
    """One thing in which plans can differ.

    part : of `PARTS`; or an aspect of cells; or "grid", with all that stands on it.  key : in the part, the whole part
    without.  Of an aspect: a cell, the low and the high cell of a box, or the key of a class; what is in conflict
    without.  field : of the thing, the whole of it without."""

    part: str
    key: Any = None
    field: str = ""


def _by(items: Iterable[Any], key: str) -> Held:
    return {getattr(item, key): item for item in items}


def counted(items: Iterable[Any], key: Callable[[Any], Hashable] = lambda item: item) -> Held:
    """By a key that may be there more than once, with how often it was before."""
    seen: Counter[Hashable] = Counter()
    found: Held = {}
    for item in items:
        found[key(item), seen[key(item)]] = item
        seen[key(item)] += 1
    return found


def _plan(plan: Plan) -> Held:
    return {
        "name": plan.name,
        "money": plan.money,
        "window": plan.window,
        "actor": plan.actor,
        "keep": plan.keep,
        "longest_crossing": plan.traffic.longest_crossing,
        "has_heights": plan.heights is not None,
    }


def _funds(plan: Plan) -> Held:
    if plan.funds is None:
        return {}
    return {name: getattr(plan.funds, name) for name in ("opening", "share", "clock")}


def _gone(plan: Plan) -> Held:
    rows = plan.funds.gone if plan.funds is not None else ()
    return {row[:4]: row for row in rows}


def _snap(plan: Plan) -> Held:
    snap = plan.snap
    return {
        "rule": snap.rule,
        "step": (snap.step_x, snap.step_y),
        "in_cells": snap.in_cells,
        "every": (snap.every_x, snap.every_y),
        "offset": (snap.offset_x, snap.offset_y),
    }


def _defence(plan: Plan) -> Held:
    names = ("lives", "moves", "terrain_slows", "height_reach")
    return {name: getattr(plan.waves, name) for name in names}


def _accepted_words(key: tuple[str, Cell | None, int]) -> str:
    code, cell, structure = key
    where = cell_text(cell) if cell is not None else structure_id(structure) if structure else ""
    return f"{code} {where}".strip()


PARTS: tuple[Part, ...] = (
    Part("plan", _plan),
    Part("snap", _snap),
    Part("funds", _funds),
    Part("gone", _gone, lambda key: phrase("since {key} until {key2}", key=key[0], key2=key[1])),
    Part("terrain_classes", lambda plan: _by(plan.terrain_table, "key")),
    Part("road_classes", lambda plan: _by(plan.road_table, "key")),
    Part("kinds", lambda plan: _by(plan.kinds, "key")),
    Part("obstacles", lambda plan: _by(plan.obstacles.values(), "number"), lambda key: f"O{key}"),
    Part("structures", lambda plan: _by(plan.register, "number"), structure_id),
    Part("vehicles", lambda plan: _by(plan.traffic.vehicles, "key")),
    Part("people", lambda plan: _by(plan.traffic.people, "key")),
    Part("trips", lambda plan: counted(plan.traffic.trips), lambda key: str(key[0])),
    Part("trip_rules", lambda plan: counted(plan.traffic.rules), lambda key: str(key[0])),
    Part("junctions", lambda plan: _by(plan.traffic.junctions, "cell"), cell_text),
    Part("entries", lambda plan: _by(plan.waves.entries, "id")),
    Part("goals", lambda plan: _by(plan.waves.goals, "id")),
    Part("attackers", lambda plan: _by(plan.waves.attackers, "key")),
    Part(
        "waves", lambda plan: counted(plan.waves.waves, lambda wave: wave.name), lambda key: key[0]
    ),
    Part("defence", _defence),
    Part("accepted", lambda plan: _by(plan.accepted, "key"), _accepted_words),
)
