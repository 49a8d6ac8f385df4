"""The window as a screen reader is told of it: the real tree, by AT-SPI over D-Bus. Where that is installed."""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).parents[2]
CLIENT = ROOT / "tests" / "helpers" / "atspi_client.py"
DEBIANS_PYTHON = "/usr/bin/python3"


def _missing() -> str:
    """The Debian packages that are not there."""
    asked = "import gi; gi.require_version('Atspi', '2.0')"
    has_bindings = (
        Path(DEBIANS_PYTHON).exists()
        and subprocess.run(
            [DEBIANS_PYTHON, "-c", asked], capture_output=True, check=False
        ).returncode
        == 0
    )
    there = {
        "xvfb": shutil.which("Xvfb") is not None,
        "dbus": shutil.which("dbus-run-session") is not None,
        "at-spi2-core": Path("/usr/libexec/at-spi-bus-launcher").exists(),
        "python3-gi gir1.2-atspi-2.0": has_bindings,
    }
    return " ".join(name for name, is_there in there.items() if not is_there)


MISSING = _missing()
pytestmark = pytest.mark.skipif(bool(MISSING), reason=f"apt-get install {MISSING}")


@pytest.fixture
def display() -> Iterator[str]:
    """An X server of our own."""
    read, write = os.pipe()
    command = ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"]
    with subprocess.Popen(command, pass_fds=[write], stderr=subprocess.DEVNULL) as server:
        os.close(write)
        with os.fdopen(read) as told:
            number = told.readline().strip()
        yield f":{number}"
        server.terminate()


@pytest.fixture
def told(display: str, tmp_path: Path) -> dict[str, Any]:
    """What the client was told of a window with the demo."""
    script = (
        f'"{sys.executable}" -m woven_locus demo & window=$!\n'
        f'{DEBIANS_PYTHON} -W ignore "{CLIENT}" > "{tmp_path / "told.json"}"; code=$?\n'
        "kill $window; exit $code"
    )
    env = os.environ | {
        "DISPLAY": display,
        "QT_QPA_PLATFORM": "xcb",
        "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
        "XDG_CONFIG_HOME": str(tmp_path / "config"),
        "XDG_STATE_HOME": str(tmp_path / "state"),
        "LC_ALL": "C.UTF-8",
    }
    command = ["dbus-run-session", "--", "bash", "-c", script]
    done = subprocess.run(command, env=env, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    found: dict[str, Any] = json.loads((tmp_path / "told.json").read_text())
    return found


def test_what_a_screen_reader_is_told(told: dict[str, Any]) -> None:
    shown = [part for part in told["tree"] if part["showing"]]
    assert len(shown) > 150
    nameless = [part for part in shown if part["focusable"] and not part["name"].strip()]
    assert nameless == []
    # On this desktop a combo box is called by its value: what it is for is its description.
    combos = [part for part in shown if part["role"] == "combo box"]
    assert combos
    assert [part for part in combos if not part["description"]] == []
    assert {"push button", "radio button", "spin button", "table", "page tab", "menu item"} <= {
        part["role"] for part in told["tree"]
    }
    # What draws itself is an image; only what holds others has no role of its own.
    images = [part["name"].split(":")[0] for part in shown if part["role"] == "image"]
    assert {"Sheet", "Lens", "Raw against snapped position"} <= set(images)
    roleless = {part["name"] for part in shown if part["focusable"] and part["role"] == "filler"}
    assert roleless <= {"Bench", "Reading", "Tray"}
    # The sheet says which cell, what is there and whether one may build, and tells of each change by itself.
    steps = [int(text.split()[1].rstrip(",")) for text in (told["before"], *told["heard"])]
    assert steps == [steps[0] + at for at in range(4)]
    assert told["heard"][-1] == told["after"]
    assert "Build on" in told["after"]
