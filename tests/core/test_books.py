"""Funds over time, against a count second by second."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import BARN, HUT, WHEN, draw, put
from woven_locus.core import edits
from woven_locus.core.books import Account, Funds
from woven_locus.core.books.forecast import curve, payback, what_if, with_rewards
from woven_locus.core.editing import History
from woven_locus.core.edits import money
from woven_locus.core.errors import BadPlan, Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.core.value import replace


def with_yields(plan: Plan, **pays: tuple[int, int]) -> Plan:
    """Kinds by key with (pays, every) in place of their own."""
    plan.kinds = Catalogue(
        replace(kind, pays=pays[kind.key][0], every=pays[kind.key][1]) if kind.key in pays else kind
        for kind in plan.kinds
    )
    plan.account.now_under(plan.kinds, plan.funds)
    return plan


def test_prices_yields_and_shares() -> None:
    plan = with_yields(draw("....."), hut=(3, 10))
    history = History(plan)
    history.do(money.set_funds(plan, 100, 50))
    history.do(edits.place(plan, "hut", Cell(0, 0), 0, WHEN))
    assert plan.account.balance == 90
    history.do(money.advance(plan, 29))
    assert plan.account.balance == 96
    history.do(edits.place(plan, "hut", Cell(1, 0), 0, WHEN))
    history.do(money.advance(plan, 1))
    assert plan.account.balance == 89  # the first pays at 30, the second not before 39
    history.do(edits.demolish(plan, [1]))
    assert plan.account.balance == 94
    history.do(money.advance(plan, 9))
    assert plan.account.balance == 97
    for _ in range(5):
        history.undo()
    assert plan.account.balance == 90


def test_a_clock_that_runs_is_one_step() -> None:
    plan = draw(".")
    history = History(plan)
    history.do(money.set_funds(plan, 10))
    for _ in range(5):
        history.do(money.advance(plan, 60))
    assert history.entries == ["Began to keep funds", "Ran the clock to 0:05:00"]
    history.mark_saved()
    history.do(money.advance(plan, 3600))
    assert len(history.entries) == 3
    assert not history.saved
    history.undo()
    assert history.saved
    history.undo()
    assert plan.funds is not None
    assert plan.funds.clock == 0


def test_another_yield_counts_as_if_it_had_always_been() -> None:
    plan = draw("..")
    history = History(plan)
    history.do(money.set_funds(plan, 10))
    put(plan, "hut", 0, 0)
    history.do(money.advance(plan, 100))
    with_yields(plan, hut=(2, 10))
    assert plan.account.balance == 20


def test_beginning_again_keeps_what_stands() -> None:
    plan = with_yields(draw("..."), hut=(5, 10))
    history = History(plan)
    history.do(money.set_funds(plan, 50))
    history.do(money.advance(plan, 30))
    put(plan, "hut", 0, 0)
    put(plan, "hut", 1, 0)
    history.do(edits.demolish(plan, [2]))
    history.do(money.begin_again(plan))
    assert plan.funds == Funds(50, 50, 0)
    assert plan.register[1].since == 0
    assert plan.account.balance == 40
    history.undo()
    assert plan.register[1].since == 30
    assert plan.account.balance == 35


def test_what_cannot_be_is_refused() -> None:
    plan = draw(".")
    with pytest.raises(Refused, match="keeps no funds"):
        money.advance(plan, 5)
    with pytest.raises(Refused, match="keeps no funds"):
        money.begin_again(plan)
    History(plan).do(money.set_funds(plan, 5))
    with pytest.raises(Refused, match="1 second or more"):
        money.advance(plan, 0)
    with pytest.raises(BadPlan, match="opening funds"):
        money.set_funds(plan, -1)
    with pytest.raises(BadPlan, match="0 to 100 percent"):
        money.set_funds(plan, 5, 101)


@pytest.mark.parametrize(
    ("price", "pays", "every", "expected"),
    [
        (10, 3, 7, 28),
        (9, 3, 7, 21),
        (0, 0, 0, 0),
        (5, 0, 7, None),
        (5, 3, 0, None),
        (5, -1, 7, None),
    ],
)
def test_payback(price: int, pays: int, every: int, expected: int | None) -> None:
    assert payback(replace(HUT, price=price, pays=pays, every=every)) == expected


kinds = st.lists(
    st.builds(
        lambda price, pays, every: (price, pays, every),
        st.integers(0, 60),
        st.integers(-4, 12),
        st.integers(0, 9),
    ),
    min_size=1,
    max_size=3,
).map(
    lambda rows: Catalogue(
        replace(BARN, key=f"k{at}", price=price, pays=pays, every=every)
        for at, (price, pays, every) in enumerate(rows)
    )
)


def second_by_second(
    opening: int, share: int, events: list[tuple[int, str, Kind, int]], until: int
) -> list[int]:
    """Balance after each second 0 to `until`. events : (time, "place" or "demolish", kind, since)."""
    there: list[tuple[Kind, int]] = []
    balance, found = opening, []
    for now in range(until + 1):
        for kind, since in there:
            if kind.every and now > since and (now - since) % kind.every == 0:
                balance += kind.pays
        for time, what, kind, since in events:
            if time == now and what == "place":
                balance -= kind.price
                there.append((kind, now))
            elif time == now:
                balance += kind.price * share // 100
                there.remove((kind, since))
        found.append(balance)
    return found


@given(kinds, st.data(), st.integers(0, 100))
def test_the_account_is_that_of_every_second(
    catalogue: Catalogue, data: st.DataObject, share: int
) -> None:
    plan = draw("." * 30)
    plan.kinds = catalogue
    history = History(plan)
    opening = 10**6
    history.do(money.set_funds(plan, opening, share))
    events: list[tuple[int, str, Kind, int]] = []
    stand: list[tuple[int, Kind, int]] = []
    spare = 0
    for _ in range(data.draw(st.integers(1, 8))):
        assert plan.funds is not None
        clock = plan.funds.clock
        if stand and data.draw(st.booleans()):
            number, kind, since = stand.pop(data.draw(st.integers(0, len(stand) - 1)))
            history.do(edits.demolish(plan, [number]))
            events.append((clock, "demolish", kind, since))
        else:
            kind = data.draw(st.sampled_from(list(catalogue)))
            row = Structure(plan.register.next_number, kind.key, Cell(0, 0), 0, 0, WHEN)
            # A kind of one cell, so that many fit in a row.
            small = replace(kind, footprint=HUT.footprint)
            plan.kinds = plan.kinds.with_kind(small)
            plan.account.now_under(plan.kinds, plan.funds)
            history.do(edits.place(plan, kind.key, Cell(spare, 0), 0, WHEN))
            spare += 1
            stand.append((row.number, kind, clock))
            events.append((clock, "place", kind, clock))
        if data.draw(st.booleans()):
            history.do(money.advance(plan, data.draw(st.integers(1, 25))))
    assert plan.funds is not None
    clock = plan.funds.clock
    until = clock + 40
    seconds = second_by_second(opening, share, events, until)
    assert plan.account.balance == seconds[clock]
    assert plan.account.balance == Account(plan.register, plan.kinds, plan.funds).balance
    points = curve(plan.register, plan.kinds, plan.funds, until)
    drawn = dict(points)  # the last of each time
    now = opening
    for second, balance in enumerate(seconds):
        now = drawn.get(second, now)
        assert now == balance, second


@given(kinds, st.data(), st.integers(0, 80), st.integers(0, 30))
def test_what_if_finds_the_first_second(
    catalogue: Catalogue, data: st.DataObject, opening: int, clock: int
) -> None:
    rows = [
        Structure(
            k + 1, data.draw(st.sampled_from(catalogue.keys())), Cell(k, 0), 0, 0, WHEN, since
        )
        for k, since in enumerate(data.draw(st.lists(st.integers(0, clock), max_size=3)))
    ]
    funds = Funds(opening, 50, clock)
    account = Account(rows, catalogue, funds)
    wishes = data.draw(st.lists(st.sampled_from(catalogue.keys()), min_size=1, max_size=3))
    rewards = sorted(
        data.draw(
            st.lists(st.tuples(st.integers(clock + 1, clock + 60), st.integers(0, 20)), max_size=4)
        )
    )
    found = what_if(account, catalogue, clock, wishes, rewards)
    money_now, now = account.balance, clock
    there = [(catalogue[row.kind], row.since) for row in rows]
    far = clock + 400
    for wish, bought in zip(wishes, found, strict=True):
        kind = catalogue[wish]
        # What costs nothing can be had in debt, too.
        while kind.price and money_now < kind.price and now < far:
            now += 1
            money_now += sum(
                k.pays for k, since in there if k.every and (now - since) % k.every == 0
            )
            money_now += sum(pays for at, pays in rewards if at == now)
        if kind.price and money_now < kind.price:
            # Nothing was found in all that time; a later answer would have to be later still.
            assert bought.at is None or bought.at > far
            return
        money_now -= kind.price
        there.append((kind, now))
        assert (bought.at, bought.left) == (now, money_now)


def test_rewards_are_steps_of_the_curve() -> None:
    points = [(0, 10), (0, 5), (4, 8), (9, 8)]
    found = with_rewards(points, [(2, 7), (4, 1), (20, 99)])
    assert found == [(0, 10), (0, 5), (2, 12), (4, 13), (4, 16), (9, 16)]
    assert with_rewards(points, []) == points
