"""A file that is written piece by piece is whole or as it was, and what went wrong is told as what it is."""

import errno
import os
from collections.abc import Callable
from pathlib import Path

import pytest

from woven_locus.core.errors import FileProblem
from woven_locus.files.atomic import streamed


@pytest.fixture
def path(tmp_path: Path) -> Path:
    found = tmp_path / "routes.json"
    found.write_text("what was there")
    return found


def test_it_is_there_once_all_of_it_is(path: Path) -> None:
    with streamed(path) as put:
        put(b"one ")
        assert path.read_text() == "what was there"
        put(b"two")
    assert path.read_text() == "one two"
    assert os.listdir(path.parent) == [path.name]


def write(path: Path, between: Callable[[], object]) -> None:
    with streamed(path) as put:
        put(b"half")
        between()
        put(b"whole")


@pytest.mark.parametrize("fault", [ValueError("no such row"), OSError(errno.ENOENT, "elsewhere")])
def test_a_fault_in_the_block_is_no_problem_of_the_file(path: Path, fault: Exception) -> None:
    def fail() -> None:
        raise fault

    with pytest.raises(type(fault)) as raised:
        write(path, fail)
    assert raised.value is fault
    assert path.read_text() == "what was there"
    assert os.listdir(path.parent) == [path.name]


@pytest.mark.parametrize("call", ["write", "fsync", "replace"])
def test_a_full_disk_is_a_problem_of_the_file(
    path: Path, monkeypatch: pytest.MonkeyPatch, call: str
) -> None:
    def full(*_words: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with pytest.raises(FileProblem, match=r"routes\.json: cannot be written: No space left"):
        write(path, lambda: monkeypatch.setattr(os, call, full))
    monkeypatch.undo()
    assert path.read_text() == "what was there"
    assert os.listdir(path.parent) == [path.name]
