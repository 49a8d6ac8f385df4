"""The clock of traffic, and how it stands."""

from __future__ import annotations

import numpy as np

from woven_locus.ui.bench.clock_panel import ClockPanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.theme import Theme


class TrafficClockPanel(ClockPanel):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._traffic = desk.traffic
        super().__init__(
            desk.traffic, theme, tr("Take all vehicles off the road; the next run begins at 0")
        )

    def _lines(self) -> list[str]:
        run, rings = self._traffic.run, self._traffic.rings
        assert run is not None
        counts, delays = run.counts(), run.arrivals.delay
        delay = float(np.mean(delays)) if delays else 0.0
        lines = [
            tr("time       {seconds:10.2f} s", seconds=run.seconds),
            tr("under way  {under_way:10,}", under_way=counts.under_way),
            tr("arrived    {arrived:10,}", arrived=counts.arrived),
            tr("held back  {held_back:10,}", held_back=counts.held_back),
            tr("no way     {no_way:10,}", no_way=counts.no_way),
            tr("mean delay {delay:10.1f} s", delay=delay),
        ]
        if counts.taken_off:
            lines.append(tr("taken off  {taken_off:10,}", taken_off=counts.taken_off))
        if rings:
            lines.append(tr("gridlock   {count:10,}", count=sum(map(len, rings))))
        return lines
