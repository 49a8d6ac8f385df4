"""A seeded monkey at the real window: whatever it does, nothing breaks and everything agrees."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication

from tests.helpers.builders import draw, put
from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import NO_KEY, SHIFT, Driver
from woven_locus.core.editing import Keep, Regrid
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow
from woven_locus.core.placing import Feasibility
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.files import plan_json

KEYS = [
    "F2",
    "F3",
    "F4",
    "F5",
    "F6",
    "Esc",
    "T",
    "Shift+T",
    "M",
    "Del",
    "Ctrl+Z",
    "Ctrl+Shift+Z",
    "Home",
    "End",
    "PgUp",
    "PgDown",
    "Left",
    "Right",
    "Up",
    "Down",
    "Return",
    "Shift+Return",
    "Space",
    "Ctrl+Home",
    "F9",
    "F10",
    "F11",
    *"ABLRFEPGHOXWJKQDNCV",
    "Shift+R",
    "Ctrl+C",
    "Ctrl+V",
    "Ctrl+A",
    "Ctrl+Left",
    "Ctrl+Down",
    "Shift+W",
    "Shift+Left",
    "Shift+Up",
    "Ctrl+PgUp",
    *"SUI",
    *(f"Shift+{key}" for key in "DBEPSFAXJMUI"),
    "Ctrl+Return",
]
PLANS: dict[str, Callable[[], Plan]] = {
    "vale": open_demo,
    "one cell": lambda: draw("."),
    "a row": lambda: draw("=" * 300, cell=(3, 40), first=(-150, 7)),
    "upside down": lambda: upside_down(),
    "stones": lambda: draw("\n".join(["o.o.sk="] * 9), cell=(24, 9)),
}


def upside_down() -> Plan:
    """The vale with y growing up the screen, and a window in it."""
    plan = open_demo()
    spec = replace(plan.spec, y_up=True, first_row=-9)
    made = Regrid(spec, Keep.PLACE).work_out(plan)[0]
    made.window = BuildWindow(Cell(10, 4), 30, 20)
    # As it is read: what follows from the window, too.
    return plan_json.parse(plan_json.dump(made))


class Monkey:
    """Random keys, clicks, drags, wheels and buttons."""

    def __init__(self, user: Driver, seed: int) -> None:
        self.user, self.rng = user, np.random.default_rng(seed)

    def place(self) -> QPoint:
        """Somewhere on the sheet, its scales and edges included."""
        sheet = self.user.sheet
        return QPoint(
            int(self.rng.integers(0, sheet.width())), int(self.rng.integers(0, sheet.height()))
        )

    def step(self) -> None:
        user, rng = self.user, self.rng
        what = rng.integers(0, 11)
        keys = SHIFT if rng.random() < 0.3 else NO_KEY
        if what <= 2:
            user.key(str(rng.choice(KEYS)))
        elif what <= 4:
            button = Qt.MouseButton.RightButton if rng.random() < 0.1 else Qt.MouseButton.LeftButton
            at = self.place()
            QTest.mouseMove(user.sheet, at)
            QTest.mouseClick(user.sheet, button, keys, at)
        elif what <= 6:
            self.drag(keys)
        elif what == 10:
            ways = user.window.bench.ways
            boxes = [
                user.window.bench.ground.view.overlay,
                *(ways.line.course, ways.line.kind, ways.sign.sign, ways.route.over),
                *(ways.study.shown, ways.study.trips),
            ]
            box = boxes[rng.integers(len(boxes))]
            box.setCurrentIndex(int(rng.integers(box.count())))
        elif what == 7:
            at = QPointF(self.place())
            turn = QPoint(0, int(rng.integers(-500, 500)))
            event = QWheelEvent(
                at,
                user.sheet.mapToGlobal(at),
                QPoint(),
                turn,
                Qt.MouseButton.NoButton,
                NO_KEY,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            )
            QApplication.sendEvent(user.sheet, event)
        else:
            self.push()
        QApplication.processEvents()

    def drag(self, keys: Qt.KeyboardModifier) -> None:
        user, rng = self.user, self.rng
        camera = user.sheet.camera
        cells = [camera.cell_at(self.place().x(), self.place().y()) for _ in range(4)]
        user.press(cells[0], keys)
        for cell in cells[1:]:
            user.to(cell, keys)
            if rng.random() < 0.1:
                user.key(str(rng.choice(["Esc", "F4", "F5", "Ctrl+Z", "Del", "Left"])))
        if rng.random() < 0.9:
            user.release(cells[-1], keys)

    def push(self) -> None:
        """A button of the bench, the reading or the tray; none that opens a dialog."""
        window = self.user.window
        buttons = [
            button
            for part in (window.bench, window.reading, window.tray, window.thread_)
            for button in part.findChildren(QAbstractButton)
            if button.isVisible() and button.isEnabled() and not button.text().endswith("…")
        ]
        if buttons:
            QTest.mouseClick(buttons[self.rng.integers(len(buttons))], Qt.MouseButton.LeftButton)


@pytest.mark.parametrize("name", PLANS)
def test_nothing_that_a_monkey_does_breaks_the_plan(
    make_window: Callable[..., Driver], name: str
) -> None:
    plan = PLANS[name]()
    if name == "stones":
        put(plan, "hut", 1, 1)
    user = make_window(plan)
    opened = recorded(plan)
    monkey = Monkey(user, seed=sum(map(ord, name)))
    for step in range(250):
        monkey.step()
        if step % 50 == 49:
            user.sheet.grab()
    user.session.walk.set_running(False)
    user.window.tray.funds.clock.set_running(False)
    for _ in range(3):
        user.key("Esc")
    history = user.session.document.history
    assert not history.in_gesture
    assert_derived_is_current(plan)
    covered = {cell for row in plan.register for cell in plan.cells_of(row)}
    assert covered == {
        plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.occupant > 0).tolist()
    }
    assert all(isinstance(cell, Cell) for cell in covered)
    model = user.window.tray.register.model_
    shown = [model.number_at(k) for k in range(model.rowCount())]
    if model.filter.plain:
        assert sorted(shown) == plan.register.numbers()
    assert set(shown) - {0} <= set(plan.register.numbers())
    fresh = Document(plan_json.parse(recorded(plan)))
    assert user.session.document.unsound() == fresh.unsound()
    assert plan.account.balance == fresh.plan.account.balance
    where = user.session.where.map
    if where is not None:
        again = Feasibility(plan, where.kind, where.turn, where.lifted)
        assert (where.why == again.why).all()
        assert (where.free, where.free_any) == (again.free, again.free_any)
    after = recorded(plan)
    position = history.position
    history.go_to(0)
    assert recorded(plan) == opened
    history.go_to(position)
    assert recorded(plan) == after
