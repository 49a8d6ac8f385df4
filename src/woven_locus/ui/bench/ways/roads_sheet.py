"""The road classes as a table."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QLineEdit,
    QWidget,
)

from woven_locus.core.edits import road_classes
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import MOST_LANES, RoadClass
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import WorldBox, whole_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme

COLUMNS = (tr("Name"), tr("Speed"), tr("Move cost"), tr("Lanes"), tr("Dye"), tr("Cells"))


class RoadsSheet(ClassSheet):
    def __init__(self, session: Session, theme: Theme, parent: QWidget | None) -> None:
        super().__init__(tr("Road classes"), COLUMNS, (180, 90, 90, 70, 100, 80), session, parent)
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(
            lambda: self._do(lambda: road_classes.remove_class(session.plan, self.code))
        )
        unit = session.plan.spec.unit or "units"
        self._lay_out(
            320,
            tr(
                "Speed is in {unit} a second, for travel times and agents; routes go by move cost. Each change is one step of the history.",
                unit=unit,
            ),
        )

    def _fill(self) -> None:
        plan = self._session.plan
        counts = road_classes.usage(plan)
        self._fill_all(plan.road_table, lambda code, item: self._fill_row(code, item, counts[code]))

    def _fill_row(self, code: int, item: RoadClass, count: int) -> None:
        name = QLineEdit(item.name)
        name.editingFinished.connect(lambda: self._change(code, name=name.text().strip()))
        speed, cost = WorldBox(item.speed, 0.0001, 1e6), WorldBox(item.cost, 0.0001, 1e6)
        speed.editingFinished.connect(lambda: self._change(code, speed=speed.value()))
        cost.editingFinished.connect(lambda: self._change(code, cost=cost.value()))
        lanes = whole_box(item.lanes, 1, MOST_LANES, "")
        lanes.editingFinished.connect(lambda: self._change(code, lanes=lanes.value()))
        dye = self._dye_button(item.dye, lambda chosen: self._change(code, dye=chosen))
        widgets: list[tuple[QWidget, str]] = [
            (name, tr("Name of")),
            (speed, tr("Speed on")),
            (cost, tr("Move cost of")),
            (lanes, tr("Lanes of")),
            (dye, tr("Dye of")),
        ]
        self._put_row(code, item.name, widgets)
        self._put_count(code, count)

    def _change(self, code: int, **changes: object) -> None:
        plan = self._session.plan
        if self._filling or code >= len(plan.road_table):
            return
        item = replace(plan.road_table[code], **changes)
        self._do(lambda: road_classes.change_class(plan, code, item))

    def _add(self) -> None:
        plan = self._session.plan
        self._do(lambda: road_classes.add_class(plan, plan.road_table[self.code], tr("New road")))
        self._name_last()
