"""What a kind asks of its place, as a form."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QListWidgetItem,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.kinds import Clear, Demands, Lattice, Stand, Thing, Touch
from woven_locus.core.kinds.demands import LARGEST_CLEARANCE, LARGEST_COUNT, LARGEST_STEP
from woven_locus.core.plan import Plan
from woven_locus.ui.language import inside, tr
from woven_locus.ui.parts.widgets import List, muted, side_by_side, whole_box, world_box

SIDES = (tr("Top"), tr("Right"), tr("Bottom"), tr("Left"))


class TerrainList(List):
    """Terrain classes to tick; a key that the plan has not any more is kept, and said so."""

    ticked = pyqtSignal()

    def __init__(self, plan: Plan, keys: tuple[str, ...], name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        known = {item.key: item.name for item in plan.terrain_table}
        for key in [*known, *(key for key in keys if key not in known)]:
            item = QListWidgetItem(known.get(key, tr("{key} (not in this plan)", key=key)))
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            on = Qt.CheckState.Checked if key in keys else Qt.CheckState.Unchecked
            item.setCheckState(on)
            self.addItem(item)
        self.setMaximumHeight(84)
        self.itemChanged.connect(lambda _item: self.ticked.emit())

    @property
    def keys(self) -> tuple[str, ...]:
        return tuple(
            item.data(Qt.ItemDataRole.UserRole)
            for item in (self.item(k) for k in range(self.count()))
            if item is not None and item.checkState() == Qt.CheckState.Checked
        )


class ThingBox(QComboBox):
    """Something that a footprint can touch or keep clear of."""

    def __init__(self, plan: Plan, thing: Thing, key: str, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.addItem(tr("Any structure"), (Thing.KIND, ""))
        for kind in plan.kinds:
            self.addItem(kind.name, (Thing.KIND, kind.key))
        for item in plan.terrain_table:
            self.addItem(tr("{item} (terrain)", item=item.name), (Thing.TERRAIN, item.key))
        for other, words in (
            (Thing.ROAD, tr("A road")),
            (Thing.BARRIER, tr("A barrier")),
            (Thing.OBSTACLE, tr("An obstacle")),
        ):
            self.addItem(words, (other, ""))
        at = next((k for k in range(self.count()) if self.itemData(k) == (thing, key)), -1)
        if at < 0:
            self.addItem(tr("{key} (not in this plan)", key=key), (thing, key))
            at = self.count() - 1
        self.setCurrentIndex(at)

    @property
    def thing(self) -> tuple[Thing, str]:
        found: tuple[Thing, str] = self.currentData()
        return found


class TouchLine(QWidget):
    """One rule of touching."""

    def __init__(self, plan: Plan, touch: Touch) -> None:
        super().__init__()
        self.what = ThingBox(plan, touch.thing, touch.key, tr("It must touch"))
        self.least = whole_box(touch.least, 1, 999, tr("Cell sides at least"))
        self.sides = []
        top, bottom = QHBoxLayout(), QHBoxLayout()
        self.drop = QToolButton()
        self.drop.setText("×")
        self.drop.setAccessibleName(tr("Remove this rule of touching"))
        top.addWidget(self.what, 1)
        top.addWidget(self.least)
        top.addWidget(self.drop)
        for side, words in enumerate(SIDES):
            box = QCheckBox(words)
            box.setAccessibleName(tr("Touching on its {words} counts", words=inside(words)))
            box.setChecked(side in touch.sides)
            self.sides.append(box)
            bottom.addWidget(box)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 4)
        column.setSpacing(2)
        column.addLayout(top)
        column.addLayout(bottom)

    @property
    def signals(self) -> list[object]:
        return [
            self.what.currentIndexChanged,
            self.least.valueChanged,
            *(box.toggled for box in self.sides),
        ]

    @property
    def value(self) -> Touch:
        """Raises BadKind."""
        sides = tuple(side for side, box in enumerate(self.sides) if box.isChecked())
        return Touch(*self.what.thing, self.least.value(), sides)


class ClearLine(QWidget):
    """One rule of keeping clear."""

    def __init__(self, plan: Plan, clear: Clear) -> None:
        super().__init__()
        self.what = ThingBox(plan, clear.thing, clear.key, tr("It keeps clear of"))
        self.cells = whole_box(clear.cells, 1, LARGEST_CLEARANCE, tr("Cells of clearance"))
        self.drop = QToolButton()
        self.drop.setText("×")
        self.drop.setAccessibleName(tr("Remove this clearance"))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.what, 1)
        row.addWidget(self.cells)
        row.addWidget(self.drop)

    @property
    def signals(self) -> list[object]:
        return [self.what.currentIndexChanged, self.cells.valueChanged]

    @property
    def value(self) -> Clear:
        """Raises BadKind."""
        return Clear(*self.what.thing, self.cells.value())


Line = TouchLine | ClearLine


class Lines(QWidget):
    """Rules of one sort, one below the other, with a button for one more."""

    changed = pyqtSignal()

    def __init__(self, add: str, make: Callable[[], Line]) -> None:
        super().__init__()
        self.lines: list[Line] = []
        self._make = make
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.add = QPushButton(add)
        self.add.clicked.connect(lambda: self.put(self._make()))
        self._column.addWidget(self.add)

    def put(self, line: Line) -> None:
        """One more rule."""
        self.lines.append(line)
        self._column.insertWidget(len(self.lines) - 1, line)
        line.drop.clicked.connect(lambda: self._drop(line))
        for signal in line.signals:
            signal.connect(lambda *_value: self.changed.emit())  # type: ignore[attr-defined]
        self.changed.emit()

    def _drop(self, line: Line) -> None:
        self.lines.remove(line)
        self._column.removeWidget(line)
        line.deleteLater()
        self.changed.emit()


class RulesForm(QWidget):
    """`demands` is what the form says; `changed` tells of every change."""

    changed = pyqtSignal()

    def __init__(self, plan: Plan, demands: Demands) -> None:
        super().__init__()
        self._form = QFormLayout(self)
        self._form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        self.only = QCheckBox(tr("Only on these classes"))
        self.only.setChecked(demands.terrain is not None)
        self.terrain = TerrainList(plan, demands.terrain or (), tr("Allowed terrain"))
        self._form.addRow(tr("Terrain"), self.only)
        self._form.addRow("", self.terrain)
        self.steep = QCheckBox(tr("No steeper than"))
        self.steep.setChecked(demands.slope is not None)
        self.slope = world_box(
            20 if demands.slope is None else demands.slope, 0, 89.9, tr("Degrees")
        )
        self.slope.setSuffix("°")
        self._form.addRow(tr("Slope"), side_by_side(self.steep, self.slope))
        stand = demands.stand
        self.stands = QCheckBox(tr("On these, so many cells (0: all)"))
        self.stands.setChecked(stand is not None)
        self.stand_least = whole_box(
            stand.least if stand else 0, 0, 4096, tr("Cells on that terrain")
        )
        self.stand = TerrainList(plan, stand.terrain if stand else (), tr("Terrain to stand on"))
        self._form.addRow(tr("Stand"), self.stands)
        self._form.addRow("", side_by_side(self.stand, self.stand_least))
        self.touch = Lines(tr("It must touch …"), lambda: TouchLine(plan, Touch(Thing.ROAD)))
        self.clear = Lines(tr("It keeps clear of …"), lambda: ClearLine(plan, Clear(Thing.KIND)))
        for touch in demands.touch:
            self.touch.put(TouchLine(plan, touch))
        for clear in demands.clear:
            self.clear.put(ClearLine(plan, clear))
        self._form.addRow(tr("Touch"), self.touch)
        self._form.addRow(tr("Clearance"), self.clear)
        lattice = demands.lattice or Lattice()
        self.step_cols = whole_box(lattice.cols, 1, LARGEST_STEP, tr("Every so many columns"))
        self.step_rows = whole_box(lattice.rows, 1, LARGEST_STEP, tr("Every so many rows"))
        self.from_col = whole_box(lattice.col, -(2**30), 2**30, tr("Counted from column"))
        self.from_row = whole_box(lattice.row, -(2**30), 2**30, tr("Counted from row"))
        self._form.addRow(tr("Every col, row"), side_by_side(self.step_cols, self.step_rows))
        self._form.addRow(tr("from cell"), side_by_side(self.from_col, self.from_row))
        self.reaches = QCheckBox(tr("Within"))
        self.reaches.setChecked(demands.reach is not None)
        self.reach = world_box(demands.reach or 100, 0.0001, 1e9, tr("Reach from the actor"))
        self.reach.setSuffix(f" {plan.spec.unit}".rstrip())
        self._form.addRow(tr("Of the actor"), side_by_side(self.reaches, self.reach))
        self.least = whole_box(demands.least, 0, LARGEST_COUNT, tr("At least so many"))
        self.most = whole_box(
            demands.most or 0, 0, LARGEST_COUNT, tr("At most so many; 0 is any number")
        )
        self.most.setSpecialValueText(tr("any"))
        self._form.addRow(tr("Least, most"), side_by_side(self.least, self.most))
        self.access = QCheckBox(tr("A door is on a road"))
        self.access.setChecked(demands.access)
        self._form.addRow(tr("Access"), self.access)
        self._form.addRow(muted(tr("A clearance between structures holds both ways.")))
        self._listen()
        self._enable()

    def _listen(self) -> None:
        for box in (self.only, self.steep, self.stands, self.reaches, self.access):
            box.toggled.connect(self._told)
        for spin in (
            self.stand_least,
            self.step_cols,
            self.step_rows,
            self.from_col,
            self.from_row,
            self.least,
            self.most,
        ):
            spin.valueChanged.connect(self._told)
        for world in (self.slope, self.reach):
            world.valueChanged.connect(self._told)
        for ticks in (self.terrain, self.stand):
            ticks.ticked.connect(self._told)
        for lines in (self.touch, self.clear):
            lines.changed.connect(self._told)

    def _told(self, *_value: object) -> None:
        self._enable()
        self.changed.emit()

    def _enable(self) -> None:
        self._form.setRowVisible(self.terrain, self.only.isChecked())
        row = self.stand.parentWidget()
        assert row is not None
        self._form.setRowVisible(row, self.stands.isChecked())
        self.slope.setEnabled(self.steep.isChecked())
        self.reach.setEnabled(self.reaches.isChecked())

    @property
    def demands(self) -> Demands:
        """Raises BadKind."""
        lattice = Lattice(
            self.step_cols.value(),
            self.step_rows.value(),
            self.from_col.value(),
            self.from_row.value(),
        )
        stand = (
            Stand(self.stand.keys, self.stand_least.value()) if self.stands.isChecked() else None
        )
        return Demands(
            terrain=self.terrain.keys if self.only.isChecked() else None,
            slope=self.slope.value() if self.steep.isChecked() else None,
            stand=stand,
            touch=tuple(line.value for line in self.touch.lines),  # type: ignore[misc]
            clear=tuple(line.value for line in self.clear.lines),  # type: ignore[misc]
            lattice=lattice if (lattice.cols, lattice.rows) != (1, 1) else None,
            reach=self.reach.value() if self.reaches.isChecked() else None,
            least=self.least.value(),
            most=self.most.value() or None,
            access=self.access.isChecked(),
        )
