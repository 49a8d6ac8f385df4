"""The answer to "may I?": values, and their words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from woven_locus.core.derived.rules import Reason
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import counted, joined, mark, phrase
from woven_locus.core.value import Value


class CellVerdict(NamedTuple):
    """One cell of the question: free when there are no reasons.
    doubtful : allowed as far as anybody knows."""

    cell: Cell
    reasons: tuple[Reason, ...]
    doubtful: bool = False

    @property
    def ok(self) -> bool:
        """Whether nothing speaks against the cell."""
        return not self.reasons


class Blocker(NamedTuple):
    """A thing in the way. what : window, structure, obstacle, terrain, reserved, road or barrier.
    id : the structure's or obstacle's name (``S12``, ``O3``), else None.  cell : one of its cells that
    are in the way, to go there.  reason : of which rule."""

    what: str
    name: str
    id: str | None
    cell: Cell
    reason: Reason

    @property
    def thing(self) -> tuple[str, str, str | None]:
        """What it is, wherever it was met."""
        return self[:3]


class Remark(NamedTuple):
    """What a rule of the kind has to say.

    reason : of the rule.  words : the refusal (or the doubt) in full.  doubt : it is allowed all the
    same.  cells : which cells of the footprint, in its order, it is about; none for the whole.
    blockers : the things that it is about.
    """

    reason: Reason
    words: str
    doubt: bool = False
    cells: tuple[int, ...] = ()
    blockers: tuple[Blocker, ...] = ()


class Verdict(Value):
    """Whether all the cells may be built on. True in a condition when they may.

    cells : every cell asked about, those outside the grid too.
    reasons : why the whole is refused, each once, in the order of the rules.
    blockers : what is in the way, each once for each rule.
    remarks : what the rules of the kind say, refusals and doubts.
    """

    cells: tuple[CellVerdict, ...]
    reasons: tuple[Reason, ...]
    blockers: tuple[Blocker, ...]
    remarks: tuple[Remark, ...] = ()

    def __bool__(self) -> bool:
        return not self.reasons

    @property
    def doubts(self) -> tuple[str, ...]:
        """What is allowed but warned of, in words."""
        return tuple(remark.words for remark in self.remarks if remark.doubt)

    def names_for(self, reason: Reason) -> str:
        """The names of what is in the way for one reason, as a list in words."""
        names = dict.fromkeys(b.name for b in self.blockers if b.reason is reason)
        return listed(list(names))

    def words_for(self, reason: Reason) -> str:
        """Why one rule refuses, in full; empty when it does not."""
        if reason not in self.reasons:
            return ""
        said = [remark.words for remark in self.remarks if remark.reason is reason]
        said = [words for words in said if words]
        if said:
            return joined("; ", said)
        return phrase(_SENTENCE[reason], names=self.names_for(reason) or phrase("the grid"))

    def sentence(self) -> str:
        """The refusal in words, or an empty string."""
        return joined("; ", [self.words_for(reason) for reason in self.reasons])


_SENTENCE = {
    Reason.OUTSIDE: mark("part of it lies outside {names}"),
    Reason.TERRAIN: mark("{names} cannot be built on"),
    Reason.RESERVED: phrase("the ground is reserved"),
    Reason.OBSTACLE: mark("{names} in the way"),
    Reason.OCCUPIED: mark("occupied by {names}"),
    Reason.ROAD: phrase("a road runs there"),
    Reason.BARRIER: phrase("a barrier runs there"),
}


def cells_text(count: int) -> str:
    """``1 cell``, ``5 cells``."""
    return counted(count, "{n} cell", "{n} cells")


def listed(names: Sequence[str], either: bool = False) -> str:
    """Names in words: ``a, b and c``, or ``a, b or c``; of many the first three."""
    if len(names) > 3:
        first = joined(", ", names[:3])
        return phrase("{names} and {count} more", names=first, count=len(names) - 3)
    if len(names) < 2:
        return joined("", names)
    form = mark("{names} or {last}") if either else mark("{names} and {last}")
    return phrase(form, names=joined(", ", names[:-1]), last=names[-1])
