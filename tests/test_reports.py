"""What is written down when the program fails: enough to find the place, and nothing of anybody's plan."""

import subprocess
import sys
from pathlib import Path

import pytest

from woven_locus import reports
from woven_locus.cli import main as main_module
from woven_locus.reports import MOST_ACTIONS, MOST_REPORTS, Reporter, left_behind, report_folder


@pytest.fixture(autouse=True)
def _state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


def _fail(words: str) -> None:
    try:
        raise KeyError(words)
    except KeyError as err:
        raise RuntimeError(f"while at {words}") from err


def test_a_report_says_where_and_after_what_and_nothing_of_the_plan() -> None:
    reporter = Reporter()
    for at in range(MOST_ACTIONS + 5):
        reporter.note(f"edit.undo{at}")
    with pytest.raises(RuntimeError) as caught:
        _fail("Lady Orla's secret mill")
    path = reporter.write(caught.value)
    assert path is not None
    text = path.read_text()
    assert "test_reports.py:" in text
    assert "in _fail" in text
    assert "RuntimeError\nafter\n" in text
    assert "KeyError" in text
    assert "Woven Locus" in text
    assert "Python" in text
    assert "edit.undo44\n" in text
    assert "edit.undo4\n" not in text
    assert "Orla" not in text
    assert str(Path.home()) not in text
    # The same one again, with every frame say, is one report.
    assert reporter.write(caught.value) is None


def test_old_reports_go_and_a_folder_that_cannot_be_written_is_no_second_failure(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    for at in range(MOST_REPORTS + 3):
        kind = type(f"Kind{at}", (Exception,), {})
        assert Reporter().write(kind()) is not None
    kept = sorted(report_folder().glob("report-*.txt"))
    assert len(kept) == MOST_REPORTS
    assert "Kind0\n" not in kept[0].read_text()
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    assert Reporter().write(ValueError()) is None
    Reporter().watch()


FAULTY = """
import faulthandler, os, sys
from woven_locus.reports import Reporter
reporter = Reporter()
reporter.watch()
reporter.note("ways.route")
if sys.argv[1] == "fault":
    faulthandler._sigsegv()
elif sys.argv[1] == "kill":
    os.kill(os.getpid(), 9)
reporter.end()
"""


@pytest.mark.parametrize("how", ["fault", "kill", "well"])
def test_only_a_fault_is_told_of_afterwards(how: str) -> None:
    subprocess.run([sys.executable, "-c", FAULTY, how], check=False)
    found = left_behind()
    assert len(found) == (how == "fault")
    if found:
        text = found[0].read_text()
        assert "Segmentation fault" in text
        assert "ways.route\n" in text
        assert str(Path(reports.__file__).parent) not in text
    assert left_behind() == []
    assert not list(report_folder().glob("running-*"))


def test_one_that_still_runs_is_left_alone() -> None:
    reporter = Reporter()
    reporter.watch()
    assert left_behind() == []
    assert list(report_folder().glob("running-*"))
    reporter.end()


def test_a_bug_on_the_command_line_names_its_report(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def broken(*_args: object, **_more: object) -> None:
        raise ZeroDivisionError("of Orla's mill")

    monkeypatch.setattr(main_module.woven_locus, "main", broken)
    assert main_module.main(["links", "a.plan.json"]) == 70
    said = capsys.readouterr().err
    (path,) = report_folder().glob("report-*.txt")
    assert f"{path} says where" in said
    assert "in broken" in path.read_text()
