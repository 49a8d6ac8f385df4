"""Entries, goals, kinds of attacker and waves are changed by edits, and what makes no sense is refused."""

import pytest

from tests.core.test_waves import MOTH, field
from woven_locus.core.editing import History
from woven_locus.core.edits.waves import (
    change_attacker,
    clear_places,
    mark_place,
    remove_attacker,
    rename_place,
    set_attackers,
    set_goals_of,
    set_wave_list,
)
from woven_locus.core.errors import BadKind, BadPlan, Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Entry, Goal, Group, Wave, WavePlan
from woven_locus.document.starter import starter_terrain


def test_places_are_marked_taken_and_named() -> None:
    plan = field()
    history = History(plan)
    history.do(mark_place(plan, [Cell(3, 0), Cell(4, 0)], False))
    assert plan.waves.entries[1] == Entry("E2", "Entry 2", (Cell(3, 0), Cell(4, 0)))
    # A cell goes to who is marked last, and a place without any is gone, with the groups that came from it.
    history.do(mark_place(plan, [Cell(0, 2)], True))
    assert [entry.id for entry in plan.waves.entries] == ["E2"]
    assert plan.waves.waves[0].groups == ()
    history.undo()
    assert plan.waves.waves[0].groups == (Group("E1", "moth", 1),)
    history.do(rename_place(plan, "E1", "North gate"))
    history.do(set_goals_of(plan, "E1", ["G1"]))
    assert plan.waves.entries[0] == Entry("E1", "North gate", (Cell(0, 2),), ("G1",))
    history.do(clear_places(plan, [Cell(4, 0), Cell(3, 0)]))
    assert [entry.id for entry in plan.waves.entries] == ["E1"]
    with pytest.raises(Refused, match="outside the grid"):
        mark_place(plan, [Cell(99, 0)], True)
    with pytest.raises(Refused, match="no goal G9"):
        mark_place(plan, [Cell(1, 0)], True, "G9")
    assert not mark_place(plan, [Cell(19, 2)], True, "G1").changes


def test_kinds_of_attacker_are_changed_and_kept_while_they_are_sent() -> None:
    plan = field()
    history = History(plan)
    history.do(change_attacker(plan, "moth", replace(MOTH, key="big", health=99.0)))
    assert plan.waves.waves[0].groups[0].kind == "big"
    with pytest.raises(Refused, match="1 group sends it"):
        remove_attacker(plan, "big")
    with pytest.raises(Refused, match="no kind of attacker"):
        remove_attacker(plan, "moth")
    history.do(set_wave_list(plan, ()))
    history.do(remove_attacker(plan, "big"))
    assert plan.waves.attackers == ()
    history.do(set_attackers(plan, [MOTH]))
    assert plan.waves.attackers == (MOTH,)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Entry("X1", "A", (Cell(0, 0),)), "an id is E and a number"),
        (lambda: Entry("E1", " ", (Cell(0, 0),)), "needs a name"),
        (lambda: Entry("E1", "A", ()), "needs at least one cell"),
        (lambda: Entry("E1", "A", (Cell(0, 0), Cell(0, 0))), "names a cell twice"),
        (lambda: Entry("E1", "A", (Cell(0, 0),), ("G9",)), "there is no goal 'G9'"),
    ],
)
def test_an_entry_that_cannot_be_is_refused(make, words: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadPlan, match=words):
        WavePlan((make(),))


def test_what_makes_no_sense_is_refused_in_words() -> None:
    a, b = Goal("G1", "Store", (Cell(0, 0),)), Goal("G2", "Store", (Cell(1, 0),))
    entry = Entry("E1", "Hollow", (Cell(3, 3),))
    for make, words in (
        (lambda: WavePlan((), (a, b)), "the name 'Store' is used twice"),
        (lambda: WavePlan((), (a, replace(b, name="B", cells=a.cells))), "share 0, 0"),
        (
            lambda: WavePlan(attackers=(replace(MOTH, health=0.0),)),
            "health must be a number above 0",
        ),
        (lambda: WavePlan(attackers=(MOTH, MOTH)), "key 'moth' is used twice"),
        (
            lambda: WavePlan(
                (entry,), (a,), (MOTH,), (Wave("W", 0.0, (Group("E1", "moth", 10**7),)),)
            ),
            "count must be",
        ),
        (
            lambda: WavePlan((entry,), (a,), (MOTH,), (Wave("W", 0.0, (Group("E2", "moth", 1),)),)),
            "no entry 'E2'; the plan has E1",
        ),
        (lambda: WavePlan((entry,), (a,), (MOTH,), (Wave("W", -1.0),)), "begins must be"),
        (lambda: WavePlan(lives=0), "lives must be|must be 1 to"),
        (lambda: WavePlan(moves=6), "must be 4 or 8"),
    ):
        with pytest.raises(BadPlan, match=words):
            make()
    with pytest.raises(BadKind, match="must be more than its least"):
        Tower(5.0, 5.0, 1.0, 1.0)
    with pytest.raises(BadKind, match="interval must be"):
        Tower(0.0, 5.0, 1.0, 0.0)
    with pytest.raises(BadPlan, match="outside the grid"):
        field(5, 8).__class__(
            "P", GridSpec(4, 4, 1.0, 1.0, 0.0, 0.0), starter_terrain(), waves=field().waves
        )
