"""What the window works out, as CSV: worked cases of the snap study, heights along a line."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from woven_locus.core.grid.snap_study import Case, Study, differs
from woven_locus.files.tables import table


def snap_cases_csv(study: Study, cases: Iterable[Case]) -> str:
    """All worked cases and all curves, numbers as they are."""
    keys = (curve.key for curve in study.curves)
    return table(
        ("raw", *keys, "shows", "wrong variants that differ"),
        (
            (repr(case.raw), *map(repr, case.values), case.why, " ".join(differs(study, case)))
            for case in cases
        ),
    )


def profile_csv(distance: npt.NDArray[np.float64], heights: npt.NDArray[np.float64]) -> str:
    """distance, heights : (N,) world units along a line; a height that is not known is left empty."""
    both = zip(distance.tolist(), heights.tolist(), strict=True)
    rows = ((repr(at), "" if height != height else repr(height)) for at, height in both)
    return table(("distance", "height"), rows)
