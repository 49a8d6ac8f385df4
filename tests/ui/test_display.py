"""A window that cannot be shown is one clear sentence, never an abort."""

import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from tests.helpers import patience
from woven_locus.cli.main import main
from woven_locus.libraries import missing_library
from woven_locus.ui import display
from woven_locus.ui.display import NoDisplay, check_display


@pytest.mark.parametrize(
    ("environ", "why"),
    [
        ({}, "no display to open a window on"),
        ({"DISPLAY": ":4711"}, "nobody answers there"),
        ({"DISPLAY": "127.0.0.1:4711"}, "nobody answers there"),
        ({"DISPLAY": "127.0.0.1:99999"}, "nobody answers there"),
        ({"DISPLAY": "nonsense"}, "names no display"),
        ({"QT_QPA_PLATFORM": "xcb"}, "DISPLAY is not set"),
        ({"WAYLAND_DISPLAY": "wayland-4711", "XDG_RUNTIME_DIR": "/run"}, "cannot be reached"),
    ],
)
def test_what_cannot_be_reached_is_said(environ: dict[str, str], why: str) -> None:
    with pytest.raises(NoDisplay, match=why):
        check_display(environ)


def test_a_display_that_answers_is_enough(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with socket.socket(socket.AF_UNIX) as server:
        server.bind(str(tmp_path / "wayland-0"))
        server.listen()
        check_display({"WAYLAND_DISPLAY": "wayland-0", "XDG_RUNTIME_DIR": str(tmp_path)})
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        monkeypatch.setattr(display, "_X_PORT", server.getsockname()[1])
        monkeypatch.setattr(display, "_check_plugin", lambda _name: None)
        check_display({"DISPLAY": "127.0.0.1:0.0"})
    check_display({"QT_QPA_PLATFORM": "offscreen"})


def test_the_program_says_it_in_one_line(tmp_path: Path) -> None:
    environ = {
        k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")
    }
    done = subprocess.run(
        [sys.executable, "-m", "woven_locus", "demo"],
        env=environ | {"DISPLAY": ":4711"},
        capture_output=True,
        text=True,
        check=False,
        timeout=patience.SECONDS,
    )
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.splitlines()) == 1
    assert "':4711' (DISPLAY) cannot be reached" in done.stderr


def test_a_missing_library_is_named_with_its_package(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    words = "libEGL.so.1: cannot open shared object file: No such file or directory"
    assert missing_library(words) == (
        "the window needs libEGL.so.1, which is missing: install the package libegl1 (apt install libegl1)"
    )
    assert "libodd.so.3, which is missing: install it" in missing_library(
        "libodd.so.3: cannot open shared object file"
    )
    assert missing_library("No module named 'odd'") == ""

    def broken(_name: str) -> object:
        raise OSError("libxcb-cursor.so.0: cannot open shared object file: No such file")

    monkeypatch.setattr(display.ctypes, "CDLL", broken)
    with pytest.raises(NoDisplay, match="apt install libxcb-cursor0"):
        display._check_plugin("libqxcb.so")
    # Where Qt itself cannot be loaded, or is not there.
    for error, said in (
        (ImportError(words), "apt install libegl1"),
        (ModuleNotFoundError("No module named 'PyQt6'", name="PyQt6.QtCore"), "[desktop]"),
    ):

        def fails(_name: str, error: ImportError = error) -> object:
            raise error

        monkeypatch.setattr("woven_locus.demo.open_demo", fails)
        assert main(["demo", "thornmoth"]) == 2
        err = capsys.readouterr().err
        assert len(err.splitlines()) == 1
        assert said in err
