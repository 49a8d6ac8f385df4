"""Woven Locus: snap, judge, place, record and route on a grid, with the working shown.

For scripts, see `woven_locus.api`: its names are those of this package, too.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from woven_locus.api import *

from woven_locus.version import __version__

__all__ = [
    "Cell",
    "Links",
    "NoRoute",
    "Plan",
    "Point",
    "Proof",
    "Route",
    "Snapped",
    "Verdict",
    "WovenError",
    "__version__",
    "compile_kernels",
    "demolish",
    "lay_road",
    "links",
    "new_plan",
    "open_plan",
    "place",
    "probe",
    "proof",
    "route",
    "save_plan",
    "snap",
]


def __getattr__(name: str) -> Any:
    """A name of `api`, brought in when it is first used: the window's start does without."""
    if name in __all__:
        from woven_locus import api

        return getattr(api, name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")


def __dir__() -> list[str]:
    return __all__
