"""One step of traffic, as plain Python that Numba can compile.

Sources of the models: M. Treiber, A. Hennecke, D. Helbing, "Congested traffic states in empirical observations and
microscopic simulations", Phys. Rev. E 62 (2000), for following (the Intelligent Driver Model); P. Gipps, "A
behavioural car-following model for computer simulation", Transpn. Res. B 15 (1981), for the speed from which one
can still stop, here for whole steps.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.right_of_way import ask, forget, grant, show_signals
from woven_locus.core.kernels.traffic_state import (
    ARRIVING,
    AT_LINE,
    BEHIND,
    FOR_PEOPLE,
    FREELY,
    KEPT,
)

# A vehicle that is this near to its goal is there, world units.
_THERE = 1e-3


def stopping(d, brake, dt):  # type: ignore[no-untyped-def]
    """The speed for the next step from which a vehicle can stop within `d`, braking by `brake` in each step."""
    d = d - brake * dt * dt / 8
    if d <= 0.0:
        return 0.0
    return brake * (np.sqrt(dt * dt / 4 + 2 * d / brake) - dt / 2)


def slowing(d, target, brake, dt):  # type: ignore[no-untyped-def]
    """The speed for the next step from which a vehicle can be down to `target` within `d`."""
    more = d + target * target / (2 * brake) + target * dt / 2
    return max(target, brake * (np.sqrt(dt * dt / 4 + 2 * max(more, 0.0) / brake) - dt / 2))


def swing(j, piece, way, net, cars, ways):  # type: ignore[no-untyped-def]
    """How far a vehicle that has come `way` beyond the end of a piece may have swung towards who follows it, and how
    much farther it may yet. It swings by no more than it drives, so that its rear never seems to come nearer."""
    at = cars.tail[j]
    while ways[at] != piece and at + 1 < cars.at[j]:
        at += 1
    most = net.pieces.swing[ways[at + 1]]
    now = min(most, way)
    return now, most - now


def leader(i, limit, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """Who is ahead of a vehicle on its way, within `limit`: (vehicle, gap, and the two of `swing`), -1 for nobody. Who
    turns off another way is ahead until it has let go of the piece where the ways part."""
    j = cars.ahead[i]
    if j >= 0:
        return j, cars.s[j] - kinds.length[cars.kind[j]] - cars.s[i], 0.0, 0.0
    piece = cars.piece[i]
    far = net.pieces.length[piece] - cars.s[i]
    j = road.pieces.left[piece]
    if j >= 0 and j != i:
        rear = cars.x[j] - kinds.length[cars.kind[j]] - road.pieces.left_x[piece]
        if rear < net.pieces.out[piece]:
            now, more = swing(j, piece, rear + kinds.length[cars.kind[j]], net, cars, ways)
            return j, far + rear, now, more
    at = cars.at[i] + 1
    # As `rear_on`, written out: a call here would hand over all arrays once for every piece that is looked at.
    while at < cars.way_end[i] and far < limit:
        piece = ways[at]
        j = road.pieces.last[piece]
        if j >= 0:
            return j, far + cars.s[j] - kinds.length[cars.kind[j]], 0.0, 0.0
        j = road.pieces.left[piece]
        if j >= 0 and j != i:
            rear = cars.x[j] - kinds.length[cars.kind[j]] - road.pieces.left_x[piece]
            if rear < net.pieces.out[piece]:
                now, more = swing(j, piece, rear + kinds.length[cars.kind[j]], net, cars, ways)
                return j, far + net.pieces.length[piece] + rear, now, more
        far += net.pieces.length[piece]
        at += 1
    return -1, np.inf, 0.0, 0.0


def choose_speeds(step, dt, used, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """The speed of every vehicle for the next step, from where all are now; who comes near to its line asks."""
    for i in range(used):
        if not cars.there[i]:
            continue
        k = cars.kind[i]
        v = cars.v[i]
        brake = kinds.brake[k]
        piece = cars.piece[i]
        edge = cars.edge[i]
        top = min(kinds.speed[k], net.speed[edge])
        most = slowing(net.end[edge] - cars.s[i], net.allow[edge], brake, dt)
        if cars.at[i] + 1 < cars.way_end[i]:
            ahead = net.pieces.length[piece] - cars.s[i]
            most = min(most, slowing(ahead, net.pieces.enter[ways[cars.at[i] + 1]], brake, dt))
        why, who = FREELY, -1
        to_line = cars.line_x[i] - cars.x[i]
        look = v * v / (2 * brake) + v * kinds.headway[k] + 2 * kinds.gap[k] + kinds.length[k]
        # Somebody just beyond the line counts too.
        far = min(look * 2.0, to_line + kinds.gap[k])
        j, gap, swung, more = leader(i, far, net, road, cars, kinds, ways)
        accel = kinds.accel[k]
        part = v / top
        gain = accel * (1.0 - part * part * part * part)
        if j >= 0:
            near = max(gap - swung, 1e-6)
            wish = kinds.gap[k] + max(
                0.0, v * kinds.headway[k] + v * (v - cars.v[j]) / (2 * np.sqrt(accel * brake))
            )
            gain -= accel * (wish / near) * (wish / near)
            b = kinds.hardest[cars.kind[j]]
            moves = max(0.0, cars.v[j] * cars.v[j] / (2 * b) - cars.v[j] * dt / 2 - more) - swung
            most = min(most, stopping(gap + moves - KEPT * kinds.gap[k], kinds.hardest[k], dt))
            if wish > 0.5 * near:
                why = BEHIND
                who = j
        if to_line < look:
            # Who has somebody between it and its line does not ask: it could not use its leave.
            first = j < 0 or gap + kinds.length[cars.kind[j]] >= to_line
            if cars.asked[i] < 0 and first:
                ask(i, step, net, road, cars, ways)
            stop = min(stopping(to_line, brake, dt), max(0.0, to_line) / dt)
            if stop < most:
                most = stop
                if why == FREELY:
                    why = cars.why[i] if AT_LINE <= cars.why[i] <= FOR_PEOPLE else AT_LINE
                    who = cars.for_[i]
        to_goal = cars.goal_x[i] - cars.x[i]
        if to_goal < look:
            most = min(
                most, min(max(stopping(to_goal, brake, dt), 0.05 * kinds.speed[k]), to_goal / dt)
            )
            if why == FREELY:
                why = ARRIVING
        new = min(v + max(gain, -kinds.hardest[k]) * dt, most)
        cars.new_v[i] = min(max(new, v - kinds.hardest[k] * dt, 0.0), kinds.speed[k])
        cars.why[i] = why
        cars.for_[i] = who
        cars.gap[i] = gap


def move(dt, used, net, road, cars, kinds, ways, arrived):  # type: ignore[no-untyped-def]
    """Move all vehicles on. arrived : filled with those that came to their goal; returns how many."""
    count = 0
    for i in range(used):
        if not cars.there[i]:
            continue
        cars.v[i] = cars.new_v[i]
        way = cars.v[i] * dt
        cars.s[i] += way
        cars.x[i] += way
        piece = cars.piece[i]
        while cars.s[i] >= net.pieces.length[piece] and cars.at[i] + 1 < cars.way_end[i]:
            leave(i, piece, net, road, cars)
            cars.at[i] += 1
            piece = ways[cars.at[i]]
            cars.piece[i] = piece
            j = road.pieces.last[piece]
            cars.ahead[i] = j
            if j >= 0:
                cars.behind[j] = i
            road.pieces.last[piece] = i
            cars.edge[i] = net.begins[piece]
            if cars.room_at[i] == cars.at[i]:
                road.pieces.taken[piece] -= kinds.length[cars.kind[i]] + kinds.gap[cars.kind[i]]
                cars.room_at[i] = -1
        while net.end[cars.edge[i]] < cars.s[i] and cars.edge[i] + 1 < net.begins[piece + 1]:
            cars.edge[i] += 1
        while cars.x[i] - kinds.length[cars.kind[i]] > cars.tail_x[i] and cars.tail[i] < cars.at[i]:
            let_go(i, cars.tail[i], net, road, ways)
            cars.tail_x[i] -= net.pieces.out[ways[cars.tail[i]]]
            cars.tail[i] += 1
            cars.tail_x[i] += (
                net.pieces.length[ways[cars.tail[i]]] + net.pieces.out[ways[cars.tail[i]]]
            )
        if cars.goal_x[i] - cars.x[i] < _THERE:
            take_away(i, net, road, cars, kinds, ways)
            arrived[count] = i
            count += 1
    return count


def leave(i, piece, net, road, cars):  # type: ignore[no-untyped-def]
    """A vehicle's front goes from a piece to the next."""
    j = cars.behind[i]
    if j >= 0:
        cars.ahead[j] = -1
    cars.behind[i] = -1
    if road.pieces.last[piece] == i:
        road.pieces.last[piece] = -1
    road.pieces.left[piece] = i
    cars.s[i] -= net.pieces.length[piece]
    road.pieces.left_x[piece] = cars.x[i] - cars.s[i]


def let_go(i, at, net, road, ways):  # type: ignore[no-untyped-def]
    """A vehicle's rear has left a piece of its way."""
    piece = ways[at]
    if road.pieces.left[piece] == i:
        road.pieces.left[piece] = -1
    area = net.pieces.area[piece]
    if area >= 0:
        bit = net.mask_at[area] + net.pieces.movement[piece]
        road.held[bit] -= 1
        if road.held[bit] == 0:
            road.areas.bits[area] &= ~(np.int64(1) << net.pieces.movement[piece])


def take_away(i, net, road, cars, kinds, ways):  # type: ignore[no-untyped-def]
    """A vehicle leaves the road: nothing is held or promised for it any more."""
    piece = cars.piece[i]
    j, ahead = cars.behind[i], cars.ahead[i]
    if j >= 0:
        cars.ahead[j] = ahead
    if ahead >= 0:
        cars.behind[ahead] = j
    if road.pieces.last[piece] == i:
        road.pieces.last[piece] = ahead
    if cars.room_at[i] >= 0:
        road.pieces.taken[ways[cars.room_at[i]]] -= (
            kinds.length[cars.kind[i]] + kinds.gap[cars.kind[i]]
        )
    until = cars.line[i] if cars.line[i] >= 0 else cars.way_end[i]
    for at in range(cars.tail[i], until):
        if at <= cars.at[i] or net.pieces.area[ways[at]] >= 0:
            let_go(i, at, net, road, ways)
    if cars.asked[i] >= 0:
        forget(i, net.pieces.area[ways[cars.line[i]]], road, cars)
    cars.there[i] = 0


def drive(step, dt, used, net, road, rules, cars, kinds, ways, arrived):  # type: ignore[no-untyped-def]
    """One step of all vehicles; returns how many came to their goal."""
    show_signals(step * dt, rules)
    for area in range(len(road.areas.first)):
        if road.areas.first[area] >= 0:
            grant(step, area, net, road, rules, cars, kinds, ways)
    choose_speeds(step, dt, used, net, road, cars, kinds, ways)
    return move(dt, used, net, road, cars, kinds, ways, arrived)


def bends(begins, end, speed, brake):  # type: ignore[no-untyped-def]
    """The speed that is allowed at the end of each edge of a piece so that those after it can be taken, and the one with
    which each piece may be entered. begins, end, speed : as in `Net`."""
    allow = np.full(len(end), 1e9)
    enter = np.empty(len(begins) - 1)
    for piece in range(len(begins) - 1):
        last = begins[piece + 1] - 1
        for edge in range(last, begins[piece] - 1, -1):
            way = end[edge] - (end[edge - 1] if edge > begins[piece] else 0.0)
            here = min(speed[edge], np.sqrt(allow[edge] * allow[edge] + 2 * brake * way))
            if edge > begins[piece]:
                allow[edge - 1] = here
            else:
                enter[piece] = here
    return allow, enter
