"""Files that are dropped on the real window."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QDialog
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.cli.main import main
from woven_locus.demo import open_demo
from woven_locus.files import formats, plan_json

NONE, LEFT = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton


def drop(user: Driver, path: Path) -> None:
    """As a file manager does."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    copy = Qt.DropAction.CopyAction
    place = QPointF(400, 300)
    enter = QDragEnterEvent(place.toPoint(), copy, data, LEFT, NONE)
    QApplication.sendEvent(user.window, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(user.window, QDropEvent(place, copy, data, LEFT, NONE))


@pytest.mark.parametrize(
    ("form", "sheet"),
    [
        ("heights-asc", "HeightsSheet"),
        ("heights-png16", "HeightsSheet"),
        ("terrain-png", "TerrainSheet"),
        ("kinds-csv", "KindsInSheet"),
        ("kinds-json", "KindsInSheet"),
        ("register-csv", "RegisterInSheet"),
    ],
)
def test_what_is_dropped_is_offered(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path, form: str, sheet: str
) -> None:
    plan, out = tmp_path / "a.plan.json", tmp_path / f"out{formats.FORMATS[form].suffix}"
    plan_json.save(open_demo(), plan)
    assert main(["export", str(plan), "--as", form, "--out", str(out)]) == 0
    user = make_window(open_demo())
    revision = user.session.document.revision
    drop(user, out)

    def offered() -> QDialog | None:
        found = QApplication.activeModalWidget()
        return found if isinstance(found, QDialog) else None

    qtbot.waitUntil(lambda: offered() is not None)
    found = offered()
    assert found is not None
    assert type(found).__name__ == sheet
    assert user.session.document.revision == revision
    found.reject()


def test_a_plan_is_opened_trips_come_in_and_the_rest_is_said(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    plan, trips = tmp_path / "a.plan.json", tmp_path / "trips.csv"
    plan_json.save(open_demo(), plan)
    assert main(["export", str(plan), "--as", "trips-csv", "--out", str(trips)]) == 0
    user = make_window(draw(".."))
    drop(user, plan)
    qtbot.waitUntil(lambda: user.session.document.path == plan)
    drop(user, trips)
    qtbot.waitUntil(lambda: "from trips.csv" in user.said)
    other = tmp_path / "notes.doc"
    other.write_text("no table")
    drop(user, other)
    qtbot.waitUntil(lambda: "nothing that can be opened" in user.said)
