"""A plan handed over to a game from the window; the source answers the vectors as the plan does."""

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.helpers import patience
from tests.helpers.builders import draw, put
from tests.ui.conftest import Driver
from woven_locus.files.vectors_json import answers_from, differences
from woven_locus.ui.inout.handover_sheet import PLAN, VECTORS, HandoverSheet


def opened(user: Driver) -> HandoverSheet:
    user.window.actions_.by_name["file.hand_over"].trigger()
    return user.sheet_of(HandoverSheet)


def test_source_and_vectors_are_written_and_agree(
    make_window: Callable[..., Driver], qtbot: QtBot, tmp_path: Path
) -> None:
    plan = draw("......\n======\n..=...\n......")
    put(plan, "hut", 0, 0)
    user, folder = make_window(plan), tmp_path / "game"
    user.window.together.choose_folder = lambda _title: str(folder)
    sheet = opened(user)
    assert not sheet.make.isEnabled()
    user.push(sheet.pick)
    assert sheet.folder.text() == str(folder)
    user.choose(sheet.language, "Python")
    sheet.vectors.setValue(60)
    user.push(sheet.make)
    qtbot.waitUntil(lambda: user.said.startswith("Wrote "))
    done = subprocess.run(
        [sys.executable, "run.py", PLAN, VECTORS],
        cwd=folder,
        capture_output=True,
        check=True,
        timeout=patience.SECONDS,
    )
    given = answers_from(done.stdout, folder)
    found = differences(user.plan, 0, given, 60)
    assert (found["differ"], found["missing"]) == ([], [])
    # What somebody changed stays, unless that is ticked.
    changed = folder / "run.py"
    changed.write_text("# mine\n")
    sheet = opened(user)
    user.push(sheet.pick)
    user.push(sheet.make)
    qtbot.waitUntil(lambda: "name another folder" in user.said)
    assert changed.read_text() == "# mine\n"
    sheet = opened(user)
    user.push(sheet.pick)
    user.tick(sheet.over)
    user.push(sheet.make)
    qtbot.waitUntil(lambda: changed.read_text() != "# mine\n")
    assert json.loads((folder / VECTORS).read_text())
    qtbot.keyClick(opened(user), Qt.Key.Key_Escape)
