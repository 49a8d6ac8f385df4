"""Kinds are drawn, changed, doubled, and exchanged with files."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from tests.ui.conftest import LEFT, SHIFT, Driver
from tests.ui.test_building import arm, in_build, town
from woven_locus.core.kinds import Door
from woven_locus.files import catalogue
from woven_locus.ui.bench.build.in_sheets import KindsInSheet
from woven_locus.ui.bench.build.kind_sheet import KindSheet


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_build(make_window)


def test_a_kind_is_drawn_with_doors_and_rules_and_put_on_the_shelf(user: Driver) -> None:
    user.push(user.window.bench.build.new)
    sheet = user.sheet_of(KindSheet)
    pad = sheet.pad
    assert not sheet.make.isEnabled()
    user.type(sheet.name, "Wash house")
    pad.setFocus()
    QTest.mouseClick(pad, LEFT, pos=pad.place_of((2, 1)).toPoint())
    QTest.mouseClick(pad, LEFT, pos=pad.place_of((2, 2)).toPoint())
    assert pad.footprint.to_rows() == ["##", ".#"]
    user.tick(sheet.draw_doors)
    at = pad.place_of((2, 2))
    QTest.mouseClick(pad, LEFT, pos=QPoint(int(at.x()), int(at.y() + 16)))
    assert pad.footprint.doors == (Door(1, 1, 2),)
    # By keys alone: a cell, and a door on its right.
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Space):
        QTest.keyClick(pad, key)
    QTest.keyClick(pad, Qt.Key.Key_Right, SHIFT)
    assert pad.footprint.to_rows() == ["##", ".#", ".#"]
    assert pad.footprint.doors == (Door(1, 2, 1),)
    user.type(sheet.price, "35")
    user.tick(sheet.turns[3])
    user.tick(sheet.mirror)
    sheet.tabs.setCurrentIndex(1)
    user.push(sheet.rules.touch.add)
    line = sheet.rules.touch.lines[0]
    user.choose(line.what, "Stream (terrain)")
    user.type(sheet.rules.most, "2")
    user.tick(sheet.rules.access)
    user.push(sheet.make)
    user.back()
    kind = user.plan.kinds["wash-house"]
    assert (kind.code, kind.price, kind.turns, kind.mirror) == ("WA", 35, (0, 1, 2), True)
    assert kind.demands.most == 2
    assert kind.demands.access
    assert [str(touch.thing) for touch in kind.demands.touch] == ["terrain"]
    assert user.session.hand.kind == "wash-house"
    assert "wash-house" in user.window.bench.build.buttons
    user.point((12, 1))
    words = user.window.reading.verdict.words()
    assert "no: Touches Stream: needs 1 cell side on Stream, has 0" in words
    user.key("Ctrl+Z")
    assert "wash-house" not in user.plan.kinds
    assert user.session.hand.kind is None


def test_a_changed_kind_says_first_what_it_does_to_what_stands(user: Driver) -> None:
    town(user)
    arm(user, "hut")
    user.push(user.window.bench.build.change)
    sheet = user.sheet_of(KindSheet)
    user.qtbot.waitUntil(lambda: sheet.impact is not None)
    assert sheet.says.text() == "All 3 that stand may stay as they are."
    QTest.mouseClick(sheet.pad, LEFT, pos=sheet.pad.place_of((2, 1)).toPoint())
    QTest.mouseClick(sheet.pad, LEFT, pos=sheet.pad.place_of((3, 1)).toPoint())
    user.qtbot.waitUntil(lambda: sheet.impact is not None)
    assert "1 finds no room and is demolished with the change" in sheet.says.text()
    assert "S2: it would overlap S1 Hut" in sheet.says.text()
    assert sheet.make.text() == "Change it, and demolish 1"
    assert user.plan.register.numbers() == [1, 2, 3, 4]
    user.push(sheet.make)
    user.back()
    assert user.plan.register.numbers() == [1, 3, 4]
    assert user.plan.occupant[5, 1:4].tolist() == [1, 1, 1]
    user.key("Ctrl+Z")
    assert user.plan.register.numbers() == [1, 2, 3, 4]


def test_an_empty_footprint_is_refused_with_a_word(user: Driver) -> None:
    user.push(user.window.bench.build.new)
    sheet = user.sheet_of(KindSheet)
    user.type(sheet.name, "Nothing")
    user.push(sheet.wipe)
    assert sheet.problem.text() == "draw at least one cell of the footprint"
    assert not sheet.make.isEnabled()
    sheet.name.setText("ن" * 300)
    assert len(sheet.name.text()) == 120
    QTest.mouseClick(sheet.pad, LEFT, pos=sheet.pad.place_of((0, 0)).toPoint())
    for box in sheet.turns:
        user.tick(box)
    assert "turns allowed" in sheet.problem.text()
    sheet.reject()


def test_kinds_double_go_and_come_from_a_file(user: Driver, tmp_path: Path) -> None:
    page = user.window.bench.build
    arm(user, "hut")
    user.push(page.double)
    assert user.session.hand.kind == "hut-2"
    user.push(page.remove)
    assert "hut-2" not in user.plan.kinds
    town(user)
    arm(user, "hut")
    user.push(page.remove)
    assert user.said.startswith("Hut cannot be removed: 3 of it are placed")
    user.key("Esc")
    other = tmp_path / "k.csv"
    text = catalogue.to_csv(user.plan.kinds).replace("hut,Hut,H,#2F4B7C,10", "hut,Hut,H,#2F4B7C,12")
    other.write_text(text + "shed,Shed,SH,#112233,5,0,0,##,,0,no,,,\n")
    exchange = user.window.exchange
    exchange.choose_in = lambda _title, _kinds: str(other)
    exchange.kinds_in()
    user.qtbot.waitUntil(lambda: user.window.findChild(KindsInSheet) is not None)
    sheet = user.sheet_of(KindsInSheet)
    user.qtbot.waitUntil(lambda: sheet.says.text() == "Nothing that stands is touched.")
    assert [kind.key for kind in sheet.chosen] == ["hut", "shed"]
    user.push(sheet.make)
    user.back()
    assert user.plan.kinds["hut"].price == 12
    assert user.plan.kinds.keys() == ("hut", "barn", "ell", "shed")
    other.write_text("key,name,footprint\nx,X,\n")
    exchange.kinds_in()
    user.qtbot.waitUntil(lambda: "line 2" in user.said)
    assert "at least one cell. The plan is as it was." in user.said
