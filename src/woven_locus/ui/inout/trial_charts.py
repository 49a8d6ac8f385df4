"""What came of a trial, drawn: how a figure spreads for each value of a setting, and every run as a line."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

import numpy as np
import numpy.typing as npt

from woven_locus.trial.results import Results, Spread, spreads
from woven_locus.ui.jobs.pool import Jobs
from woven_locus.ui.language import tr
from woven_locus.ui.parts.charts import Chart, curve_looks
from woven_locus.ui.theme import Theme, colour

# Lines that are drawn, at most; of more a part, evenly.
MOST_LINES = 3000
# Half the width of a box, and of the ends of its whiskers.
_BOX, _END = 0.3, 0.12


class SpreadChart:
    """Box plots. `chart` is the widget."""

    def __init__(self, jobs: Jobs, theme: Theme) -> None:
        self._theme = theme
        self._boxes: list[Spread] = []
        self._noted = self._by = ""
        self.chart = Chart(jobs, theme, tr("Spread for each setting"), self._draw)

    def show(self, results: Results, noted: str, by: str) -> None:
        """Of a noted figure, for each value of a setting."""
        self._boxes = spreads(results, noted, by) if noted and by else []
        self._noted, self._by = results.short(noted) if noted else "", by
        self._draw()

    def _draw(self) -> None:
        plot, palette = self.chart.plot, self._theme.palette
        if plot is None:
            return
        plot.clear()
        self.chart.show_words("" if self._boxes else tr("No run has a number there yet."))
        pg = self.chart.package
        lines: list[tuple[float, float]] = []
        for x, box in enumerate(self._boxes):
            lines += _outline(x, box)
            plot.addItem(
                pg.BarGraphItem(
                    x=[x],
                    y0=[box.first],
                    height=[box.third - box.first],
                    width=2 * _BOX,
                    brush=colour(palette.woad, 60),
                    pen=self.chart.pen(palette.indigo, 1.5),
                )
            )
            plot.plot([x - _BOX, x + _BOX], [box.middle] * 2, pen=self.chart.pen(palette.madder, 3))
            if box.far:
                plot.plot(
                    [x] * len(box.far),
                    list(box.far),
                    pen=None,
                    symbol="o",
                    symbolSize=5,
                    symbolPen=self.chart.pen(palette.ink, 1),
                    symbolBrush=None,
                )
        if lines:
            ends = np.array(lines)
            pen = self.chart.pen(palette.indigo, 1.5)
            plot.plot(ends[:, 0], ends[:, 1], connect="pairs", pen=pen)
        names = [(x, f"{box.name} ({box.count})") for x, box in enumerate(self._boxes)]
        _axis(plot, names, escape(self._by))
        plot.setLabel("left", escape(self._noted))
        plot.enableAutoRange()


def _outline(x: float, box: Spread) -> list[tuple[float, float]]:
    """The whiskers, as pairs of points."""
    found: list[tuple[float, float]] = []
    for end, side in ((box.low, box.first), (box.high, box.third)):
        found += [(x, side), (x, end), (x - _END, end), (x + _END, end)]
    return found


def _axis(plot: object, names: Sequence[tuple[float, str]], label: str) -> None:
    axis = plot.getAxis("bottom")  # type: ignore[attr-defined]
    axis.setTicks([list(names)])
    axis.setStyle(hideOverlappingLabels=False)
    axis.setLabel(label)


class LinesChart:
    """Parallel lines: one axis for each setting and each noted figure, one line a run. `chart` is the widget."""

    def __init__(self, jobs: Jobs, theme: Theme) -> None:
        self._theme = theme
        self._results: Results | None = None
        self._axes: list[str] = []
        self._by, self._row = "", -1
        self.chart = Chart(jobs, theme, tr("Every run as a line"), self._draw)

    def show(self, results: Results, axes: Sequence[str], by: str, row: int) -> None:
        """by : the setting by whose value lines are told apart.  row : the run that stands out, or -1."""
        self._results, self._axes, self._by, self._row = results, list(axes), by, row
        self._draw()

    def _draw(self) -> None:
        plot, results = self.chart.plot, self._results
        if plot is None or results is None:
            return
        plot.clear()
        self.chart.show_words("" if results.rows else tr("No run is done yet."))
        if not results.rows or not self._axes:
            return
        places, names = self._places(results)
        palette = self._theme.palette
        groups = results.groups(self._by).items() if self._by else [("", range(len(results.rows)))]
        every = max(1, len(results.rows) // MOST_LINES)
        for (dye, dashes), (_value, rows) in zip(
            curve_looks(palette) * (len(groups) // 9 + 1), groups, strict=False
        ):
            chosen = np.array(list(rows))[::every]
            self._lines(places[chosen], self.chart.pen(dye, 1, dashes))
        if 0 <= self._row < len(places):
            self._lines(places[self._row : self._row + 1], self.chart.pen(palette.ink, 4))
        _axis(plot, names, "")
        plot.getAxis("left").setTicks([[(0.0, tr("least")), (1.0, tr("most"))]])
        # Room for two lines of words under each axis, and beside the outer ones.
        plot.getAxis("bottom").setHeight(3 * plot.fontMetrics().height())
        plot.setXRange(-0.6, len(names) - 0.4, padding=0)
        plot.setYRange(0.0, 1.0, padding=0.06)

    def _lines(self, places: npt.NDArray[np.float64], pen: object) -> None:
        count, axes = places.shape
        # A gap behind each run.
        x = np.tile(np.append(np.arange(axes, dtype=np.float64), np.nan), count)
        y = np.column_stack([places, np.full(count, np.nan)]).ravel()
        self.chart.plot.plot(x, y, connect="finite", pen=pen)

    def _places(self, results: Results) -> tuple[npt.NDArray[np.float64], list[tuple[float, str]]]:
        """(runs, axes) from 0, the least of an axis, to 1; and the names of the axes with both ends."""
        columns, names = [], []
        for x, axis in enumerate(self._axes):
            if results.is_numeric(axis):
                values = results.numbers(axis)
            else:
                values = np.zeros(len(results.rows))
                for k, rows in enumerate(results.groups(axis).values()):
                    values[rows] = k
            known = values[~np.isnan(values)]
            low, high = (float(known.min()), float(known.max())) if len(known) else (0.0, 0.0)
            columns.append((values - low) / (high - low) if high > low else values * 0 + 0.5)
            ends = f"\n{_rounded(low)}–{_rounded(high)}" if results.is_numeric(axis) else ""
            names.append((float(x), f"{results.short(axis)}{ends}"))
        return np.column_stack(columns), names


def _rounded(value: float) -> str:
    """Three figures, or more where the number would need an exponent for fewer."""
    return f"{value:,.0f}" if 999.5 <= abs(value) < 1e6 else f"{value:.3g}"
