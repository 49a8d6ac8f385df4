"""What a plan records about money. The balance itself is never recorded: it is worked out from the
opening funds, the register and what is gone (see `Account`), so that it cannot disagree with them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from woven_locus.core.errors import BadPlan
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.kind import LARGEST_MONEY
from woven_locus.core.phrase import phrase
from woven_locus.core.register import Structure
from woven_locus.core.value import Value, replace

LATEST_CLOCK = 10**12


class Gone(NamedTuple):
    """Demolished structures alike in their times and yields, as one row.

    since, until : clock when they were placed and demolished.  pays, every : what each yielded.  many : how many.
    paid, back : sums of all of them: prices taken, shares returned.
    """

    since: int
    until: int
    pays: int
    every: int
    many: int
    paid: int
    back: int


class Funds(Value):
    """opening : money to begin with.  share : percent of its price that demolishing returns.
    clock : simulated seconds gone by.  gone : what was demolished. Raises BadPlan."""

    opening: int = 0
    share: int = 50
    clock: int = 0
    gone: tuple[Gone, ...] = ()

    def __post_init__(self) -> None:
        if not 0 <= self.opening <= LARGEST_MONEY:
            raise BadPlan(
                "funds",
                phrase(
                    "the opening funds are 0 to {largest_money:,}, not {opening:,}",
                    largest_money=LARGEST_MONEY,
                    opening=self.opening,
                ),
            )
        if not 0 <= self.share <= 100:
            raise BadPlan(
                "funds",
                phrase("the share returned is 0 to 100 percent, not {share}", share=self.share),
            )
        if not 0 <= self.clock <= LATEST_CLOCK:
            raise BadPlan(
                "funds",
                phrase(
                    "the clock is 0 to {latest_clock:,} seconds, not {clock:,}",
                    latest_clock=LATEST_CLOCK,
                    clock=self.clock,
                ),
            )
        for row in self.gone:
            if not 0 <= row.since <= row.until <= self.clock:
                raise BadPlan(
                    "funds.gone",
                    phrase(
                        "times must run from 0 to the clock, not {since}, {until}",
                        since=row.since,
                        until=row.until,
                    ),
                )

    def back_for(self, price: int) -> int:
        """What demolishing returns of a price: the share, rounded down."""
        return price * self.share // 100

    def without(self, rows: Iterable[tuple[Structure, Kind]]) -> Funds:
        """After structures were demolished now."""
        held = {item[:4]: item for item in self.gone}
        for row, kind in rows:
            alike = (row.since, self.clock, kind.pays, kind.every)
            item = held.get(alike, Gone(*alike, 0, 0, 0))
            held[alike] = item._replace(
                many=item.many + 1,
                paid=item.paid + row.price,
                back=item.back + self.back_for(row.price),
            )
        return replace(self, gone=tuple(held.values()))


def payments(since: int, until: int, every: int) -> int:
    """How often a structure has paid by a time: at since + every, since + 2 every, ...; never when
    `every` is 0."""
    return max(0, until - since) // every if every else 0
