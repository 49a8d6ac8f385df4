"""The table of a trial: CSV, one row a run, in order; what is there already is not done again."""

from __future__ import annotations

import csv
import fcntl
import io
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.files.atomic import read_bytes
from woven_locus.trial.runs import digest
from woven_locus.trial.spec import Spec


def line(cells: Sequence[Any]) -> str:
    """A row as text."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerow(cells)
    return out.getvalue()


def whole_rows(text: str) -> list[list[str]]:
    """The rows of a table, without one of which only a part is written yet. A quoted cell may hold a line break, so that
    rows are not lines."""
    return list(csv.reader(io.StringIO(text[: text.rfind("\n") + 1])))


def settings_of(spec: Spec, plan: Path, settings: dict[str, Any]) -> list[str]:
    """The first cells of a row."""
    several = [spec.name_of(plan)] if len(spec.plans) > 1 else []
    return [*several, *map(str, settings.values())]


class Table:
    """The file of a trial while it is written. A row that was only half written is taken off.

    done : rows that were there already and are of this trial. Raises FileProblem for a file of something else, and for rows
    of a plan as it is no more.
    """

    def __init__(self, spec: Spec, path: Path, force: bool = False) -> None:
        self._path, self._force, self.done = path, force, 0
        head = line(spec.columns)
        self._kept, self._read = head, b""
        if not path.exists() or force:
            return
        self._read = read_bytes(path)
        text = self._read.decode("utf-8", "replace")
        rows = whole_rows(text)
        if not rows or line(rows[0]) != head:
            raise self._other()
        for row, (plan, data, settings) in zip(rows[1:], spec.jobs(), strict=False):
            mine = settings_of(spec, plan, settings)
            if len(row) != len(spec.columns) or row[: len(mine)] != mine:
                raise self._other()
            if row[-2] != digest(data, spec.run, spec.seconds_of(settings)):
                why = phrase(
                    "has rows of {name_of} as it is no more, or of other seconds; name another file, or give --force",
                    name_of=spec.name_of(plan),
                )
                raise FileProblem(path, phrase("row {done}", done=self.done + 1), why)
            self._kept += line(row)
            self.done += 1
        if len(rows) - 1 > self.done:
            raise self._other()

    def _other(self) -> FileProblem:
        why = phrase("holds something other than this trial; name another file, or give --force")
        return FileProblem(self._path, "", why)

    @contextmanager
    def writing(self) -> Iterator[Any]:
        """A function that adds a row, which is on disk when it returns. Raises FileProblem, also while another trial writes
        the same file."""
        try:
            handle = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
        except OSError as err:
            raise FileProblem(
                self._path, "", phrase("cannot be written: {strerror}", strerror=err.strerror)
            ) from err
        with os.fdopen(handle, "r+b") as file:
            try:
                # Gone with the process, however that ends.
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                raise FileProblem(
                    self._path, "", phrase("is being written by another trial")
                ) from None
            if not self._force and file.read() != self._read:
                why = phrase("was written by another program just now; run the same again")
                raise FileProblem(self._path, "", why)
            file.seek(0)
            # What is there is written over by the same; only what follows it goes.
            data = self._kept.encode("utf-8")
            file.write(data)
            file.truncate(len(data))
            file.flush()

            def add(cells: Sequence[Any]) -> None:
                file.write(line(cells).encode("utf-8"))
                file.flush()

            yield add
