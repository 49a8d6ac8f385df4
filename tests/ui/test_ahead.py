"""What a first look needs is built while nobody does anything, and only then."""

import time
from collections.abc import Callable

import pytest

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.document import Document
from woven_locus.ui import ahead
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.session.stages import Stage

PAGES = {"survey", "ground", "build", "ways", "traffic", "waves", "proof"}
TABS = {"history", "register_tab", "routes", "traffic", "waves", "findings", "study"}
FAST_MSEC = 5


@pytest.fixture
def user(make_window: Callable[..., Driver], monkeypatch: pytest.MonkeyPatch) -> Driver:
    user = make_window("======\n......\n......")
    user.idle()
    user.window.ahead.setInterval(FAST_MSEC)
    monkeypatch.setattr(ahead, "QUIET_LOOKS", 3)
    return user


def there(user: Driver) -> tuple[set[str], set[str]]:
    """The pages and tabs that have been built."""
    return PAGES & vars(user.window.bench).keys(), TABS & vars(user.window.tray).keys()


def looks(user: Driver, count: int = 20) -> None:
    """As its timer would, however slow the machine."""
    for _ in range(count):
        user.window.ahead._look()
        user.settle()


def test_all_is_there_after_a_quiet_moment_and_nothing_looks_different(user: Driver) -> None:
    window = user.window
    shown = window.bench.currentWidget(), window.tray.currentWidget()
    words = [window.tray.tabText(at) for at in range(window.tray.count())]
    user.qtbot.waitUntil(lambda: not window.ahead.isActive())
    assert there(user) == (PAGES, TABS)
    assert (window.bench.currentWidget(), window.tray.currentWidget()) == shown
    assert [window.tray.tabText(at) for at in range(window.tray.count())] == words
    assert user.sheet.hasFocus()
    assert not user.session.jobs.running
    assert not user.session.document.history.position
    pictures = [swatch.drawn for swatch in window.bench.ground.coats._swatches.values()]
    assert pictures
    assert all(pictures)


def test_nothing_is_built_while_something_goes_on(user: Driver) -> None:
    window = user.window
    window.ahead.stop()
    user.key("F3")
    user.qtbot.waitUntil(lambda: window.tray._coming is None)
    user.press((2, 1))
    left = len(window.ahead._pieces)
    assert user.session.document.history.in_gesture
    looks(user)
    assert len(window.ahead._pieces) == left > 1
    user.release((2, 1))
    going = [True]

    def work(stopped: Control) -> None:
        while going[0] and not stopped():
            time.sleep(0.001)

    user.session.jobs.start("Work", work, lambda _nothing: None)
    looks(user)
    assert len(window.ahead._pieces) == left > 1
    going[0] = False
    user.idle()
    for step in range(12):
        user.point((step % 6, 1))
        looks(user, 3)
    assert len(window.ahead._pieces) == left > 1
    window.ahead.start()
    user.qtbot.waitUntil(lambda: not window.ahead.isActive())
    assert there(user) == (PAGES, TABS)


def test_another_plan_is_opened_before_all_is_there(user: Driver) -> None:
    user.qtbot.waitUntil(lambda: "ground" in vars(user.window.bench))
    other = draw("....\n....")
    user.session.open(Document(other))
    user.qtbot.waitUntil(lambda: not user.window.ahead.isActive())
    assert there(user) == (PAGES, TABS)
    for stage in Stage:
        user.session.set_stage(stage)
        user.settle()
    buttons = user.window.bench.ground.buttons[: len(other.terrain_table)]
    assert [button.text() for button in buttons] == [item.name for item in other.terrain_table]


def test_a_window_that_is_closed_builds_nothing(user: Driver) -> None:
    user.window.close()
    assert not user.window.ahead.isActive()
