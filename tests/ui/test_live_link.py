"""The live link of the real window, and a client from elsewhere."""

import json
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from tests.helpers import patience
from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.geometry import Cell, Point
from woven_locus.document import Document
from woven_locus.ui.inout.link_sheet import LinkSheet
from woven_locus.ui.theme import colour


class Game:
    """A client in a thread of its own: does what it is given, one after the other, and keeps what it is told."""

    def __init__(self, url: str, token: str) -> None:
        self.answers: list[Any] = []
        self.notices: list[Any] = []
        self.closed = False
        self._url, self._token = url, token
        self._socket: Any = None
        self._ready = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        with connect(f"{self._url}?token={self._token}") as socket:
            self._socket = socket
            self._ready.set()
            try:
                for message in socket:
                    found = json.loads(message)
                    (self.answers if "id" in found else self.notices).append(found)
            except ConnectionClosed:
                pass
        self.closed = True

    def ask(self, method: str, /, **params: Any) -> None:
        assert self._ready.wait(patience.SECONDS)
        assert self._socket is not None
        message = {"jsonrpc": "2.0", "id": len(self.answers), "method": method, "params": params}
        self._socket.send(json.dumps(message))

    def end(self) -> None:
        assert self._socket is not None
        self._socket.close()
        self._thread.join(patience.SECONDS)


def begin(user: Driver, qtbot: QtBot) -> LinkSheet:
    """By the menu and the sheet's button."""
    user.window.actions_.by_name["file.link"].trigger()
    (sheet,) = [
        w for w in QApplication.topLevelWidgets() if isinstance(w, LinkSheet) and w.isVisible()
    ]
    assert sheet.state.text() == "It is off."
    qtbot.mouseClick(sheet.switch, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: sheet.state.text().startswith("It listens"))
    return sheet


def test_a_game_edits_the_plan_that_is_open(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("....\n====\n...."))
    sheet = begin(user, qtbot)
    qtbot.mouseClick(sheet.copy, Qt.MouseButton.LeftButton)
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    assert json.loads(clipboard.text()) == {"url": sheet.url.text(), "token": sheet.token.text()}
    game = Game(sheet.url.text(), sheet.token.text())
    game.ask("subscribe", to="changes")
    game.ask("place", kind="hut", cell=[1, 0])
    qtbot.waitUntil(lambda: len(game.answers) == 2)
    assert sheet.state.text() == "It listens; 1 client."
    # The window shows it, and takes it back; the game hears of both.
    assert user.plan.register[1].cell == (1, 0)
    assert user.session.document.history.entries == ["Placed Hut S1 at 1, 0, from the game"]
    user.window.actions_.by_name["edit.undo"].trigger()
    assert len(user.plan.register) == 0
    user.session.attempt(edits.erase_road, user.plan, [Cell(2, 1)])
    qtbot.waitUntil(lambda: len(game.notices) == 3)
    labels = [notice["params"]["label"] for notice in game.notices]
    assert labels[0].endswith("from the game")
    assert game.notices[1]["params"]["structures"] == {"S1": None}
    assert game.notices[2]["params"]["cells"][0]["roads"] == [[None]]
    # What the window saves, and what is half drawn, is not the game's affair.
    game.ask("save")
    qtbot.waitUntil(lambda: len(game.answers) == 3)
    with user.session.document.history.gesture("A stroke"):
        game.ask("place", kind="hut", cell=[1, 0])
        qtbot.waitUntil(lambda: len(game.answers) == 4)
    assert "the window saves" in game.answers[2]["error"]["message"]
    assert "somebody is drawing" in game.answers[3]["error"]["message"]
    assert len(user.plan.register) == 0
    # Another plan is opened: it is asked from then on.
    user.session.open(Document(draw("......", cell=(24, 24))))
    qtbot.waitUntil(lambda: len(game.notices) == 4)
    assert game.notices[3]["params"]["reformed"] is True
    game.ask("plan.summary")
    qtbot.waitUntil(lambda: len(game.answers) == 5)
    assert game.answers[4]["result"]["grid"]["cols"] == 6
    game.end()
    qtbot.waitUntil(lambda: sheet.state.text() == "It listens; 0 clients.")
    qtbot.mouseClick(sheet.switch, Qt.MouseButton.LeftButton)
    assert sheet.state.text() == "It is off."
    assert not sheet.url.text()
    sheet.close()


def test_many_edits_of_a_game_leave_the_window_its_turn(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("\n".join(["." * 12] * 8)))
    sheet = begin(user, qtbot)
    game = Game(sheet.url.text(), sheet.token.text())
    # It goes on when its sheet is closed.
    sheet.close()
    user.window.activateWindow()
    qtbot.waitUntil(lambda: user.window.isActiveWindow())
    for turn in range(200):
        game.ask("road.lay" if turn % 2 == 0 else "road.erase", cells=[[turn % 12, 3]])
    # Between them the user's own keys are heard.
    user.key("F4")
    qtbot.waitUntil(lambda: len(game.answers) == 200)
    assert all("result" in answer for answer in game.answers)
    assert user.session.choices.stage.name == "BUILD"
    # The window may be closed with a game at the other end.
    user.window.live_link.stop()
    qtbot.waitUntil(lambda: game.closed)


def test_a_link_that_only_reads(make_window: Callable[..., Driver], qtbot: QtBot) -> None:
    user = make_window(draw("....\n...."))
    user.window.actions_.by_name["file.link"].trigger()
    (sheet,) = [
        w for w in QApplication.topLevelWidgets() if isinstance(w, LinkSheet) and w.isVisible()
    ]
    sheet.read_only.click()
    qtbot.mouseClick(sheet.switch, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(sheet.url.text()))
    assert not sheet.read_only.isEnabled()
    game = Game(sheet.url.text(), sheet.token.text())
    game.ask("place", kind="hut", cell=[1, 0])
    game.ask("probe", kind="hut", cell=[1, 0])
    qtbot.waitUntil(lambda: len(game.answers) == 2)
    assert "only reads" in game.answers[0]["error"]["message"]
    assert game.answers[1]["result"]["ok"] is True
    assert len(user.plan.register) == 0
    game.end()
    user.window.live_link.stop()
    sheet.close()


def test_a_link_that_is_ended_as_it_begins(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("....\n===="))
    link = user.window.live_link
    before = threading.active_count()
    for _ in range(3):
        link.start()
        link.stop()
    assert link.url == ""
    qtbot.waitUntil(lambda: threading.active_count() <= before)
    link.start()
    qtbot.waitUntil(lambda: link.url != "")
    link.stop()


def test_nothing_changes_under_an_open_sheet(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("\n".join(["." * 8] * 6)))
    sheet = begin(user, qtbot)
    game = Game(sheet.url.text(), sheet.token.text())
    sheet.close()
    user.window.files.change_grid()
    qtbot.waitUntil(lambda: QApplication.activeModalWidget() is not None)
    game.ask("place", kind="hut", cell=[0, 0])
    game.ask("undo")
    game.ask("plan.summary")
    qtbot.waitUntil(lambda: len(game.answers) == 3)
    assert ["a sheet is open" in str(a) for a in game.answers] == [True, True, False]
    assert len(user.plan.register) == 0
    modal = QApplication.activeModalWidget()
    assert modal is not None
    modal.close()
    game.ask("place", kind="hut", cell=[0, 0])
    qtbot.waitUntil(lambda: len(user.plan.register) == 1)
    game.end()
    user.window.live_link.stop()


def test_what_is_in_hand_may_be_demolished_by_the_game(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("\n".join(["." * 8] * 6)))
    user.session.attempt(edits.place, user.plan, "hut", Cell(1, 1), 0, "2026-01-01T00:00:00Z")
    sheet = begin(user, qtbot)
    game = Game(sheet.url.text(), sheet.token.text())
    sheet.close()
    user.session.lift(1)
    game.ask("demolish", structures=["S1"])
    qtbot.waitUntil(lambda: len(user.plan.register) == 0)
    user.settle()
    user.click(Cell(4, 3))
    assert len(user.plan.register) == 0
    game.ask("undo")
    qtbot.waitUntil(lambda: len(user.plan.register) == 1)
    assert user.plan.register[1].cell == Cell(1, 1)
    game.end()
    user.window.live_link.stop()


def test_a_games_agents_are_shown_as_it_reports_them(
    make_window: Callable[..., Driver], qtbot: QtBot
) -> None:
    user = make_window(draw("......\n......\n......", cell=(24, 24)))
    sheet = begin(user, qtbot)
    game = Game(sheet.url.text(), sheet.token.text())
    heather = colour(user.window.theme.palette.heather).name()

    def rings() -> bool:
        user.settle()
        place = user.sheet.place_of(Cell(2, 1)).toPoint()
        picture = user.sheet.grab().toImage()
        return any(
            picture.pixelColor(place.x() + dx, place.y() + dy).name() == heather
            for dx in range(-7, 8)
            for dy in range(-7, 8)
        )

    assert not rings()
    revision = user.session.document.revision
    agents = [{"agent": "g7", "kind": "guard", "x": 60, "y": 36, "heading": 90}]
    game.ask("agents.report", agents=[*agents, {"agent": "far", "x": -1e9, "y": 0}])
    qtbot.waitUntil(lambda: user.desk.reported.agents is not None)
    assert rings()
    # They are no part of the plan, and say who they are where one points.
    assert user.session.document.revision == revision
    assert user.session.document.history.entries == []
    user.point(Cell(2, 1))
    assert rings()
    assert user.desk.reported.nearest(Point(61, 36), 3) == 0
    # As fast as they come, the newest is what is shown.
    for step in range(300):
        game.ask("agents.report", agents=[{"agent": "g7", "x": step, "y": 36}])
    qtbot.waitUntil(
        lambda: (
            user.desk.reported.agents is not None
            and user.desk.reported.agents.places[0].tolist() == [299, 36]
        )
    )
    # Gone when the game is, and when the link ends.
    game.end()
    qtbot.waitUntil(lambda: user.desk.reported.agents is None)
    game = Game(sheet.url.text(), sheet.token.text())
    game.ask("agents.report", agents=agents)
    qtbot.waitUntil(lambda: user.desk.reported.agents is not None)
    user.window.live_link.stop()
    assert user.desk.reported.agents is None
    assert not rings()


def test_thousands_of_agents_are_dots(make_window: Callable[..., Driver], qtbot: QtBot) -> None:
    user = make_window(draw("......\n......\n......", cell=(24, 24)))
    sheet = begin(user, qtbot)
    game = Game(sheet.url.text(), sheet.token.text())
    rows = [{"agent": f"{k}", "x": k * 7.3 % 144, "y": k * 3.1 % 72} for k in range(10_000)]
    game.ask("agents.report", agents=rows)
    qtbot.waitUntil(lambda: user.desk.reported.agents is not None)
    user.settle()
    picture = user.sheet.grab().toImage()
    heather = colour(user.window.theme.palette.heather).name()
    found = sum(
        picture.pixelColor(x, y).name() == heather
        for x in range(0, picture.width(), 2)
        for y in range(0, picture.height(), 2)
    )
    assert found > 500
    game.end()
