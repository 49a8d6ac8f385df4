"""The rules that a kind brings with it, one table. Each is there twice: `check` judges one spot, `spots`
a block of them at once. A property test holds the two to agree, and a brute-force oracle to agree with
both. What follows from the cells alone is in `derived.rules`.
"""

from __future__ import annotations

import math
from functools import cache

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.ground.relief import steeper, steeper_at
from woven_locus.core.kinds import Footprint, Kind, Lattice, Stand, Touch
from woven_locus.core.kinds.footprint import Off
from woven_locus.core.phrase import capital, counted, joined, phrase
from woven_locus.core.placing import clearance, sealing
from woven_locus.core.placing.asking import Ask, KindRule, Spots
from woven_locus.core.placing.kind_words import (
    distance,
    lattice_words,
    stand_lacks,
    support_title,
    terrain_names,
    too_dear,
    touch_lacks,
    turns_words,
)
from woven_locus.core.placing.shifts import padded
from woven_locus.core.placing.things import count_at, is_terrain, mask_of, thing_words
from woven_locus.core.placing.verdict import Remark, cells_text
from woven_locus.core.plan import Plan

# --- slope -----------------------------------------------------------------------------------


def _slope(ask: Ask) -> Remark | None:
    plan, limit = ask.plan, ask.kind.demands.slope
    assert limit is not None
    if plan.heights is None:
        return None
    spec, rise = plan.spec, math.tan(math.radians(limit))
    steep, unknown = [], []
    # All that is looked at as plain numbers, with a margin: single values of an array are slow to get.
    low_r, low_c = ask.row - 1, ask.col - 1
    box = Box(low_r, low_c, ask.row + ask.footprint.rows + 1, ask.col + ask.footprint.cols + 1)
    around = padded(plan.heights, box, np.nan).tolist()
    (rows, cols), cell_w, cell_h = plan.heights.shape, spec.cell_w, spec.cell_h
    for at, (c, r) in enumerate(ask.footprint.cells):
        if 0 <= ask.row + r < rows and 0 <= ask.col + c < cols:
            found = steeper_at(around, r + 1, c + 1, cell_w, cell_h, rise)
            if found is None:
                unknown.append(at)
            elif found:
                steep.append(at)
    if steep:
        words = phrase(
            "{cells_text} steeper than {limit:g}°", cells_text=cells_text(len(steep)), limit=limit
        )
        return Remark(Reason.SLOPE, words, cells=tuple(steep))
    if unknown:
        words = phrase(
            "the height of {cells_text} is not known", cells_text=cells_text(len(unknown))
        )
        return Remark(Reason.SLOPE, words, doubt=True, cells=tuple(unknown))
    return None


def _slope_spots(ask: Spots) -> Mask:
    plan, limit = ask.plan, ask.kind.demands.slope
    assert limit is not None
    if plan.heights is None:
        return np.zeros(ask.box.shape, bool)
    heights, spec, rise = plan.heights, plan.spec, math.tan(math.radians(limit))
    return ask.any_cell(
        Reason.SLOPE, lambda box: steeper(heights, spec.cell_w, spec.cell_h, rise, box)
    )


# --- standing on and touching ----------------------------------------------------------------


def _least(stand: Stand, footprint: Footprint) -> int:
    return stand.least or len(footprint.cells)


def _support(ask: Ask) -> Remark | None:
    plan, demands, words = ask.plan, ask.kind.demands, []
    bad: tuple[int, ...] = ()
    if demands.stand is not None:
        stand = demands.stand
        least = _least(stand, ask.footprint)
        table, item, (rows, cols) = plan.terrain_table, plan.terrain.item, plan.terrain.shape
        slots = [(ask.row + r, ask.col + c) for c, r in ask.footprint.cells]
        off = [
            at
            for at, (row, col) in enumerate(slots)
            if not (0 <= row < rows and 0 <= col < cols)
            or table[item(row, col)].key not in stand.terrain
        ]
        on = len(slots) - len(off)
        if on < least:
            words.append(stand_lacks(least, terrain_names(plan, stand.terrain), on))
            bad = tuple(off)
    for touch in demands.touch:
        offs = _beyond(plan, ask.kind, ask.turn, touch)
        there = [(ask.row + r, ask.col + c) for c, r in offs]
        found = count_at(plan, touch.thing, touch.key, there, ask.lifted)
        if found < touch.least:
            words.append(touch_lacks(touch, thing_words(plan, touch.thing, touch.key), found))
    return Remark(Reason.SUPPORT, joined("; ", words), cells=bad) if words else None


def _support_spots(ask: Spots) -> Mask:
    plan, demands = ask.plan, ask.kind.demands
    out = np.zeros(ask.box.shape, bool)
    if demands.stand is not None:
        keys = demands.stand.terrain
        least = _least(demands.stand, ask.footprint)
        out |= ~ask.at_least(least, ask.footprint.cells, lambda box: is_terrain(plan, keys, box))
    for touch in demands.touch:
        offs = _beyond(plan, ask.kind, ask.turn, touch)
        out |= ~ask.at_least(
            touch.least,
            offs,
            lambda box, touch=touch: mask_of(plan, touch.thing, touch.key, box, ask.lifted),  # type: ignore[misc]
        )
    return out


def _beyond(plan: Plan, kind: Kind, turn: int, touch: Touch) -> tuple[Off, ...]:
    return kind.footprint.beyond(touch.sides, turn, plan.spec.y_up)


# --- clearance -------------------------------------------------------------------------------


def _clearance(ask: Ask) -> Remark | None:
    return clearance.crowded(ask.plan, ask.kind, ask.footprint, ask.row, ask.col, ask.lifted)


def _clearance_spots(ask: Spots) -> Mask:
    return ask.any_cell(
        Reason.CLEARANCE,
        lambda box: clearance.crowded_mask(ask.plan, ask.kind, box, ask.lifted),
    )


# --- lattice, reach, access ------------------------------------------------------------------


def _off_lattice(lattice: Lattice, cell: Cell) -> bool:
    return bool((cell.col - lattice.col) % lattice.cols or (cell.row - lattice.row) % lattice.rows)


def _lattice(ask: Ask) -> Remark | None:
    lattice = ask.kind.demands.lattice
    assert lattice is not None
    if not _off_lattice(lattice, ask.cell):
        return None
    return _beside_lattice(lattice)


@cache
def _beside_lattice(lattice: Lattice) -> Remark:
    words = phrase("stands only {lattice_words}", lattice_words=lattice_words(lattice))
    return Remark(Reason.LATTICE, words)


def _lattice_spots(ask: Spots) -> Mask:
    lattice, spec, box = ask.kind.demands.lattice, ask.plan.spec, ask.box
    assert lattice is not None
    cols = (np.arange(box.c0, box.c1) + spec.first_col - lattice.col) % lattice.cols != 0
    rows = (np.arange(box.r0, box.r1) + spec.first_row - lattice.row) % lattice.rows != 0
    return np.asarray(rows[:, None] | cols)


def _reach(ask: Ask) -> Remark | None:
    plan, reach = ask.plan, ask.kind.demands.reach
    assert reach is not None
    if plan.actor is None:
        words = phrase(
            "no actor stands anywhere yet; it must be within {reach}",
            reach=distance(plan, reach),
        )
        return Remark(Reason.REACH, words, doubt=True)
    middle = plan.middle_at(ask.footprint, ask.cell)
    d_x, d_y = middle.x - plan.actor.x, middle.y - plan.actor.y
    if d_x * d_x + d_y * d_y <= reach * reach:
        return None
    away = math.hypot(d_x, d_y)
    words = phrase(
        "{away:,.5g} from the actor, more than {reach}",
        away=away,
        reach=distance(plan, reach),
    )
    return Remark(Reason.REACH, words)


def _reach_spots(ask: Spots) -> Mask:
    plan, reach, box = ask.plan, ask.kind.demands.reach, ask.box
    assert reach is not None
    if plan.actor is None:
        return np.zeros(box.shape, bool)
    spec = plan.spec
    x = spec.origin_x + (np.arange(box.c0, box.c1) + ask.footprint.cols / 2) * spec.cell_w
    y = spec.origin_y + (np.arange(box.r0, box.r1) + ask.footprint.rows / 2) * spec.cell_h
    d_x, d_y = x - plan.actor.x, y - plan.actor.y
    return np.asarray((d_y * d_y)[:, None] + d_x * d_x > reach * reach)


def _access(ask: Ask) -> Remark | None:
    road = ask.plan.road
    for c, r in ask.footprint.approach_offs:
        row, col = ask.row + r, ask.col + c
        if ask.inside(row, col) and road.item(row, col):
            return None
    return _no_access(bool(ask.kind.footprint.doors))


@cache
def _no_access(doors: bool) -> Remark:
    where = phrase("no door is") if doors else phrase("no side is")
    return Remark(Reason.ACCESS, phrase("{where} on a road", where=where))


def _access_spots(ask: Spots) -> Mask:
    offs = ask.footprint.approach_offs
    return ~ask.any(offs, lambda box: ask.plan.road[box.slices] != 0)


# --- what is the same everywhere -------------------------------------------------------------


def _is_move(plan: Plan, kind: Kind, lifted: int) -> bool:
    return bool(lifted) and plan.register[lifted].kind == kind.key


def _limit(ask: Ask) -> Remark | None:
    most = ask.kind.demands.most
    assert most is not None
    there = ask.plan.register.count(ask.kind.key) - _is_move(ask.plan, ask.kind, ask.lifted)
    if there < most:
        return None
    return Remark(
        Reason.LIMIT,
        counted(
            there, "{n} of at most {most} is there", "{n} of at most {most} are there", most=most
        ),
    )


def _funds(ask: Ask) -> Remark | None:
    plan = ask.plan
    if plan.funds is None or _is_move(plan, ask.kind, ask.lifted):
        return None
    there = plan.account.there
    if ask.lifted:
        # It is replaced: what its demolition returns can be spent.
        there += plan.funds.back_for(plan.register[ask.lifted].price)
    if there >= ask.kind.price or not ask.kind.price:
        return None
    missing = ask.kind.price - there
    return Remark(Reason.FUNDS, too_dear(plan, ask.kind.price, missing))


def _turn(ask: Ask) -> Remark | None:
    if ask.kind.may_turn(ask.turn):
        return None
    return Remark(Reason.TURN, turns_words(ask.kind))


KIND_RULES: tuple[KindRule, ...] = (
    KindRule(
        Reason.SLOPE,
        lambda _plan, kind: phrase("No steeper than {slope:g}°", slope=kind.demands.slope),
        lambda _plan, kind: kind.demands.slope is not None,
        _slope,
        _slope_spots,
    ),
    KindRule(
        Reason.SUPPORT,
        support_title,
        lambda _plan, kind: kind.demands.stand is not None or bool(kind.demands.touch),
        _support,
        _support_spots,
    ),
    KindRule(
        Reason.CLEARANCE,
        clearance.title,
        lambda plan, kind: bool(kind.demands.clear) or clearance.concerns(plan, kind),
        _clearance,
        _clearance_spots,
    ),
    KindRule(
        Reason.LATTICE,
        lambda _plan, kind: (
            capital(lattice_words(kind.demands.lattice)) if kind.demands.lattice else ""
        ),
        lambda _plan, kind: kind.demands.lattice is not None,
        _lattice,
        _lattice_spots,
    ),
    KindRule(
        Reason.REACH,
        lambda plan, kind: phrase(
            "Within {reach} of the actor",
            reach=distance(plan, kind.demands.reach or 0),
        ),
        lambda _plan, kind: kind.demands.reach is not None,
        _reach,
        _reach_spots,
    ),
    KindRule(
        Reason.ACCESS,
        lambda _plan, kind: (
            phrase("A door on a road") if kind.footprint.doors else phrase("A side on a road")
        ),
        lambda _plan, kind: kind.demands.access,
        _access,
        _access_spots,
    ),
    KindRule(
        Reason.SEALS,
        lambda _plan, _kind: phrase("Leaves every entry a way"),
        lambda plan, _kind: bool(plan.waves.entries),
        sealing.check,
        sealing.spots,
    ),
    KindRule(
        Reason.LIMIT,
        lambda _plan, kind: phrase("At most {most}", most=kind.demands.most),
        lambda _plan, kind: kind.demands.most is not None,
        _limit,
        None,
    ),
    KindRule(
        Reason.FUNDS,
        lambda plan, kind: phrase(
            "{price:,} {money} can be paid", price=kind.price, money=plan.money
        ),
        lambda plan, kind: plan.funds is not None and kind.price > 0,
        _funds,
        None,
    ),
    KindRule(
        Reason.TURN,
        lambda _plan, _kind: phrase("A turn that it takes"),
        lambda _plan, kind: len(kind.turns) < 4 or not kind.mirror,
        _turn,
        None,
    ),
)


def rules_of(plan: Plan, kind: Kind) -> tuple[KindRule, ...]:
    """The rules that a kind has in a plan: worked out once for a catalogue that it is in, with funds kept
    or not, with entries or none."""
    known = plan.kinds.asked
    key = (kind.key, plan.funds is not None, bool(plan.waves.entries))
    found: tuple[Kind, tuple[KindRule, ...]] | None = known.get(key)
    if found is None or found[0] is not kind:
        found = (kind, tuple(rule for rule in KIND_RULES if rule.asked(plan, kind)))
        known[key] = found
    return found[1]
