"""A running game's own agents, as it reports them by the live link. They are no part of the plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.geometry import Point

if TYPE_CHECKING:
    # Late: it comes with the link, which most never begin.
    from woven_locus.link.agents import Agents


class ReportedAgents(QObject):
    """agents : as they were last reported, None for none."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.agents: Agents | None = None

    def take(self, agents: Agents | None) -> None:
        """What there is now."""
        agents = agents if agents is not None and len(agents) else None
        if agents is not self.agents:
            self.agents = agents
            self.changed.emit()

    def nearest(self, to: Point, reach: float) -> int | None:
        """The row of the agent nearest to a world point, None for none within `reach`, world units."""
        if self.agents is None:
            return None
        far = np.hypot(*(self.agents.places - (to.x, to.y)).T)
        row = int(far.argmin())
        return row if far[row] <= reach else None
