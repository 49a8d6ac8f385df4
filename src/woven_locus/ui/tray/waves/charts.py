"""The charts of a run of waves: where attackers fell, and funds and lives over time."""

from __future__ import annotations

from html import escape

import numpy as np

from woven_locus.core.placing.verdict import listed
from woven_locus.core.waves.run import Account
from woven_locus.core.waves.trials import strengths
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.theme import Theme, colour
from woven_locus.ui.tray.traffic.charts import RunChart

_BINS = 40


class FallsChart(RunChart):
    """How many attackers fell where along their way."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Where attackers fell"))

    def _draw(self) -> None:
        run, plot, palette = self._desk.waves.run, self.chart.plot, self._theme.palette
        if run is None or not run.falls:
            self.words.setText(tr("Nobody has been stopped yet."))
            return
        falls = run.falls
        plot.setLabel("bottom", tr("share of the way, %"))
        plot.setLabel("left", tr("stopped"))
        edges = np.linspace(0.0, 100.0, _BINS + 1)
        counts, _ = np.histogram([100 * fall.share for fall in falls], edges)
        pen = self.chart.pen(palette.indigo, 2)
        plot.plot(edges, counts, stepMode="center", pen=pen, fillLevel=0, brush=(47, 75, 124, 60))
        last = max(100 * fall.share for fall in falls)
        self.words.setText(
            tr(
                "{count:,} stopped; the furthest had come {last:.0f} % of its way.",
                count=len(falls),
                last=last,
            )
        )


class StrengthChart(RunChart):
    """The health that comes against the damage that could be dealt, wave by wave."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Health and damage"))

    def _draw(self) -> None:
        plan, plot, palette = self._desk.session.plan, self.chart.plot, self._theme.palette
        waves = plan.waves.waves
        if not waves:
            self.words.setText(tr("There are no waves yet."))
            return
        found = plan.worked_out("strengths", strengths)
        plot.setLabel("bottom", tr("wave"))
        plot.setLabel("left", tr("points"))
        nth = np.arange(1, len(found) + 1)
        for values, dye, symbol, dashes in (
            ([item.health for item in found], palette.madder, "o", ()),
            ([item.damage for item in found], palette.indigo, "s", (5, 3)),
        ):
            pen = self.chart.pen(dye, 2, dashes)
            plot.plot(
                *(nth, np.array(values)),
                pen=pen,
                symbol=symbol,
                symbolSize=7,
                symbolBrush=colour(dye),
                symbolPen=pen,
            )
        short = [
            wave.name or tr("wave {at}", at=at + 1)
            for at, (wave, item) in enumerate(zip(waves, found, strict=True))
            if item.damage < item.health
        ]
        words = tr("too little: {short}", short=listed(short)) if short else tr("always enough")
        self.words.setText(
            tr("Health, and dashed the damage that could be dealt; {words}.", words=words)
        )


class AccountChart(RunChart):
    """Funds and lives over the run."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__(desk, theme, tr("Funds and lives"))

    def _draw(self) -> None:
        run, plot, palette = self._desk.waves.run, self.chart.plot, self._theme.palette
        if run is None:
            self.words.setText(tr("Nothing has come yet."))
            return
        account = [*run.account, Account(run.seconds, run.funds, run.lives)]
        times = np.array([row.seconds for row in account])
        money = escape(self._desk.session.plan.money)
        plot.setLabel("bottom", tr("seconds"))
        plot.setLabel("left", money)
        for column, dye, dashes in ((1, palette.indigo, ()), (2, palette.madder, (5, 3))):
            values = np.array([row[column] for row in account], float)
            edges = np.append(times, times[-1])
            plot.plot(edges, values, stepMode="center", pen=self.chart.pen(dye, 2, dashes))
        money = self._desk.session.plan.money
        self.words.setText(
            tr(
                "{funds:,} {money}; {lives:,} lives, dashed.",
                funds=run.funds,
                money=money,
                lives=run.lives,
            )
        )
