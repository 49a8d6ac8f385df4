"""The probe ahead of an actor, and the art check."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFormLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.errors import WovenError
from woven_locus.core.grid import art
from woven_locus.core.grid.art import Art
from woven_locus.core.grid.probe import Actor
from woven_locus.core.grid.snapping import LARGEST_HELD
from woven_locus.core.value import replace
from woven_locus.ui.icons import dress
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.widgets import (
    WorldBox,
    figures,
    muted,
    quietly,
    set_quietly,
    side_by_side,
    whole_box,
)
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import SurveyTool
from woven_locus.ui.theme import Theme


class ProbePanel(QWidget):
    """Place an actor, give its reach and what it holds, read the cell that it addresses."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.tool = QPushButton(tr(SurveyTool.ACTOR.value))
        self.tool.setCheckable(True)
        self.tool.setToolTip(
            tr("Click the sheet to put the actor down; the arrow keys walk it (A)")
        )
        self.facing = WorldBox(0, 0, 359.9999)
        self.facing.setWrapping(True)
        self.facing.setSuffix("°")
        self.facing.setAccessibleName(tr("Facing, degrees from x towards y"))
        self.distance, self.offset = WorldBox(0, -1e6, 1e6), WorldBox(0, -1e6, 1e6)
        self.distance.setAccessibleName(tr("Distance ahead, world units"))
        self.offset.setAccessibleName(tr("Offset on top of the distance, world units"))
        self.cols = whole_box(1, 1, LARGEST_HELD, tr("Columns that it holds"))
        self.rows = whole_box(1, 1, LARGEST_HELD, tr("Rows that it holds"))
        self.says = figures(wraps=True)
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow(tr("Facing"), self.facing)
        form.addRow(tr("Reach, +"), side_by_side(self.distance, self.offset))
        form.addRow(tr("Holds"), side_by_side(self.cols, self.rows))
        self._form = QWidget()
        self._form.setLayout(form)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.tool)
        column.addWidget(self._form)
        column.addWidget(self.says)
        self.away = QPushButton(tr("Remove the actor"))
        self.away.setToolTip(tr("No actor: kinds with a reach can then not be judged (Del)"))
        self.away.clicked.connect(lambda: session.set_actor(None))
        column.addWidget(self.away)
        self.tool.toggled.connect(self.take)
        for box in (self.facing, self.distance, self.offset, self.cols, self.rows):
            box.valueChanged.connect(self._choose)
        session.choices.on("survey", self._show)
        session.reformed.connect(self._show)
        session.replaced.connect(self._show)
        theme.changed.connect(self._dress)
        self._dress()
        self._show()

    def _dress(self) -> None:
        dress(self.tool, "actor", self._theme.palette)

    def take(self, on: bool = True) -> None:
        """Take the actor in hand, or put it down."""
        self._session.choices.set_survey(tool=SurveyTool.ACTOR if on else SurveyTool.SELECT)
        if on:
            self._session.taken_up.emit()

    def _choose(self) -> None:
        actor = self._session.choices.survey.actor
        if actor is None:
            return
        try:
            changed = replace(
                actor,
                facing=self.facing.value(),
                distance=self.distance.value(),
                offset=self.offset.value(),
                cols=self.cols.value(),
                rows=self.rows.value(),
            )
            changed.low(self._session.plan.spec)
        except WovenError as err:
            self._session.say(tr(err), "no")
            return
        self._session.set_actor(changed)

    def _show(self) -> None:
        chosen = self._session.choices.survey
        quietly(self.tool, lambda: self.tool.setChecked(chosen.tool is SurveyTool.ACTOR))
        actor: Actor | None = chosen.actor
        self._form.setVisible(actor is not None)
        self.says.setVisible(actor is not None)
        self.away.setVisible(actor is not None)
        if actor is None:
            return
        for box, value in (
            (self.facing, actor.facing),
            (self.distance, actor.distance),
            (self.offset, actor.offset),
            (self.cols, actor.cols),
            (self.rows, actor.rows),
        ):
            if not box.hasFocus() or box.value() != value:
                set_quietly(box, value)
        self.says.setText("\n".join(map(shown, actor.working(self._session.plan.spec))))


class ArtPanel(QWidget):
    """Give the size of a picture; see gaps and overlaps at true scale on the sheet."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.on = QCheckBox(tr("Show it on the sheet"))
        self.width_px = whole_box(32, 1, 100_000, tr("Width of the art, pixels"))
        self.height_px = whole_box(32, 1, 100_000, tr("Height of the art, pixels"))
        self.per_unit = WorldBox(1, 0.0001, 1e6)
        self.per_unit.setAccessibleName(tr("Pixels for a world unit"))
        self.cols = whole_box(1, 1, 64, tr("Columns that the art covers"))
        self.rows = whole_box(1, 1, 64, tr("Rows that the art covers"))
        self.says = muted()
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow(tr("Pixels"), side_by_side(self.width_px, self.height_px))
        form.addRow(tr("Px a unit"), self.per_unit)
        form.addRow(tr("Cells"), side_by_side(self.cols, self.rows))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(form)
        column.addWidget(self.says)
        column.addWidget(self.on)
        for box in (self.width_px, self.height_px, self.per_unit, self.cols, self.rows):
            box.valueChanged.connect(self._work_out)
        self.on.toggled.connect(self._work_out)
        session.replaced.connect(self._work_out)
        session.changed.connect(self._edited)
        self._work_out()

    def _edited(self, notice: Notice) -> None:
        if notice.reformed:
            self._work_out()

    def _work_out(self) -> None:
        shown = Art(
            self.width_px.value(),
            self.height_px.value(),
            self.per_unit.value(),
            self.cols.value(),
            self.rows.value(),
        )
        self.says.setText("\n".join(map(tr, art.words(self._session.plan.spec, shown))))
        wanted = shown if self.on.isChecked() else None
        if wanted != self._session.choices.survey.art:
            self._session.choices.set_survey(art=wanted)
