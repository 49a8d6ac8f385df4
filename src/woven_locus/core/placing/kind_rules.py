"""The rules that a kind brings with it, one table. Each is there twice: `check` judges one spot, `spots`
a block of them at once. A property test holds the two to agree, and a brute-force oracle to agree with
both. What follows from the cells alone is in `derived.rules`.
"""

from __future__ import annotations

import math

import numpy as np

from woven_locus.core.derived.rules import Mask, Reason
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.ground.relief import steeper, steeper_at
from woven_locus.core.kinds import Footprint, Kind, Lattice, Stand, Thing, Touch
from woven_locus.core.kinds.footprint import Off
from woven_locus.core.placing import clearance, sealing
from woven_locus.core.placing.asking import Ask, KindRule, Spots
from woven_locus.core.placing.shifts import padded
from woven_locus.core.placing.things import is_terrain, mask_of, stands_at, thing_words
from woven_locus.core.placing.verdict import Remark, cells_text, listed
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
    for at, (c, r) in enumerate(ask.footprint.cells):
        if ask.inside(ask.row + r, ask.col + c):
            found = steeper_at(around, r + 1, c + 1, spec.cell_w, spec.cell_h, rise)
            if found is None:
                unknown.append(at)
            elif found:
                steep.append(at)
    if steep:
        words = f"{cells_text(len(steep))} steeper than {limit:g}°"
        return Remark(Reason.SLOPE, words, cells=tuple(steep))
    if unknown:
        words = f"the height of {cells_text(len(unknown))} is not known"
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


def _terrain_names(plan: Plan, keys: tuple[str, ...]) -> str:
    return listed([thing_words(plan, Thing.TERRAIN, key) for key in keys], "or")


def _support(ask: Ask) -> Remark | None:
    demands, words = ask.kind.demands, []
    bad: tuple[int, ...] = ()
    if demands.stand is not None:
        stand, plan = demands.stand, ask.plan
        least = _least(stand, ask.footprint)
        on = []
        for at, (c, r) in enumerate(ask.footprint.cells):
            row, col = ask.row + r, ask.col + c
            if ask.inside(row, col):
                item = plan.terrain_table[int(plan.terrain[row, col])]
                if item.key in stand.terrain:
                    on.append(at)
        if len(on) < least:
            names = _terrain_names(plan, stand.terrain)
            words.append(f"needs {cells_text(least)} on {names}, has {len(on)}")
            bad = tuple(set(range(len(ask.footprint.cells))) - set(on))
    for touch in demands.touch:
        found = sum(
            stands_at(ask.plan, touch.thing, touch.key, ask.row + r, ask.col + c, ask.lifted)
            for c, r in _beyond(ask.plan, ask.kind, ask.turn, touch)
        )
        if found < touch.least:
            words.append(f"{_touch_words(ask.plan, touch)}, has {found}")
    return Remark(Reason.SUPPORT, "; ".join(words), cells=bad) if words else None


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


def _touch_words(plan: Plan, touch: Touch) -> str:
    sides = "" if len(touch.sides) == 4 else f" on its {_side_words(touch.sides)}"
    count = f"{touch.least} cell side{'s' * (touch.least > 1)}"
    return f"needs {count}{sides} on {thing_words(plan, touch.thing, touch.key)}"


def _side_words(sides: tuple[int, ...]) -> str:
    return (
        listed([("top", "right", "bottom", "left")[side] for side in sides], "or") + " (unturned)"
    )


def _support_title(plan: Plan, kind: Kind) -> str:
    parts = []
    stand = kind.demands.stand
    if stand is not None:
        which = "every cell" if not stand.least else cells_text(stand.least)
        parts.append(f"{which} on {_terrain_names(plan, stand.terrain)}")
    for touch in kind.demands.touch:
        parts.append(f"touches {thing_words(plan, touch.thing, touch.key)}")
    text = ", ".join(parts)
    return text[:1].upper() + text[1:]


# --- clearance -------------------------------------------------------------------------------


def _clearance(ask: Ask) -> Remark | None:
    return clearance.crowded(ask.plan, ask.kind, ask.footprint.cells, ask.row, ask.col, ask.lifted)


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
    return Remark(Reason.LATTICE, f"stands only {lattice_words(lattice)}")


def _lattice_spots(ask: Spots) -> Mask:
    lattice, spec, box = ask.kind.demands.lattice, ask.plan.spec, ask.box
    assert lattice is not None
    cols = (np.arange(box.c0, box.c1) + spec.first_col - lattice.col) % lattice.cols != 0
    rows = (np.arange(box.r0, box.r1) + spec.first_row - lattice.row) % lattice.rows != 0
    return np.asarray(rows[:, None] | cols)


def lattice_words(lattice: Lattice) -> str:
    """``on every 2nd column from 0``."""
    parts = [
        f"every {_ordinal(step)} {what} from {first}"
        for what, step, first in (
            ("column", lattice.cols, lattice.col),
            ("row", lattice.rows, lattice.row),
        )
        if step > 1
    ]
    return "on " + (" and ".join(parts) or "any cell")


def _ordinal(n: int) -> str:
    if n % 100 in (11, 12, 13):
        return f"{n}th"
    return f"{n}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(n % 10, 'th') }"


def _reach(ask: Ask) -> Remark | None:
    plan, reach = ask.plan, ask.kind.demands.reach
    assert reach is not None
    if plan.actor is None:
        words = f"no actor stands anywhere yet; it must be within {reach:g} {plan.spec.unit}"
        return Remark(Reason.REACH, words.rstrip(), doubt=True)
    middle = plan.middle_at(ask.footprint, ask.cell)
    d_x, d_y = middle.x - plan.actor.x, middle.y - plan.actor.y
    if d_x * d_x + d_y * d_y <= reach * reach:
        return None
    away = math.hypot(d_x, d_y)
    words = f"{away:,.5g} from the actor, more than {reach:g} {plan.spec.unit}"
    return Remark(Reason.REACH, words.rstrip())


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
    for cell in ask.footprint.approaches(ask.cell):
        row, col = ask.row + cell.row - ask.cell.row, ask.col + cell.col - ask.cell.col
        if ask.inside(row, col) and road[row, col]:
            return None
    where = "no door is" if ask.kind.footprint.doors else "no side is"
    return Remark(Reason.ACCESS, f"{where} on a road")


def _access_spots(ask: Spots) -> Mask:
    offs = tuple((cell.col, cell.row) for cell in ask.footprint.approaches(Cell(0, 0)))
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
    return Remark(Reason.LIMIT, f"{there} of at most {most} {'is' if there == 1 else 'are'} there")


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
    words = f"costs {ask.kind.price:,} {plan.money}, {missing:,} more than there is"
    return Remark(Reason.FUNDS, words)


def _turn(ask: Ask) -> Remark | None:
    if ask.kind.may_turn(ask.turn):
        return None
    return Remark(Reason.TURN, turns_words(ask.kind))


def turns_words(kind: Kind) -> str:
    """Which turns a kind takes, for a refusal."""
    turns = listed([f"{turn * 90}°" for turn in kind.turns], "or")
    return f"stands turned {turns} only" + (
        ", mirrored or not" if kind.mirror else ", not mirrored"
    )


KIND_RULES: tuple[KindRule, ...] = (
    KindRule(
        Reason.SLOPE,
        lambda _plan, kind: f"No steeper than {kind.demands.slope:g}°",
        lambda _plan, kind: kind.demands.slope is not None,
        _slope,
        _slope_spots,
    ),
    KindRule(
        Reason.SUPPORT,
        _support_title,
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
            lattice_words(kind.demands.lattice).capitalize() if kind.demands.lattice else ""
        ),
        lambda _plan, kind: kind.demands.lattice is not None,
        _lattice,
        _lattice_spots,
    ),
    KindRule(
        Reason.REACH,
        lambda plan, kind: (
            f"Within {kind.demands.reach:g} {plan.spec.unit}".rstrip() + " of the actor"
        ),
        lambda _plan, kind: kind.demands.reach is not None,
        _reach,
        _reach_spots,
    ),
    KindRule(
        Reason.ACCESS,
        lambda _plan, kind: "A door on a road" if kind.footprint.doors else "A side on a road",
        lambda _plan, kind: kind.demands.access,
        _access,
        _access_spots,
    ),
    KindRule(
        Reason.SEALS,
        lambda _plan, _kind: "Leaves every entry a way",
        lambda plan, _kind: bool(plan.waves.entries),
        sealing.check,
        sealing.spots,
    ),
    KindRule(
        Reason.LIMIT,
        lambda _plan, kind: f"At most {kind.demands.most}",
        lambda _plan, kind: kind.demands.most is not None,
        _limit,
        None,
    ),
    KindRule(
        Reason.FUNDS,
        lambda plan, kind: f"{kind.price:,} {plan.money} can be paid",
        lambda plan, kind: plan.funds is not None and kind.price > 0,
        _funds,
        None,
    ),
    KindRule(
        Reason.TURN,
        lambda _plan, _kind: "A turn that it takes",
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
