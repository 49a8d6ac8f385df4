"""What is written down when the program itself fails: where in the code, with which versions, and the last actions by
name. Nothing of a plan is in it, no name, no number and no file of the user's: not even an error's own words, which
may quote them."""

from __future__ import annotations

import faulthandler
import os
import platform
import traceback
from collections import deque
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

import platformdirs

from woven_locus.version import __version__

# Reports that are kept, and actions that are remembered.
MOST_REPORTS, MOST_ACTIONS = 20, 40
# What the interpreter writes at the head of the trace of a fault.
_FAULT = "Fatal Python error"
_WATCHED = "running-"


def report_folder() -> Path:
    """In the XDG state folder."""
    return Path(platformdirs.user_state_dir("woven-locus")) / "reports"


def head(what: str) -> str:
    """The lines with which a report begins. what : happened."""
    from importlib import metadata

    lines = [what, f"Woven Locus {__version__}, Python {platform.python_version()}"]
    for name in ("PyQt6", "PyQt6-Qt6", "numpy", "numba"):
        with suppress(metadata.PackageNotFoundError):
            lines.append(f"{name} {metadata.version(name)}")
    lines.append(f"{platform.system()} {platform.release()}, {platform.machine()}")
    return "\n".join(lines) + "\n\n"


def trace_of(error: BaseException) -> str:
    """Where in the code, from the outermost call on, and the kinds of error that led to each other, without their words."""
    lines = []
    seen: BaseException | None = error
    while seen is not None:
        for frame in traceback.extract_tb(seen.__traceback__):
            lines.append(f"  {_short(frame.filename)}:{frame.lineno} in {frame.name}")
        lines.append(type(seen).__name__)
        seen = seen.__cause__ or (None if seen.__suppress_context__ else seen.__context__)
        if seen is not None:
            lines.append("after")
    return "\n".join(lines) + "\n"


def _short(path: str) -> str:
    """From the package on: where it is installed is nobody's business."""
    parts = Path(path).parts
    for name in ("woven_locus", "site-packages"):
        if name in parts:
            return "/".join(parts[len(parts) - 1 - parts[::-1].index(name) :])
    return Path(path).name


class Reporter:
    """Of one process. `note` every action; `write` when an error got out."""

    def __init__(self) -> None:
        self._actions: deque[str] = deque(maxlen=MOST_ACTIONS)
        self._told: set[str] = set()
        self._watched: IO[str] | None = None

    def note(self, action: str) -> None:
        """An action is being done. action : its name in the program, never a user's word."""
        self._actions.append(action)
        if self._watched is not None:
            with suppress(OSError):
                self._watched.write(f"{action}\n")
                self._watched.flush()

    def write(self, error: BaseException) -> Path | None:
        """A report of an error; None where this one was reported already, or nothing can be written."""
        trace = trace_of(error)
        if trace in self._told:
            return None
        self._told.add(trace)
        actions = "".join(f"{action}\n" for action in self._actions) or "none\n"
        text = head("An error that nobody expected.") + f"{trace}\nLast actions\n{actions}"
        return _keep(text)

    def watch(self) -> None:
        """Have a fault that ends the process (in a library, say) written down by the interpreter."""
        folder = report_folder()
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._watched = (folder / f"{_WATCHED}{os.getpid()}.txt").open("w", encoding="utf-8")
            self._watched.write(head("The process ended with a fault.") + "Last actions\n")
            self._watched.flush()
            faulthandler.enable(self._watched)
        except OSError:
            self._watched = None

    def end(self) -> None:
        """The process ends as it should."""
        if self._watched is not None:
            faulthandler.disable()
            with suppress(OSError):
                self._watched.close()
                Path(self._watched.name).unlink()
            self._watched = None


def left_behind() -> list[Path]:
    """Reports of processes that ended with a fault and that nobody has been told of. Notes of those that were only killed
    are removed."""
    found = []
    for path in sorted(report_folder().glob(f"{_WATCHED}*.txt")):
        number = path.stem.removeprefix(_WATCHED)
        if number.isdecimal() and _runs(int(number)):
            continue
        with suppress(OSError):
            text = path.read_text("utf-8", "replace")
            path.unlink()
            if _FAULT in text:
                kept = _keep("".join(f"{_without_home(line)}\n" for line in text.splitlines()))
                if kept is not None:
                    found.append(kept)
    return found


def _without_home(line: str) -> str:
    start, quote, rest = line.partition('File "')
    path, end, after = rest.partition('"')
    return f"{start}{quote}{_short(path)}{end}{after}" if quote else line


def _runs(number: int) -> bool:
    try:
        os.kill(number, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def _keep(text: str) -> Path | None:
    """Into a file of its own; the oldest ones go."""
    folder = report_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S-%f")
        path = folder / f"report-{stamp}.txt"
        path.write_text(text, encoding="utf-8")
        for old in sorted(folder.glob("report-*.txt"))[:-MOST_REPORTS]:
            old.unlink()
    except OSError:
        return None
    return path


reporter = Reporter()
