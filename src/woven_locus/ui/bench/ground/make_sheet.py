"""Made-up ground: seeded heights, classes by height and slope, a river."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QComboBox, QSlider, QWidget

from woven_locus.core.edits.ground import made_ground
from woven_locus.core.errors import WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground.generate import Recipe, generate
from woven_locus.core.phrase import with_capital
from woven_locus.core.value import replace
from woven_locus.ui.bench.ground.preview import SIDE, Preview
from woven_locus.ui.language import tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, heading, muted, whole_box
from woven_locus.ui.session.session import Session


class MakeSheet(FormSheet):
    def __init__(self, session: Session, parent: QWidget | None) -> None:
        super().__init__(tr("Make ground"), tr("Make it"), parent)
        self._session = session
        spec = session.plan.spec
        self.seed = whole_box(1, 0, 2**31 - 1, tr("Seed"))
        cell = (spec.cell_w + spec.cell_h) / 2
        self.relief = WorldBox(cell * 6, 0.0001, 1e5)
        self.relief.setAccessibleName(tr("Height between the lowest and the highest cell"))
        largest = max(4, min(512, max(spec.cols, spec.rows) // 3))
        self.feature = whole_box(
            min(40, largest), 2, 4096, tr("Size of the largest hills in cells")
        )
        self.roughness = QSlider(Qt.Orientation.Horizontal)
        self.roughness.setRange(0, 100)
        self.roughness.setValue(45)
        self.roughness.setAccessibleName(tr("Roughness"))
        self.low = self._class(tr("low ground"), 2)
        self.middle = self._class(tr("the ground between"), 0)
        self.high = self._class(tr("high ground"), 4)
        self.steep = self._class(tr("steep ground"), 5)
        self.river = self._class(tr("the river"), 3)
        self.with_river = QCheckBox(tr("With a river"))
        self.with_river.setChecked(True)
        for label, widget in (
            (tr("Seed"), self.seed),
            (tr("Relief, {unit}", unit=spec.unit), self.relief),
            (tr("Hills, cells"), self.feature),
            (tr("Roughness"), self.roughness),
            (tr("Low"), self.low),
            (tr("Between"), self.middle),
            (tr("High"), self.high),
            (tr("Steep"), self.steep),
            (tr("River"), self.river),
            ("", self.with_river),
        ):
            self.form.addRow(label, widget)
        self.side.addWidget(heading(tr("That gives")))
        self.picture = Preview(tr("Preview of the ground"))
        self.side.addWidget(self.picture)
        self.side.addWidget(
            muted(
                tr(
                    "A small map of the same recipe. Terrain and heights of the whole plan are replaced,"
                    " in one step; what stands on them stays."
                )
            )
        )
        self.side.addStretch(1)
        for box in (self.seed, self.relief, self.feature, self.roughness):
            box.valueChanged.connect(self._work_out)
        for combo in (self.low, self.middle, self.high, self.steep, self.river):
            combo.currentIndexChanged.connect(self._work_out)
        self.with_river.toggled.connect(self._work_out)
        self.accepted.connect(self._make)
        self._work_out()

    def _class(self, what: str, wished: int) -> QComboBox:
        box = ComboBox()
        box.setAccessibleName(tr("Terrain of {what}", what=what))
        for item in self._session.plan.terrain_table:
            box.addItem(item.name)
        box.setCurrentIndex(min(wished, box.count() - 1))
        return box

    def recipe(self) -> Recipe:
        """Raises WovenError."""
        return Recipe(
            self.seed.value(),
            self.relief.value(),
            self.feature.value(),
            self.roughness.value() / 100,
            self.low.currentIndex(),
            self.middle.currentIndex(),
            self.high.currentIndex(),
            self.steep.currentIndex(),
            self.river.currentIndex() if self.with_river.isChecked() else None,
        )

    def _work_out(self) -> None:
        self.river.setEnabled(self.with_river.isChecked())
        spec = self._session.plan.spec
        try:
            recipe = self.recipe()
            side = min(SIDE, max(spec.cols, spec.rows))
            scale = side / max(spec.cols, spec.rows)
            small = GridSpec(
                max(1, round(spec.cols * scale)),
                max(1, round(spec.rows * scale)),
                spec.cell_w / scale,
                spec.cell_h / scale,
            )
            recipe = replace(recipe, feature=max(2, round(recipe.feature * scale)))
            terrain, heights = generate(small, recipe)
        except WovenError as err:
            self.show_problem(with_capital(tr(err)))
            return
        self.show_problem("")
        dyes = [item.dye for item in self._session.plan.terrain_table]
        self.picture.show_map(dyes, terrain, heights, (small.cell_w, small.cell_h), spec.y_up)

    def _make(self) -> None:
        recipe = self.recipe()
        self._session.work(
            tr("Making ground from seed {seed}", seed=recipe.seed),
            lambda plan, stopped: made_ground(plan, recipe, stopped),
        )
