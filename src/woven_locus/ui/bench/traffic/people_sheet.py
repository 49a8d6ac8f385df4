"""The kinds of people on foot as a table, and how long they may hold vehicles up."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QFormLayout, QLineEdit, QWidget

from woven_locus.core.edits import traffic
from woven_locus.core.value import replace
from woven_locus.core.vehicles import PersonKind, plain_person
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.dyes import fresh_dye
from woven_locus.ui.parts.widgets import WorldBox, set_quietly, world_box
from woven_locus.ui.session.session import Session

COLUMNS = (tr("Name"), tr("Size"), tr("Speed"), tr("Dye"), tr("Trips"))


class PeopleSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        super().__init__(tr("People on foot"), COLUMNS, (170, 84, 84, 118, 60), session, parent)
        self.add.setText(tr("Add a kind"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.longest = world_box(20, 0.1, 3600, tr("Seconds that people may hold vehicles up"))
        self.longest.setSuffix(" s")
        self.longest.editingFinished.connect(self._set_longest)
        form = QFormLayout()
        form.addRow(tr("Vehicles wait at a crossing, at most"), self.longest)
        unit = session.plan.spec.unit or "units"
        session.replaced.connect(self.reject)
        self._lay_out(
            320,
            tr(
                "Size in {unit}, speed in {unit2} a second. They walk over open ground and along roads, and cross at junctions of roads of up to three lanes, and where a crossing is put up in Ways, with the sign tool.",
                unit=unit,
                unit2=unit,
            ),
            form,
        )

    @property
    def _kinds(self) -> tuple[PersonKind, ...]:
        return self._session.plan.traffic.people

    def _fill(self) -> None:
        self._fill_all(self._kinds, self._fill_row)
        self.remove.setEnabled(bool(self._kinds))
        set_quietly(self.longest, self._session.plan.traffic.longest_crossing)

    def _fill_row(self, at: int, kind: PersonKind) -> None:
        name = QLineEdit(kind.name)
        name.editingFinished.connect(lambda: self._change(at, name=name.text().strip()))
        size, speed = WorldBox(kind.size, 0.001, 1e6), WorldBox(kind.speed, 0.001, 1e6)
        size.editingFinished.connect(lambda: self._change(at, size=size.value()))
        speed.editingFinished.connect(lambda: self._change(at, speed=speed.value()))
        dye = self._dye_button(kind.dye, lambda chosen: self._change(at, dye=chosen))
        widgets: list[tuple[QWidget, str]] = [
            (name, tr("Name of")),
            (size, tr("Size of")),
            (speed, tr("Speed of")),
            (dye, tr("Dye of")),
        ]
        self._put_row(at, kind.name, widgets)
        used = sum(trip.kind == kind.key for trip in self._session.plan.traffic.trips)
        self._put_count(at, used)

    def _change(self, at: int, **changes: Any) -> None:
        plan = self._session.plan
        if self._filling or at >= len(self._kinds):
            return
        kind = self._kinds[at]
        changed = replace(kind, **changes)
        if changed != kind:
            self._do(lambda: traffic.change_person(plan, kind.key, changed))

    def _add(self) -> None:
        plan, kinds = self._session.plan, self._kinds
        keys = {kind.key for kind in kinds} | {kind.key for kind in plan.traffic.vehicles}
        number = next(n for n in range(1, len(keys) + 2) if f"people-{n}" not in keys)
        like = kinds[self.code] if kinds else plain_person(plan.spec)
        made = replace(
            like,
            key=f"people-{number}",
            name=tr("People {number}", number=number),
            dye=fresh_dye((kind.dye for kind in kinds), like.dye),
        )
        self._do(lambda: traffic.add_person(plan, made))
        self._name_last()

    def _remove(self) -> None:
        plan, kinds = self._session.plan, self._kinds
        if kinds:
            self._do(lambda: traffic.remove_person(plan, kinds[self.code].key))

    def _set_longest(self) -> None:
        plan, seconds = self._session.plan, self.longest.value()
        if seconds != plan.traffic.longest_crossing:
            self._do(lambda: traffic.set_longest_crossing(plan, seconds))
