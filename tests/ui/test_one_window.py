"""Who opens a plan that a window has open brings that window up."""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tests.helpers.builders import draw
from tests.ui.conftest import Driver
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.ui.one_window import OneWindow, raised_elsewhere

ASK = """
import sys
from pathlib import Path
from PyQt6.QtCore import QCoreApplication
from woven_locus.ui import one_window
app = QCoreApplication([])
one_window.PATIENCE_MSEC = 60_000
sys.exit(0 if one_window.raised_elsewhere(Path(sys.argv[1])) else 3)
"""
# Listens, says so, and answers nobody; or is killed.
HANG = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QCoreApplication
from PyQt6.QtNetwork import QLocalServer
from woven_locus.ui.one_window import _name
app = QCoreApplication([])
server = QLocalServer()
assert server.listen(_name(Path(sys.argv[1])))
print("there", flush=True)
time.sleep(60)
"""


@pytest.fixture
def path(tmp_path: Path) -> Path:
    plan_json.save(draw("...."), tmp_path / "town.plan.json")
    return tmp_path / "town.plan.json"


def asked(path: Path, qtbot: QtBot) -> bool:
    """By another process, while the window's own events go on."""
    process = subprocess.Popen([sys.executable, "-c", ASK, str(path)])
    qtbot.waitUntil(lambda: process.poll() is not None)
    assert process.returncode in (0, 3)
    return process.returncode == 0


def test_a_window_that_has_the_plan_comes_up(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    user = make_window(draw(".."))
    up: list[bool] = []
    assert user.window.one_window is not None
    monkeypatch.setattr(user.window.one_window, "_come_up", lambda: up.append(True))
    assert not asked(path, qtbot)
    user.session.open(Document.open(path))
    assert asked(path, qtbot)
    assert up == [True]
    # By another name of the file, too.
    link = path.with_name("link.plan.json")
    link.symlink_to(path)
    assert asked(link, qtbot)
    # Under another name it is another plan.
    user.session.document.save(path.with_name("other.plan.json"))
    user.session.saved.emit()
    assert not asked(path, qtbot)
    assert asked(path.with_name("other.plan.json"), qtbot)
    user.window.close()
    assert not asked(path.with_name("other.plan.json"), qtbot)


def test_one_who_hangs_or_was_killed_keeps_nobody_away(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = subprocess.Popen(
        [sys.executable, "-c", HANG, str(path)], stdout=subprocess.PIPE, text=True
    )
    assert other.stdout is not None
    assert other.stdout.readline() == "there\n"
    assert not raised_elsewhere(path)
    other.kill()
    other.wait()
    other.stdout.close()
    user = make_window(draw(".."))
    assert user.window.one_window is not None
    monkeypatch.setattr(user.window.one_window, "_come_up", lambda: None)
    user.session.open(Document.open(path))
    assert asked(path, qtbot)


def test_opening_it_in_a_window_brings_the_other_up(
    make_window: Callable[..., Driver], qtbot: QtBot, path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("woven_locus.ui.one_window.raised_elsewhere", lambda _path: True)
    user = make_window(draw(".."))
    user.window.files.open_path(path)
    assert "open in another window" in user.said
    assert user.session.document.path is None
    assert isinstance(user.window.one_window, OneWindow)
