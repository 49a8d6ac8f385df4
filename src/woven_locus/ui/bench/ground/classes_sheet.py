"""The terrain classes as a table: what each is called, allows, costs and looks like, and how much of
the map it covers."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QPushButton, QWidget

from woven_locus.core.editing import Edit
from woven_locus.core.edits import terrain_classes
from woven_locus.core.ground import PATTERNS, TerrainClass, TerrainTable
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme

COLUMNS = (
    tr("Name"),
    tr("Build"),
    tr("Walk"),
    tr("Bridge"),
    tr("Move cost"),
    tr("Dye"),
    tr("Pattern"),
    tr("Cells"),
)
_FRESH = TerrainClass("", tr("New ground"), "", True, True, 1.0, "#9DA37A", "plain")


class ClassesSheet(ClassSheet):
    def __init__(self, session: Session, theme: Theme, parent: QWidget | None) -> None:
        super().__init__(
            tr("Terrain classes"), COLUMNS, (150, 56, 56, 62, 88, 108, 104, 92), session, parent
        )
        self.into = ComboBox()
        self.into.setAccessibleName(tr("Class to merge into"))
        self.merge = QPushButton(tr("Merge it into"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.merge.clicked.connect(self._merge)
        self._lay_out(
            420,
            tr(
                "Each change is one step of the history. What has cells can be merged, not removed."
            ),
            beside=(self.merge, self.into),
        )

    def _fill(self) -> None:
        table = self._session.plan.terrain_table
        self._fill_all(table, self._fill_row)
        self.into.clear()
        self.into.addItems([item.name for item in table])
        self._count()

    def _count(self) -> None:
        """How many cells each class has: at once on a small plan, else in a worker."""
        table = self._session.plan.terrain_table

        def done(counts: list[int]) -> None:
            if not sip.isdeleted(self):
                self._show_counts(table, counts)

        self._session.asking.ask(
            tr("Counting terrain"),
            lambda plan, _control: terrain_classes.usage(plan),
            done,
            of=Plan.snapshot,
            dropped=lambda: None,  # the edit that came in between counts again
        )

    def _show_counts(self, table: TerrainTable, counts: list[int]) -> None:
        for code in range(len(table)):
            self._put_count(code, counts[code])

    def _fill_row(self, code: int, item: TerrainClass) -> None:
        name = QLineEdit(item.name)
        name.editingFinished.connect(lambda: self._change(code, name=name.text().strip()))
        build, walk, bridge = QCheckBox(), QCheckBox(), QCheckBox()
        build.setChecked(item.buildable)
        walk.setChecked(item.passable)
        bridge.setChecked(item.bridge)
        bridge.toggled.connect(lambda on: self._change(code, bridge=on))
        build.toggled.connect(lambda on: self._change(code, buildable=on))
        walk.toggled.connect(lambda on: self._change(code, passable=on))
        cost = WorldBox(item.cost, 0.0001, 1e6)
        cost.editingFinished.connect(lambda: self._change(code, cost=cost.value()))
        dye = self._dye_button(item.dye, lambda chosen: self._change(code, dye=chosen))
        pattern = ComboBox()
        for known in PATTERNS:
            pattern.addItem(tr(known), known)
        pattern.setCurrentIndex(PATTERNS.index(item.pattern))
        pattern.currentIndexChanged.connect(
            lambda _at: self._change(code, pattern=pattern.currentData())
        )
        widgets: list[tuple[QWidget, str]] = [
            (name, tr("Name of")),
            (build, tr("May be built on:")),
            (walk, tr("May be walked on:")),
            (bridge, tr("Road may bridge:")),
            (cost, tr("Move cost of")),
            (dye, tr("Dye of")),
            (pattern, tr("Pattern of")),
        ]
        self._put_row(code, item.name, widgets)
        self._put_count(code, None)

    def _change(self, code: int, **changes: object) -> None:
        table = self._session.plan.terrain_table
        if self._filling or code >= len(table):
            return
        if changes.get("name") == "":
            self.problem.setText(tr("A terrain class needs a name"))
            return
        self._do(
            lambda: terrain_classes.change_class(
                self._session.plan,
                code,
                replace(table[code], **changes),
            )
        )

    def _add(self) -> None:
        plan = self._session.plan

        def make() -> Edit:
            table = plan.terrain_table
            mark = terrain_classes.fresh_mark(table, _FRESH.name)
            key = terrain_classes.fresh_key(table, _FRESH.name)
            return terrain_classes.add_class(plan, replace(_FRESH, key=key, mark=mark))

        self._do(make)
        self._name_last()

    def _remove(self) -> None:
        self._do(lambda: terrain_classes.remove_class(self._session.plan, self.code))

    def _merge(self) -> None:
        code, into = self.code, self.into.currentIndex()
        if code == into:
            self.problem.setText(tr("Choose another class to merge it into"))
            return
        self.problem.setText("")
        name = self._session.plan.terrain_table[code].name
        self._session.work(
            tr("Merging {name}", name=name),
            lambda plan, _stopped: terrain_classes.merge_class(plan, code, into),
        )
