"""The snapping rule in force: rule, step, lattice, held axes, and what is held."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QFormLayout,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.errors import WovenError
from woven_locus.core.grid import Holding, Rule, SnapSettings
from woven_locus.core.grid.snapping import LARGEST_HELD, MOST_LATTICE, number
from woven_locus.core.value import replace
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import (
    ComboBox,
    Section,
    WorldBox,
    muted,
    quietly,
    set_quietly,
    side_by_side,
    whole_box,
)
from woven_locus.ui.session.session import Session

_NAMES = {
    Rule.CORNER: tr("Corner"),
    Rule.CENTRE: tr("Centre"),
    Rule.INTERSECTION: tr("Intersection"),
}
_RULES = {
    Rule.CORNER: tr("Corner of the cell under the pointer"),
    Rule.CENTRE: tr("Centre of the cell under the pointer"),
    Rule.INTERSECTION: tr("Nearest intersection of grid lines"),
}
_HOLDING = {
    Holding.POINT: tr("A point"),
    Holding.FOOTPRINT: tr("A footprint, in cells"),
    Holding.OBJECT: tr("An object, in units"),
}


class RulePanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._group = QButtonGroup(self)
        self.rules: dict[Rule, QRadioButton] = {}
        for each, words in _RULES.items():
            button = QRadioButton(_NAMES[each])
            button.setToolTip(words)
            button.setAccessibleDescription(words)
            button.toggled.connect(self._choose)
            self._group.addButton(button)
            column.addWidget(button)
            self.rules[each] = button
        column.addWidget(self._steps())
        column.addWidget(self._holds())
        column.addWidget(self._held())
        column.addWidget(self._lattice())
        session.replaced.connect(self._show)
        session.choices.on("snap", self._show)
        session.reformed.connect(self._show)
        self._show()

    # --- the parts ---------------------------------------------------------------------------

    def _steps(self) -> QWidget:
        self.step_x, self.step_y = self._step_box("across"), self._step_box("along")
        self.step_unit = ComboBox()
        self.step_unit.setAccessibleName(tr("Steps are given in"))
        self.step_unit.addItem(tr("in units"), False)
        self.step_unit.addItem(tr("in cells"), True)
        self.step_unit.currentIndexChanged.connect(self._choose)
        holder = QWidget()
        form = QFormLayout(holder)
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow(tr("Step"), side_by_side(self.step_x, self.step_y))
        form.addRow("", self.step_unit)
        return holder

    def _step_box(self, way: str) -> WorldBox:
        box = WorldBox(0, 0, 1e6)
        box.setSpecialValueText(tr("cell"))
        box.setAccessibleName(tr("Step {way}; 0 is the size of a cell", way=way))
        box.valueChanged.connect(self._choose)
        return box

    def _holds(self) -> QWidget:
        self.hold_x, self.hold_y = QCheckBox(tr("Hold x")), QCheckBox(tr("Hold y"))
        for box, axis in ((self.hold_x, "x"), (self.hold_y, "y")):
            box.setToolTip(tr("Keep {axis} where it is, so that a line stays straight", axis=axis))
            box.toggled.connect(lambda on, axis=axis: self.hold(axis, on))
        self.holds_say = muted()
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(side_by_side(self.hold_x, self.hold_y))
        column.addWidget(self.holds_say)
        return holder

    def _held(self) -> QWidget:
        self.holding = ComboBox()
        self.holding.setAccessibleName(tr("What is held"))
        for each, words in _HOLDING.items():
            self.holding.addItem(words, each)
        self.held_w, self.held_h = WorldBox(1, 0.0001, 1e6), WorldBox(1, 0.0001, 1e6)
        self.held_w.setAccessibleName(tr("Width of what is held"))
        self.held_h.setAccessibleName(tr("Height of what is held"))
        self.holding.currentIndexChanged.connect(self._choose)
        self.held_w.valueChanged.connect(self._choose)
        self.held_h.valueChanged.connect(self._choose)
        holder = QWidget()
        form = QFormLayout(holder)
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow(tr("Held"), self.holding)
        self._sizes = side_by_side(self.held_w, self.held_h)
        form.addRow("", self._sizes)
        return holder

    def _lattice(self) -> QWidget:
        self.lattice = Section(tr("Lattice"), unfolded=False)
        form = QFormLayout()
        self.every_x = whole_box(1, 1, MOST_LATTICE, tr("Every nth step across"))
        self.every_y = whole_box(1, 1, MOST_LATTICE, tr("Every nth step along"))
        self.offset_x = whole_box(0, -MOST_LATTICE, MOST_LATTICE, tr("First step across"))
        self.offset_y = whole_box(0, -MOST_LATTICE, MOST_LATTICE, tr("First step along"))
        form.addRow(tr("Every"), side_by_side(self.every_x, self.every_y))
        form.addRow(tr("From"), side_by_side(self.offset_x, self.offset_y))
        self.lattice.body.addLayout(form)
        for box in (self.every_x, self.every_y, self.offset_x, self.offset_y):
            box.valueChanged.connect(self._choose)
        return self.lattice

    # --- both ways ---------------------------------------------------------------------------

    def _choose(self) -> None:
        now = self._session.choices.snap
        holding = self.holding.currentData()
        sides = (self.held_w.value(), self.held_h.value())
        if holding is Holding.FOOTPRINT:
            sides = tuple(float(min(LARGEST_HELD, max(1, round(side)))) for side in sides)  # type: ignore[assignment]
        try:
            settings = replace(
                now,
                rule=next((r for r, b in self.rules.items() if b.isChecked()), Rule.CENTRE),
                step_x=self.step_x.value() or None,
                step_y=self.step_y.value() or None,
                in_cells=bool(self.step_unit.currentData()),
                every_x=self.every_x.value(),
                every_y=self.every_y.value(),
                offset_x=self.offset_x.value(),
                offset_y=self.offset_y.value(),
                holding=holding,
                held=sides,
            )
        except WovenError as err:
            self._session.say(tr(err), "no")
            return
        if settings != now:
            self._session.set_snap(settings)

    def hold(self, axis: str, on: bool) -> None:
        """Hold an axis where it is now: at the snapped pointer, or at the first cell without one."""
        session = self._session
        value = None
        if on:
            hover, spec = session.pointer.hover, session.plan.spec
            at = hover.snapped.at if hover is not None else spec.centre(spec.first)
            value = at.x if axis == "x" else at.y
        field = f"hold_{axis}"
        if (getattr(session.choices.snap, field) is None) != (value is None):
            changed: dict[str, Any] = {field: value}
            session.set_snap(replace(session.choices.snap, **changed))

    def _show(self) -> None:
        settings: SnapSettings = self._session.choices.snap
        for box, value in (
            (self.step_x, settings.step_x or 0.0),
            (self.step_y, settings.step_y or 0.0),
            (self.held_w, settings.held[0]),
            (self.held_h, settings.held[1]),
            (self.every_x, settings.every_x),
            (self.every_y, settings.every_y),
            (self.offset_x, settings.offset_x),
            (self.offset_y, settings.offset_y),
        ):
            set_quietly(box, value)
        quietly(self.step_unit, lambda: self.step_unit.setCurrentIndex(int(settings.in_cells)))
        at = self.holding.findData(settings.holding)
        quietly(self.holding, lambda: self.holding.setCurrentIndex(at))
        self._sizes.setVisible(settings.holding is not Holding.POINT)
        for check, held_at in ((self.hold_x, settings.hold_x), (self.hold_y, settings.hold_y)):
            quietly(check, partial(check.setChecked, held_at is not None))
        held = [
            f"{axis} = {number(value)}"
            for axis, value in zip("xy", settings.holds, strict=True)
            if value is not None
        ]
        self.holds_say.setText(", ".join(held))
        self.holds_say.setVisible(bool(held))
        self.rules[settings.rule].setChecked(True)
