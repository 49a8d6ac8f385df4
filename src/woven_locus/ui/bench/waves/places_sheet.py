"""Entries and goals as a table, and what holds for all waves."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFormLayout, QLineEdit, QTableWidgetItem, QWidget

from woven_locus.core.edits import waves as edits
from woven_locus.core.geometry import cell_text
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Entry, Goal
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, quietly, whole_box
from woven_locus.ui.session.session import Session

COLUMNS = (tr("Id"), tr("Name"), tr("Leads to"), tr("First cell"), tr("Cells"))


class PlacesSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        super().__init__(tr("Entries and goals"), COLUMNS, (60, 220, 200, 110, 70), session, parent)
        self.add.hide()
        self.remove.clicked.connect(self._remove)
        session.replaced.connect(self.reject)
        self.lives = whole_box(20, 1, 1_000_000, tr("Lives"))
        self.lives.editingFinished.connect(lambda: self._set(lives=self.lives.value()))
        self.moves = ComboBox()
        self.moves.setAccessibleName(tr("Directions of those that come over the ground"))
        for count in (4, 8):
            self.moves.addItem(tr("{count} directions", count=count), count)
        self.moves.activated.connect(lambda _k: self._set(moves=self.moves.currentData()))
        self.slows = QCheckBox(tr("The move cost of the ground slows attackers"))
        self.slows.clicked.connect(lambda on: self._set(terrain_slows=on))
        self.above = WorldBox(0.0, 0.0, 1000.0)
        self.above.setAccessibleName(tr("Range gained for each unit of height"))
        self.above.editingFinished.connect(lambda: self._set(height_reach=self.above.value()))
        form = QFormLayout()
        form.addRow(tr("Lives"), self.lives)
        form.addRow(tr("Over the ground"), self.moves)
        form.addRow("", self.slows)
        form.addRow(tr("Range gained for each unit above"), self.above)
        self._lay_out(
            440,
            tr(
                "Cells are marked on the map with the tools Entry and Goal. An entry leads to the goal that is reached at the least cost."
            ),
            form,
        )

    @property
    def _places(self) -> list[Entry | Goal]:
        waves = self._session.plan.waves
        return [*waves.entries, *waves.goals]

    def _fill(self) -> None:
        self._fill_all(self._places, self._fill_row)
        waves = self._session.plan.waves
        self.remove.setEnabled(bool(self._places))
        quietly(self.lives, lambda: self.lives.setValue(waves.lives))
        quietly(self.moves, lambda: self.moves.setCurrentIndex(self.moves.findData(waves.moves)))
        quietly(self.slows, lambda: self.slows.setChecked(waves.terrain_slows))
        quietly(self.above, lambda: self.above.setValue(waves.height_reach))

    def _fill_row(self, at: int, place: Entry | Goal) -> None:
        self.table.setItem(at, 0, QTableWidgetItem(place.id))
        name = QLineEdit(place.name)
        name.setAccessibleName(tr("Name of {id}", id=place.id))
        name.editingFinished.connect(lambda: self._rename(place.id, name.text().strip()))
        self.table.setCellWidget(at, 1, name)
        self.table.removeCellWidget(at, 2)
        if isinstance(place, Entry):
            goals = ComboBox()
            goals.setAccessibleName(tr("Goals of {id}", id=place.id))
            goals.addItem(tr("any goal"), ())
            for goal in self._session.plan.waves.goals:
                goals.addItem(f"{goal.id} {goal.name}", (goal.id,))
            if len(place.goals) > 1:
                goals.addItem(", ".join(place.goals), place.goals)
            found = [k for k in range(goals.count()) if tuple(goals.itemData(k)) == place.goals]
            goals.setCurrentIndex(found[0] if found else 0)
            goals.activated.connect(lambda _k: self._lead(place.id, tuple(goals.currentData())))
            self.table.setCellWidget(at, 2, goals)
        self.table.setItem(at, 3, QTableWidgetItem(cell_text(place.cells[0])))
        self._put_count(at, len(place.cells))

    def _rename(self, id_: str, name: str) -> None:
        if not self._filling and any(p.id == id_ and p.name != name for p in self._places):
            self._do(lambda: edits.rename_place(self._session.plan, id_, name))

    def _lead(self, id_: str, goals: tuple[str, ...]) -> None:
        if not self._filling:
            self._do(lambda: edits.set_goals_of(self._session.plan, id_, goals))

    def _set(self, **changes: object) -> None:
        plan = self._session.plan
        after = replace(plan.waves, **changes)
        if not self._filling and after != plan.waves:
            self._do(
                lambda: edits.set_waves_plan(plan, after, tr("Changed what holds for all waves"))
            )

    def _remove(self) -> None:
        places = self._places
        if places:
            cells = places[min(self.code, len(places) - 1)].cells
            self._do(lambda: edits.clear_places(self._session.plan, cells))
