"""What all small values of the product are made of: fields, with nothing else behind them.

The base is `msgspec`'s: a class of its kind is made in a fiftieth of the time of a dataclass, of which two hundred are
needed before the first frame, and its values are made, compared and hashed several times as quickly.
"""

from __future__ import annotations

from typing import dataclass_transform

from msgspec import Struct, field
from msgspec.structs import force_setattr, replace

__all__ = ["Record", "Value", "field", "force_setattr", "replace"]


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
class Value(Struct, frozen=True):
    """Cannot be changed; equal to another of its class with equal fields, and hashable if these are. `force_setattr` is for
    ``__post_init__`` alone."""


class Record(Struct):
    """Its fields can be set; compared by them, not hashable."""
