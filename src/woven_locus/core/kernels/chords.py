"""How much of a line lies within reach of many spots at once, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np


def add_chords(points, slow, first_x, first_y, step_x, step_y, least, most, out):  # type: ignore[no-untyped-def]
    """Add to each spot how much of a line lies at least `least` and at most `most` from it.

    points : (N, 2).  slow : (N - 1,) by how much each step counts.  first_x, first_y : the place of spot (0, 0); step_x, step_y : from one to the next, above 0.
    out : (rows, cols), changed in place. O(steps x spots in reach).
    """
    rows, cols = out.shape
    for k in range(len(points) - 1):
        x0 = points[k, 0]
        y0 = points[k, 1]
        dx = points[k + 1, 0] - x0
        dy = points[k + 1, 1] - y0
        length = np.sqrt(dx * dx + dy * dy)
        if length == 0.0:
            continue
        dx /= length
        dy /= length
        low_x = min(x0, points[k + 1, 0]) - most
        high_x = max(x0, points[k + 1, 0]) + most
        low_y = min(y0, points[k + 1, 1]) - most
        high_y = max(y0, points[k + 1, 1]) + most
        for row in range(
            max(0, int(np.floor((low_y - first_y) / step_y))),
            min(rows, int(np.floor((high_y - first_y) / step_y)) + 1),
        ):
            y = first_y + row * step_y - y0
            for col in range(
                max(0, int(np.floor((low_x - first_x) / step_x))),
                min(cols, int(np.floor((high_x - first_x) / step_x)) + 1),
            ):
                x = first_x + col * step_x - x0
                # The foot of the perpendicular, and the square of how far the line passes by.
                foot = x * dx + y * dy
                away = x * x + y * y - foot * foot
                far = most * most - away
                if far <= 0.0:
                    continue
                half = np.sqrt(far)
                inside = min(max(foot + half, 0.0), length) - min(max(foot - half, 0.0), length)
                near = least * least - away
                if near > 0.0:
                    half = np.sqrt(near)
                    inside -= min(max(foot + half, 0.0), length) - min(
                        max(foot - half, 0.0), length
                    )
                out[row, col] += inside * slow[k]
