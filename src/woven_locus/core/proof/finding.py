"""What a check of a plan finds."""

from __future__ import annotations

from enum import StrEnum

from woven_locus.core.accepted import Accepted, Key
from woven_locus.core.geometry import Cell
from woven_locus.core.phrase import mark, phrase
from woven_locus.core.proof.misses import NearMiss
from woven_locus.core.value import Value


class Severity(StrEnum):
    """ERROR: the level does not work as it is. WARNING: it is likely not what was meant. NOTE: worth knowing."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


class Part(StrEnum):
    """The stage of the work that a finding belongs to."""

    GROUND = mark("Ground")
    BUILD = mark("Build")
    WAYS = mark("Ways")
    TRAFFIC = mark("Traffic")
    WAVES = mark("Waves")


class Fault(Value):
    """What one check says. cell : where, None for the plan as a whole.  structure : its number, or 0.
    mend : what an edit could put right: a near miss, or what was accepted and is no more."""

    message: str
    cell: Cell | None = None
    structure: int = 0
    mend: NearMiss | Accepted | None = None


class Finding(Value):
    """A fault with the check that found it. reason : why it was accepted, empty where it was not."""

    code: str
    severity: Severity
    part: Part
    message: str
    cell: Cell | None = None
    structure: int = 0
    mend: NearMiss | Accepted | None = None
    reason: str = ""

    @property
    def key(self) -> Key:
        """As what it can be accepted: of its structure, or at its cell. See `Accepted.key`."""
        return self.code, None if self.structure else self.cell, self.structure

    @property
    def can_mend(self) -> bool:
        """Whether an edit is known that mends it."""
        return isinstance(self.mend, Accepted) or (self.mend is not None and bool(self.mend.mend))

    @property
    def mend_words(self) -> str:
        """What that edit does, or nothing."""
        if not self.can_mend or self.mend is None:
            return ""
        if isinstance(self.mend, Accepted):
            return phrase("accept it no more")
        return phrase("lay {col}, {row}", col=self.mend.gap.col, row=self.mend.gap.row)
