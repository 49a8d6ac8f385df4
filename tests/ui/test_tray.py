"""Tabs of the tray are built when they are first wanted, and say then what they would say had they been there before."""

from collections.abc import Iterator
from itertools import pairwise

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QLabel,
    QListView,
    QScrollArea,
    QSplitter,
    QWidget,
)

from tests.ui.conftest import Driver
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.tray.tray import _NAMES, A_FRAME_MSEC, Tray


def said(tab: QWidget) -> Iterator[str]:
    """All that a tab says, shown or not."""
    for widget in [tab, *tab.findChildren(QWidget)]:
        if isinstance(widget, QLabel):
            yield widget.text()
        elif isinstance(widget, QComboBox):
            yield from (widget.itemText(at) for at in range(widget.count()))
        elif isinstance(widget, QAbstractItemView) and (model := widget.model()) is not None:
            for row in range(model.rowCount()):
                for column in range(12):
                    yield str(model.index(row, column).data(Qt.ItemDataRole.DisplayRole))


def test_only_the_tab_that_is_shown_is_there(vale: Driver) -> None:
    tray = vale.window.tray
    assert [name for name in _NAMES if tray.has(name)] == ["study"]
    vale.session.set_stage(Stage.WAYS)
    vale.qtbot.waitUntil(lambda: tray.has("routes"))
    assert tray.currentWidget() is tray.routes
    assert [name for name in _NAMES if tray.has(name)] == ["routes", "study"]
    tray.setCurrentIndex(_NAMES.index("funds"))
    assert tray.currentWidget() is tray.funds
    assert tray.tabText(_NAMES.index("register_tab")).startswith("Register ")
    # Another tab that is built does not bring itself to the front.
    assert tray.findings is tray.widget(_NAMES.index("findings"))
    assert tray.currentWidget() is tray.funds


def test_a_tab_that_is_chosen_while_that_of_the_stage_is_to_come_stays(vale: Driver) -> None:
    tray, stages = vale.window.tray, vale.window.thread_.buttons
    QTest.mouseClick(stages[Stage.WAVES], Qt.MouseButton.LeftButton)
    tray.setCurrentIndex(_NAMES.index("funds"))
    vale.qtbot.wait(5 * A_FRAME_MSEC)
    assert tray.currentWidget() is tray.funds
    assert not tray.has("waves")
    vale.push(stages[Stage.BUILD])
    vale.push(stages[Stage.WAVES])
    vale.qtbot.waitUntil(lambda: tray.has("waves"))
    assert tray.currentWidget() is tray.waves


def test_a_tab_that_comes_late_says_the_same(vale: Driver) -> None:
    tray, session = vale.window.tray, vale.session
    for name in _NAMES:
        getattr(tray, name)
    session.set_stage(Stage.BUILD)
    session.arm("wool-store")
    vale.click((30, 4))
    session.disarm()
    numbers = session.plan.register.numbers()
    vale.desk.routes.ask(numbers[0], numbers[3])
    vale.desk.routes.ask(numbers[1], numbers[2])
    session.set_stage(Stage.TRAFFIC)
    vale.desk.traffic.begin(go=False)
    vale.idle()
    for _ in range(5):
        vale.desk.traffic.step()
    session.set_stage(Stage.PROOF)
    vale.idle()
    for name in _NAMES:
        tray.setCurrentWidget(getattr(tray, name))
        vale.idle()
    late = Tray(vale.desk, vale.window.theme)
    vale.qtbot.addWidget(late)
    late.resize(tray.size())
    late.show()
    for name in _NAMES:
        late.setCurrentWidget(getattr(late, name))
        ours, theirs = getattr(late, name), getattr(tray, name)
        if name == "study":
            # What it draws depends on where the pointer was when it was drawn: both draw now.
            tray.setCurrentWidget(theirs)
            theirs.refresh()
            ours.refresh()
        # Charts and what is worked out beside the window come in a little later.
        vale.qtbot.waitUntil(
            lambda ours=ours, theirs=theirs: list(said(ours)) == list(said(theirs))
        )


def test_rows_of_lists_are_as_high_as_what_is_in_them(vale: Driver) -> None:
    """Qt lays them out as they are added, before they have a style."""
    seen = set()
    for stage in Stage:
        vale.session.set_stage(stage)
        vale.qtbot.waitUntil(lambda: vale.window.tray._coming is None)
        vale.settle()
        for view in vale.window.findChildren(QListView):
            if not view.isVisible() or view.model().rowCount() < 2:
                continue
            seen.add(view.accessibleName())
            rows = [view.visualRect(view.model().index(at, 0)) for at in range(2)]
            assert rows[0].height() == view.sizeHintForRow(0)
            assert rows[1].top() == rows[0].bottom() + 1
    assert len(seen) >= 3


def test_nothing_covers_what_is_beside_it_in_the_smallest_window(vale: Driver) -> None:
    tray = vale.window.tray
    vale.window.resize(vale.window.minimumSize())
    for name in ("funds", "study"):
        tab = getattr(tray, name)
        tray.setCurrentWidget(tab)
        vale.qtbot.waitUntil(tab.isVisible)
        vale.settle()
        (panes,) = tab.findChildren(QSplitter)
        parts = [panes.widget(at) for at in range(panes.count())]
        for part in parts:
            assert part is not None
            assert panes.rect().contains(part.geometry())
            assert part.width() >= part.minimumSizeHint().width()
            for inner in part.findChildren(QWidget):
                assert inner.parentWidget() is not part or part.rect().contains(inner.geometry())
        for a, b in pairwise(parts):
            assert a.geometry().right() < b.geometry().left()  # type: ignore[union-attr]
        # What does not fit is scrolled to.
        areas = [area for area in tab.findChildren(QScrollArea) if area.widget() is panes]
        bar = areas[0].horizontalScrollBar()
        assert bar is not None
        assert bar.maximum() == max(0, panes.width() - areas[0].viewport().width()) > 0  # type: ignore[union-attr]
