"""The list of findings, without a window."""

from tests.core.test_waves import field
from tests.core.test_waves import put as place
from tests.helpers.builders import draw, put
from woven_locus.core.geometry import Cell
from woven_locus.core.proof.findings import MOST_OF_A_SORT, findings
from woven_locus.core.proof.misses import candidates
from woven_locus.core.routing.links import find_links
from woven_locus.core.routing.weak import WeakPoint, weak_points
from woven_locus.core.waves.ways import find_ways


def test_findings_say_what_where_and_of_whom() -> None:
    plan = draw("......\n==.===\n......")
    for at in ((0, 0), (5, 0)):
        put(plan, "hut", *at)
    misses = candidates(plan)
    found = findings(plan, misses, find_links(plan).cut_off, unsound=[2, 77])
    assert [each.what.partition(":")[0] for each in found] == [
        *["Near miss"] * len(misses),
        "Cut off",
        "Cut off",
        "Unsound",
    ]
    gap = found[0]
    assert (gap.cell, gap.can_mend) == (Cell(2, 1), True)
    assert found[-1].structure == 2
    assert found[-1].words == "S2 Hut could not be placed where it stands"
    assert not found[-1].can_mend


def test_a_weak_point_names_some_and_counts_the_others() -> None:
    plan = draw("...........\n===========")
    few = WeakPoint(Cell(4, 1), 3, (1, 2), 7)
    many = WeakPoint(Cell(5, 1), 1, tuple(range(1, 13)), 7)
    a, b = findings(plan, (), (), (), [few, many])
    assert (a.what, a.words) == ("Weak: 3 cells", "Without it S1, S2 would be cut off")
    assert b.what == "Weak: 1 cell"
    assert b.words.endswith("S8 and 4 more would be cut off")


def test_a_plan_without_fault_has_none_and_a_bad_one_not_endlessly_many() -> None:
    plan = draw(".hh...\n......".replace("h", "."))
    assert findings(plan, (), (), ()) == []
    put(plan, "hut", 0, 0)
    assert len(findings(plan, (), [1] * 9999, ())) == MOST_OF_A_SORT
    assert weak_points(plan) == []


def test_a_sealed_entry_and_a_tower_that_reaches_no_way_are_found() -> None:
    plan = field(9, 20)
    place(plan, "post", 9, 3)
    place(plan, "post", 9, 0)
    assert [
        (each.what, each.words) for each in findings(plan, (), (), (), (), find_ways(plan))
    ] == [("Idle tower", "S2 Post has no way in its range")]
    plan.barrier[:, 12] = 1
    plan.refresh(plan.spec.box, False)
    sealed, *_towers = findings(plan, (), (), (), (), find_ways(plan))
    assert sealed.words == "From E1 Hollow no way leads over ground to a goal"
    assert sealed.cell == plan.waves.entries[0].cells[0]
    # Elsewhere nothing is known of the ways, and nothing is said.
    assert findings(plan, (), (), ()) == []
