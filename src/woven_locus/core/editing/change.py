"""What every part of an edit is: a value that knows what stood there before and what stands there after."""

from __future__ import annotations

from abc import abstractmethod

from woven_locus.core.geometry import Box
from woven_locus.core.plan import Plan

Boxes = tuple[Box, ...]


class Change:
    """One part of an edit.

    layer : what it changes, in the words of `Notice.layers`.  dirties_cells, dirties_network : whether blocks
    and movement, and the road network, follow from what it writes.  reforms : whatever was made for the
    grid, the classes or the kinds before it is void.
    """

    __slots__ = ()
    layer: str

    @property
    def dirties_cells(self) -> bool:
        """Whether blocks and movement follow from what it writes."""
        return True

    @property
    def dirties_network(self) -> bool:
        """Whether the road network follows from what it writes."""
        return False

    @property
    def reforms(self) -> bool:
        """Whether what was made for the grid, classes or kinds before it is void."""
        return False

    def joined(self, later: Change) -> Change | None:
        """This and a later one as one, where both are steps of the same one thing that goes on."""
        return None

    def prepare(self) -> None:
        """Work out what `write` needs of its values alone, so that it may be done beforehand, elsewhere."""

    @abstractmethod
    def write(self, plan: Plan, undo: bool) -> Boxes:
        """Write to the plan, forwards or backwards; returns the blocks of slots that changed."""
