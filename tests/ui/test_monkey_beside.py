"""The monkey with every menu, while somebody else writes and removes the files, and jobs are stopped midway."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QAbstractItemView, QApplication, QDialog

from tests.helpers.builders import draw, put
from tests.helpers.random_steps import random_step
from tests.helpers.state import recorded
from tests.ui.conftest import LEFT, NO_KEY, Driver
from tests.ui.test_monkey import FIRST_SEED, MINUTES, PLANS, Monkey, agree, until_over
from woven_locus.core.editing import History
from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.files import plan_json
from woven_locus.ui import ahead

# What ends the window, or asks the desktop.
LEFT_OUT = {"file.quit", "file.print", "help.guide"}
KEYS = (Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_Home, Qt.Key.Key_Return)
TRIAL = """plan = "town.plan.json"
run = "traffic"
seconds = 10
note = ["wanted", "mean_trip"]
[vary]
keep = ["right", "left"]
seed = "0..2"
"""


class Beside(Monkey):
    """A monkey whose files others write, too."""

    def __init__(self, user: Driver, seed: int, folder: Path) -> None:
        super().__init__(user, seed, folder)
        window = user.window
        self._lay_out(user.plan)
        window.files.choose_open = lambda: self.pick("", "json")
        window.files.choose_source = lambda title: self.pick(title, "json")
        window.exchange.choose_in = self.pick
        window.exchange.choose_out = lambda _title, start: str(folder / Path(start).name)
        window.together.choose_folder = lambda _title: str(folder / "code")

    def _lay_out(self, plan: Plan) -> None:
        folder = self.folder
        town = draw("......\n======\n..=...\n..=...\n......", cell=(24, 24))
        put(town, "hut", 0, 0)
        put(town, "hut", 3, 3)
        town.traffic = TrafficPlan(trips=(Trip(1, 2, 0.0, "", 5.0, 4),))
        plan_json.save(town, folder / "town.plan.json")
        (folder / "other.plan.json").write_bytes(recorded(plan))
        (folder / "town.toml").write_text(TRIAL)
        (folder / "junk.plan.json").write_text('{"format": 3')
        (folder / "junk.toml").write_text("plan = 4")
        (folder / "junk.csv").write_text("a,b\n1,2\n")

    def pick(self, _title: str, kinds: str) -> str:
        """A file, of the right kind or not, or none."""
        every = sorted(path for path in self.folder.iterdir() if path.is_file())
        suffix = ".toml" if "toml" in kinds else ".plan.json" if "json" in kinds else "."
        fit = [str(path) for path in every if suffix in path.name]
        return str(self.rng.choice([*fit, ""]))

    def act(self) -> None:
        """Something out of the menus."""
        actions = self.user.window.actions_.by_name
        names = [name for name, act in actions.items() if act.isEnabled() and name not in LEFT_OUT]
        actions[str(self.rng.choice(names))].trigger()

    def write(self) -> None:
        """As another program."""
        folder = self.folder
        held = self.user.session.document.path or folder / "saved.plan.json"
        path = (held, held, folder / "other.plan.json", folder / "town.csv")[self.rng.integers(4)]
        if not path.exists():
            return
        if path.suffix == ".csv":
            path.write_text(path.read_text()[:-7])
        elif self.rng.random() < 0.3:
            path.unlink()
        else:
            try:
                plan = plan_json.load(path)
            except WovenError:
                return  # it was no plan before
            history = History(plan)
            for _ in range(3):
                random_step(plan, history, self.rng, calm=True)
            plan_json.save(plan, path)

    def press(self, sheet: QDialog) -> None:
        """A button, or a row of a list."""
        rng = self.rng
        for chooser, answer in (("choose_dye", "#123456"), ("choose_printer", False)):
            if hasattr(sheet, chooser):
                setattr(sheet, chooser, lambda _now, answer=answer: answer)
        lists = [view for view in sheet.findChildren(QAbstractItemView) if view.isVisible()]
        buttons = [
            b for b in sheet.findChildren(QAbstractButton) if b.isVisible() and b.isEnabled()
        ]
        if lists and rng.random() < 0.3:
            view = lists[rng.integers(len(lists))]
            QTest.mouseClick(view.viewport(), LEFT, NO_KEY, view.viewport().rect().center())  # type: ignore[union-attr]
            QTest.keyClick(view, KEYS[rng.integers(len(KEYS))])
        elif buttons:
            QTest.mouseClick(buttons[rng.integers(len(buttons))], LEFT)

    def step(self) -> None:
        what = self.rng.random()
        sheets = [w for w in self.user.window.findChildren(QDialog) if w.isVisible()]
        if what < 0.12:
            self.act()
        elif what < 0.16:
            self.write()
        elif what < 0.19:
            self.user.session.jobs.stop_all()
        elif what < 0.30:
            QTest.qWait(int(self.rng.integers(0, 400)))
        elif sheets and what < 0.6:
            self.press(sheets[-1])
        else:
            super().step()
        QApplication.processEvents()


def one_life(make_window: Callable[..., Driver], name: str, seed: int, folder: Path) -> None:
    """A window, so many steps, and everything compared, of whatever plan is open at the end."""
    folder.mkdir()
    user = make_window(PLANS[name]())
    monkey = Beside(user, seed, folder)
    if seed % 3:
        user.key("Ctrl+S")
        user.idle()
    for _ in range(150):
        monkey.step()
    until_over(user)
    history = user.session.document.history
    position = history.position
    history.go_to(0)
    first = recorded(user.plan)
    history.go_to(position)
    user.idle()
    agree(user, user.plan, first)


@pytest.fixture(autouse=True)
def _soon_ahead(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pages are built between its steps."""
    monkeypatch.setattr(ahead, "QUIET_LOOKS", 1)


@pytest.mark.parametrize("name", ["vale"])
def test_nothing_that_others_do_to_the_files_breaks_the_window(
    make_window: Callable[..., Driver], folder: Path, name: str
) -> None:
    one_life(make_window, name, sum(map(ord, name)), folder.parent / "files")


@pytest.mark.skipif(not MINUTES, reason="make monkey runs it")
@pytest.mark.parametrize("seed", range(FIRST_SEED, FIRST_SEED + int(MINUTES)))
def test_many_seeds_beside(make_window: Callable[..., Driver], folder: Path, seed: int) -> None:
    one_life(make_window, list(PLANS)[seed % len(PLANS)], seed, folder.parent / "files")
