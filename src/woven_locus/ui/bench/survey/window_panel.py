"""The buildable window: a grid smaller than the terrain, moved in whole cells."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.edits.grid import set_window
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Point, cell_text
from woven_locus.core.grid import BuildWindow
from woven_locus.core.grid.spec import LARGEST_INDEX
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import muted, quietly, side_by_side, whole_box


class WindowPanel(QWidget):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.on = QCheckBox(tr("Build within a window only"))
        most = LARGEST_INDEX // 2
        self.cols = whole_box(1, 1, most, tr("Columns of the window"))
        self.rows = whole_box(1, 1, most, tr("Rows of the window"))
        self.to_pointer = QPushButton(tr("On pointer"))
        self.to_pointer.setToolTip(tr("Centre the window on the pointer (W)"))
        self.to_agent = QPushButton(tr("On actor"))
        self.to_agent.setToolTip(
            tr("Centre it on the actor, or on the agent nearest to it (Shift+W)")
        )
        self.where = muted()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.on)
        column.addWidget(side_by_side(self.cols, self.rows))
        column.addWidget(side_by_side(self.to_pointer, self.to_agent))
        column.addWidget(self.where)
        self.on.toggled.connect(self._switch)
        self.cols.editingFinished.connect(self._resize)
        self.rows.editingFinished.connect(self._resize)
        self.to_pointer.clicked.connect(self.centre_on_pointer)
        self.to_agent.clicked.connect(self.centre_on_agent)
        session.changed.connect(self._edited)
        session.replaced.connect(self._show)
        self._show()

    def _do(self, window: BuildWindow | None) -> None:
        self._session.attempt(set_window, self._session.plan, window)

    def _switch(self, on: bool) -> None:
        spec = self._session.plan.spec
        if not on:
            self._do(None)
            return
        cols, rows = max(1, spec.cols // 2), max(1, spec.rows // 2)
        middle = spec.corner(spec.first.moved(spec.cols // 2, spec.rows // 2))
        self._do(BuildWindow(spec.first, cols, rows).centred_on(spec, *middle))

    def _resize(self) -> None:
        window = self._session.plan.window
        size = (self.cols.value(), self.rows.value())
        if window is not None and size != (window.cols, window.rows):
            self._do(BuildWindow(window.low, *size))

    def centre_on_pointer(self) -> None:
        """Move the window so that the pointer's cell is in its middle."""
        hover = self._session.pointer.hover
        if hover is None:
            self._session.say(
                tr("Point at the sheet first: the window centres on the pointer"), "no"
            )
        else:
            self._centre(hover.point)

    def centre_on_agent(self) -> None:
        """Move it onto the actor of Survey, or else the agent nearest to the pointer."""
        session = self._session
        actor, run = session.choices.survey.actor, self._desk.traffic.run
        if actor is not None:
            self._centre(actor.at)
        elif run is not None and len(run.fleet.under_way()):
            near = (
                session.pointer.hover.point
                if session.pointer.hover is not None
                else Point(0.0, 0.0)
            )
            self._centre(run.fleet.nearest_place(near))
        else:
            session.say(
                tr("There is no actor and no vehicle: place an actor (A), or let traffic run"), "no"
            )

    def _centre(self, point: Point) -> None:
        window, spec = self._session.plan.window, self._session.plan.spec
        if window is None:
            self._session.say(tr("There is no window to move: switch it on in Survey"), "no")
            return
        try:
            self._do(window.centred_on(spec, *point))
        except WovenError as err:
            self._session.say(tr(err), "no")

    def _edited(self, notice: Notice) -> None:
        if notice.layers & {"window", "grid"}:
            self._show()

    def _show(self) -> None:
        window = self._session.plan.window
        quietly(self.on, lambda: self.on.setChecked(window is not None))
        for widget in (self.cols, self.rows, self.to_pointer, self.to_agent):
            widget.setEnabled(window is not None)
        if window is None:
            self.where.setText(tr("The whole terrain may be built on."))
            return
        quietly(self.cols, lambda: self.cols.setValue(window.cols))
        quietly(self.rows, lambda: self.rows.setValue(window.rows))
        self.where.setText(
            tr("From {low} to {last}", low=cell_text(window.low), last=cell_text(window.last))
        )
