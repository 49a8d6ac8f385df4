"""The way of a verb to the window."""

from __future__ import annotations

import gc
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from woven_locus.document import Document


def show(made: Callable[[], Document | None]) -> int:
    """Open the window on a document, or on none of its own choice; returns the exit code. Raises NoDisplay, and what `made`
    raises."""
    # What is loaded and built now stays, and to go through all of it meanwhile takes time. Later the window's collector does it.
    gc.disable()
    from woven_locus.ui.start import start

    return start(made())
