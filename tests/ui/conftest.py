"""The real window, driven by real events; nothing waits for a fixed time."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt, QThreadPool
from PyQt6.QtGui import QKeySequence, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QWidget
from pytestqt.qtbot import QtBot

from tests.helpers import patience
from tests.helpers.builders import draw
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui import ahead
from woven_locus.ui.inout import recovery
from woven_locus.ui.start import make_app
from woven_locus.ui.theme import Theme, use_faces
from woven_locus.ui.window import Window

# Pages are built when they are wanted, however slow the machine; test_ahead.py tries the other.
ahead.QUIET_LOOKS = 1_000_000

LEFT = Qt.MouseButton.LeftButton
NO_KEY = Qt.KeyboardModifier.NoModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


# What belongs to Qt and was imported beside the interface's thread, which can end in a crash.
_beside: list[str] = []


def _look(event: str, args: tuple[object, ...]) -> None:
    if (
        event == "import"
        and str(args[0]).startswith(("PyQt6", "pyqtgraph"))
        and threading.current_thread() is not threading.main_thread()
    ):
        _beside.append(str(args[0]))


sys.addaudithook(_look)


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    app = make_app([])
    # Named faces; other ones are tried in test_faces.py.
    use_faces("DejaVu Sans", "DejaVu Sans Mono", 10)
    return app


class PatientBot(QtBot):
    """Waits until what must come has come, on a slow machine too."""

    def waitUntil(self, callback: Callable[[], object], *, timeout: int = patience.MSEC) -> None:
        super().waitUntil(callback, timeout=timeout)

    def waitSignal(self, signal: object, *, timeout: int = patience.MSEC, **more: object) -> object:
        return super().waitSignal(signal, timeout=timeout, **more)


@pytest.fixture
def qtbot(qapp: QApplication, request: pytest.FixtureRequest) -> QtBot:
    return PatientBot(request)


@pytest.fixture(scope="session")
def theme(qapp: QApplication) -> Theme:
    return Theme(qapp)


_Widget = TypeVar("_Widget", bound=QWidget)


class Driver:
    """A user at the window: points, clicks, drags and types."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.qtbot = window, qtbot
        self.sheet, self.session, self.desk = window.sheet, window.session, window.desk

    @property
    def plan(self) -> Plan:
        return self.session.plan

    def settle(self) -> None:
        for _ in range(3):
            QApplication.processEvents()

    def at(self, cell: tuple[float, float]) -> QPoint:
        return self.sheet.place_of(Cell(*cell)).toPoint()  # type: ignore[arg-type]

    def point(self, cell: tuple[int, int]) -> None:
        QTest.mouseMove(self.sheet, self.at(cell))
        self.settle()

    def click(self, cell: tuple[int, int], button: Qt.MouseButton = LEFT) -> None:
        self.point(cell)
        QTest.mouseClick(self.sheet, button, NO_KEY, self.at(cell))
        self.settle()

    def press(self, cell: tuple[int, int], keys: Qt.KeyboardModifier = NO_KEY) -> None:
        self.point(cell)
        QTest.mousePress(self.sheet, LEFT, keys, self.at(cell))

    def to(self, cell: tuple[int, int], keys: Qt.KeyboardModifier = NO_KEY) -> None:
        """Move with the button down. QTest sends no buttons with a move, so the event is made."""
        at = QPointF(self.at(cell))
        event = QMouseEvent(
            QEvent.Type.MouseMove,
            at,
            self.sheet.mapToGlobal(at),
            Qt.MouseButton.NoButton,
            LEFT,
            keys,
        )
        QApplication.sendEvent(self.sheet, event)
        self.settle()

    def release(self, cell: tuple[int, int], keys: Qt.KeyboardModifier = NO_KEY) -> None:
        QTest.mouseRelease(self.sheet, LEFT, keys, self.at(cell))
        self.settle()

    def drag(self, *cells: tuple[int, int], keys: Qt.KeyboardModifier = NO_KEY) -> None:
        self.press(cells[0], keys)
        for cell in cells[1:]:
            self.to(cell, keys)
        self.release(cells[-1], keys)

    def push(self, button: QWidget) -> None:
        QTest.mouseClick(button, LEFT)
        self.settle()

    def key(self, keys: str | Qt.Key, widget: QWidget | None = None) -> None:
        target = widget or self.sheet
        target.setFocus()
        QTest.keySequence(target, QKeySequence(keys))
        self.settle()

    def type(self, box: QWidget, keys: str) -> None:
        """Write over what a field or a spin box holds, and leave it."""
        box.setFocus()
        QTest.keySequence(box, QKeySequence(QKeySequence.StandardKey.SelectAll))
        QTest.keyClicks(box, keys)
        QTest.keyClick(box, Qt.Key.Key_Tab)
        self.settle()

    def tick(self, box: QAbstractButton) -> None:
        """Switch a check box or a radio button by the keyboard."""
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Space)
        self.settle()

    def back(self) -> None:
        """To the main window, after a sheet was closed."""
        self.window.activateWindow()
        self.qtbot.waitUntil(self.window.isActiveWindow)

    def choose(self, box: QComboBox, text: str) -> None:
        """Pick an entry by its words, with the keyboard."""
        box.setFocus()
        at = box.findText(text)
        assert at >= 0, [box.itemText(k) for k in range(box.count())]
        QTest.keyClick(box, Qt.Key.Key_Home)
        for _ in range(at):
            QTest.keyClick(box, Qt.Key.Key_Down)
        assert box.currentIndex() == at
        self.settle()

    def sheet_of(self, kind: type[_Widget]) -> _Widget:
        """The one open sheet of a kind."""
        found = [w for w in self.window.findChildren(kind) if w.isVisible()]
        assert len(found) == 1, found
        return found[0]

    def idle(self) -> None:
        """Until no job runs and its answer has come in."""
        self.qtbot.waitUntil(lambda: not self.session.jobs.running)
        self.settle()

    def colour_at(self, cell: tuple[int, int], dx: int = 0, dy: int = 0) -> tuple[int, int, int]:
        """A pixel of the sheet, from a cell's centre."""
        self.sheet.patient = True
        picture = self.sheet.grab().toImage()
        at = self.at(cell)
        colour = picture.pixelColor(at.x() + dx, at.y() + dy)
        return colour.red(), colour.green(), colour.blue()

    @property
    def said(self) -> str:
        """The message that stands over the sheet, or nothing."""
        bar = self.window.messages
        return bar.label.text() if bar.isVisible() else ""


@pytest.fixture
def make_window(qtbot: QtBot, theme: Theme) -> Iterator[Callable[..., Driver]]:
    made: list[Window] = []
    # What an earlier test switched (the monkey, above all) is no setting of this one's user.
    QSettings().clear()
    theme.choose("light")

    def make(plan: Plan | str | None = None) -> Driver:
        if isinstance(plan, str):
            plan = draw(plan, cell=(24, 24))
        window = Window(Document(plan or open_demo()), theme)
        made.append(window)
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        driver = Driver(window, qtbot)
        driver.settle()
        return driver

    yield make
    for window in made:
        window.session.document.history.mark_saved()
        window.close()
        window.deleteLater()
        assert window.session.jobs.wait(patience.MSEC), "a job outlived its test"
    # Without an event loop nobody else would delete them.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    assert _beside == []
    assert QThreadPool.globalInstance().waitForDone(patience.MSEC)  # type: ignore[union-attr]


@pytest.fixture
def vale(make_window: Callable[..., Driver]) -> Driver:
    """The window on Selvedge Vale."""
    return make_window()


@pytest.fixture
def large(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every plan is treated as one that is too large for a frame."""
    for module in ("inout.files", "jobs.asking"):
        monkeypatch.setattr(f"woven_locus.ui.{module}.AT_ONCE", 0)


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where journals are kept."""
    monkeypatch.setattr(recovery, "folder", lambda: tmp_path / "journals")
    return tmp_path / "journals"
