"""What is found on the roads of a plan: near misses, who is cut off, routes, and how a search went."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.helpers.state import assert_derived_is_current
from tests.ui.test_ways import GREEN, TOWN, Make, routed, shown, ways
from woven_locus.core.routing import NoRoute, Route
from woven_locus.core.routing.explain import Heuristic
from woven_locus.ui.session.stages import WayTool


def test_near_misses_are_marked_listed_and_mended_with_a_key(make_window: Make) -> None:
    user = ways(make_window, TOWN)
    user.session.pointer.to(None)
    tab = user.window.tray.findings
    user.window.tray.setCurrentWidget(tab)
    user.settle()
    whats = [tab.model.index(row, 0).data() for row in range(tab.model.rowCount())]
    # The street at row 5 has a gap; two ends above it point to it from two cells away.
    assert whats == ["△ Near miss"] * 3
    marked = user.colour_at((5, 5))
    row = next(k for k in range(3) if tab.model.index(k, 1).data() == "5, 5")
    QTest.mouseClick(
        tab.table.viewport(),
        Qt.MouseButton.LeftButton,
        pos=tab.table.visualRect(tab.model.index(row, 0)).center(),
    )
    user.settle()
    user.push(tab.mend)
    assert shown(user)[5] == ".==========."
    assert user.colour_at((5, 5)) != marked
    assert tab.model.rowCount() == 2
    user.key("Shift+M")
    user.key("Shift+M")
    assert tab.model.rowCount() == 0
    assert tab.empty.isVisible()
    user.key("Shift+M")
    assert user.said == "There is no near miss to mend"
    for _ in range(3):
        user.key("Ctrl+Z")
    user.push(tab.mend_all)
    assert tab.model.rowCount() == 0
    assert user.session.document.history.entries == ["Mended findings"]
    assert_derived_is_current(user.plan)


def test_findings_tell_who_is_cut_off_and_select_them(make_window: Make) -> None:
    user = ways(make_window, GREEN, [(1, 1), (7, 1)])
    tab = user.window.tray.findings
    user.window.tray.setCurrentWidget(tab)
    user.settle()
    assert [each.structure for each in tab.rows] == [1, 2]
    tab.table.selectRow(1)
    assert user.session.selection.front == 2
    assert not tab.mend.isEnabled()


def test_a_road_is_proposed_for_a_broken_route_and_laid_with_a_key(make_window: Make) -> None:
    user = routed(make_window)
    pin, table = user.desk.routes.current, user.window.tray.routes
    assert pin is not None
    assert isinstance(pin.answer, NoRoute)
    user.push(table.propose)
    assert user.desk.routes.proposed == ((7, 4),)
    assert "1 cell of road would mend" in user.said
    assert not user.plan.road[4, 7]
    user.key("Esc")
    assert user.desk.routes.proposed == ()
    user.key("U")
    user.key("Shift+U")
    assert user.plan.road[4, 7]
    assert isinstance(pin.answer, Route)
    assert user.session.document.history.entries[-1] == f"Joined {pin.title} by road"
    user.key("U")
    assert user.said == "Choose a route that is broken: what would mend it can then be proposed"
    user.key("Ctrl+Z")
    assert isinstance(pin.answer, NoRoute)


def test_where_nothing_can_join_that_is_said(make_window: Make) -> None:
    user = routed(
        make_window,
        "............\n.===........\nkkkkkkkkkkkk\n............\n............\n========....",
    )
    user.key("U")
    assert "No road can mend" in user.said


def test_a_search_is_explained_step_by_step(make_window: Make) -> None:
    user = routed(make_window, TOWN)
    user.key("U")
    user.key("Shift+U")
    tab, study = user.window.tray.search, user.desk.search
    before = user.colour_at((4, 1), 4, 4)
    user.key("I")
    assert user.window.tray.currentWidget() is tab
    assert study.explained is not None
    steps = study.explained.steps
    assert user.colour_at((4, 1), 4, 4) != before
    user.point((2, 1))
    assert "closed" in tab.reading.text()
    assert f"step    {steps} of {steps}" in tab.reading.text()
    figures = dict(line.split("   ", 1) for line in tab.reading.text().split("\n") if "   " in line)
    g, h = (float(n) for n in figures["g + h"].split("+"))
    assert float(figures["f"]) == g + h
    tab.slider.setFocus()
    QTest.keyClick(tab.slider, Qt.Key.Key_Home)
    assert study.step == 0
    user.point((2, 1))
    assert "not seen" in tab.reading.text()
    QTest.keyClick(tab.slider, Qt.Key.Key_Right)
    assert study.step == 1
    assert "closed" in tab.reading.text()
    user.push(tab.play)
    user.qtbot.waitUntil(lambda: study.step == steps)
    user.qtbot.waitUntil(lambda: tab.play.text() == "Play")
    user.choose(tab.by, "Coloured by cost")
    assert study.by_cost
    user.push(tab.all)
    assert tab.table.rowCount() == len(Heuristic)
    costs = {tab.table.item(row, 1).text() for row in range(4)}  # type: ignore[union-attr]
    assert len(costs) == 1
    explored = [int(tab.table.item(row, 2).text()) for row in range(4)]  # type: ignore[union-attr]
    assert explored[0] >= explored[1]
    tab.table.selectRow(0)
    assert study.explained.heuristic is Heuristic.ZERO
    user.key("Esc")
    assert study.explained is None
    user.key("I")
    user.push(user.window.bench.ways.tools[WayTool.ERASE])
    user.click((4, 1))
    assert study.explained is None  # an explanation of an older plan is put away


def test_a_wide_agent_takes_another_way(make_window: Make) -> None:
    user = ways(make_window, GREEN, [(0, 0), (11, 7)])
    page = user.window.bench.ways
    user.push(page.tools[WayTool.ROUTE])
    user.choose(page.route.over, "Ground, roads preferred")
    user.type(page.route.agent_size, "3")
    user.click((0, 0))
    user.click((11, 7))
    answer = user.desk.routes.current.answer  # type: ignore[union-attr]
    assert isinstance(answer, Route)
    assert user.window.tray.routes.table.item(0, 2).text() == "4 × 3"  # type: ignore[union-attr]
