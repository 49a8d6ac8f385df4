"""What the pointer does in Traffic: it picks vehicles and junctions, and structures as elsewhere."""

from __future__ import annotations

from collections.abc import Callable

from woven_locus.ui.answers.junctions import JunctionKeeper
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.build import SelectTool


class VehicleTool(SelectTool):
    """A click on the road takes the vehicle and the junction there, if there are any."""

    def __init__(
        self,
        session: Session,
        told: Callable[[], None],
        traffic: TrafficKeeper,
        junctions: JunctionKeeper,
    ) -> None:
        super().__init__(session, told)
        self._vehicles, self._junctions = traffic, junctions

    def press(self, at: Hover, held: bool) -> None:
        """See `Tool.press`."""
        spec = self.session.plan.spec
        vehicle = self._vehicles.choose(at.point, 0.4 * min(spec.cell_w, spec.cell_h))
        # Somebody is in a busy junction all the time: a click there takes both.
        if self._junctions.is_one(at.cell):
            self._vehicles.choose_junction(at.cell)
        elif not vehicle:
            self._vehicles.choose_junction(None)
            super().press(at, held)
