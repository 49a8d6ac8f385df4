"""The register beside a plain dict, and what it keeps beside its rows."""

from collections import Counter

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.random_steps import random_step
from tests.helpers.strategies import plans
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike, Register, Rows, Structure
from woven_locus.core.routing import Connections, find_links

rows = st.builds(
    Structure,
    st.integers(1, 9),
    st.sampled_from(["hut", "mill"]),
    st.builds(Cell, st.integers(-5, 5), st.integers(-5, 5)),
    st.integers(0, 3),
    st.just(0),
    st.just(""),
)
some_rows = st.lists(rows, max_size=9, unique_by=lambda row: row.number).map(Rows)


def spread(groups: list[Alike]) -> list[tuple[int, str, int, int, int]]:
    """Every structure of some groups: number, kind, turn, column and row."""
    return [
        (number, group.kind, group.turn, *low)
        for group in groups
        for number, low in zip(group.numbers.tolist(), group.lows.tolist(), strict=True)
    ]


def plainly(structures: list[Structure]) -> list[tuple[int, str, int, int, int]]:
    keys = list(dict.fromkeys((row.kind, row.turn) for row in structures))
    placed = sorted(structures, key=lambda row: keys.index((row.kind, row.turn)))
    return [(row.number, row.kind, row.turn, *row.cell) for row in placed]


@given(st.lists(st.tuples(some_rows, st.sets(st.integers(1, 9)), st.booleans())), st.booleans())
def test_it_is_as_a_dict_in_order(steps: list[tuple[Rows, set[int], bool]], ask: bool) -> None:
    register, plain = Register(), dict[int, Structure]()
    for come, gone, all_of_them in steps:
        gone = set(plain) if all_of_them else gone & set(plain)
        register.drop_all(gone)
        register.put_all(come)
        before = register.copied()
        for number in gone:
            del plain[number]
        plain.update({row.number: row for row in come})
        plain = dict(sorted(plain.items()))
        for each in (register, before):
            assert list(each) == list(plain.values())
            assert each.numbers() == list(plain)
            counts = Counter(row.kind for row in plain.values())
            assert all(each.count(kind) == counts[kind] for kind in ("hut", "mill"))
            if ask:
                assert spread(each.alike()) == plainly(list(plain.values()))
    assert spread(register.alike()) == plainly(list(plain.values()))


@given(some_rows)
def test_rows_are_a_value(some: Rows) -> None:
    again = Rows(list(some))
    assert again == some
    assert hash(again) == hash(some)
    assert some[1:] == Rows(tuple(some)[1:])
    assert some.numbers == {row.number for row in some}
    assert spread(some.alike) == plainly(list(some))


@given(plans(10), st.integers(0, 2**32 - 1))
def test_connections_that_follow_are_those_found_anew(plan: Plan, seed: int) -> None:
    rng = np.random.default_rng(seed)
    history = History(plan)
    kept = [Connections(plan)]

    def follow(notice: object) -> None:
        if notice.layers & {"grid", "kinds"}:  # type: ignore[attr-defined]
            kept[0] = Connections(plan)  # as the document does
        kept[0].update(notice.structures)  # type: ignore[attr-defined]

    history.listen(follow)
    for _ in range(8):
        random_step(plan, history, rng)
        assert kept[0].links() == find_links(plan)
    for back in (history.undo, history.redo, history.undo):
        back()
        assert kept[0].links() == find_links(plan)
        assert plan.register.numbers() == sorted(plan.register.numbers())
