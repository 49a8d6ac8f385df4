"""Funds over time: what was, what will be, and when something can be afforded. Exact, in whole money and
whole seconds.

Payments repeat, so that structures with the same interval and phase are one stream, however many they
are; the next change is found by a queue of streams.
"""

from __future__ import annotations

import heapq
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from woven_locus.core.books.account import Account
from woven_locus.core.books.funds import Funds
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.register import Structure
from woven_locus.core.value import Value

# Changes of the balance that are followed at most, so that a question always ends.
MOST_EVENTS = 200_000


class Stream(Value):
    """pays : money at every time that is `phase` modulo `every`, from `start` (excluded) on."""

    every: int
    phase: int
    pays: int


def streams(account: Account, kinds: Catalogue) -> list[Stream]:
    """What all that stands pays from now on, structures alike in time as one."""
    found: Counter[tuple[int, int]] = Counter()
    for (key, since), count in account.groups.items():
        kind = kinds[key]
        if kind.every and kind.pays:
            found[kind.every, since % kind.every] += count * kind.pays
    return [Stream(every, phase, pays) for (every, phase), pays in sorted(found.items()) if pays]


def changes(parts: Iterable[Stream], after: int) -> Iterator[tuple[int, int]]:
    """(time, money) of each payment later than `after`, in order, those of one time together."""
    queue = [
        (after + (part.phase - after - 1) % part.every + 1, k, part) for k, part in enumerate(parts)
    ]
    heapq.heapify(queue)
    while queue:
        time, total = queue[0][0], 0
        while queue and queue[0][0] == time:
            _time, k, part = queue[0]
            total += part.pays
            heapq.heapreplace(queue, (time + part.every, k, part))
        yield time, total


def paid_between(parts: Iterable[Stream], start: int, end: int) -> int:
    """What streams pay in (start, end]."""
    return sum(
        part.pays * ((end - part.phase) // part.every - (start - part.phase) // part.every)
        for part in parts
    )


class Bought(Value):
    """One purchase of a list. at : the clock's time when it can be paid, None for never (within
    MOST_EVENTS payments).  left : money after it."""

    kind: str
    at: int | None
    left: int


def what_if(
    account: Account,
    kinds: Catalogue,
    clock: int,
    wishes: Sequence[str],
    rewards: Sequence[tuple[int, int]] = (),
) -> list[Bought]:
    """The earliest time at which each of a list can be afforded, in the order of the list, each bought as
    soon as it can be and paying from then on. After one that never can be, none can.

    rewards : (time on the clock, money) that come in once, in order of time."""
    parts = {(part.every, part.phase): part.pays for part in streams(account, kinds)}
    time, money = clock, account.balance
    found: list[Bought] = []
    steps = earned = 0
    for key in wishes:
        kind = kinds[key]
        made = [Stream(every, phase, pays) for (every, phase), pays in parts.items() if pays]
        coming = changes(made, time)
        ahead = next(coming, None)
        # What costs nothing can be had in debt, too: so the judge has it.
        while kind.price and money < kind.price:
            steps += 1
            times = [
                item[0] for item in (*rewards[earned : earned + 1], *([ahead] if ahead else ()))
            ]
            hopeless = earned == len(rewards) and not _gains(made)
            if not times or hopeless or steps > MOST_EVENTS:
                return found + [Bought(k, None, money) for k in wishes[len(found) :]]
            time = max(time, min(times))
            # All that comes in at this time.
            while earned < len(rewards) and rewards[earned][0] <= time:
                money += rewards[earned][1]
                earned += 1
            if ahead is not None and ahead[0] <= time:
                money += ahead[1]
                ahead = next(coming, None)
        money -= kind.price
        found.append(Bought(key, time, money))
        if kind.every and kind.pays:
            at = (kind.every, time % kind.every)
            parts[at] = parts.get(at, 0) + kind.pays
    return found


def _gains(parts: Sequence[Stream]) -> bool:
    """Whether anything is paid in at all."""
    return any(part.pays > 0 for part in parts)


def payback(kind: Kind) -> int | None:
    """Seconds after which one has paid its price; None when it never does."""
    if not kind.price:
        return 0
    if kind.pays <= 0 or not kind.every:
        return None
    return -(-kind.price // kind.pays) * kind.every


def curve(
    rows: Iterable[Structure], kinds: Catalogue, funds: Funds, until: int, most: int = 4000
) -> list[tuple[int, int]]:
    """(time, balance after it) from 0 to `until`, as what stands and what is gone make it: a step at each
    time at which the balance changes, of very many only every n-th.

    Times up to the clock are what was, later ones what will be if nothing is built.
    """
    jumps: Counter[int] = Counter()
    starts: list[tuple[int, int, int]] = []  # time, stream, pays
    keys: dict[tuple[int, int], int] = {}

    def flow(since: int, until_: int | None, every: int, pays: int) -> None:
        if not (every and pays):
            return
        key = (every, since % every)
        at = keys.setdefault(key, len(keys))
        starts.append((since, at, pays))
        if until_ is not None:
            starts.append((until_, at, -pays))

    for row in rows:
        kind = kinds[row.kind]
        jumps[row.since] -= row.price
        flow(row.since, None, kind.every, kind.pays)
    for item in funds.gone:
        jumps[item.since] -= item.paid
        jumps[item.until] += item.back
        flow(item.since, item.until, item.every, item.pays * item.many)
    return _steps(funds.opening, jumps, starts, list(keys), until, most)


def with_rewards(
    points: Sequence[tuple[int, int]], rewards: Iterable[tuple[int, int]]
) -> list[tuple[int, int]]:
    """A curve with money that comes in once; see `curve` and `what_if`. What comes after its end is left out."""
    end = points[-1][0]
    events = [(time, 0, pays) for time, pays in rewards if time <= end]
    events += [(time, 1, at) for at, (time, _balance) in enumerate(points)]
    found: list[tuple[int, int]] = []
    balance, earned = points[0][1], 0
    for time, is_point, value in sorted(events):
        if is_point:
            balance = points[value][1]
        else:
            earned += value
        found.append((time, balance + earned))
    return found


def _steps(
    opening: int,
    jumps: Counter[int],
    starts: list[tuple[int, int, int]],
    keys: list[tuple[int, int]],
    until: int,
    most: int,
) -> list[tuple[int, int]]:
    """Follow prices, returns and streams from 0 on."""
    begins: dict[int, list[tuple[int, int]]] = {}
    for time, at, pays in starts:
        begins.setdefault(time, []).append((at, pays))
    marks = sorted({time for time in (*jumps, *begins) if time <= until} | {0, until})
    rates = [0] * len(keys)
    balance, points = opening, [(0, opening)]
    sparse = _sparse(keys, until, most)
    for at, mark in enumerate(marks):
        # What is paid at this very time was earned before what begins or ends now.
        if at:
            balance = _between(points, balance, rates, keys, marks[at - 1], mark, sparse)
        balance += jumps.get(mark, 0)
        for key, pays in begins.get(mark, ()):
            rates[key] += pays
        points.append((mark, balance))
    return points


def _sparse(keys: list[tuple[int, int]], until: int, most: int) -> int:
    """Seconds between points, so that there are about `most` at the most; 0 takes every payment."""
    times = sum(until // every for every, _phase in keys)
    return 0 if times <= most else max(1, until // most)


def _between(
    points: list[tuple[int, int]],
    balance: int,
    rates: list[int],
    keys: list[tuple[int, int]],
    start: int,
    end: int,
    sparse: int,
) -> int:
    """Add the payments in (start, end]; returns the balance at the end."""
    live = [Stream(*keys[k], pays) for k, pays in enumerate(rates) if pays]
    if not live or end <= start:
        return balance
    if sparse:
        for time in [*range(start + sparse, end, sparse), end]:
            points.append((time, balance + paid_between(live, start, time)))
        return points[-1][1]
    for time, money in changes(live, start):
        if time > end:
            break
        balance += money
        points.append((time, balance))
    return balance
