"""A process that is killed between any two of its calls to the system, for real."""

from __future__ import annotations

import fcntl
import os
import signal
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

_write, _open, _kill = os.write, os.open, os.kill
# Calls to the system that leave something behind.
_CALLS = ("open", "write", "fsync", "replace", "link", "unlink", "fchmod", "close", "rename")


class Log:
    """What was shown so far, one line each, written past all that counts calls."""

    def __init__(self, path: Path) -> None:
        self._handle = _open(path, os.O_CREAT | os.O_WRONLY | os.O_APPEND, 0o600)

    def __call__(self, line: str) -> None:
        _write(self._handle, f"{line}\n".encode())


def killed_at(count: int, scenario: Callable[[Log], object], log: Path) -> bool:
    """Run a scenario in a process of its own that is killed at its call number `count` to the system
    (files and statements of the database); False when it came to its end before."""
    child = os.fork()
    if child == 0:
        code = 1
        try:
            out = Log(log)
            _count_calls(count)
            scenario(out)
            code = 0
        except BaseException as err:  # noqa: BLE001 - the child's only way to tell
            _write(2, f"scenario failed: {type(err).__name__}: {err}\n".encode())
        finally:
            os._exit(code)
    _pid, status = os.waitpid(child, 0)
    if os.WIFSIGNALED(status):
        assert os.WTERMSIG(status) == signal.SIGKILL
        return True
    assert os.WEXITSTATUS(status) == 0
    return False


def _count_calls(last: int) -> None:
    done = 0

    def step() -> None:
        nonlocal done
        done += 1
        if done >= last:
            _kill(os.getpid(), signal.SIGKILL)

    def counted(real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*args: Any, **named: Any) -> Any:
            step()
            return real(*args, **named)

        return call

    for name in _CALLS:
        setattr(os, name, counted(getattr(os, name)))
    fcntl.flock = counted(fcntl.flock)

    class Connection(sqlite3.Connection):
        def execute(self, *args: Any) -> Any:
            step()
            return super().execute(*args)

    connect = sqlite3.connect

    def counted_connect(*args: Any, **named: Any) -> sqlite3.Connection:
        step()
        return connect(*args, factory=Connection, **named)

    sqlite3.connect = counted_connect
