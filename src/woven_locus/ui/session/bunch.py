"""Many edits in a row, of which the window hears once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from woven_locus.core.editing import Notice


class Bunch:
    """tell : everybody of a notice.  on_error : what to do with an error of those; without it, it is raised."""

    def __init__(self, tell: Callable[[Notice], None]) -> None:
        self._tell = tell
        self.on_error: Callable[[Exception], None] | None = None
        self._holding = False
        self._held: Notice | None = None

    def takes(self, notice: Notice) -> bool:
        """Whether it is told later, with others. That a gesture ended is told at once."""
        if not self._holding or not notice.layers:
            return False
        self._held = notice if self._held is None else self._held.followed_by(notice)
        return True

    @contextmanager
    def held(self) -> Iterator[None]:
        """Tell at the end. Whoever edits meanwhile looks at nothing but the document."""
        self._holding = True
        try:
            yield
        finally:
            self._holding, notice, self._held = False, self._held, None
            if notice is not None:
                self._tell_or_fail(notice)

    def _tell_or_fail(self, notice: Notice) -> None:
        try:
            self._tell(notice)
        except Exception as error:
            if self.on_error is None:
                raise
            self.on_error(error)
