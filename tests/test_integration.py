"""The program in a user's desktop, held to the validators of its formats where they are there."""

import io
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from PIL import Image

from tests.helpers import patience
from woven_locus.cli.main import main, woven_locus
from woven_locus.core.errors import WovenError
from woven_locus.integration import APP_ID, install
from woven_locus.integration.entries import MIME_TYPE
from woven_locus.integration.manual import manual


@pytest.fixture
def run(capsys: pytest.CaptureFixture[str]) -> Callable[..., tuple[int, str, str]]:
    def go(*words: object) -> tuple[int, str, str]:
        code = main(["integrate", *map(str, words)])
        return code, *capsys.readouterr()

    return go


def said_by(*words: object, **more: Any) -> str:
    """By a validator; the test is left out where that is not there. What it refuses fails."""
    if shutil.which(str(words[0])) is None:
        pytest.skip(f"{words[0]} is not there")
    done = subprocess.run(
        [*map(str, words)],
        capture_output=True,
        text=True,
        check=False,
        timeout=patience.SECONDS,
        **more,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout + done.stderr


def test_all_is_written_and_taken_away_again(
    run: Callable[..., tuple[int, str, str]], tmp_path: Path
) -> None:
    other = tmp_path / "applications" / "other.desktop"
    other.parent.mkdir()
    other.write_text("[Desktop Entry]\nType=Application\nName=Other\nExec=other\n")
    code, _out, err = run("--prefix", tmp_path, "--command", "/opt/woven locus/bin/woven-locus")
    assert (code, err) == (0, "")
    for place in install.places(woven_locus):
        assert (tmp_path / place).stat().st_size > 100, place
    entry = (tmp_path / f"applications/{APP_ID}.desktop").read_text()
    assert 'Exec="/opt/woven locus/bin/woven-locus" open %f\n' in entry
    for size in install.SIZES:
        picture = Image.open(io.BytesIO((tmp_path / install.icon_place(size)).read_bytes()))
        assert picture.size == (size, size)
        assert picture.getextrema()[3] == (0, 255) or picture.getextrema()[3][1] == 255
    # Twice is as good as once.
    assert run("--prefix", tmp_path, "--command", "/opt/woven-locus")[0] == 0
    assert run("--remove", "--prefix", tmp_path)[0] == 0
    assert not [place for place in install.places(woven_locus) if (tmp_path / place).exists()]
    assert other.exists()
    assert run("--remove", "--prefix", tmp_path)[1].count(".desktop") == 0


@pytest.fixture
def installed(tmp_path: Path) -> Path:
    def no_icon(size: int) -> bytes:
        out = io.BytesIO()
        Image.new("RGBA", (size, size)).save(out, "PNG")
        return out.getvalue()

    install.install(tmp_path, "/opt/o d d/100%/woven-locus", woven_locus, no_icon)
    return tmp_path


def test_the_desktop_entry_is_valid(installed: Path) -> None:
    found = said_by("desktop-file-validate", installed / f"applications/{APP_ID}.desktop")
    assert "error" not in found


def test_the_metainfo_is_valid(installed: Path) -> None:
    path = installed / f"metainfo/{APP_ID}.metainfo.xml"
    assert ElementTree.parse(path).getroot().findtext("id") == APP_ID
    said_by("appstreamcli", "validate", "--no-net", path)


def test_a_plan_has_its_type(installed: Path) -> None:
    """As the shared database answers it: by its name, before what its bytes look like."""
    said_by("update-mime-database", installed / "mime")
    assert f"60:{MIME_TYPE}:*.plan.json" in (installed / "mime/globs2").read_text().splitlines()
    assert f"{MIME_TYPE} application/json" in (installed / "mime/subclasses").read_text()


def test_a_program_that_no_entry_can_name_is_refused(tmp_path: Path) -> None:
    with pytest.raises(WovenError, match="install it elsewhere"):
        install.install(tmp_path, "/opt/$HOME/woven-locus", woven_locus, lambda _size: b"")
    assert list(tmp_path.iterdir()) == []


def test_the_manual_page_is_read(installed: Path) -> None:
    page = said_by(
        "man", "-l", installed / "man/man1/woven-locus.1", env=os.environ | {"MANWIDTH": "100"}
    )
    for words in ("place PLAN", "--kind", "merge BASE OURS THEIRS", "EXIT STATUS"):
        assert words in page
    text = manual(woven_locus)
    assert not [line for line in text.splitlines() if line.startswith("'")]
    for verb in ("snap", "probe", "handover", "integrate"):
        assert f".SS {verb}" in text


def test_completions_name_the_verbs(installed: Path) -> None:
    script = installed / "bash-completion/completions/woven-locus"
    said_by("bash", "-n", script)
    environ = os.environ | {
        "COMP_WORDS": "woven-locus p",
        "COMP_CWORD": "1",
        "_WOVEN_LOCUS_COMPLETE": "bash_complete",
    }
    done = subprocess.run(
        [sys.executable, "-m", "woven_locus"],
        env=environ,
        capture_output=True,
        text=True,
        check=False,
        timeout=patience.SECONDS,
    )
    assert {line.split(",")[-1] for line in done.stdout.split()} == {"probe", "place", "proof"}


def test_a_folder_that_cannot_be_written_is_said(
    run: Callable[..., tuple[int, str, str]], tmp_path: Path
) -> None:
    (tmp_path / "applications").write_text("a file")
    code, out, err = run("--prefix", tmp_path, "--command", "/opt/woven-locus")
    assert (code, out) == (2, "")
    assert len(err.splitlines()) == 1
    assert str(tmp_path / "applications") in err


def test_the_users_own_folder_and_command(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert install.data_home() == tmp_path
    monkeypatch.setenv("XDG_DATA_HOME", "relative")
    assert install.data_home() == Path.home() / ".local" / "share"
    monkeypatch.setattr(sys, "executable", str(tmp_path / "python"))
    monkeypatch.setattr(sys, "argv", ["nothing"])
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(WovenError, match="--command"):
        install.own_command()
    beside = tmp_path / "woven-locus"
    beside.write_text("")
    assert install.own_command() == str(beside)
