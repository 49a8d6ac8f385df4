"""A process that is killed at any moment has lost nothing that it had shown: the document layer, and the real
window with a monkey at it, in strokes, saves, restores, and while a journal begins.

`make test` kills a few, `make kill` three hundred and a hundred (KILLS, WINDOW_KILLS).
"""

import multiprocessing
import os
import random
import signal
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from tests.helpers import patience
from tests.helpers.builders import draw, put
from tests.helpers.kills import Log
from tests.helpers.random_steps import random_step
from tests.helpers.state import recorded
from woven_locus.core.errors import FileProblem
from woven_locus.document import Document
from woven_locus.files.atomic import digest
from woven_locus.files.left_over import left_over

KILLS = int(os.environ.get("KILLS", "12"))
WINDOW_KILLS = int(os.environ.get("WINDOW_KILLS", "3"))
SEED = int(os.environ.get("KILL_SEED", "1"))


def killed_after(seconds: float, scenario: Callable[[], object]) -> None:
    """Run it in a process of its own, and kill that."""
    child = os.fork()
    if child == 0:
        code = 1
        try:
            scenario()
            code = 0
        finally:
            os._exit(code)
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            assert os.WIFEXITED(status)
            assert os.WEXITSTATUS(status) == 0
            return
        time.sleep(0.002)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)


def follow(document: Document, log: Callable[[str], object]) -> None:
    """Log each state when it is about to be written down, and again once it was shown."""

    def state() -> str:
        return digest(recorded(document.plan))

    document.history.watch(lambda _action, _edit: log(f"about {state()}"))
    log(f"shown {state()}")


def shows(document: Document, log: Callable[[str], object]) -> None:
    """To be called once the journal watches, so that it is told before."""
    document.history.listen(lambda _notice: log(f"shown {digest(recorded(document.plan))}"))


def assert_nothing_is_lost(folder: Path) -> int:
    """What the next start gets is what was shown last, or what was about to be; returns the states seen."""
    if not (folder / "log").exists():
        return 0  # it came to show nothing
    lines = [line.split() for line in (folder / "log").read_text().splitlines() if line]
    told = [line for line in lines if len(line) == 2]
    if not told:
        return 0
    last = max((k for k, (what, _) in enumerate(told) if what == "shown"), default=-1)
    may = {state for _what, state in told[max(0, last) :]}
    found = []
    for journal in left_over(folder / "journals"):
        try:
            found.append(digest(recorded(Document.restore(journal).plan)))
        except FileProblem as err:
            raise AssertionError(f"a journal that cannot be read: {err}") from err
    if not found:
        found = [digest(recorded(Document.open(folder / "a.plan.json").plan))]
    assert set(found) & may, (len(told), folder)
    return len(told)


def life_of_a_document(folder: Path, seed: int) -> None:
    """Open or restore, edit, save, begin anew."""
    log = Log(folder / "log")
    rng = np.random.default_rng(seed)
    waiting = list(left_over(folder / "journals"))
    path = folder / "a.plan.json"
    document = Document.restore(waiting[0]) if waiting else Document.open(path)
    follow(document, log)
    document.keep_journal(folder / "journals")
    shows(document, log)
    log("begun")
    while True:
        what = rng.integers(14)
        if what == 0:
            document.save(path, over=True)
        elif what == 1:
            document.history.undo()
        elif what == 2:
            document.history.redo()
        else:
            random_step(document.plan, document.history, rng)


def test_a_document_that_is_killed_has_lost_nothing(tmp_path: Path) -> None:
    chance = random.Random(SEED)
    states = 0
    for kill in range(KILLS):
        folder = tmp_path / f"at{kill}"
        folder.mkdir()
        plan = draw("........\n..s.====\n.o......\n........", cell=(2, 3))
        put(plan, "hut", 0, 0)
        Document(plan).save(folder / "a.plan.json")
        # Twice or three times over: what was restored is killed again.
        for again in range(chance.randint(1, 3)):
            killed_after(
                chance.uniform(0.01, 0.6),
                lambda folder=folder, seed=1000 * kill + again: life_of_a_document(folder, seed),  # type: ignore[misc]
            )
            states += assert_nothing_is_lost(folder)
            (folder / "log").unlink(missing_ok=True)
    assert states > 5 * KILLS


def life_of_a_window(folder: Path, seed: int, large: bool) -> None:
    """The window with a monkey at it, and its journal."""
    from PyQt6.QtCore import QSettings
    from pytestqt.qtbot import QtBot

    from tests.ui.conftest import Driver
    from tests.ui.test_monkey import Monkey
    from woven_locus.ui.inout import files, recovery
    from woven_locus.ui.jobs import asking
    from woven_locus.ui.start import make_app
    from woven_locus.ui.theme import Theme
    from woven_locus.ui.window import Window

    if large:
        files.AT_ONCE = asking.AT_ONCE = 0
    log = Log(folder / "log")
    app = make_app([])
    # What a test before switched is no setting of this one's user.
    QSettings().clear()
    recovery.folder = lambda: folder / "journals"
    window = Window(Document.open(folder / "a.plan.json"), Theme(app))
    window.show()
    app.processEvents()
    follow(window.session.document, log)
    window.recovery.start()
    shows(window.session.document, log)
    user = Driver(window, QtBot.__new__(QtBot))
    if window.ask_bar.isVisible():
        user.push(window.ask_bar.keep)
    monkey = Monkey(user, seed, folder)
    window.files.choose_save = lambda: str(folder / "a.plan.json")
    document = window.session.document
    while window.isVisible() and window.session.document is document:
        monkey.step()


def killed_after_it_showed(seconds: float, folder: Path, seed: int, large: bool) -> None:
    """A window in a process that shares nothing with this one, killed some time after it began. A fork of a process that has
    drawn would wait for ever for the threads with which Qt draws."""
    process = multiprocessing.get_context("spawn").Process(
        target=life_of_a_window, args=(folder, seed, large)
    )
    process.start()
    log, until = folder / "log", time.monotonic() + patience.MSEC / 1000
    while process.is_alive() and not (log.exists() and log.read_text()):
        assert time.monotonic() < until, "the window did not come"
        time.sleep(0.01)
    process.join(seconds)
    if process.is_alive():
        process.kill()
        process.join()
    else:
        assert process.exitcode == 0


def test_a_window_that_is_killed_has_lost_nothing(tmp_path: Path) -> None:
    chance = random.Random(SEED)
    states = 0
    for kill in range(WINDOW_KILLS):
        folder = tmp_path / f"at{kill}"
        folder.mkdir()
        plan = draw("\n".join(["..........", "..s.======", ".o........"] * 3), cell=(24, 24))
        put(plan, "hut", 0, 0)
        Document(plan).save(folder / "a.plan.json")
        killed_after_it_showed(chance.uniform(2.0, 6.0), folder, 77 + kill, kill % 2 == 1)
        states += assert_nothing_is_lost(folder)
    assert states > WINDOW_KILLS
