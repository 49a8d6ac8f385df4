"""A seeded monkey at the real window: whatever it does, nothing breaks and everything agrees.

`make monkey` lets it at many seeds for half an hour (MONKEY_MINUTES).
"""

import os
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QLineEdit,
    QWidget,
)

from tests.helpers.builders import draw, put
from tests.helpers.random_steps import random_step
from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import NO_KEY, SHIFT, Driver
from woven_locus.core.editing import Keep, Regrid
from woven_locus.core.edits import kinds
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow
from woven_locus.core.placing import Feasibility
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
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
    """Random keys, clicks, drags, wheels, buttons, sheets, sizes, kinds and files."""

    def __init__(self, user: Driver, seed: int, folder: Path) -> None:
        self.user, self.rng, self.folder = user, np.random.default_rng(seed), folder
        window = user.window
        # Dialogs of the system's own have no place on a screen that is not there.
        window.files.choose_save = lambda: str(folder / "saved.plan.json")
        window.files.choose_open = lambda: ""
        window.exchange.choose_in = lambda _title, _kinds: ""
        window.exchange.choose_out = lambda _title, _start: str(folder / "out")

    def beside(self) -> None:
        """A few edits of somebody else at the live link, when the link would let them through."""
        session = self.user.session
        history = session.document.history
        if (
            history.in_gesture
            or QApplication.activeModalWidget()
            or QApplication.activePopupWidget()
        ):
            return
        with session.bunch.held():
            for _ in range(int(self.rng.integers(1, 4))):
                random_step(session.plan, history, self.rng, calm=True)

    def place(self) -> QPoint:
        """Somewhere on the sheet, its scales and edges included."""
        sheet = self.user.sheet
        return QPoint(
            int(self.rng.integers(0, sheet.width())), int(self.rng.integers(0, sheet.height()))
        )

    def step(self) -> None:
        user, rng = self.user, self.rng
        sheets = [w for w in user.window.findChildren(QDialog) if w.isVisible()]
        if sheets:
            self.fill(sheets[-1])
            QApplication.processEvents()
            return
        what = rng.integers(0, 16)
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
        elif what == 7:
            self.wheel()
        elif what == 8:
            self.choose()
        elif what == 9:
            user.window.resize(int(rng.integers(800, 1500)), int(rng.integers(560, 1000)))
        elif what == 10:
            self.catalogue()
        elif what == 11:
            tools = list(user.window.bench.ways.tools.values())
            user.key("F5")
            QTest.mouseClick(tools[rng.integers(len(tools))], Qt.MouseButton.LeftButton)
        elif what == 12 and rng.random() < 0.3:
            user.key(str(rng.choice(["Ctrl+S", "Ctrl+Shift+S", "F1"])))
        else:
            self.push(dialogs=rng.random() < 0.15)
        QApplication.processEvents()

    def wheel(self) -> None:
        user, at = self.user, QPointF(self.place())
        event = QWheelEvent(
            at,
            user.sheet.mapToGlobal(at),
            QPoint(),
            QPoint(0, int(self.rng.integers(-500, 500))),
            Qt.MouseButton.NoButton,
            NO_KEY,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(user.sheet, event)

    def choose(self) -> None:
        """Another entry of a box."""
        window = self.user.window
        ways = window.bench.ways
        boxes = [
            window.bench.ground.view.overlay,
            *(ways.line.course, ways.line.kind, ways.sign.sign, ways.route.over),
            *(ways.study.shown, ways.study.trips, window.bench.build.where.mode),
        ]
        box = boxes[self.rng.integers(len(boxes))]
        box.setCurrentIndex(int(self.rng.integers(box.count())))

    def catalogue(self) -> None:
        """A kind more, another footprint, or one fewer, as the sheet and the shelf do it."""
        session, rng = self.user.session, self.rng
        plan = session.plan
        if session.document.history.in_gesture:
            return
        every = list(plan.kinds)
        kind = every[rng.integers(len(every))]
        what = rng.integers(4)
        if what == 0 and len(every) < 14:
            session.attempt(kinds.copy_kind, plan, kind.key)
        elif what == 1 and len(every) > 1:
            session.attempt(kinds.remove_kind, plan, kind.key)
        elif what == 2:
            other = every[rng.integers(len(every))].footprint
            session.attempt(kinds.change_kind, plan, kind.key, replace(kind, footprint=other))
        else:
            session.arm(kind.key)

    def fill(self, sheet: QDialog) -> None:
        """Type into a sheet, or put it away."""
        rng = self.rng
        what = rng.integers(8)
        if what == 0:
            boxes = sheet.findChildren(QDialogButtonBox)
            button = boxes[0].button(QDialogButtonBox.StandardButton.Ok) if boxes else None
            if button is not None and button.isEnabled():
                QTest.mouseClick(button, Qt.MouseButton.LeftButton)
                return
        if what <= 2:
            sheet.reject()
            return
        fields = [
            w
            for w in sheet.findChildren(QWidget)
            if isinstance(w, QAbstractSpinBox | QLineEdit | QCheckBox | QComboBox)
            and w.isVisible()
            and w.isEnabled()
        ]
        if not fields:
            sheet.reject()
            return
        field = fields[rng.integers(len(fields))]
        if isinstance(field, QComboBox):
            field.setCurrentIndex(int(rng.integers(max(1, field.count()))))
        elif isinstance(field, QCheckBox):
            QTest.keyClick(field, Qt.Key.Key_Space)
        else:
            field.setFocus()
            QTest.keyClicks(
                field, str(rng.choice(["7", "-3", "2,5", "0.5", "abc", "40", "9999999"]))
            )
            QTest.keyClick(field, Qt.Key.Key_Tab)

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

    def push(self, dialogs: bool = False) -> None:
        """A button of the bench, the reading or the tray.  dialogs : one that opens a sheet, too."""
        window = self.user.window
        buttons = [
            button
            for part in (window.bench, window.reading, window.tray, window.thread_, window.ask_bar)
            for button in part.findChildren(QAbstractButton)
            if button.isVisible()
            and button.isEnabled()
            and (dialogs or not button.text().endswith("…"))
        ]
        if buttons:
            QTest.mouseClick(buttons[self.rng.integers(len(buttons))], Qt.MouseButton.LeftButton)


def one_life(
    make_window: Callable[..., Driver], name: str, seed: int, folder: Path, game: bool = False
) -> None:
    """A window, so many steps, and everything compared. game : somebody else edits the plan at the same time."""
    plan = PLANS[name]()
    if name == "stones":
        put(plan, "hut", 1, 1)
    user = make_window(plan)
    opened = recorded(plan)
    monkey = Monkey(user, seed, folder)
    for step in range(250):
        monkey.step()
        if user.session.plan is not plan:
            return  # it opened another one
        if game and monkey.rng.random() < 0.4:
            monkey.beside()
        if step % 50 == 49:
            user.sheet.grab()
    until_over(user)
    if user.session.plan is plan:
        agree(user, plan, opened)


def until_over(user: Driver) -> None:
    """Put everything away, and wait until nothing is under way."""
    for sheet in user.window.findChildren(QDialog):
        sheet.close()
    user.back()
    for clock in (user.desk.traffic, user.desk.waves, user.window.tray.funds.clock):
        clock.set_running(False)
    user.idle()
    for _ in range(4):
        user.key("Esc")


def agree(user: Driver, plan: Plan, opened: bytes) -> None:
    """Everything that follows from the plan is what a rebuild gives, and all can be undone."""
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
    assert user.session.document.misses.found == fresh.misses.found
    assert plan.account.balance == fresh.plan.account.balance
    where = user.desk.where.map
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


@pytest.mark.parametrize("name", PLANS)
def test_nothing_that_a_monkey_does_breaks_the_plan(
    make_window: Callable[..., Driver], name: str, tmp_path: Path
) -> None:
    one_life(make_window, name, sum(map(ord, name)), tmp_path)


MINUTES = float(os.environ.get("MONKEY_MINUTES", "0"))
FIRST_SEED = int(os.environ.get("MONKEY_SEED", "1"))


@pytest.mark.skipif(not MINUTES, reason="make monkey runs it")
def test_many_seeds(make_window: Callable[..., Driver], tmp_path: Path) -> None:
    until, seed = time.monotonic() + 60 * MINUTES, FIRST_SEED
    while time.monotonic() < until:
        for name in PLANS:
            (tmp_path / "seed").write_text(f"{name} {seed}")  # for whoever looks after a crash
            try:
                one_life(make_window, name, seed, tmp_path, game=seed % 2 == 0)
            except BaseException as err:
                err.add_note(f"MONKEY_SEED={seed}, plan {name!r}")
                raise
            seed += 1
    assert seed > FIRST_SEED
