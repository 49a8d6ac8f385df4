"""The clock of the waves, and how they stand."""

from __future__ import annotations

from woven_locus.ui.bench.clock_panel import ClockPanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.theme import Theme


class WaveClockPanel(ClockPanel):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._waves = desk.waves
        super().__init__(
            desk.waves, theme, "Take all attackers off the map; the next run begins at 0"
        )

    def _lines(self) -> list[str]:
        run = self._waves.run
        assert run is not None
        come = [n for n, tally in enumerate(run.waves, 1) if tally.sent]
        lines = [
            f"time     {run.seconds:10.2f} s",
            f"wave     {f'{come[-1] if come else 0}/{len(run.waves)}':>10}",
            f"on map   {run.attackers.count_there:10,}",
            f"stopped  {sum(tally.stopped for tally in run.waves):10,}",
            f"through  {sum(tally.through for tally in run.waves):10,}",
            f"lives    {run.lives:10,}",
            f"funds    {run.funds:10,}",
        ]
        if run.over:
            lines.append("lost" if run.lost else "held")
        return lines
