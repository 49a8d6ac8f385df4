"""The clock of the waves, and how they stand."""

from __future__ import annotations

from woven_locus.ui.bench.clock_panel import ClockPanel
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.theme import Theme


class WaveClockPanel(ClockPanel):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._waves = desk.waves
        super().__init__(
            desk.waves, theme, tr("Take all attackers off the map; the next run begins at 0")
        )

    def _lines(self) -> list[str]:
        run = self._waves.run
        assert run is not None
        come = [n for n, tally in enumerate(run.waves, 1) if tally.sent]
        of = f"{come[-1] if come else 0}/{len(run.waves)}"
        lines = [
            tr("time     {seconds:10.2f} s", seconds=run.seconds),
            tr("wave     {of:>10}", of=of),
            tr("on map   {count_there:10,}", count_there=run.attackers.count_there),
            tr("stopped  {count:10,}", count=sum(tally.stopped for tally in run.waves)),
            tr("through  {count:10,}", count=sum(tally.through for tally in run.waves)),
            tr("lives    {lives:10,}", lives=run.lives),
            tr("funds    {funds:10,}", funds=run.funds),
        ]
        if run.over:
            lines.append(tr("lost") if run.lost else tr("held"))
        return lines
