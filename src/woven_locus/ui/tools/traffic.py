"""What the pointer does in Traffic: it picks vehicles, and structures as elsewhere."""

from __future__ import annotations

from collections.abc import Callable

from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.build import SelectTool


class VehicleTool(SelectTool):
    """A click on the road takes the vehicle there, if there is one."""

    def __init__(self, session: Session, told: Callable[[], None], traffic: TrafficKeeper) -> None:
        super().__init__(session, told)
        self._vehicles = traffic

    def press(self, at: Hover, held: bool) -> None:
        """See `Tool.press`."""
        spec = self.session.plan.spec
        if not self._vehicles.choose(at.point, 0.4 * min(spec.cell_w, spec.cell_h)):
            super().press(at, held)
