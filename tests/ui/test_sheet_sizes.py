"""Sheets open as large as what they hold, with a large font on a small screen too."""

from collections.abc import Callable, Iterator
from itertools import combinations

import pytest
from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QDialog,
    QLabel,
    QPushButton,
    QScrollArea,
    QTableView,
    QTextBrowser,
    QTreeWidget,
    QWidget,
)

from tests.ui.conftest import Driver
from woven_locus.ui import guide
from woven_locus.ui.actions import key_sheet
from woven_locus.ui.actions.finder import Finder
from woven_locus.ui.actions.key_sheet import KeySheet
from woven_locus.ui.bench.ground.classes_sheet import ClassesSheet
from woven_locus.ui.bench.traffic.trips_sheet import TripsSheet
from woven_locus.ui.bench.ways.roads_sheet import RoadsSheet
from woven_locus.ui.guide import GuideSheet
from woven_locus.ui.parts import sizes
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme, use_faces

# Inside the frame, on the smallest screen that is served.
ROOM = QSize(1264, 672)
ACTIONS = ["file.new", "file.picture", "file.hand_over", "file.link", "survey.grid", "ground.classes", "ground.scatter", "ground.make", "build.new", "ways.classes", "ways.matrix", "help.find", "help.about", "help.keys", "help.guide"]  # fmt: skip
BUTTONS: list[Callable[[Driver], QPushButton]] = [
    lambda user: user.window.bench.traffic.trips.kinds,
    lambda user: user.window.bench.traffic.trips.people,
    lambda user: user.window.bench.traffic.trips.rules,
    lambda user: user.window.bench.traffic.trips.all,
    lambda user: user.window.bench.waves.waves,
    lambda user: user.window.bench.waves.attackers,
    lambda user: user.window.bench.waves.towers,
    lambda user: user.window.bench.waves.places,
]


@pytest.fixture
def small_screen(monkeypatch: pytest.MonkeyPatch) -> None:
    for module in (sizes, key_sheet):
        monkeypatch.setattr(module, "room_for", lambda _window: ROOM)


@pytest.fixture
def large_font(theme: Theme) -> Iterator[None]:
    use_faces("DejaVu Sans", "DejaVu Sans Mono", 15)
    theme.choose("light")
    yield
    use_faces("DejaVu Sans", "DejaVu Sans Mono", 10)
    theme.choose("light")


def opened(user: Driver) -> QDialog:
    (found,) = [sheet for sheet in user.window.findChildren(QDialog) if sheet.isVisible()]
    return found


def place(sheet: QDialog, widget: QWidget) -> QRect:
    return QRect(widget.mapTo(sheet, widget.rect().topLeft()), widget.size())


def assert_all_is_seen(sheet: QDialog) -> None:
    assert sheet.width() <= ROOM.width()
    assert sheet.height() <= ROOM.height()
    shown = [w for w in sheet.findChildren(QWidget) if w.isVisible() and w.parent() is sheet]
    for widget in shown:
        assert sheet.rect().contains(place(sheet, widget)), widget
    for a, b in combinations(shown, 2):
        assert not place(sheet, a).intersects(place(sheet, b)), (sheet, a, b)
    for label in sheet.findChildren(QLabel):
        if label.isVisible() and label.text():
            tall = label.heightForWidth(label.width()) if label.wordWrap() else 0
            assert label.height() >= max(tall, label.minimumSizeHint().height()), label.text()
    for button in sheet.findChildren(QAbstractButton):
        if button.isVisible() and button.text():
            assert button.width() >= button.minimumSizeHint().width(), button.text()
    for table in sheet.findChildren(QTableView):
        head, model = table.horizontalHeader(), table.model()
        assert head is not None
        assert model is not None
        for column in range(head.count()):
            words = str(model.headerData(column, Qt.Orientation.Horizontal))
            assert head.sectionSize(column) >= head.fontMetrics().horizontalAdvance(words) + 6, (
                words
            )


@pytest.mark.parametrize("opens", [*ACTIONS, *BUTTONS])
def test_nothing_of_a_sheet_is_covered_with_a_large_font(
    small_screen: None,
    large_font: None,
    make_window: Callable[..., Driver],
    opens: str | Callable[[Driver], QPushButton],
) -> None:
    user = make_window()
    if isinstance(opens, str):
        user.window.actions_.by_name[opens].trigger()
    else:
        for stage in (Stage.TRAFFIC, Stage.WAVES):
            user.session.set_stage(stage)
            user.settle()
        opens(user).click()
    user.settle()
    sheet = opened(user)
    user.qtbot.waitUntil(lambda: assert_all_is_seen(sheet) is None)
    sheet.reject()


@pytest.mark.parametrize(
    ("action", "kind"), [("ground.classes", ClassesSheet), ("ways.classes", RoadsSheet)]
)
def test_a_table_of_classes_is_wide_enough_for_all_of_its_columns(
    small_screen: None,
    large_font: None,
    make_window: Callable[..., Driver],
    action: str,
    kind: type[ClassSheet],
) -> None:
    user = make_window()
    user.window.actions_.by_name[action].trigger()
    sheet = user.sheet_of(kind)
    user.settle()
    assert across(sheet.table) == 0


def across(area: QWidget) -> int:
    bar = area.horizontalScrollBar()  # type: ignore[attr-defined]
    return int(bar.maximum())


def test_keys_stand_in_as_many_columns_as_there_is_room_for(
    small_screen: None, large_font: None, make_window: Callable[..., Driver], theme: Theme
) -> None:
    user = make_window()
    widths = []
    for points in (10, 15):
        use_faces("DejaVu Sans", "DejaVu Sans Mono", points)
        theme.choose("light")
        user.window.actions_.by_name["help.keys"].trigger()
        sheet = user.sheet_of(KeySheet)
        user.settle()
        shown = [area for area in sheet.findChildren(QScrollArea) if area.isVisible()]
        assert [across(area) for area in shown] == [0]
        place_of = {
            name: edit.mapTo(sheet, edit.rect().topLeft()) for name, edit in sheet.edits.items()
        }
        widths.append(
            len({at.x() for name, at in place_of.items() if sheet.edits[name].isVisible()})
        )
        sheet.close()
        user.settle()
    assert widths == [4, 2]


def words_at_the_top(page: QTextBrowser) -> str:
    return page.cursorForPosition(QPoint(4, 4)).block().text()


def test_the_pictures_of_the_guide_follow_its_width(make_window: Callable[..., Driver]) -> None:
    user = make_window()
    user.window.actions_.by_name["help.guide"].trigger()
    sheet = user.sheet_of(GuideSheet)
    page = sheet.findChild(QTextBrowser)
    assert page is not None
    bar = page.verticalScrollBar()
    assert bar is not None
    user.qtbot.waitUntil(lambda: not page._soon.isActive() and across(page) == 0)
    bar.setValue(bar.maximum() // 2)
    words = words_at_the_top(page)
    for width in (560, 760):
        sheet.resize(width, 500)
        user.qtbot.waitUntil(page._soon.isActive)
        user.qtbot.waitUntil(lambda: not page._soon.isActive() and across(page) == 0)
        # One reads on where one was.
        assert words_at_the_top(page) == words
    # Another page is read from its beginning.
    sheet.resize(600, 500)
    user.qtbot.waitUntil(page._soon.isActive)
    sheet.show_stage(Stage.WAYS)
    user.qtbot.wait(2 * guide._SOON_MSEC)
    assert words_at_the_top(page) == page.document().firstBlock().text()  # type: ignore[union-attr]
    sheet.close()


def test_actions_are_found_with_all_of_their_words(
    small_screen: None, large_font: None, make_window: Callable[..., Driver]
) -> None:
    user = make_window()
    user.window.actions_.by_name["help.find"].trigger()
    found = user.sheet_of(Finder).findChild(QTreeWidget)
    assert found is not None
    for row in range(found.topLevelItemCount()):
        item = found.topLevelItem(row)
        assert item is not None
        for column in range(3):
            assert found.columnWidth(column) >= found.fontMetrics().horizontalAdvance(
                item.text(column)
            )
    user.sheet_of(Finder).reject()


def test_a_trip_is_read_whole(small_screen: None, large_font: None, vale: Driver) -> None:
    vale.session.set_stage(Stage.TRAFFIC)
    vale.settle()
    vale.window.bench.traffic.trips.all.click()
    sheet = vale.sheet_of(TripsSheet)
    vale.settle()
    for row in range(sheet.model.rowCount()):
        for column in range(sheet.model.columnCount()):
            words = str(sheet.model.index(row, column).data())
            assert sheet.table.columnWidth(column) >= sheet.table.fontMetrics().horizontalAdvance(
                words
            )
