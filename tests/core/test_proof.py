"""The checks of a plan: each finds what was planted, and says where; and what is accepted is kept apart."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_waves import field
from tests.core.test_waves import put as stand
from tests.helpers.builders import draw, paint, put, three_huts
from tests.helpers.depth import examples
from tests.helpers.strategies import plans
from woven_locus.core import edits
from woven_locus.core.accepted import Accepted
from woven_locus.core.books import Funds
from woven_locus.core.editing import Edit, History, Patch
from woven_locus.core.edits.findings import accept, accept_no_more, mend_finding
from woven_locus.core.edits.kinds import change_kind
from woven_locus.core.edits.traffic import set_rule, set_trips
from woven_locus.core.errors import BadPlan, Refused, Unknown
from woven_locus.core.geometry import Cell
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule
from woven_locus.core.kinds import Demands, Thing, Touch
from woven_locus.core.plan import Plan
from woven_locus.core.proof import table
from woven_locus.core.proof.finding import Finding, Part, Severity
from woven_locus.core.proof.subject import Subject
from woven_locus.core.proof.table import BY_CODE, CHECKS, OUTDATED, prove
from woven_locus.core.value import replace
from woven_locus.core.vehicles import Trip
from woven_locus.core.ways.roads import Sign, road_byte


def of(plan: Plan, code: str, seconds: float = 0.0) -> list[Finding]:
    found = prove(plan, [code], seconds)
    assert {item.code for item in found.findings} <= {code}
    return list(found.findings)


def said(plan: Plan, code: str) -> list[tuple[str, Cell | None]]:
    return [(item.message, item.cell) for item in of(plan, code)]


def wall(plan: Plan, cells: list[Cell]) -> None:
    """Barriers that the judge would refuse."""
    patch = Patch.of_cells(plan, "barrier", cells, 1)
    assert patch is not None
    History(plan).do(Edit("", (patch,)))


def demand(plan: Plan, key: str, **asked: object) -> None:
    kind = plan.kinds[key]
    History(plan).do(change_kind(plan, key, replace(kind, demands=Demands(**asked))))  # type: ignore[arg-type]


def test_what_is_built_wrongly() -> None:
    plan = draw("......\n......\n......")
    a, b = put(plan, "hut", 0, 0), put(plan, "hut", 3, 1)
    assert prove(plan).count(Severity.ERROR) == 0
    History(plan).do(paint(plan, [Cell(3, 1)], plan.terrain_table.code("bog")))
    (found,) = of(plan, "unsound")
    assert (found.structure, found.cell, found.part) == (b, Cell(3, 1), Part.BUILD)
    assert found.message == "S2 Hut could not be placed where it stands: Bog cannot be built on"
    demand(plan, "hut", most=1)
    demand(plan, "barn", least=2)
    assert said(plan, "too-many") == [("Hut: 2 of at most 1 are there", None)]
    assert said(plan, "too-few") == [("Barn: 0 of at least 2 are there", None)]
    # That there are too many is no fault of each of them.
    assert [item.structure for item in of(plan, "unsound")] == [b]
    plan.occupant[2, 5] = a
    assert said(plan, "occupancy") == [
        ("The register and the map do not agree on who is here", Cell(5, 2))
    ]


def test_rules_about_nothing_and_doors_onto_nothing() -> None:
    plan = draw("......\n......\n......\nk.....")
    demand(plan, "hut", terrain=("meadow", "moor"), touch=(Touch(Thing.KIND, "mill"),))
    assert said(plan, "unknown-name") == [
        ("A rule of Hut is about the terrain class 'moor', which is not there", None),
        ("A rule of Hut is about the kind 'mill', which is not there", None),
    ]
    # A barn's door is in the middle of its south side.
    low, edge = put(plan, "barn", 1, 0), put(plan, "barn", 3, 2)
    assert [item.structure for item in of(plan, "blocked-door")] == [edge]
    History(plan).do(paint(plan, [Cell(2, 2)], plan.terrain_table.code("cliff")))
    found = of(plan, "blocked-door")
    assert [item.structure for item in found] == [low, edge]
    assert found[0].message == "S1 Barn: its door opens onto nothing"


def test_art_that_leaves_gaps() -> None:
    plan = draw("......\n......", cell=(24, 16))
    hut = plan.kinds["hut"]
    width, height = hut.footprint.cols * 24, hut.footprint.rows * 16
    for art, words in (
        ((width, height), None),
        ((width + 9, height * 2.0), None),
        ((width - 3, height), "Hut: its art is 3 units less wide than its cells"),
        (
            (width - 0.5, height - 4),
            "Hut: its art is 0.5 units less wide than its cells and 4 units less tall than its cells",
        ),
    ):
        History(plan).do(change_kind(plan, "hut", replace(hut, art=art)))
        assert said(plan, "art-gap") == ([(words, None)] if words else [])


def test_an_opening_that_cannot_be_paid() -> None:
    plan = draw("......\n......")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 2, 0)
    assert of(plan, "debt") == []
    plan.funds = Funds(15, 50, 30)
    plan.account.now_under(plan.kinds, plan.funds)
    assert said(plan, "debt") == [
        (
            "What was built cannot be paid: at 0:00:00 funds fall below 0, and at 0:00:00 to -5 coins",
            None,
        )
    ]


def test_roads_that_lead_nowhere() -> None:
    plan = three_huts()
    assert said(plan, "dead-end") == []
    History(plan).do(edits.lay_road(plan, [Cell(8, row) for row in (2, 3)]))
    assert said(plan, "dead-end") == [("The road ends here, at no door", Cell(8, 3))]
    assert said(plan, "unreached-road") == []
    History(plan).do(edits.lay_road(plan, [Cell(1, 4), Cell(2, 4)]))
    assert said(plan, "unreached-road") == [
        ("No structure has a door on this road of 2 cells", Cell(1, 4))
    ]
    assert [item.message for item in of(plan, "cut-off")] == []
    put(plan, "hut", 11, 5)
    assert [item.structure for item in of(plan, "cut-off")] == [4]
    weak = of(plan, "weak")
    assert {item.severity for item in weak} == {Severity.NOTE}
    assert any("S3 would be cut off" in item.message for item in weak)


def test_ground_that_nobody_reaches() -> None:
    plan = draw(
        """
        ....k..
        ....k..
        kkkkk..
        """
    )
    assert said(plan, "unreached-ground") == []  # nothing is used, so nothing is out of reach
    put(plan, "hut", 6, 2)
    assert said(plan, "unreached-ground") == [
        ("Nobody can reach 8 cells of ground from here on", Cell(0, 0))
    ]


@pytest.mark.parametrize("sign", [Sign.EAST, Sign.WEST])
def test_road_that_leads_in_but_not_out(sign: Sign) -> None:
    plan = draw("=========\n.........")
    plan.road[0, 4] = road_byte(0, sign)
    plan.refresh(plan.spec.box, True)
    (found,) = of(plan, "trap")
    east = sign is Sign.EAST
    assert found.cell == (Cell(5, 0) if east else Cell(0, 0))
    assert found.message == "4 cells of road can be driven into, but not out of"


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_traps_are_what_walking_says(seed: int) -> None:
    rng = np.random.default_rng(seed)
    shape = tuple(rng.integers(1, 7, 2).tolist())
    plan = draw("\n".join("." * shape[1] for _ in range(shape[0])))
    signs = rng.choice([0, 0, *Sign], shape)
    plan.road[:] = np.where(
        rng.random(shape) < 0.7, np.vectorize(lambda s: road_byte(0, int(s)))(signs), 0
    )
    plan.refresh(plan.spec.box, True)
    exits, costs = plan.road_table.exits[plan.road], plan.road_table.costs[plan.road]
    sides = {1: (-1, 0), 2: (0, 1), 3: (1, 0), 4: (0, -1)}

    def ahead(slot: tuple[int, int]) -> list[tuple[int, int]]:
        found = []
        for move, (d_row, d_col) in sides.items():
            to = slot[0] + d_row, slot[1] + d_col
            inside = 0 <= to[0] < shape[0] and 0 <= to[1] < shape[1]
            if not inside or not np.isfinite(costs[to]) or not np.isfinite(costs[slot]):
                continue
            back = {1: 3, 2: 4, 3: 1, 4: 2}[move]
            if exits[slot] in (0, move) and exits[to] != back:
                found.append(to)
        return found

    def reach(slot: tuple[int, int]) -> set[tuple[int, int]]:
        seen, left = {slot}, [slot]
        while left:
            for to in ahead(left.pop()):
                if to not in seen:
                    seen.add(to)
                    left.append(to)
        return seen

    road = [tuple(slot) for slot in np.argwhere(np.isfinite(costs)).tolist()]
    reached = {slot: reach(slot) for slot in road}
    traps = {
        min(mine)
        for mine in (
            frozenset(other for other in reached[slot] if slot in reached[other]) for slot in road
        )
        if all(reached[slot] == set(mine) for slot in mine)
        and any(set(mine) & reached[other] for other in road if other not in mine)
    }
    found = {plan.spec.slot(item.cell) for item in of(plan, "trap") if item.cell is not None}
    assert found == (traps if exits.any() else set())


def test_trips_and_signals() -> None:
    plan = three_huts()
    history = History(plan)
    history.do(set_trips(plan, [Trip(1, 2, 0.0), Trip(1, 9, 0.0), Trip(Cell(0, 5), 2, 0.0)]))
    found = of(plan, "no-way")
    assert [item.message for item in found] == [
        "The trip from S1 to S9 has no way: S9 is not there",
        "The trip from 0, 5 to S2 has no way: cell 0, 5 is not road",
    ]
    assert [(item.structure, item.cell) for item in found] == [(1, Cell(1, 0)), (0, Cell(0, 5))]
    history.do(
        set_rule(
            plan, Cell(6, 1), JunctionRule(Cell(6, 1), Rule.SIGNALS, (Phase(((1, 3),), 9.0, 1.0),))
        )
    )
    history.do(set_rule(plan, Cell(2, 1), JunctionRule(Cell(2, 1), Rule.LARGER)))
    nowhere, never = sorted(of(plan, "never-green"), key=lambda item: item.cell or Cell(0, 0))
    assert (nowhere.cell, nowhere.message) == (
        Cell(2, 1),
        "There is a rule for a junction here, and no junction",
    )
    assert never.message.startswith("The signals here never show green to ")
    assert "east to west" not in never.message
    assert never.message.endswith(" and 2 more")


def test_traffic_that_jams_is_found_once_it_has_run() -> None:
    plan = three_huts()
    History(plan).do(set_trips(plan, [Trip(1, 2, 0.0, "", 0.1, 400)]))
    assert of(plan, "held-back") == []
    (found,) = of(plan, "held-back", 20.0)
    assert found.message.endswith("vehicles or people found no room to set off within 20 s")
    assert of(plan, "gridlock", 20.0) == of(plan, "overlap", 20.0) == []


def test_a_sealed_entry_and_a_tower_that_reaches_no_way() -> None:
    plan = field(9, 20)
    stand(plan, "post", 9, 3)
    stand(plan, "post", 9, 0)
    assert said(plan, "sealed") == []
    assert said(plan, "idle-tower") == [("S2 Post has no way in its range", Cell(9, 0))]
    wall(plan, [Cell(12, row) for row in range(9)])
    assert said(plan, "sealed") == [
        ("From E1 Hollow nobody comes: no way leads over ground to a goal", Cell(0, 4))
    ]
    wall(plan, [Cell(0, 4)])
    assert said(plan, "sealed") == [
        ("From E1 Hollow nobody comes: it lies on blocked ground", Cell(0, 4))
    ]


def test_near_misses_are_mended_and_findings_accepted_for_a_reason() -> None:
    plan = draw("......\n==.===\n......")
    put(plan, "hut", 0, 0)
    put(plan, "hut", 5, 0)
    history = History(plan)
    miss, *_ = prove(plan).findings
    assert (miss.code, miss.cell, miss.mend_words) == ("near-miss", Cell(2, 1), "lay 2, 1")
    cut = of(plan, "cut-off")
    history.do(accept(plan, cut[0], "  A folly "))
    with pytest.raises(Refused, match="for a reason"):
        accept(plan, cut[1], " ")
    assert plan.accepted == (Accepted("cut-off", "A folly", None, 1),)
    proof = prove(plan)
    assert [(item.structure, item.reason) for item in proof.accepted] == [(1, "A folly")]
    assert [item.structure for item in proof.findings if item.code == "cut-off"] == [2]
    assert proof.count(Severity.WARNING) == len(
        [item for item in proof.findings if item.severity is Severity.WARNING]
    )
    # Another reason takes the place of the first; mended, it is accepted and not there.
    history.do(accept(plan, cut[0], "A view"))
    assert [item.reason for item in plan.accepted] == ["A view"]
    history.do(mend_finding(plan, miss))
    (outdated,) = [item for item in prove(plan).findings if item.code == "outdated"]
    assert outdated.message == "Accepted, and found no more: cut-off: A view"
    assert outdated.can_mend
    with pytest.raises(Refused, match="no more"):
        accept(plan, outdated, "why")
    history.do(mend_finding(plan, outdated))
    assert plan.accepted == ()
    with pytest.raises(Refused, match="not accepted any more"):
        accept_no_more(plan, Accepted("cut-off", "A view", None, 1))
    history.undo()
    assert len(plan.accepted) == 1
    with pytest.raises(Refused, match="No edit is known"):
        mend_finding(plan, cut[0])


def test_very_many_are_counted_not_listed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(table, "MOST_OF_A_CODE", 2)
    plan = draw("=.=.=.=.=.=\n...........\n...........")
    proof = prove(plan, ["near-miss"])
    assert len(proof.findings) == 2
    assert proof.more["near-miss"] + 2 == proof.count(Severity.WARNING) > 2


@settings(max_examples=examples(25), deadline=None)
@given(plans())
def test_any_plan_can_be_proved_and_is_left_as_it_was(plan: Plan) -> None:
    from tests.helpers.state import recorded

    before = recorded(plan)
    proof = prove(plan, seconds=2.0)
    assert recorded(plan) == before
    assert not proof.more
    for item in (*proof.findings, *proof.accepted):
        assert item.message
        assert item.cell is None or plan.spec.contains(item.cell)
        assert not item.structure or item.structure in plan.register or item.code == "outdated"
        # A check asked alone says the same.
    for code in ("near-miss", "trap", "dead-end", "unreached-ground"):
        alone = prove(plan, [code])
        every = [item for item in proof.findings if item.code == code]
        assert [item for item in alone.findings if item.code == code] == every


def test_codes_are_known_and_each_is_explained() -> None:
    with pytest.raises(Unknown, match="no finding 'seal'; there is occupancy, "):
        prove(three_huts(), ["seal"])
    assert len(BY_CODE) == len(CHECKS)
    assert all(check.find.__doc__ for check in CHECKS)
    page = (Path(__file__).parents[2] / "docs" / "findings.md").read_text("utf-8")
    for check in (*CHECKS, OUTDATED):
        assert f"* `{check.code}`, {check.severity.value}. " in page


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Accepted("", "x"), "the code of a finding"),
        (lambda: Accepted("weak", "a\nb"), "control character"),
        (lambda: Accepted("weak", "x", Cell(0, 0), 3), "not both"),
        (lambda: Accepted("weak", "x", None, 2**40), "no structure number"),
    ],
)
def test_what_cannot_be_accepted(make: Callable[[], object], words: str) -> None:
    with pytest.raises(BadPlan, match=words):
        make()


def test_where_time_is_short_many_are_named_without_their_reasons() -> None:
    class Brief(Subject):
        def is_brief(self, count: int) -> bool:
            return count > 2

    plan = draw("......\n......")
    for col in range(5):
        put(plan, "hut", col, 0)
    History(plan).do(
        paint(plan, [Cell(col, 0) for col in range(5)], plan.terrain_table.code("bog"))
    )
    check = BY_CODE["unsound"]
    short, whole = (table.collect(each, [check]) for each in (Brief(plan), Subject(plan)))
    assert [item.structure for item in short.found] == [item.structure for item in whole.found]
    assert short.found[0].message == "S1 Hut could not be placed where it stands"
    assert whole.found[0].message.endswith(": Bog cannot be built on")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(table, "MOST_OF_A_CODE", 3)
        for each in (Brief(plan), Subject(plan)):
            assert table.collect(each, [check]).more == {"unsound": 2}
