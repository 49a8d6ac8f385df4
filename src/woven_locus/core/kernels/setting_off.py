"""Vehicles that come onto the road, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.driving import leader, stopping
from woven_locus.core.kernels.right_of_way import forget, next_line
from woven_locus.core.kernels.traffic_state import FREELY


def neighbours_at(piece, s, road, cars):  # type: ignore[no-untyped-def]
    """The vehicles on a piece behind and ahead of a place on it, -1 for none."""
    behind = -1
    ahead = road.pieces.last[piece]
    while ahead >= 0 and cars.s[ahead] < s:
        behind = ahead
        ahead = cars.ahead[ahead]
    return behind, ahead


def is_free(i, piece, x, behind, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """Whether a vehicle may be put on a piece with its front at `x`: nobody has leave to come there, and whoever is behind
    can stop in comfort."""
    length = kinds.length[cars.kind[i]]
    area = net.pieces.area[piece]
    if area >= 0:
        own = np.int64(1) << net.pieces.movement[piece]
        if road.areas.bits[area] & (net.mask[net.mask_at[area] + net.pieces.movement[piece]] | own):
            return False
    else:
        if road.pieces.taken[piece] > 1e-9:
            return False
        top = net.speed[net.begins[piece]]
        near = x - length < top * top / (2 * kinds.brake[cars.kind[i]])
        if near and net.pieces.source[piece] >= 0 and road.areas.bits[net.pieces.source[piece]]:
            return False
    if behind < 0:
        return True
    after = cars.at[behind] + 1
    more = after < cars.way_end[behind] and net.pieces.area[ways[after]] >= 0
    if more and cars.line[behind] != after:
        return False  # it has leave to go on, which it could not use with somebody before it
    k = cars.kind[behind]
    free = x - length - cars.s[behind] - kinds.gap[k]
    return free > 0.0 and stopping(free, kinds.brake[k], 0.1) >= cars.v[behind]


def set_off(i, x, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """Put a vehicle with its front `x` along its way, standing, if there is room and nobody would have to brake too
    hard: whether it is there now. Its way begins on a track, or across a border, and its rear is on that piece."""
    piece = ways[cars.way[i]]
    behind, ahead = neighbours_at(piece, x, road, cars)
    if not is_free(i, piece, x, behind, net, road, cars, kinds, ways):
        return False
    cars.piece[i] = piece
    cars.s[i] = cars.x[i] = x
    cars.v[i] = 0.0
    cars.at[i] = cars.tail[i] = cars.way[i]
    cars.ahead[i] = ahead
    gap = kinds.gap[cars.kind[i]]
    j, far, swung, _ = leader(i, gap, net, road, cars, kinds, ways)
    if j >= 0 and far - swung < gap:
        return False
    if behind >= 0 and cars.asked[behind] >= 0:
        forget(behind, net.pieces.area[ways[cars.line[behind]]], road, cars)
        cars.asked[behind] = -1
    cars.there[i] = 1
    cars.tail_x[i] = net.pieces.length[piece] + net.pieces.out[piece]
    cars.behind[i] = behind
    if ahead >= 0:
        cars.behind[ahead] = i
    if behind >= 0:
        cars.ahead[behind] = i
    else:
        road.pieces.last[piece] = i
    edge = net.begins[piece]
    while net.end[edge] < x:
        edge += 1
    cars.edge[i] = edge
    area = net.pieces.area[piece]
    if area >= 0:
        road.held[net.mask_at[area] + net.pieces.movement[piece]] += 1
        road.areas.bits[area] |= np.int64(1) << net.pieces.movement[piece]
    cars.room_at[i] = -1
    cars.asked[i] = -1
    cars.why[i] = FREELY
    cars.for_[i] = -1
    next_line(i, cars.way[i] + 1, net.pieces.length[piece], net, cars, ways)
    return True


def depart(now, net, road, cars, kinds, ways, plans, born, trip, free, count):  # type: ignore[no-untyped-def]
    """Let those set off that are due and find room. born, trip : by vehicle, filled.  free : numbers of vehicles that are
    free, the first `count`; returns how many are left. Of each trip one a step at most."""
    for t in range(len(plans.due)):
        if plans.left[t] <= 0 or plans.due[t] > now or count == 0:
            continue
        i = free[count - 1]
        cars.kind[i] = plans.kind[t]
        cars.way[i] = plans.way[t]
        cars.way_end[i] = plans.way_end[t]
        cars.goal_x[i] = plans.goal_x[t]
        if set_off(i, plans.x[t], net, road, cars, kinds, ways):
            count -= 1
            born[i] = plans.due[t]
            trip[i] = t
            plans.left[t] -= 1
            plans.due[t] += plans.every[t]
    return count
