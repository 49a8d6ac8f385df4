"""The error tree. An error means misuse or broken input; a plain "no" is a value (see `Verdict`)."""

from __future__ import annotations

from woven_locus.core.names import one_line
from woven_locus.core.phrase import joined, phrase


class WovenError(Exception):
    """Root of everything that the program raises on purpose; its text is one line, fit to be shown."""

    def __init__(self, text: str = "") -> None:
        super().__init__(one_line(text))


def words_of(err: BaseException) -> str:
    """What an error of a library says, in one line; its sort if it says nothing."""
    return " ".join(str(err).split()) or type(err).__name__


class BadGrid(WovenError, ValueError):
    """A grid that cannot exist: no cells, a cell of no size, a number that is not finite."""


class BadKind(WovenError, ValueError):
    """A structure kind, footprint or door that cannot exist."""


class BadPlan(WovenError, ValueError):
    """A plan whose parts contradict each other.

    `where` names the part in the words of the plan format, for instance ``structures[3]``.
    """

    def __init__(self, where: str, what: str) -> None:
        super().__init__(joined(": ", [where, what]))
        self.where, self.what = where, what


class OutsideGrid(WovenError, IndexError):
    """A cell was asked for that the grid does not have."""

    def __init__(self, cell: tuple[int, int], extent: str) -> None:
        super().__init__(
            phrase(
                "cell {col}, {row} is outside the grid ({extent})",
                col=cell[0],
                row=cell[1],
                extent=extent,
            )
        )
        self.cell = cell


class Unknown(WovenError, LookupError):
    """A name or number that the plan does not hold; the message lists what it does hold."""


class Refused(WovenError):
    """An edit that the rules do not allow; raised only where a caller did not ask first."""


class NotReady(WovenError, RuntimeError):
    """Something that is being prepared cannot be used yet; the same question works later."""


class Stopped(Exception):
    """The user stopped it; nothing was made."""


class FileProblem(WovenError):
    """A file that cannot be read or written. One line: file, place, and what was expected."""

    def __init__(self, path: object, place: str, what: str) -> None:
        super().__init__(joined(": ", filter(None, [str(path), place, what])))
        self.path, self.place, self.what = path, place, what
