"""The session and what stands beside it, without a window: what is held fits the plan, and who is told what."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pytest
from PyQt6.QtWidgets import QApplication

from tests.helpers.builders import draw, paint, put
from woven_locus.core.derived.rules import Reason
from woven_locus.core.editing import Keep, Regrid
from woven_locus.core.edits import demolish, heights, place
from woven_locus.core.edits import kinds as kind_edits
from woven_locus.core.edits.grid import regrid
from woven_locus.core.edits.waves import clear_places, mark_place
from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.grid import Rule, SnapSettings
from woven_locus.core.grid.probe import Actor
from woven_locus.core.placing import Feasibility
from woven_locus.core.render import GroundOverlay
from woven_locus.core.value import replace
from woven_locus.document import Document
from woven_locus.ui.desk import Desk
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage, SurveyTool, WayTool, WhereShown

Make = Callable[[str], Desk]
ROWS = "........\n........\n........\n........"


@pytest.fixture
def make(qapp: QApplication) -> Iterator[Make]:
    made: list[Desk] = []

    def desk(rows: str = ROWS) -> Desk:
        made.append(Desk(Document(draw(rows))))
        return made[-1]

    yield desk
    for each in made:
        each.session.jobs.shut(5000)
        each.deleteLater()


def told(session: Session, desk: Desk) -> list[str]:
    """Names of the signals, as they come."""
    heard: list[str] = []
    for name, signal in (
        ("replaced", session.replaced),
        ("changed", session.changed),
        ("settled", session.settled),
        ("reformed", session.reformed),
        ("moved", session.pointer.moved),
        ("hand", session.hand.changed),
        ("judged", session.hand.judged),
        ("selected", session.selection.changed),
        ("stage", session.choices.stage_changed),
        ("chosen", session.choices.changed),
        ("stroked", desk.tools.stroked),
    ):
        signal.connect(lambda *_args, name=name: heard.append(name))
    return heard


def test_a_kind_that_is_gone_is_put_down_before_anybody_hears_of_it(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    session.attempt(kind_edits.copy_kind, session.plan, "hut")
    key = session.plan.kinds.keys()[-1]
    session.arm(key)
    session.pointer.to(Point(2.5, 1.5))
    assert session.hand.ghost is not None
    seen = []
    session.changed.connect(lambda _notice: seen.append((session.hand.kind, session.hand.ghost)))
    heard = told(session, desk)
    session.document.history.undo()
    assert seen == [(None, None)]
    assert heard.index("hand") < heard.index("changed")
    assert heard.count("changed") == 1


def test_what_is_selected_and_gone_is_no_longer_selected(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    for at in range(3):
        put(session.plan, "hut", at * 2, 0)
    session.selection.select_all([2, 1, 3], Box(0, 0, 2, 6))
    heard = told(session, desk)
    session.attempt(demolish, session.plan, [2, 3])
    assert session.selection.numbers == (1,)
    assert session.selection.front == 1
    assert heard == ["selected", "changed"]
    session.selection.select(1, more=True)
    assert session.selection.front == 0


def test_another_grid_forgets_the_pointer_and_keeps_the_kind_in_hand(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    session.arm("hut")
    session.pointer.to(Point(2.5, 1.5))
    heard = told(session, desk)
    wider = replace(session.plan.spec, cols=20)
    session.attempt(regrid, session.plan, Regrid(wider, Keep.INDEX))
    assert session.pointer.hover is None
    assert session.hand.kind == "hut"
    assert heard.count("moved") == heard.count("reformed") == heard.count("changed") == 1


def test_another_document_begins_with_empty_hands_and_tells_it_last(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    put(session.plan, "hut", 0, 0)
    session.selection.select(1)
    session.arm("barn")
    session.pointer.to(Point(2.5, 1.5))
    heard = told(session, desk)
    session.open(Document(draw("...\n...")))
    assert session.hand.empty
    assert session.pointer.hover is None
    assert session.selection.numbers == ()
    assert heard[0] == "replaced"
    assert session.plan.spec.cols == 3


def test_a_stroke_ends_when_another_stage_or_kind_is_taken_up(make: Make) -> None:
    desk = make(ROWS)
    session, history = desk.session, desk.session.document.history
    session.set_stage(Stage.WAYS)
    session.choices.set_way_tool(WayTool.ERASE)
    for leave in (
        lambda: session.set_stage(Stage.BUILD),
        lambda: session.arm("hut"),
        lambda: session.choices.set_way_tool(WayTool.ROAD),
    ):
        session.disarm()
        session.set_stage(Stage.WAYS)
        session.choices.set_way_tool(WayTool.ERASE)
        session.pointer.to(Point(2.5, 1.5))
        hover = session.pointer.hover
        assert hover is not None
        desk.tools.current.press(hover, False)
        assert history.in_gesture
        leave()
        assert not history.in_gesture
        assert history.position == 0


def test_heights_are_looked_at_once_a_stroke(make: Make) -> None:
    desk = make(ROWS)
    session, history = desk.session, desk.session.document.history
    session.choices.set_view(overlay=GroundOverlay.HEIGHT)
    assert session.choices.ground.view.overlay is GroundOverlay.NONE  # there are none yet
    flat = np.zeros(session.plan.spec.shape, np.float32)
    session.attempt(heights.set_heights, session.plan, flat, "Flat")
    session.choices.set_view(overlay=GroundOverlay.HEIGHT)
    heard = told(session, desk)
    history.begin("Raise")
    box, mask = Box(0, 0, 1, 1), np.ones((1, 1), bool)
    for _ in range(3):
        history.do(heights.sculpt(session.plan, heights.Sculpt.RAISE, box, mask, 5.0))
    assert "chosen" not in heard
    history.commit()
    assert heard.count("chosen") == 1
    assert session.choices.ground.view.highest == 15.0
    assert heard[-1] == "settled"


def test_the_actor_follows_the_plan_and_looks_as_it_did(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    session.set_actor(Actor(Point(1.0, 1.0), facing=90.0, distance=2.0))
    session.set_actor(replace(session.choices.survey.actor, at=Point(3.0, 1.0)))  # type: ignore[type-var]
    session.document.history.undo()
    actor = session.choices.survey.actor
    assert actor is None or (actor.at, actor.facing) == (session.plan.actor, 90.0)
    session.document.history.redo()
    assert session.choices.survey.actor is not None
    assert session.choices.survey.actor.at == session.plan.actor == Point(3.0, 1.0)
    desk.building.demolish()
    assert session.plan.actor is not None  # its tool is not in hand
    session.choices.set_survey(tool=SurveyTool.ACTOR)
    assert desk.building.can_demolish
    desk.building.demolish()
    assert session.plan.actor is None


def test_another_rule_snaps_the_pointer_where_it_stands(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    session.pointer.to(Point(2.7, 1.2))
    before = session.pointer.hover
    heard = told(session, desk)
    session.choices.set_snap(SnapSettings(Rule.INTERSECTION))
    assert session.pointer.hover is not None
    assert before is not None
    assert session.pointer.hover.snapped.at == Point(3.0, 1.0) != before.snapped.at
    assert heard == ["moved", "chosen"]
    session.choices.set_snap(SnapSettings(Rule.INTERSECTION))
    assert heard == ["moved", "chosen", "chosen"]


def test_the_where_map_is_that_of_the_kind_in_hand(make: Make) -> None:
    desk = make("....\n.b..\n....")
    session = desk.session
    assert desk.where.map is None
    session.choices.set_build(where=WhereShown.TURN)
    session.arm("barn")
    for edit in (
        lambda: session.attempt(place, session.plan, "hut", Cell(3, 0), 0, ""),
        lambda: session.document.history.do(paint(session.plan, [Cell(1, 1)], 0)),
        lambda: desk.building.turn(1),
        session.document.history.undo,
        lambda: session.attempt(
            kind_edits.change_kind,
            session.plan,
            "barn",
            replace(session.plan.kinds["barn"], price=99),
        ),
    ):
        edit()
        found = desk.where.map
        assert found is not None
        fresh = Feasibility(session.plan, session.plan.kinds["barn"], session.hand.turn, 0)
        assert found.kind is session.plan.kinds["barn"]
        box = session.plan.spec.box
        np.testing.assert_array_equal(found.shades(box, False), fresh.shades(box, False))
    session.disarm()
    assert desk.where.map is None


def test_what_would_seal_is_no_matter_once_nobody_enters(make: Make) -> None:
    desk = make("......")
    session, plan = desk.session, desk.session.plan
    session.choices.set_build(where=WhereShown.TURN)
    session.arm("hut")
    for cells, is_goal in (([Cell(0, 0)], False), ([Cell(5, 0)], True)):
        session.attempt(mark_place, plan, cells, is_goal)
    assert desk.where.map is not None
    assert desk.where.map.alone()[Reason.SEALS] > 2
    for edit in (
        lambda: session.attempt(clear_places, plan, [Cell(0, 0)]),
        session.document.history.undo,
    ):
        edit()
        found = desk.where.map
        assert found is not None
        np.testing.assert_array_equal(found.why, Feasibility(plan, found.kind, 0).why)


def test_a_block_whose_kinds_are_gone_cannot_stay_in_hand_and_that_is_said(make: Make) -> None:
    desk = make(ROWS)
    session = desk.session
    session.attempt(kind_edits.copy_kind, session.plan, "hut")
    key = session.plan.kinds.keys()[-1]
    put(session.plan, key, 0, 0)
    session.selection.select(1)
    assert desk.building.copy()
    desk.building.paste()
    session.pointer.to(Point(4.5, 2.5))
    assert session.hand.block_ghost is not None
    said: list[str] = []
    session.said.connect(lambda text, _level: said.append(text))
    assert session.attempt(demolish, session.plan, [1])
    assert session.hand.block is not None
    assert session.attempt(kind_edits.remove_kind, session.plan, key), said
    assert session.hand.block is None
    assert session.hand.block_ghost is None
    assert any(key in text for text in said)
