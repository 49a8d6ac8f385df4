"""Writing a document to its file, on whatever thread, while it may be edited."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.files.journal import Renewal

# How long one waits for a stroke to end before looking again, seconds.
_PAUSE = 0.02


def settled_snapshot(plan: Plan, stopped: Callable[[], bool] = lambda: False) -> Plan:
    """A copy of the plan between two steps: on another thread this waits until no gesture is under way,
    since half a stroke belongs into no file. Raises FileProblem when stopped meanwhile."""
    while (twin := plan.snapshot()).in_gesture:
        if stopped():
            raise FileProblem(
                plan.name, "", phrase("was not written: stopped while a stroke was in hand")
            )
        time.sleep(_PAUSE)
    return twin


class Saving:
    """A file that is being written. `write` may run on any thread; then `Document.saved` takes note.

    expected : the digest of what the file should hold before, or None to write over whatever is there.
    revision, digest : of what was written, once it was.
    """

    def __init__(
        self, plan: Plan, path: Path, expected: str | None, renewal: Renewal | None
    ) -> None:
        self.path, self.renewal = path, renewal
        self.revision, self.digest = -1, ""
        self.journal_error: FileProblem | None = None
        self._plan, self._expected = plan, expected

    def write(self, stopped: Callable[[], bool] = lambda: False) -> None:
        """Raises FileProblem, FileChanged when another program wrote the file; it is then as it was."""
        twin = settled_snapshot(self._plan, stopped)
        data = plan_json.dump(twin)
        self.digest = plan_json.write(data, self.path, self._expected)
        self.revision = twin.revision
        # Behind the file, not beside it: of a disk that is nearly full the file gets what there is.
        if self.renewal is not None:
            try:
                self.renewal.put_base(data)
            except FileProblem as err:
                self.journal_error = err
