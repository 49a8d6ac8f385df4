"""On a desktop that is scaled, in another language, with broken settings: each in a process of its own, since
Qt reads its surroundings once."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.helpers import patience

_HEAD = """
import os, sys
from pathlib import Path
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from woven_locus.core.geometry import Cell
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.ui import start
from woven_locus.ui.session.stages import Stage

def settle(app, times=5):
    for _ in range(times):
        app.processEvents()
"""


def run(code: str, tmp_path: Path, **more: str) -> str:
    env = {
        **{key: value for key, value in os.environ.items() if not key.startswith("QT_")},
        "QT_QPA_PLATFORM": "offscreen",
        "XDG_CONFIG_HOME": str(tmp_path / "config"),
        "XDG_STATE_HOME": str(tmp_path / "state"),
        **more,
    }
    done = subprocess.run(
        [sys.executable, "-c", _HEAD + code],
        env=env,
        capture_output=True,
        text=True,
        timeout=patience.SECONDS,
    )
    assert done.returncode == 0, done.stderr
    assert "Traceback" not in done.stderr
    return done.stdout


_MARKS = """
app, window = start.open_window(Document(open_demo()))
window.theme.choose("light")
window.resize(1280, 800)
sheet, session = window.sheet, window.session
session.set_stage(Stage.BUILD)
sheet.patient = True
settle(app)
sheet.zoom(6)
sheet.camera.centre_on(Cell(23, 20))
session.arm("loom-hall")
session.pointer.to(session.plan.spec.centre(Cell(23, 20)))
settle(app)
picture = sheet.grab().toImage()
ratio = picture.devicePixelRatio()
camera = sheet.camera
assert abs(ratio - float(os.environ.get("QT_SCALE_FACTOR", "1"))) < 1e-6

def pixel(x, y):
    colour = picture.pixelColor(round(x * ratio), round(y * ratio))
    return colour.red(), colour.green(), colour.blue()

# The dot of a free cell lies in the middle of every cell of the ghost, whatever the scale.
for cell in session.plan.footprint(session.hand.ghost.kind, 0).at(session.hand.ghost.cell):
    at = sheet.place_of(cell)
    if abs(cell.col - 23) + abs(cell.row - 20) < 2:
        continue  # the pointer's own marks lie there
    tried = True
    assert pixel(at.x(), at.y()) == (0x2F, 0x4B, 0x7C), (cell, pixel(at.x(), at.y()))
assert tried
# What is drawn is made in pixels of the screen: a cell is a whole number of them, and the engraving has
# lines that are one pixel of the screen wide, which nothing enlarged would have.
assert (camera.ppc_x * ratio) % 1 == 0
assert (camera.left * ratio) % 1 == 0
session.disarm()
session.pointer.to(None)
settle(app)
picture = sheet.grab().toImage()
low = sheet.place_of(Cell(26, 20))
wide = round(camera.ppc_x * ratio)
x0, y0 = round((low.x() - camera.ppc_x / 2) * ratio), round((low.y() - camera.ppc_y / 2) * ratio)
rows = [[picture.pixel(x0 + x, y0 + y) for x in range(wide)] for y in range(wide)]
alone = sum(
    row[x] != row[x - 1] and row[x] != row[x + 1] for row in rows for x in range(1, wide - 1)
)
assert alone > 5, alone
# A click lands in the cell under the pointer.
QTest.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=sheet.place_of(Cell(30, 22)).toPoint())
assert session.pointer.hover.cell == (30, 22)
session.document.history.mark_saved()
window.close()
print("fine")
"""


@pytest.mark.parametrize("scale", ["1", "1.5", "2"])
def test_marks_lie_where_they_should_and_the_map_is_sharp(scale: str, tmp_path: Path) -> None:
    assert run(_MARKS, tmp_path, QT_SCALE_FACTOR=scale) == "fine\n"


_NUMBERS = """
from PyQt6.QtCore import QLocale, Qt
from woven_locus.ui.parts.widgets import WorldBox, whole_box
app = start.make_app([])
QLocale.setDefault(QLocale(os.environ["TEST_LANGUAGE"]))
for text in ("2,5", "2.5"):
    box = WorldBox(0, -100, 100)
    box.show()
    box.selectAll()
    QTest.keyClicks(box, text)
    QTest.keyClick(box, Qt.Key.Key_Return)
    print(box.value(), box.text())
whole = whole_box(7, 0, 100000, "n")
whole.show()
whole.selectAll()
QTest.keyClicks(whole, "1,5")
QTest.keyClick(whole, Qt.Key.Key_Return)
print(whole.value())
"""


@pytest.mark.parametrize("language", ["C", "de_DE", "en_US", "ar_EG"])
def test_both_decimal_marks_are_read_whatever_the_language(language: str, tmp_path: Path) -> None:
    out = run(_NUMBERS, tmp_path, TEST_LANGUAGE=language).splitlines()
    # No separator of thousands is read into a whole number: the comma was refused, its digits stayed.
    assert out == ["2.5 2.5", "2.5 2.5", "15"]


_START = """
app, window = start.open_window(Document(open_demo()))
settle(app)
print(window.messages.label.text())
print(window.session.choices.build.stay)
window.session.document.history.mark_saved()
window.close()
"""


@pytest.mark.parametrize(
    "lines",
    [
        ["window=abc"],
        ["window=@Size(0 0)"],
        ["[build]", "stay=a, b"],
        ["window=@Invalid()", "theme=7", "[keys]", "edit.turn=@Size(1 1)"],
        ["window=@Variant(\\0\\0\\0\\x7f\\0\\0\\0\\x5x)"],
    ],
)
def test_settings_that_cannot_be_read_are_left_out_with_a_word(
    lines: list[str], tmp_path: Path
) -> None:
    folder = tmp_path / "config" / "woven-locus"
    folder.mkdir(parents=True)
    text = "\n".join(lines if lines[0].startswith("[") else ["[General]", *lines])
    (folder / "woven-locus.conf").write_text(text + "\n")
    said, stay = run(_START, tmp_path).splitlines()[:2]
    assert stay == "True"
    bad = {line.split("=")[0] for line in lines if "=" in line} - {"window"} or {"window"}
    if "@Invalid" not in text and "@Variant" not in text:
        assert said.startswith("Settings that cannot be read were left out")
        assert any(name.rpartition("/")[2] in said for name in bad)


_STUBBORN = """
import threading, time
from PyQt6.QtCore import QTimer
from woven_locus.ui import window as window_module

window_module.JOBS_MSEC = 50
open_window = start.open_window

def opened(document):
    app, window = open_window(document)
    begin = lambda: window.session.jobs.start("Stubborn", lambda _: time.sleep(60), print)
    QTimer.singleShot(200, begin)
    QTimer.singleShot(900, window.close)
    return app, window

start.open_window = opened
late = threading.Timer(30, os._exit, [9])
late.daemon = True
late.start()
sys.exit(start.start(Document(open_demo())))
"""


def test_a_worker_that_does_not_stop_neither_holds_the_end_up_nor_crashes_it(
    tmp_path: Path,
) -> None:
    assert run(_STUBBORN, tmp_path) == ""
