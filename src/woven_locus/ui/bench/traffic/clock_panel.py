"""The clock of traffic, and how it stands."""

from __future__ import annotations

import numpy as np

from woven_locus.ui.bench.clock_panel import ClockPanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.theme import Theme


class TrafficClockPanel(ClockPanel):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._traffic = desk.traffic
        super().__init__(
            desk.traffic, theme, "Take all vehicles off the road; the next run begins at 0"
        )

    def _lines(self) -> list[str]:
        run, rings = self._traffic.run, self._traffic.rings
        assert run is not None
        counts, delays = run.counts(), run.arrivals.delay
        delay = float(np.mean(delays)) if delays else 0.0
        lines = [
            f"time       {run.seconds:10.2f} s",
            f"under way  {counts.under_way:10,}",
            f"arrived    {counts.arrived:10,}",
            f"held back  {counts.held_back:10,}",
            f"no way     {counts.no_way:10,}",
            f"mean delay {delay:10.1f} s",
        ]
        if counts.taken_off:
            lines.append(f"taken off  {counts.taken_off:10,}")
        if rings:
            lines.append(f"gridlock   {sum(map(len, rings)):10,}")
        return lines
