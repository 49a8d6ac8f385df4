"""The kinds of vehicle as a table."""

from __future__ import annotations

from PyQt6.QtWidgets import QLineEdit, QWidget

from woven_locus.core.edits import traffic
from woven_locus.core.value import replace
from woven_locus.core.vehicles import VehicleKind, plain_vehicle
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.dyes import fresh_dye
from woven_locus.ui.parts.widgets import WorldBox
from woven_locus.ui.session.session import Session

_NUMBERS = {
    "length": tr("Length"),
    "width": tr("Width"),
    "speed": tr("Speed"),
    "acceleration": tr("Acceleration"),
    "braking": tr("Braking"),
    "headway": tr("Headway"),
    "gap": tr("Gap"),
}
COLUMNS = (tr("Name"), *_NUMBERS.values(), tr("Dye"), tr("Trips"))


class VehiclesSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        widths = (150, 84, 84, 84, 112, 84, 92, 84, 118, 56)
        super().__init__(tr("Kinds of vehicle"), COLUMNS, widths, session, parent)
        self.add.setText(tr("Add a kind"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        unit = session.plan.spec.unit or "units"
        session.replaced.connect(self.reject)
        self._lay_out(
            300,
            tr(
                "In {unit} and seconds. The first kind drives where a trip names none; nobody brakes harder than twice its braking. Without any kind a plain vehicle drives.",
                unit=unit,
            ),
        )

    @property
    def _kinds(self) -> tuple[VehicleKind, ...]:
        return self._session.plan.traffic.vehicles

    def _fill(self) -> None:
        self._fill_all(self._kinds, self._fill_row)
        self.remove.setEnabled(bool(self._kinds))

    def _fill_row(self, at: int, kind: VehicleKind) -> None:
        trips = self._session.plan.traffic.trips
        used = sum(trip.kind == kind.key or (not trip.kind and at == 0) for trip in trips)
        name = QLineEdit(kind.name)
        name.editingFinished.connect(lambda: self._change(at, name=name.text().strip()))
        widgets: list[tuple[QWidget, str]] = [(name, tr("Name of"))]
        for what, words in _NUMBERS.items():
            widgets.append((self._number(at, kind, what), tr("{what} of", what=words)))
        dye = self._dye_button(kind.dye, lambda chosen: self._change(at, dye=chosen))
        widgets.append((dye, tr("Dye of")))
        self._put_row(at, kind.name, widgets)
        self._put_count(at, used)

    def _number(self, at: int, kind: VehicleKind, what: str) -> WorldBox:
        box = WorldBox(getattr(kind, what), 0.001, 1e6)
        box.editingFinished.connect(lambda: self._change(at, **{what: box.value()}))
        return box

    def _change(self, at: int, **changes: object) -> None:
        plan = self._session.plan
        if self._filling or at >= len(self._kinds):
            return
        kind = self._kinds[at]
        changed = replace(kind, **changes)
        if changed != kind:
            self._do(lambda: traffic.change_vehicle(plan, kind.key, changed))

    def _add(self) -> None:
        plan, kinds = self._session.plan, self._kinds
        keys = {kind.key for kind in kinds}
        number = next(n for n in range(1, len(keys) + 2) if f"vehicle-{n}" not in keys)
        like = kinds[self.code] if kinds else plain_vehicle(plan.spec)
        made = replace(
            like,
            key=f"vehicle-{number}",
            name=tr("Vehicle {number}", number=number),
            dye=fresh_dye((kind.dye for kind in kinds), like.dye),
        )
        self._do(lambda: traffic.add_vehicle(plan, made))
        self._name_last()

    def _remove(self) -> None:
        plan, kinds = self._session.plan, self._kinds
        if kinds:
            self._do(lambda: traffic.remove_vehicle(plan, kinds[self.code].key))
