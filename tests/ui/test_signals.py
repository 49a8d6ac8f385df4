"""What a user does is told once to whom it concerns, and the judge is asked once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import pytest
from PyQt6.QtTest import QTest

from tests.ui.conftest import LEFT, NO_KEY, Driver
from woven_locus.core import placing
from woven_locus.core.editing import Notice
from woven_locus.core.edits import structures as structure_edits
from woven_locus.core.geometry import Cell
from woven_locus.core.strokes import base as strokes
from woven_locus.ui.session import hand


@dataclass
class Counted:
    """What happened while something was done, by name."""

    judged: int = 0
    told: dict[str, int] = field(default_factory=dict)


@pytest.fixture
def counting(vale: Driver, monkeypatch: pytest.MonkeyPatch) -> Counted:
    session, found, judge_itself = vale.session, Counted(), placing.judge

    def judge(*args: object, **options: object) -> object:
        found.judged += 1
        return judge_itself(*args, **options)  # type: ignore[arg-type]

    for module in (hand, strokes, structure_edits):
        monkeypatch.setattr(module, "judge", judge)
    for name, signal in (
        ("changed", session.changed),
        ("settled", session.settled),
        ("moved", session.pointer.moved),
        ("judged", session.hand.judged),
        ("in hand", session.hand.changed),
        ("stroked", vale.desk.tools.stroked),
        ("chosen", session.choices.changed),
        ("selected", session.selection.changed),
    ):
        signal.connect(
            lambda *_args, name=name: found.told.update({name: found.told.get(name, 0) + 1})
        )
    return found


def test_one_click_asks_once_and_tells_once(vale: Driver, counting: Counted) -> None:
    vale.key("F4")
    vale.session.arm("spring-house")
    kind = vale.plan.kinds["spring-house"]
    spot = placing.nearest_spot(vale.plan, kind, 0, Cell(20, 20), 0)
    assert spot is not None
    vale.point(spot)
    counting.judged, counting.told = 0, {}
    before = len(vale.plan.register)
    QTest.mouseClick(vale.sheet, LEFT, NO_KEY, vale.at(spot))
    vale.settle()
    assert len(vale.plan.register) == before + 1
    # The ghost's own verdict lets it be placed; afterwards it is judged anew, on what now stands there.
    assert counting.judged == 1
    assert counting.told == {"changed": 1, "settled": 1, "judged": 1, "stroked": 1}


def test_many_that_are_placed_by_one_move_are_told_once(
    make_window: Callable[..., Driver],
) -> None:
    user = make_window("\n".join(["." * 30] * 4))
    user.key("F4")
    user.session.arm("hut")
    told: list[Notice] = []
    user.press((2, 1))
    user.session.changed.connect(told.append)
    user.to((20, 1))
    assert len(user.plan.register) > 5
    assert len(told) == 1
    assert {1, *told[0].structures} == set(user.plan.register.numbers())
    # The table heard of all of them, and so does whoever takes them back.
    assert user.window.tray.register.model_.rowCount() == len(user.plan.register)
    user.release((20, 1))
    user.key("Ctrl+Z")
    assert len(user.plan.register) == 0
    assert user.window.tray.register.model_.rowCount() == 0


def test_a_pointer_that_stands_still_tells_nobody(vale: Driver, counting: Counted) -> None:
    vale.point((20, 20))
    counting.told = {}
    for _ in range(3):
        vale.point((20, 20))
    assert counting.told == {}


def test_a_refused_click_asks_no_more_and_says_why(vale: Driver, counting: Counted) -> None:
    vale.key("F4")
    vale.session.arm("loom-hall")
    taken = vale.plan.register[1].cell
    vale.point(taken)
    counting.judged, counting.told = 0, {}
    said: list[str] = []
    vale.session.said.connect(lambda text, _level: said.append(text))
    QTest.mouseClick(vale.sheet, LEFT, NO_KEY, vale.at(taken))
    vale.settle()
    assert counting.judged == 0
    assert "cannot stand at" in said[0]
    assert counting.told == {"stroked": 1}
