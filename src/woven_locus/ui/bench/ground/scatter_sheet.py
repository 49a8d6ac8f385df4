"""Obstacles scattered by seed and density over chosen terrain classes."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QLineEdit, QWidget

from woven_locus.core.editing import ObstaclesChange
from woven_locus.core.edits.obstacles import scatter
from woven_locus.core.errors import WovenError
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.phrase import with_capital
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, heading, muted, side_by_side, whole_box
from woven_locus.ui.session.session import Session


class ScatterSheet(FormSheet):
    def __init__(self, session: Session, parent: QWidget | None) -> None:
        super().__init__(tr("Scatter obstacles"), tr("Scatter"), parent)
        self._session = session
        chosen, plan = session.choices.ground, session.plan
        self.name = QLineEdit(chosen.obstacle_name)
        self.name.setAccessibleName(tr("Name of the obstacles"))
        self.look = ComboBox()
        self.look.setAccessibleName(tr("Look of the obstacles"))
        for look in LOOKS:
            self.look.addItem(tr(look.capitalize()), look)
        self.look.setCurrentIndex(self.look.findData(chosen.obstacle_look))
        self.cols = whole_box(chosen.obstacle_cols, 1, 16, tr("Columns of each"))
        self.rows = whole_box(chosen.obstacle_rows, 1, 16, tr("Rows of each"))
        self.density = WorldBox(5, 0.0001, 100)
        self.density.setSuffix(" %")
        self.density.setAccessibleName(tr("Obstacles for each hundred free cells"))
        self.seed = whole_box(1, 0, 2**31 - 1, tr("Seed"))
        self.form.addRow(tr("Name"), self.name)
        self.form.addRow(tr("Look"), self.look)
        self.form.addRow(tr("Cells of each"), side_by_side(self.cols, self.rows))
        self.form.addRow(tr("Density"), self.density)
        self.form.addRow(tr("Seed"), self.seed)
        self.side.addWidget(heading(tr("On which terrain")))
        self.classes: list[QCheckBox] = []
        for code, item in enumerate(plan.terrain_table):
            box = QCheckBox(item.name)
            box.setChecked(item.passable and code == 0)
            box.toggled.connect(self._work_out)
            self.classes.append(box)
            self.side.addWidget(box)
        self.side.addStretch(1)
        self.gives = muted()
        self.form.addRow(self.gives)
        for widget in (self.cols, self.rows, self.density, self.seed):
            widget.valueChanged.connect(self._work_out)
        self.name.textChanged.connect(self._work_out)
        self.accepted.connect(self._scatter)
        self._work_out()

    def _settings(self) -> tuple[str, str, list[int], float, int, tuple[int, int]]:
        return (
            self.name.text().strip(),
            str(self.look.currentData()),
            [code for code, box in enumerate(self.classes) if box.isChecked()],
            self.density.value() / 100,
            self.seed.value(),
            (self.cols.value(), self.rows.value()),
        )

    def _work_out(self) -> None:
        """How many there would be; on a large plan that is only said once it is done."""
        plan = self._session.plan
        if not any(box.isChecked() for box in self.classes):
            self.show_problem(tr("Choose at least one terrain class"))
            return
        if plan.terrain.size > 256 * 256:
            self.gives.setText(tr("On so large a plan they are counted when they are scattered."))
            self.show_problem("" if self.name.text().strip() else tr("An obstacle needs a name"))
            return
        try:
            edit = scatter(plan, *self._settings())
        except WovenError as err:
            self.gives.setText("")
            self.show_problem(with_capital(tr(err)))
            return
        count = sum(len(c.come) for c in edit.changes if isinstance(c, ObstaclesChange))
        self.gives.setText(
            tr(
                "That gives {obstacles}.",
                obstacles=counted(count, "{n:,} obstacle", "{n:,} obstacles"),
            )
        )
        self.show_problem("" if count else tr("No free cell of that terrain is left"))

    def _scatter(self) -> None:
        settings = self._settings()
        self._session.work(
            tr("Scattering {settings}", settings=settings[0]),
            lambda plan, _stopped: scatter(plan, *settings),
        )
