"""What was measured of the run, over whole cells."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.traffic.maps import Measure
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.overlays.tints import BANDS, Sample, kept, ramp


def draw(canvas: Canvas) -> None:
    layer, measure = canvas.desk.measures.layer, canvas.session.choices.traffic.shown
    most = canvas.desk.measures.most
    if canvas.session.choices.stage is not Stage.TRAFFIC or layer is None or measure is None:
        return
    if layer.shape != canvas.camera.spec.shape or most <= 0:
        return
    sample = Sample(canvas)

    def made() -> npt.NDArray[np.uint8]:
        # What was not measured is less than anything.
        seen = sample.most_of(lambda at: np.nan_to_num(layer[at], nan=-1.0))
        share = np.maximum(seen, 0) / most
        band = np.minimum((share * BANDS).astype(np.uint8), BANDS - 1)
        if measure is Measure.SPEED:
            band = BANDS - 1 - band  # slow is strong
        return np.where(seen >= 0, band + 1, 0).astype(np.uint8)

    codes = kept(layer, (sample.view, measure), made)
    sample.paint(codes, ramp(canvas.palette.dark), 215)
    sample.write(codes > 0, lambda r, c: short(float(layer[r, c])))


def short(value: float) -> str:
    """Two figures, or all before the point."""
    return f"{value:.0f}" if value >= 10 else f"{value:.2g}"


def tops(measure: Measure, most: float) -> list[float]:
    """The value up to which each band goes; for speeds, down to which."""
    if measure is Measure.SPEED:
        return [most * (BANDS - 1 - k) / BANDS for k in range(BANDS)]
    return [most * (k + 1) / BANDS for k in range(BANDS)]
