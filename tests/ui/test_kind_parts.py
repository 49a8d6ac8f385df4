"""Parts of Build by themselves: the pad, the rules' form, the register's model, the funds' tab."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tests.helpers.builders import WHEN, draw
from tests.ui.conftest import LEFT, SHIFT, Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import (
    Catalogue,
    Clear,
    Demands,
    Door,
    Footprint,
    Kind,
    Lattice,
    Stand,
    Thing,
    Touch,
)
from woven_locus.core.numbers import parse_cell
from woven_locus.core.register_table import TITLES
from woven_locus.core.value import replace
from woven_locus.ui.bench.build.footprint_pad import FootprintPad
from woven_locus.ui.bench.build.kind_sheet import KindSheet
from woven_locus.ui.bench.build.rules_form import RulesForm
from woven_locus.ui.parts.dyes import DyeButton, fresh_dye
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme

ALL = Demands(
    ("stream", "gone-class"),
    12.5,
    Stand(("scree",), 2),
    (Touch(Thing.KIND, "barn", 3, (0, 2)), Touch(Thing.BARRIER)),
    (Clear(Thing.KIND, "", 4), Clear(Thing.TERRAIN, "bog", 1), Clear(Thing.KIND, "gone", 2)),
    Lattice(3, 2, -1, 5),
    77.25,
    1,
    9,
    True,
)


@pytest.mark.parametrize(
    "demands", [Demands(), ALL, replace(ALL, touch=(), terrain=None), Demands(access=True)]
)
def test_the_form_says_what_it_was_given(vale: Driver, demands: Demands) -> None:
    form = RulesForm(vale.plan, demands)
    assert form.demands == demands
    form.deleteLater()


def test_a_pad_of_any_size_is_drawn_by_mouse(vale: Driver, theme: Theme) -> None:
    whole = Footprint.block(64, 64, [Door(63, 0, 1)])
    pad = FootprintPad(theme, whole, "#123456")
    pad.resize(640, 640)
    pad.show()
    assert (pad.board, pad.footprint) == (64, whole)
    QTest.mousePress(pad, LEFT, pos=pad.place_of((0, 0)).toPoint())
    QTest.mouseMove(pad, pad.place_of((5, 0)).toPoint())
    QTest.mouseRelease(pad, LEFT, pos=pad.place_of((5, 0)).toPoint())
    assert (0, 0) not in pad.cells
    QTest.mouseClick(pad, LEFT, pos=QPoint(639, 639))
    pad.clear()
    assert (pad.board, pad.cells, pad.doors) == (8, set(), set())
    pad.set_cell((70, 3), True)
    assert not pad.cells
    pad.setFocus()
    for key in (Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_Space):
        QTest.keyClick(pad, key)
    QTest.keyClick(pad, Qt.Key.Key_Left, SHIFT)  # there is a cell: no door between the two
    assert not pad.doors
    QTest.keyClick(pad, Qt.Key.Key_Down, SHIFT)
    assert len(pad.doors) == 1
    QTest.keyClick(pad, Qt.Key.Key_Space)  # the wall goes, and the door with it
    assert not pad.doors
    pad.close()
    pad.deleteLater()


def test_the_art_is_compared_with_its_cells(vale: Driver) -> None:
    vale.key("F4")
    vale.push(vale.window.bench.build.buttons["loom-hall"])
    vale.push(vale.window.bench.build.change)
    sheet = vale.sheet_of(KindSheet)
    vale.tick(sheet.has_art)
    assert "24 wide is 48 less than its 72 of cells" in sheet.art_says.text()
    vale.type(sheet.art[0], "72")
    vale.type(sheet.art[1], "48")
    assert sheet.art_says.text() == "The art covers its cells exactly."
    sheet.choose_dye = lambda _now: "#00AA11"
    vale.push(sheet.dye)
    vale.qtbot.waitUntil(lambda: sheet.impact is not None)
    vale.push(sheet.make)
    vale.back()
    kind = vale.plan.kinds["loom-hall"]
    assert (kind.art, kind.dye) == ((72.0, 48.0), "#00AA11")
    assert len(vale.plan.register) == 15


def test_prices_that_no_box_can_hold_stay_as_they_are(make_window: Callable[..., Driver]) -> None:
    plan = draw("....")
    dear = Kind("dear", "Dear", "D", "#112233", 10**11, Footprint.block(1, 1), pays=10**10, every=5)
    plan.kinds = Catalogue([dear])
    user = make_window(plan)
    user.key("F4")
    user.push(user.window.bench.build.buttons["dear"])
    user.push(user.window.bench.build.change)
    sheet = user.sheet_of(KindSheet)
    assert sheet.made() == dear
    user.type(sheet.price, "7")
    assert sheet.made().price == 7
    sheet.reject()


def _told(user: Driver, number: int, column: int) -> object:
    """What a column is about, out of the plan and not out of the table."""
    plan = user.plan
    row = plan.register[number]
    cells = plan.cells_of(row)
    low_x, high_x = min(c.col for c in cells), max(c.col for c in cells) + 1
    low_y, high_y = min(c.row for c in cells), max(c.row for c in cells) + 1
    return (
        number,
        plan.kinds[row.kind].name,
        (row.cell.row, row.cell.col),
        row.turn,
        len(cells),
        ((low_y + high_y) / 2, (low_x + high_x) / 2),
        row.price,
        row.placed,
        number not in user.session.document.links().cut_off,
    )[column]


@pytest.mark.parametrize("column", range(len(TITLES)))
def test_the_register_sorts_by_every_column(vale: Driver, column: int) -> None:
    model = vale.window.tray.register.model_
    header = vale.window.tray.register.horizontalHeader()
    assert header is not None
    vale.key("F4")
    values = []
    for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
        vale.window.tray.register.sortByColumn(column, order)
        shown = [model.number_at(k) for k in range(model.rowCount())]
        assert sorted(shown) == vale.plan.register.numbers()
        values.append([_told(vale, number, column) for number in shown])
    assert values[0] == sorted(values[0])
    assert values[1] == sorted(values[1], reverse=True)
    assert len(set(values[0])) > 1
    number = vale.plan.register.next_number
    vale.session.document.history.do(edits.place(vale.plan, "wool-store", Cell(30, 8), 0, WHEN))
    assert model.row_of(number) >= 0
    vale.key("Ctrl+Z")
    with pytest.raises(ValueError, match=f"S{number} is not shown"):
        model.row_of(number)


@pytest.mark.parametrize(
    ("text", "cell"),
    [("3, 4", Cell(3, 4)), ("−3,4", Cell(-3, 4)), (" 7 , -1 ", Cell(7, -1))],
)
def test_a_cell_is_read_as_it_is_written(text: str, cell: Cell) -> None:
    assert parse_cell(text) == cell


@pytest.mark.parametrize("text", ["", "3", "a, b", "1, 2, 3", "99999999999, 1", "1.5, 2"])
def test_what_is_no_cell_is_none(text: str) -> None:
    assert parse_cell(text) is None


def test_the_state_filter_follows_the_edits(vale: Driver) -> None:
    vale.key("F4")
    tab = vale.window.tray.register_tab
    vale.choose(tab.state, "On bad ground")
    assert tab.table.model_.rowCount() == 0
    vale.key("F3")
    vale.push(vale.window.bench.ground.buttons[2])
    vale.click((9, 17))
    assert [tab.table.model_.number_at(0)] == [1]
    vale.choose(tab.state, "Selected")
    vale.session.selection.select_all([2, 3])
    tab.table.model_.renew()
    assert tab.table.model_.shown == [2, 3]


def test_nothing_in_hand_is_said_not_crashed(vale: Driver) -> None:
    vale.key("F4")
    building = vale.desk.building
    for act, words in (
        (building.go_near, "Take a kind in hand"),
        (building.replace_under, "Take a kind in hand"),
        (building.paste, "Nothing was copied yet"),
        (lambda: building.nudge(1, 0), "Select a structure first"),
        (vale.desk.building.mirror, "Nothing to mirror"),
        (vale.desk.building.demolish, "Select a structure first"),
        (vale.window.bench.build.change_kind, "Take a kind in hand"),
    ):
        act()
        assert words in vale.said
    assert building.copy() is False
    assert "nothing to copy" in vale.said


def test_there_may_be_no_spot_at_all(make_window: Callable[..., Driver]) -> None:
    user = make_window("ssss\nssss")
    user.push(user.window.thread_.buttons[Stage.BUILD])
    user.push(user.window.bench.build.buttons["hut"])
    user.point((1, 1))
    assert user.window.reading.advice.text() == "No spot close by; N looks over the whole plan"
    user.key("N")
    assert user.said == "There is no spot on this plan where Hut may stand"


def test_a_structure_is_mirrored_where_it_stands(vale: Driver) -> None:
    vale.key("F4")
    vale.click((23, 24))
    assert vale.session.selection.front == 6
    vale.key("V")
    assert vale.said == ""
    assert vale.plan.register[6].turn == 4
    assert vale.session.document.history.entries[-1].startswith("Turned Carriers’ inn S6 to")


def test_a_dye_is_drawn_beside_its_number_and_new_ones_are_told_apart(qtbot: QtBot) -> None:
    button = DyeButton("#3C6E47")
    qtbot.addWidget(button)
    button.resize(90, 30)
    button.show()
    qtbot.waitExposed(button)
    seen = button.grab().toImage()
    across = [seen.pixelColor(x, 15).name() for x in range(seen.width())]
    # The line around it, the dye, and the line again, before the number begins.
    first, last = across.index("#808080"), len(across) - 1 - across[::-1].index("#808080")
    assert set(across[first + 1 : last]) == {"#3c6e47"}
    assert 3 <= first < last < seen.width() // 2
    assert button.text() == "#3C6E47"
    assert fresh_dye([]) == fresh_dye(["#a5383f"]) == "#2F4B7C"
    taken: list[str] = []
    for _ in range(7):
        taken.append(fresh_dye(taken, "#A5383F"))
    assert len(set(taken)) == 7
    assert taken[0] == fresh_dye(taken, "#A5383F") == "#A5383F"
