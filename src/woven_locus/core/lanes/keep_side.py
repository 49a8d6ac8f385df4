"""On which side of the road traffic keeps."""

from __future__ import annotations

from enum import Enum


class KeepSide(Enum):
    """As seen on screen, in the direction of travel."""

    RIGHT = "right"
    LEFT = "left"

    def hand(self, y_up: bool) -> int:
        """The sense in which the travel side lies from the heading, in columns and rows: 1 for a quarter
        turn from columns towards rows, else -1. y_up : rows grow up the screen."""
        return 1 if (self is KeepSide.RIGHT) != y_up else -1
