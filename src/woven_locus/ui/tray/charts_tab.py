"""Charts: the heights along a line."""

from __future__ import annotations

from html import escape

import numpy as np
import numpy.typing as npt
from PyQt6.QtGui import QGuiApplication, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import cell_text
from woven_locus.core.grid.snapping import number
from woven_locus.core.ground.relief import profile
from woven_locus.files.study_tables import profile_csv
from woven_locus.ui.language import tr
from woven_locus.ui.parts.charts import Chart
from woven_locus.ui.parts.widgets import Label
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour

MOST_SAMPLES = 2000


class ChartsTab(QWidget):
    """`distance` and `height` are what is drawn, world units."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.distance: npt.NDArray[np.float64] = np.empty(0)
        self.heights: npt.NDArray[np.float64] = np.empty(0)
        self.words = Label()
        self.words.setObjectName("muted")
        self.words.setContentsMargins(10, 0, 0, 0)
        self.copy = QPushButton(tr("Copy as CSV"))
        self.copy.clicked.connect(self.copy_csv)
        self.chart = Chart(session.jobs, theme, tr("Heights along the line"), self._draw)
        head = QHBoxLayout()
        head.setContentsMargins(0, 3, 8, 0)
        head.addWidget(self.words, 1)
        head.addWidget(self.copy)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(head)
        column.addWidget(self.chart, 1)
        session.choices.profiled.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._edited)
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.chart.want()
        self.refresh()

    def _edited(self, notice: Notice) -> None:
        if notice.reformed or "heights" in notice.layers:
            self.refresh()

    def refresh(self) -> None:
        """Read the heights again."""
        plan, ends = self._session.plan, self._session.choices.profile
        if not self.isVisible():
            return
        known = plan.heights is not None and ends is not None
        self.copy.setEnabled(known)
        if plan.heights is None or ends is None:
            self.distance = self.heights = np.empty(0)
            self.words.setText("")
            self.chart.show_words(
                tr(
                    "In Ground, choose Profile (H) and drag a line over the map: its heights show here."
                )
                if plan.heights is not None
                else tr(
                    "This plan has no heights yet. Import some, make some, or sculpt them in Ground."
                )
            )
            return
        self.chart.show_words("")
        a, b = (np.array(plan.spec.slot(cell)[::-1], np.float64) + 0.5 for cell in ends)
        count = min(MOST_SAMPLES, 2 + 4 * int(np.abs(b - a).max()))
        share = np.linspace(0, 1, count)[:, None]
        points = a + (b - a) * share
        reach = (b - a) * (plan.spec.cell_w, plan.spec.cell_h)
        self.distance = share[:, 0] * float(np.hypot(*reach))
        self.heights = profile(plan.heights, points)
        self._say()
        self._draw()

    def _say(self) -> None:
        assert self._session.choices.profile is not None
        a, b = self._session.choices.profile
        known = self.heights[~np.isnan(self.heights)]
        unit = self._session.plan.spec.unit
        head = tr(
            "{a} to {b}, {distance} {unit} long",
            a=cell_text(a),
            b=cell_text(b),
            distance=number(float(self.distance[-1])),
            unit=unit,
        )
        if not known.size:
            self.words.setText(tr("{head}: no height is known there", head=head))
            return
        steps = np.diff(self.distance)
        with np.errstate(divide="ignore", invalid="ignore"):
            rise = np.abs(np.diff(self.heights)) / steps
        steep = float(np.nanmax(rise)) if (steps > 0).any() and not np.isnan(rise).all() else 0.0
        self.words.setText(
            tr(
                "{head}: {min:.5g} to {max:.5g}, steepest {degrees:.0f}° along the line",
                head=head,
                min=known.min(),
                max=known.max(),
                degrees=np.degrees(np.arctan(steep)),
            )
        )

    def _draw(self) -> None:
        if self.chart.plot is None:
            return
        plot, palette = self.chart.plot, self._theme.palette
        plot.clear()
        if not len(self.distance):
            return
        unit = self._session.plan.spec.unit
        plot.setLabel("bottom", tr("along the line, {unit}", unit=escape(unit)))
        plot.setLabel("left", tr("height, {unit}", unit=escape(unit)))
        plot.plot(
            self.distance,
            self.heights,
            connect="finite",
            pen=self.chart.pen(palette.walnut, 2),
            fillLevel=float(np.nanmin(self.heights)) if not np.isnan(self.heights).all() else None,
            brush=colour(palette.walnut, 40),
        )

    def copy_csv(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(profile_csv(self.distance, self.heights))
            self._session.say(tr("Copied {count} heights as CSV", count=len(self.distance)))
