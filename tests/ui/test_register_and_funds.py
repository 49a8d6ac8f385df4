"""The register, funds, barriers and the actor, in the real window."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QObject, QPoint
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QStyledItemDelegate

from tests.ui.conftest import LEFT, NO_KEY, Driver
from tests.ui.test_building import FIELD, arm, town
from woven_locus.core.editing import Edit
from woven_locus.core.edits import erase_road, kinds, lay_road
from woven_locus.core.geometry import Cell
from woven_locus.core.register_table import Column
from woven_locus.core.value import replace
from woven_locus.files import plan_json
from woven_locus.ui.bench.build.in_sheets import RegisterInSheet
from woven_locus.ui.bench.build.kind_sheet import KindSheet
from woven_locus.ui.parts.panes import Panes
from woven_locus.ui.session.stages import Stage, WayTool
from woven_locus.ui.tray.register_model import RegisterModel


class Painted(QObject):
    """Counts how often a widget is drawn."""

    times = 0

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        assert event is not None
        self.times += event.type() == QEvent.Type.Paint
        return False


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    user = make_window(FIELD)
    user.push(user.window.thread_.buttons[Stage.BUILD])
    return user


# --- the register ---------------------------------------------------------------------------------


def test_the_register_is_filtered_grouped_and_selected(user: Driver) -> None:
    town(user)
    tab = user.window.tray.register_tab
    model = tab.table.model_
    user.type(tab.text, "hut")
    user.qtbot.waitUntil(lambda: model.rowCount() == 3)
    assert tab.says.text() == "3 of 4"
    user.push(tab.choose)
    assert set(user.session.selection.numbers) == {1, 2, 3}
    tab.text.clear()
    user.qtbot.waitUntil(lambda: model.rowCount() == 4)
    user.choose(tab.kind, "Barn")
    assert [model.number_at(k) for k in range(model.rowCount())] == [4]
    user.choose(tab.kind, "All kinds")
    user.choose(tab.state, "Cut off")
    assert model.rowCount() == 4 - len(user.session.document.links().groups)
    user.choose(tab.state, "All")
    user.tick(tab.group)
    assert [model.number_at(k) for k in range(model.rowCount())] == [0, 1, 2, 3, 0, 4]
    assert [model.index(0, c).data() for c in (1, 2)] == ["Hut", "3"]
    row = tab.table.visualRect(model.index(0, 1)).center()
    QTest.mouseClick(tab.table.viewport(), LEFT, pos=row)
    assert [model.number_at(k) for k in range(model.rowCount())] == [0, 0, 4]


def test_a_row_is_drawn_as_the_style_draws_it(user: Driver) -> None:
    """In both themes, chosen or not, cut short or not: as much ink in each cell, and the same behind it."""
    town(user)
    table = user.window.tray.register
    user.window.tray.setCurrentWidget(user.window.tray.register_tab)
    plain = QStyledItemDelegate(table)

    def cells() -> NDArray[np.float64]:
        """Lightness of each cell of the first rows: its mean, and what most of it has."""
        user.settle()
        picture = table.viewport().grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)  # type: ignore[union-attr]
        bits = picture.constBits()
        assert bits is not None
        bits.setsize(picture.sizeInBytes())
        grey = np.frombuffer(bits, np.uint8).reshape(picture.height(), -1)  # type: ignore[call-overload]
        found = []
        for row in range(2):
            for column in range(table.model_.columnCount()):
                box = table.visualRect(table.model_.index(row, column))
                block = grey[box.top() : box.bottom() + 1, box.left() : box.right() + 1]
                found.append((block.mean(), np.median(block)))
        return np.array(found)

    own = [table.itemDelegateForColumn(column) for column in range(table.model_.columnCount())]
    for name in ("light", "dark"):
        user.window.theme.choose(name)
        for width in (104, 40):
            table.setColumnWidth(Column.CENTRE, width)
            user.session.selection.select_all([1])
            ours = cells()
            for column in range(len(own)):
                table.setItemDelegateForColumn(column, plain)
            assert np.abs(ours - cells()).max() < 3, (name, width)
            for column, delegate in enumerate(own):
                table.setItemDelegateForColumn(column, delegate)


def test_the_register_is_drawn_anew_only_for_what_changes_in_it(user: Driver) -> None:
    town(user)
    tray = user.window.tray
    tray.setCurrentWidget(tray.register_tab)
    viewport, tab = tray.register.viewport(), tray.register_tab
    assert viewport is not None
    watch = Painted()
    viewport.installEventFilter(watch)
    street = [Cell(col, 6) for col in range(10)]

    def times(change: Callable[[], object]) -> int:
        user.idle()
        watch.times = 0
        change()
        user.settle()
        return watch.times

    def attempt(edit: Callable[..., Edit], cells: list[Cell]) -> None:
        assert user.session.attempt(edit, user.plan, cells)

    def joined() -> list[str]:
        model = tray.register.model_
        return [model.index(row, Column.ROAD).data() for row in range(model.rowCount())]

    attempt(lay_road, street)
    assert times(lambda: attempt(lay_road, [Cell(0, 0)])) == 0
    assert tray.tabText(1) == "History 6"
    assert set(joined()) == {"joined", "cut off"}
    assert times(lambda: attempt(erase_road, street)) == 1
    assert set(joined()) == {"cut off"}
    # What changed while other rows were shown, or none, is no news of now.
    history = user.session.document.history
    user.type(tab.text, "hut")
    user.qtbot.waitUntil(lambda: tray.register.model_.rowCount() == 3)
    history.undo()
    tab.text.clear()
    user.qtbot.waitUntil(lambda: tray.register.model_.rowCount() == 4)
    assert times(history.redo) == 1
    tray.setCurrentWidget(tray.history)
    history.undo()
    tray.setCurrentWidget(tray.register_tab)
    assert times(history.redo) == 1


def test_the_head_of_the_register_asks_no_row_whether_it_is_chosen(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Qt would ask every chosen row, for every column, each time that the head is drawn."""
    town(user)
    tray = user.window.tray
    tray.setCurrentWidget(tray.register_tab)
    user.key("Ctrl+A")
    user.settle()
    chosen = tray.register.selectionModel()
    assert chosen is not None
    assert len(chosen.selectedRows()) == len(user.session.selection.numbers) == 4
    asked = []
    flags = RegisterModel.flags
    monkeypatch.setattr(
        RegisterModel, "flags", lambda model, index: asked.append(index) or flags(model, index)
    )
    head = tray.register.horizontalHeader()
    assert head is not None
    head.grab()
    assert asked == []


def test_what_may_be_edited_is_edited_in_place(user: Driver) -> None:
    town(user)
    model = user.window.tray.register.model_
    assert model.setData(model.index(0, 2), "1, 6")
    assert user.plan.register[1].cell == Cell(1, 6)
    assert not model.setData(model.index(0, 2), "1, 7")
    assert "a road runs there" in user.said
    assert not model.setData(model.index(0, 2), "there")
    assert "not 'there'" in user.said
    assert model.setData(model.index(3, 3), 3)
    assert user.plan.register[4].turn == 3
    assert model.setData(model.index(1, 1), "ell") is False
    assert model.setData(model.index(0, 1), "hut") is False
    table = user.window.tray.register
    table.edit(model.index(0, 2))
    field = table.viewport().findChild(type(user.window.tray.register_tab.text))
    assert field is not None
    user.type(field, "0, 0")
    user.qtbot.waitUntil(lambda: user.plan.register[1].cell == Cell(0, 0))


def test_the_register_goes_out_and_comes_in_judged(user: Driver, tmp_path: Path) -> None:
    town(user)
    path = tmp_path / "r.csv"
    exchange = user.window.exchange
    exchange.choose_out = lambda _title, _start: str(path)
    user.push(user.window.tray.register_tab.outgoing)
    user.qtbot.waitUntil(lambda: path.exists() and user.said.startswith("Wrote"))
    path.write_text(
        path.read_text() + "S9,hut,8,8,0,no,1,0,0,0,,0,no\nS9,hut,x,8,0,no,1,0,0,0,,0,no\n"
    )
    exchange.choose_in = lambda _title, _kinds: str(path)
    user.push(user.window.tray.register_tab.incoming)
    user.qtbot.waitUntil(lambda: user.window.findChild(RegisterInSheet) is not None)
    sheet = user.sheet_of(RegisterInSheet)
    assert sheet.says.text().startswith("1 of 6 lines can be placed")
    assert sheet.list.item(0).text().startswith("line 7: col is a whole number")  # type: ignore[union-attr]
    assert "line 2: Hut cannot stand at 1, 5: occupied by S1 Hut" in [
        sheet.list.item(k).text()
        for k in range(sheet.list.count())  # type: ignore[union-attr]
    ]
    user.push(sheet.make)
    user.back()
    assert user.plan.register[5].cell == Cell(8, 8)


# --- funds ----------------------------------------------------------------------------------------


def test_funds_are_kept_the_clock_runs_and_purchases_are_foretold(vale: Driver) -> None:
    tab = vale.window.tray.funds
    vale.window.tray.setCurrentWidget(tab)
    vale.settle()
    balance = vale.plan.account.balance
    assert f"there is  {balance:,}" in tab.says.text()
    vale.choose(tab.step_size, "1 minute")
    vale.push(tab.step)
    assert vale.plan.account.balance > balance
    assert "clock     0:01:00" in tab.says.text()
    vale.choose(tab.purchases.kinds, "Market cross")
    for _ in range(6):
        vale.push(tab.purchases.add)
    lines = [tab.purchases.list.item(k).text() for k in range(tab.purchases.list.count())]  # type: ignore[union-attr]
    assert lines[0].startswith("Market cross: now, ")
    assert lines[-1].startswith("Market cross: at ")
    assert "never pays back" in tab.purchases.pays_back.text()
    vale.choose(tab.speed, "× 600")
    vale.push(tab.run)
    vale.qtbot.waitUntil(lambda: vale.plan.funds.clock > 300)  # type: ignore[union-attr]
    vale.push(tab.run)
    assert not tab.clock.running
    assert len(vale.session.document.history.entries) == 1
    clock = vale.plan.funds.clock  # type: ignore[union-attr]
    assert [money for at, money in tab.points() if at <= clock][-1] == vale.plan.account.balance
    vale.key("Ctrl+Z")
    assert vale.plan.account.balance == balance
    tab.keep.setFocus()
    vale.tick(tab.keep)
    assert vale.plan.funds is None
    assert not tab.run.isEnabled()
    vale.qtbot.waitUntil(lambda: tab.chart.plot is not None)


def test_what_cannot_be_paid_is_refused_with_the_sum_missing(user: Driver) -> None:
    tab = user.window.tray.funds
    user.window.tray.setCurrentWidget(tab)
    user.settle()
    user.type(tab.opening, "30")
    user.tick(tab.keep)
    assert user.plan.funds is not None
    assert user.plan.funds.opening == 30
    arm(user, "barn")
    user.click((2, 5))
    assert user.plan.account.balance == 5
    user.click((10, 5))
    assert "costs 25 coins, 20 more than there is" in user.said
    user.key("Esc")
    user.click((2, 5))
    user.key("Del")
    assert user.plan.account.balance == 17  # half of 25, rounded down
    assert "there is  17" in tab.says.text()


# --- barriers and the actor -----------------------------------------------------------------------


def test_a_barrier_is_drawn_blocks_and_is_erased(user: Driver) -> None:
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.BARRIER])
    plain = user.colour_at((5, 5))
    user.drag((2, 5), (8, 5))
    assert user.plan.barrier[5, 2:9].tolist() == [1] * 7
    assert user.colour_at((5, 5)) != plain
    assert user.session.document.history.entries == ["Raised a barrier of 7 cells"]
    user.key("F4")
    arm(user, "hut")
    user.click((4, 5))
    assert "a barrier runs there" in user.said
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.drag((2, 5), (8, 5))
    assert not user.plan.barrier.any()
    again = plan_json.parse(plan_json.dump(user.plan))
    assert not again.barrier.any()


def test_the_actor_belongs_to_the_plan_and_bounds_a_reach(user: Driver) -> None:
    user.key("F2")
    user.push(user.window.bench.survey.probe.tool)
    user.click((3, 5))
    assert user.plan.actor is not None
    assert user.plan.spec.locate(*user.plan.actor) == Cell(3, 5)
    user.key("Right")
    user.key("Right")
    assert user.session.document.history.entries[-1].startswith("Put the actor at")
    assert len(user.session.document.history.entries) <= 2
    assert user.plan.spec.locate(*user.plan.actor) == Cell(5, 5)
    # A kind that must be within its reach is judged from there, in Build.
    barn = user.plan.kinds["barn"]
    near = replace(barn, demands=replace(barn.demands, reach=3 * user.plan.spec.cell_w))
    user.session.attempt(kinds.change_kind, user.plan, "barn", near)
    user.key("F4")
    arm(user, "barn")
    user.point((11, 5))
    assert user.session.hand.ghost is not None
    assert "reach" in [str(reason) for reason in user.session.hand.ghost.verdict.reasons]
    user.click((11, 5))
    assert len(user.plan.register) == 0
    user.point((6, 5))
    assert "reach" not in [str(reason) for reason in user.session.hand.ghost.verdict.reasons]
    user.key("Esc")
    for _ in range(3):
        user.key("Ctrl+Z")
    assert user.plan.actor is None
    assert user.session.choices.survey.actor is None


def test_every_control_of_build_has_a_name(user: Driver) -> None:
    user.push(user.window.bench.build.new)
    sheet = user.sheet_of(KindSheet)
    for box in sheet.findChildren(QCheckBox):
        assert box.accessibleName() or box.text()
    sheet.reject()


def test_funds_show_all_their_buttons_until_somebody_moves_a_border(vale: Driver) -> None:
    tab = vale.window.tray.funds
    vale.window.tray.setCurrentWidget(tab)
    vale.settle()
    panes = tab.findChild(Panes)
    assert panes is not None
    for button in (tab.purchases.add, tab.purchases.drop, tab.step):
        assert button.visibleRegion().boundingRect() == button.rect()
    vale.window.resize(1480, 800)
    vale.settle()
    left, middle, right = panes.sizes()
    vale.window.resize(1680, 800)
    vale.settle()
    assert panes.sizes() == [left, middle + 200, right]
    border = panes.handle(2)
    assert border is not None
    QTest.mousePress(border, LEFT, NO_KEY, QPoint(1, 20))
    QTest.mouseMove(border, QPoint(-59, 20))
    QTest.mouseRelease(border, LEFT, NO_KEY, QPoint(-59, 20))
    assert panes.sizes()[2] > right
    vale.window.resize(1480, 800)
    vale.settle()
    assert panes.sizes()[2] > right
