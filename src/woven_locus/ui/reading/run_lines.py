"""What is said of a run in Traffic and in Waves, beside whatever is selected."""

from __future__ import annotations

from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.widgets import Figures
from woven_locus.ui.reading.attacker import attacker_lines, growth_lines, tower_line
from woven_locus.ui.reading.vehicle import vehicle_lines
from woven_locus.ui.session.stages import Stage


class RunLines(Figures):
    """Of the vehicle or the attacker that was clicked, of what the ghost does to the ways; hidden where there is nothing."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.session
        self.setWordWrap(True)
        self.hide()
        for signal in (
            desk.traffic.moved,
            desk.waves.moved,
            desk.wave_ways.changed,
            desk.session.choices.stage_changed,
            desk.session.selection.changed,
        ):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """As it is now."""
        stage = self._session.choices.stage
        lines: list[str] = []
        if stage is Stage.WAVES:
            lines = self._of_waves()
        elif stage is Stage.TRAFFIC:
            lines = self._of_traffic()
        text = "\n".join(lines)
        if text != self.text():
            self.setText(text)
            self.setVisible(bool(text))

    def _of_traffic(self) -> list[str]:
        traffic = self._desk.traffic
        if traffic.run is None or not traffic.chosen:
            return []
        return vehicle_lines(self._session.plan, traffic.run, traffic.chosen)

    def _of_waves(self) -> list[str]:
        """What the ghost does to the ways, else the attacker that was clicked; and the tower that is selected."""
        desk, session = self._desk, self._session
        lines = growth_lines(desk.wave_ways.growth)
        run = desk.waves.run
        if not lines and run is not None and desk.waves.chosen:
            lines = attacker_lines(session.plan, run, desk.waves.chosen)
        if run is not None and session.selection.front:
            lines += filter(None, [tower_line(run, session.selection.front)])
        return lines
