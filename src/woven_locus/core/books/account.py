"""The balance of a plan, kept current from its edits."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from woven_locus.core.books.funds import Funds, payments
from woven_locus.core.kinds import Catalogue
from woven_locus.core.register import Rows, Structure

# (kind, since) -> how many stand
Groups = Counter[tuple[str, int]]


class Account:
    """balance : money there is at the clock's time; only meaningful while funds are kept.
    earned : what a run of waves, which is not recorded, has brought in beyond that.

    Each structure counts by what it has cost and paid so far. A kind's yield counts as if it had
    always been what it is now: a plan is a design, and another yield asks what would have been.
    """

    def __init__(self, rows: Iterable[Structure], kinds: Catalogue, funds: Funds | None) -> None:
        self._kinds, self._funds = kinds, funds
        self._groups: Groups = Counter()
        self._paid = 0
        for row in rows:
            self._groups[row.kind, row.since] += 1
            self._paid += row.price
        self.earned = 0
        self._settle()

    @property
    def there(self) -> int:
        """What can be spent."""
        return self.balance + self.earned

    def _settle(self) -> None:
        """Work the balance out from the sums."""
        self.balance = 0
        if self._funds is None:
            return
        clock = self._funds.clock
        income = sum(
            count * self._kinds[kind].pays * payments(since, clock, self._kinds[kind].every)
            for (kind, since), count in self._groups.items()
        )
        past = sum(
            row.back - row.paid + row.many * row.pays * payments(row.since, row.until, row.every)
            for row in self._funds.gone
        )
        self.balance = self._funds.opening - self._paid + income + past

    def changed(self, gone: Rows, come: Rows) -> None:
        """Register rows went and others came. O(rows)."""
        for rows, sign in ((gone, -1), (come, 1)):
            self._paid += sign * rows.paid
            self.balance -= sign * rows.paid if self._funds is not None else 0
            for (kind_key, since), count in rows.counts.items():
                self._groups[kind_key, since] += sign * count
                if not self._groups[kind_key, since]:
                    del self._groups[kind_key, since]
                if self._funds is not None:
                    kind = self._kinds[kind_key]
                    earned = kind.pays * payments(since, self._funds.clock, kind.every)
                    self.balance += sign * count * earned

    def now_under(self, kinds: Catalogue, funds: Funds | None) -> None:
        """Prices are as paid; yields, the clock or what is gone are others now. O(groups)."""
        self._kinds, self._funds = kinds, funds
        self._settle()

    @property
    def spent(self) -> int:
        """Prices of all that stands, and of what is gone less what that brought back."""
        gone = self._funds.gone if self._funds is not None else ()
        return self._paid + sum(row.paid - row.back for row in gone)

    @property
    def groups(self) -> Groups:
        """(kind, since) -> how many stand. Not to be changed."""
        return self._groups

    def copied(self) -> Account:
        """A copy that counts on by itself."""
        twin = Account((), self._kinds, self._funds)
        twin._groups, twin._paid, twin.balance = self._groups.copy(), self._paid, self.balance
        twin.earned = self.earned
        return twin
