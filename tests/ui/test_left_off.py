"""The window opens where its user left off."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, QSize
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.core.geometry import Point
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.ui import recent
from woven_locus.ui.parts.sizes import open_within_screen
from woven_locus.ui.recent import last_plan
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.start import last_or_demo


@pytest.fixture
def paths(tmp_path: Path) -> list[Path]:
    found = []
    for name in ("one", "two"):
        plan = draw("\n".join(["." * 40] * 30), cell=(24, 24))
        plan.name = name
        found.append(tmp_path / f"{name}.plan.json")
        plan_json.save(plan, found[-1])
    return found


def opened(user: Driver, path: Path, qtbot: QtBot) -> None:
    user.window.files.open_path(path)
    qtbot.waitUntil(lambda: user.session.document.path == path)
    user.settle()


def middle(user: Driver) -> tuple[int, Point]:
    camera = user.sheet.camera
    return camera.step, camera.point_at(camera.width / 2, camera.height / 2)


def test_each_plan_is_looked_at_as_before(
    make_window: Callable[..., Driver], qtbot: QtBot, paths: list[Path]
) -> None:
    user = make_window(draw(".."))
    opened(user, paths[0], qtbot)
    user.session.set_stage(Stage.WAYS)
    user.sheet.zoom(4)
    user.sheet.pan(150, 90)
    user.settle()
    user.sheet.repaint()
    step, at = middle(user)
    opened(user, paths[1], qtbot)
    assert middle(user)[0] != step
    opened(user, paths[0], qtbot)
    assert user.session.choices.stage is Stage.WAYS
    again = middle(user)
    assert again[0] == step
    assert again[1].x == pytest.approx(at.x, abs=2)
    assert again[1].y == pytest.approx(at.y, abs=2)
    # The next window, too.
    user.window.close()
    assert last_plan() == paths[0]
    assert last_or_demo()[0].path == paths[0]
    other = make_window(draw(".."))
    opened(other, paths[0], qtbot)
    assert middle(other)[0] == step


def test_the_whole_plan_is_shown_in_whatever_size_the_window_has(
    make_window: Callable[..., Driver], qtbot: QtBot, paths: list[Path]
) -> None:
    user = make_window(draw(".."))
    opened(user, paths[0], qtbot)
    user.settle()
    steps = []
    for size in ((900, 600), (1500, 1000), (900, 600)):
        user.window.resize(*size)
        user.settle()
        camera = user.sheet.camera
        assert camera.visible() == user.plan.spec.box
        steps.append(camera.step)
    assert steps[1] > steps[0] == steps[2]
    user.window.close()
    # Opened again in a larger window, it fills that; once zoomed, it keeps its scale.
    other = make_window(draw(".."))
    other.window.resize(1500, 1000)
    opened(other, paths[0], qtbot)
    other.settle()
    assert other.sheet.camera.step == steps[1]
    other.sheet.zoom(2)
    other.window.resize(900, 600)
    other.settle()
    assert other.sheet.camera.step == steps[1] + 2


def test_sizes_and_folded_parts_come_back(make_window: Callable[..., Driver]) -> None:
    user = make_window(draw("....\n...."))
    user.window.across.setSizes([300, 700, 280])
    user.window.fold(user.window.tray)
    user.settle()
    sizes = user.window.across.sizes()
    user.window.close()
    other = make_window(draw("....\n...."))
    assert other.window.tray.isHidden()
    assert not other.window.bench.isHidden()
    assert other.window.across.sizes() == pytest.approx(sizes, abs=3)


def test_recent_plans_are_listed_and_missing_ones_greyed(
    make_window: Callable[..., Driver], qtbot: QtBot, paths: list[Path]
) -> None:
    user = make_window(draw(".."))
    for path in paths:
        opened(user, path, qtbot)
    paths[0].unlink()
    menu = user.window.actions_.recent
    menu.aboutToShow.emit()
    first, second = menu.actions()[:2]
    assert (first.text().split(" ")[0], first.isEnabled()) == ("two.plan.json", True)
    assert second.text().endswith("(missing)")
    assert not second.isEnabled()
    user.session.open(Document(draw("..")))
    first.trigger()
    qtbot.waitUntil(lambda: user.session.document.path == paths[1])
    menu.actions()[-1].trigger()
    menu.aboutToShow.emit()
    assert recent.recent() == []
    assert not menu.actions()[-1].isEnabled()


@pytest.mark.parametrize(
    "text", ["{", "[3]", '[{"path": 3}]', '[{"path": "a", "step": "x", "middle": [1, 2]}]', "{}"]
)
def test_nonsense_that_was_kept_is_left_out(
    make_window: Callable[..., Driver], text: str, tmp_path: Path
) -> None:
    user = make_window(draw(".."))
    for name in ("recent", "layout"):
        QSettings().setValue(name, text)
    QSettings().setValue("last", str(tmp_path))
    assert recent.look_of(Path("a")) is None
    assert last_plan() is None
    assert last_or_demo()[0].path is None
    user.window.left_off._lay_out()
    recent.remember(tmp_path / "b.plan.json")
    assert recent.recent()[0] == tmp_path / "b.plan.json"


def test_a_last_plan_that_is_broken_gives_the_demo(
    make_window: Callable[..., Driver], qtbot: QtBot, paths: list[Path]
) -> None:
    user = make_window(draw(".."))
    opened(user, paths[0], qtbot)
    user.window.close()
    paths[0].write_text("{")
    document, words = last_or_demo()
    assert document.plan.name == "Selvedge Vale"
    assert str(paths[0]) in words


def test_the_first_size_fits_the_screen(make_window: Callable[..., Driver]) -> None:
    user = make_window(draw(".."))
    open_within_screen(user.window, QSize(9000, 9000))
    screen = user.window.screen()
    assert screen is not None
    assert user.window.width() <= screen.availableSize().width()
    assert user.window.height() <= screen.availableSize().height()
