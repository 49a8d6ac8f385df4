"""Room for more, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np


def twice(held):  # type: ignore[no-untyped-def]
    """An array twice as long, with what is held in its first half. By a loop: a slice that is assigned would bring in the
    text of an error, which takes seconds to compile."""
    grown = np.empty(2 * len(held), held.dtype)
    for k in range(len(held)):
        grown[k] = held[k]
    return grown
