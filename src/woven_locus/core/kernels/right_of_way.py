"""Who may drive into a place where paths meet, as plain Python that Numba can compile.

A vehicle asks for leave when it comes near to its *line*, the beginning of its next movement. It gets it when nobody
holds leave for a movement that conflicts with its own, and when there is room for it beyond, so that it never stops
where it would be in the way of others.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.traffic_state import (
    AT_LINE,
    AT_RED,
    EXIT_FULL,
    FOR_PEOPLE,
    FREELY,
    GIVES_WAY,
    IN_TURN,
)


def next_line(i, at, x, net, cars, ways):  # type: ignore[no-untyped-def]
    """Set the next movement for which a vehicle needs leave, from place `at` of its way on, which begins at `x`."""
    while at < cars.way_end[i]:
        if net.pieces.area[ways[at]] >= 0:
            cars.line[i] = at
            cars.line_x[i] = x - net.pieces.back[ways[at]]
            return
        x += net.pieces.length[ways[at]]
        at += 1
    cars.line[i] = -1
    cars.line_x[i] = np.inf


def rear_on(piece, i, net, road, cars, kinds):  # type: ignore[no-untyped-def]
    """The last vehicle on a piece, or one other than `i` that left it with its rear still there; and how far along the
    piece its rear is. -1 for nobody."""
    j = road.pieces.last[piece]
    if j >= 0:
        return j, cars.s[j] - kinds.length[cars.kind[j]]
    j = road.pieces.left[piece]
    if j >= 0 and j != i:
        rear = cars.x[j] - kinds.length[cars.kind[j]] - road.pieces.left_x[piece]
        if rear < 0.0:
            return j, net.pieces.length[piece] + rear
    return -1, 0.0


def may_go(i, net, road, cars, kinds, ways, blocked):  # type: ignore[no-untyped-def]
    """Whether a vehicle may have leave from its line on: (why not or FREELY, who is in the way, the place of its way
    up to which it gets leave, where that begins along its way).

    blocked : movements of the area that somebody who came before waits for.
    """
    at = cars.line[i]
    x = cars.line_x[i] + net.pieces.back[ways[at]]
    need = kinds.length[cars.kind[i]] + kinds.gap[cars.kind[i]]
    first = True
    room_at = -1
    room = 0.0
    inner = False
    while at < cars.way_end[i]:
        piece = ways[at]
        area = net.pieces.area[piece]
        if area >= 0:
            bits = net.mask[net.mask_at[area] + net.pieces.movement[piece]]
            if bits & road.areas.bits[area]:
                return AT_LINE, -1, at, x, -1
            if road.areas.crossed[area] & (np.int64(1) << net.pieces.movement[piece]):
                return FOR_PEOPLE, -1, at, x, -1
            if first and blocked & (bits | (np.int64(1) << net.pieces.movement[piece])):
                return IN_TURN, -1, at, x, -1
            first = False
        if net.pieces.inner[piece]:
            inner = True
            room_at = -1
            room = 0.0
        else:
            if not inner and area >= 0:
                # Across a border one may stop: there is no need to look further.
                return FREELY, -1, at + 1, x + net.pieces.length[piece], -1
            if room_at < 0:
                room_at = at
                room = -road.pieces.taken[piece]
            j, rear = rear_on(piece, i, net, road, cars, kinds)
            if j >= 0:
                # It comes to a stand there at the earliest.
                rear += cars.v[j] * cars.v[j] / (2 * kinds.hardest[cars.kind[j]])
                if room + rear < need:
                    return EXIT_FULL, j, at, x, -1
                return FREELY, -1, at + 1, x + net.pieces.length[piece], room_at
            most = room + net.pieces.length[piece]
            if at + 1 < cars.way_end[i]:
                most -= net.pieces.back[ways[at + 1]]
            if most >= need:
                return FREELY, -1, at + 1, x + net.pieces.length[piece], room_at
            room += net.pieces.length[piece]
            if road.pieces.taken[piece] > 1e-9:
                return EXIT_FULL, -1, at, x, -1  # somebody will stand there
        x += net.pieces.length[piece]
        at += 1
    # Its goal lies before there is room to wait: it will leave the road there.
    return FREELY, -1, at, x, room_at


def give_leave(i, until, until_x, room_at, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """Let a vehicle go up to a place of its way."""
    for at in range(cars.line[i], until):
        piece = ways[at]
        area = net.pieces.area[piece]
        if area >= 0:
            road.held[net.mask_at[area] + net.pieces.movement[piece]] += 1
            road.areas.bits[area] |= np.int64(1) << net.pieces.movement[piece]
    if cars.room_at[i] >= 0:
        # It has leave to go on from there: it will not need that room.
        road.pieces.taken[ways[cars.room_at[i]]] -= (
            kinds.length[cars.kind[i]] + kinds.gap[cars.kind[i]]
        )
    if room_at >= 0:
        road.pieces.taken[ways[room_at]] += kinds.length[cars.kind[i]] + kinds.gap[cars.kind[i]]
    cars.room_at[i] = room_at
    next_line(i, until, until_x, net, cars, ways)
    cars.asked[i] = -1


def ask(i, step, net, road, cars, ways):  # type: ignore[no-untyped-def]
    """A vehicle has come to its line."""
    area = net.pieces.area[ways[cars.line[i]]]
    cars.asked[i] = step
    cars.next[i] = -1
    if road.areas.first[area] < 0:
        road.areas.first[area] = i
    else:
        cars.next[road.areas.final[area]] = i
    road.areas.final[area] = i


def show_signals(now, rules):  # type: ignore[no-untyped-def]
    """Which movements have green at a time, seconds."""
    for k in range(len(rules.at)):
        time = (now - rules.offset[k]) % rules.cycle[k]
        bits = np.int64(0)
        for phase in range(rules.begins[k], rules.begins[k + 1]):
            if rules.from_[phase] <= time < rules.to[phase]:
                bits |= rules.bits[phase]
        rules.green[rules.at[k]] = bits


def grant(step, area, net, road, rules, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """Give leave at an area: to the larger road first, of one rank first come first served; who waits for a full exit, for
    people, or at a red signal does not hold up the others."""
    base = net.mask_at[area]
    green = rules.green[area]
    top = rules.top[area]
    blocked = np.int64(0)
    for rank in range(top, -1, -1):
        larger = blocked
        before = -1
        i = road.areas.first[area]
        while i >= 0:
            after = cars.next[i]
            movement = net.pieces.movement[ways[cars.line[i]]]
            own = np.int64(1) << movement
            if top > 0 and rules.rank[base + movement] != rank:
                before = i
                i = after
                continue
            if green & own == 0:
                cars.why[i] = AT_RED
                cars.for_[i] = -1
                before = i
                i = after
                continue
            why, who, until, until_x, room_at = may_go(i, net, road, cars, kinds, ways, blocked)
            if why == FREELY:
                road.passed[base + movement] += 1
                road.waited[base + movement] += step - cars.asked[i]
                give_leave(i, until, until_x, room_at, net, road, cars, kinds, ways)
                if before < 0:
                    road.areas.first[area] = after
                else:
                    cars.next[before] = after
                if road.areas.final[area] == i:
                    road.areas.final[area] = before
            else:
                if why == IN_TURN and larger & (net.mask[base + movement] | own):
                    why = GIVES_WAY
                cars.why[i] = why
                cars.for_[i] = who
                if why != EXIT_FULL and why != FOR_PEOPLE:
                    blocked |= own
                before = i
            i = after


def forget(i, area, road, cars):  # type: ignore[no-untyped-def]
    """A vehicle does not ask for leave any more."""
    before = -1
    j = road.areas.first[area]
    while j >= 0 and j != i:
        before = j
        j = cars.next[j]
    if j < 0:
        return
    if before < 0:
        road.areas.first[area] = cars.next[i]
    else:
        cars.next[before] = cars.next[i]
    if road.areas.final[area] == i:
        road.areas.final[area] = before
