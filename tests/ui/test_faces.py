"""The window with other fonts: every size follows them, and what does not fit is scrolled to."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QLabel,
    QScrollArea,
    QSplitter,
    QWidget,
)

from tests.helpers.faces import SHAPES, make_face
from tests.ui.conftest import Driver
from woven_locus.ui.bench.bench import WIDTH
from woven_locus.ui.parts.widgets import Page
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import scales
from woven_locus.ui.theme import Theme, em, number_font, use_faces
from woven_locus.ui.window import READING

SIZES = [(1024, 700), (1280, 800)]


@pytest.fixture(scope="module")
def faces(qapp: QApplication, tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """Family by "text wide", "fixed tall" and so on."""
    folder: Path = tmp_path_factory.mktemp("faces")
    return {
        f"{kind} {shape}": make_face(kind, shape, folder)
        for kind in ("text", "fixed")
        for shape in SHAPES
    }


@pytest.fixture
def dressed(faces: dict[str, str], theme: Theme) -> Iterator[Callable[[str, str, float], None]]:
    def dress(text: str, fixed: str, points: float) -> None:
        use_faces(faces[f"text {text}"], faces[f"fixed {fixed}"], points)
        theme.choose("light")

    yield dress
    use_faces("DejaVu Sans", "DejaVu Sans Mono", 10)
    theme.choose("light")


def scrolled(widget: QWidget) -> QScrollArea | None:
    """The part that scrolls in which a widget lies."""
    above = widget.parentWidget()
    while above is not None and not isinstance(above, QScrollArea):
        above = above.parentWidget()
    return above


def assert_nothing_is_clipped(user: Driver) -> None:
    window = user.window
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or not isinstance(widget, QAbstractButton | QLabel):
            continue
        if widget is window.status.hint or not widget.text():
            continue
        if isinstance(widget, QLabel) and widget.wordWrap():
            assert widget.height() >= widget.heightForWidth(widget.width()) - 1, widget.text()
        else:
            assert widget.width() >= widget.minimumSizeHint().width(), widget.text()
            lines = widget.text().count("\n") + 1
            assert widget.height() >= lines * widget.fontMetrics().height(), widget.text()
        area = scrolled(widget)
        if area is not None:
            # All of it lies on the page that is scrolled.
            page = area.widget()
            assert page is not None
            place = QRect(widget.mapTo(page, QPoint(0, 0)), widget.size())
            assert page.rect().adjusted(-1, -1, 1, 1).contains(place), widget.text()
            view = area.viewport()
            assert view is not None
            seen = QRect(area.mapTo(window, QPoint(0, 0)), area.size())
            assert window.rect().contains(seen), widget.text()
            if page.height() > view.height():
                bar = area.verticalScrollBar()
                assert bar is not None
                assert bar.maximum() >= page.height() - view.height()
        else:
            place = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())
            assert window.rect().contains(place), widget.text()


@pytest.mark.parametrize("points", [10, 15])
@pytest.mark.parametrize(
    ("text", "fixed"), [("narrow", "wide"), ("wide", "tall"), ("tall", "narrow")]
)
def test_nothing_is_clipped(
    dressed: Callable[[str, str, float], None],
    make_window: Callable[..., Driver],
    text: str,
    fixed: str,
    points: float,
) -> None:
    dressed(text, fixed, points)
    user = make_window()
    assert number_font(9).family() == f"Test fixed {fixed}"
    user.session.select(6)
    for size in SIZES:
        user.window.resize(*size)
        for stage in Stage:
            user.session.set_stage(stage)
            # What a job brings in, and a bar that comes up, ask for another layout.
            user.idle()
            for _ in range(3):
                user.settle()
            assert (user.window.width(), user.window.height()) == size
            # The tab of the stage comes a frame later.
            user.qtbot.waitUntil(lambda: user.window.tray._coming is None)
            # A study that comes in just now is laid out with the next turn.
            user.qtbot.waitUntil(lambda: assert_nothing_is_clipped(user) is None)
            # The lens is no strip, whatever else needs room.
            lens = user.window.reading.lens
            assert lens.height() >= 84
            assert lens.width() >= 200
    # What lies below is reached.
    reading = user.window.reading
    reading.ensureWidgetVisible(reading.demolish_button)
    user.settle()
    view = reading.viewport()
    assert view is not None
    at = reading.demolish_button.mapTo(view, QPoint(0, reading.demolish_button.height()))
    assert 0 < at.y() <= view.height()


def assert_nothing_is_cut_or_scrolled_sideways(user: Driver) -> None:
    for stage in Stage:
        user.session.set_stage(stage)
        user.settle()
        # A count that comes in just now is laid out with the next turn.
        user.qtbot.waitUntil(lambda: assert_nothing_is_clipped(user) is None)
        for page in user.window.findChildren(Page):
            across = page.horizontalScrollBar()
            assert across is not None
            assert not page.isVisible() or across.maximum() == 0, (stage, page)


def test_panels_that_had_to_give_way_are_as_wide_as_they_need_once_there_is_room(
    make_window: Callable[..., Driver],
) -> None:
    user = make_window()
    user.session.select(6)
    user.window.resize(900, 600)
    bench, reading = user.window.bench, user.window.reading
    across = bench.parentWidget()
    assert isinstance(across, QSplitter)
    across.setSizes([1, 700, 1])
    user.settle()
    assert (bench.width(), reading.width()) == (200, 220)
    user.window.resize(1280, 800)
    user.settle()
    assert_nothing_is_cut_or_scrolled_sideways(user)


def test_all_is_seen_at_once_with_the_font_designed_for(make_window: Callable[..., Driver]) -> None:
    user = make_window()
    user.session.select(6)
    user.window.resize(1280, 800)
    user.settle()
    assert_nothing_is_cut_or_scrolled_sideways(user)
    # No tab of the tray takes the room of the panels beside it.
    user.session.set_stage(Stage.BUILD)
    user.settle()
    wide = user.window.bench.width(), user.window.reading.width()
    assert wide == (em(WIDTH), em(READING))
    tray = user.window.tray
    for tab in range(tray.count()):
        tray.setCurrentIndex(tab)
        user.settle()
        assert (user.window.bench.width(), user.window.reading.width()) == wide, tray.tabText(tab)
    reading = user.window.reading
    bottom = reading.demolish_button.mapTo(reading, QPoint(0, reading.demolish_button.height()))
    assert bottom.y() <= reading.height()
    bar = reading.verticalScrollBar()
    assert bar is not None
    assert bar.maximum() == 0


def test_the_scales_have_room_for_their_figures(
    dressed: Callable[[str, str, float], None], make_window: Callable[..., Driver]
) -> None:
    small = scales.left(), scales.top()
    dressed("wide", "wide", 15)
    assert scales.left() > small[0]
    assert scales.top() > small[1]
    user = make_window()
    user.click((5, 5))
    assert user.session.pointer.hover is not None
    assert user.session.pointer.hover.cell == (5, 5)
