"""For those who do not see the sheet or do not use a mouse: what is told of it, and a whole job by keys."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.core.render import DARK, LIGHT, Palette
from woven_locus.core.routing import Route
from woven_locus.ui.actions.finder import Finder
from woven_locus.ui.bench.build.kind_sheet import KindSheet
from woven_locus.ui.inout.new_plan_sheet import NewPlanSheet
from woven_locus.ui.session.stages import Stage


def _heard(user: Driver, words: str) -> None:
    user.qtbot.waitUntil(lambda: words in user.sheet.accessibleDescription())


def test_the_sheet_says_where_the_cursor_is_and_may_it(make_window: Callable[..., Driver]) -> None:
    user = make_window(draw("....\n====\n.s..", cell=(24, 24)))
    user.session.set_stage(Stage.BUILD)
    _heard(user, "press an arrow key")
    user.sheet.setFocus()
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Up):
        QTest.keyClick(user.sheet, key)
    _heard(user, "Cell 0, 0: ")
    user.session.arm("hut")
    _heard(user, "Hut at 0, 0: yes")
    QTest.keyClick(user.sheet, Qt.Key.Key_Down)
    _heard(user, "Cell 0, 1: ")
    _heard(user, "Hut at 0, 1: no, ")
    _heard(user, "A road runs here")
    QTest.keyClick(user.sheet, Qt.Key.Key_Up)
    QTest.keyClick(user.sheet, Qt.Key.Key_Return)
    # Also when the plan changes under a cursor that rests.
    _heard(user, "S1 Hut")


def _type(text: str) -> None:
    widget = QApplication.focusWidget()
    assert widget is not None
    QTest.keyClicks(widget, text)


def _press(*keys: Qt.Key | str) -> None:
    for key in keys:
        widget = QApplication.focusWidget()
        assert widget is not None
        if isinstance(key, str):
            QTest.keySequence(widget, key)
        else:
            QTest.keyClick(widget, key)
        QApplication.processEvents()


def _walk(user: Driver, to: tuple[int, int]) -> None:
    """With the arrow keys, from wherever the cursor is."""
    if user.session.pointer.hover is None:
        _press(Qt.Key.Key_Right)
    for _ in range(200):
        hover = user.session.pointer.hover
        assert hover is not None
        across, down = to[0] - hover.cell.col, to[1] - hover.cell.row
        if across:
            _press(Qt.Key.Key_Right if across > 0 else Qt.Key.Key_Left)
        elif down:
            _press(Qt.Key.Key_Down if down > 0 else Qt.Key.Key_Up)
        else:
            return
    pytest.fail("the cursor never came there")


def test_from_a_new_plan_to_a_route_without_a_mouse(make_window: Callable[..., Driver]) -> None:
    user = make_window()
    user.back()
    user.sheet.setFocus()
    _press("Ctrl+N")
    assert user.sheet_of(NewPlanSheet).isVisible()
    _press(Qt.Key.Key_Return)
    user.back()
    # What has no key of its own is found by its words.
    _press("Ctrl+F")
    assert user.window.findChild(Finder) is not None
    _type("new kind")
    _press(Qt.Key.Key_Return)
    assert user.sheet_of(KindSheet).isVisible()
    _type("Candle shop")
    _press(Qt.Key.Key_Return)
    user.back()
    for place in ((10, 10), (16, 12)):
        _walk(user, place)
        _press(Qt.Key.Key_Return)
    assert len(user.plan.register) == 2
    _press("F5")
    _walk(user, (10, 11))
    _press("Shift+Return")
    _walk(user, (16, 11))
    _walk(user, (16, 13))
    _press(Qt.Key.Key_Return)
    assert user.plan.road.any()
    _press("Shift+F")
    for place in ((10, 10), (16, 12)):
        _walk(user, place)
        _press(Qt.Key.Key_Return)
    route = user.desk.routes.current
    assert route is not None
    assert isinstance(route.answer, Route)
    _press("Ctrl+Z")
    assert not user.plan.road.any()


def test_tab_leaves_no_part_of_the_window_out(vale: Driver) -> None:
    """Every control that takes the focus is come to by Tab, and Tab comes back to the sheet."""
    vale.session.set_stage(Stage.BUILD)
    vale.settle()
    vale.back()
    vale.sheet.setFocus()
    seen: list[QWidget] = []
    for _ in range(400):
        QTest.keyClick(vale.window, Qt.Key.Key_Tab)
        now = QApplication.focusWidget()
        assert now is not None
        if now in seen:
            break
        seen.append(now)
    names = " ".join(type(widget).__name__ for widget in seen)
    for part in (vale.window.bench, vale.window.reading, vale.window.tray, vale.window.thread_):
        assert any(part.isAncestorOf(widget) for widget in seen), (part, names)


def _contrast(a: str, b: str) -> float:
    """Of two colours, as WCAG 2.1 has it."""

    def luminance(text: str) -> float:
        parts = [QColor(text).redF(), QColor(text).greenF(), QColor(text).blueF()]
        red, green, blue = (
            part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts
        )
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    low, high = sorted((luminance(a), luminance(b)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_borders_of_controls_can_be_seen(palette: Palette) -> None:
    for ground in (palette.paper, palette.panel, palette.raised):
        assert _contrast(palette.edge, ground) >= 3.0
