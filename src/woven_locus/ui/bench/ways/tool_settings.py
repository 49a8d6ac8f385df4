"""The settings of each tool of Ways."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QFormLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.routing import Over
from woven_locus.core.routing.room import LARGEST_AGENT
from woven_locus.core.strokes.ways import Course
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import inside, tr
from woven_locus.ui.parts.number_boxes import NumberBox
from woven_locus.ui.parts.widgets import ComboBox, muted, quietly, whole_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import WayTool

FARTHEST_REACH = 8
# (field of `Weights`, words, most, step)
_WEIGHTS = (
    ("terrain", tr("Terrain"), 9.0, 0.25),
    ("slope", tr("Slope"), 20.0, 0.5),
    ("turns", tr("Turns"), 20.0, 0.25),
    ("reuse", tr("Reuse of road"), 1.0, 0.05),
)


class LineSettings(QWidget):
    """How roads and barriers are drawn."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.course = ComboBox()
        self.course.setAccessibleName(tr("Course of the line"))
        for course in Course:
            self.course.addItem(tr(course.value), course)
        self.kind = ComboBox()
        self.kind.setAccessibleName(tr("Road class"))
        self.classes = QPushButton(tr("Road classes…"))
        self.rows_first = QCheckBox(tr("Along the column first"))
        self.reach = whole_box(1, 0, FARTHEST_REACH, tr("Cells within which ends snap"))
        self.reach.setSpecialValueText(tr("not at all"))
        self.reach.setPrefix(tr("within "))
        self.weights: dict[str, QDoubleSpinBox] = {}
        self.form = QFormLayout()
        self.form.addRow(tr("Class"), self.kind)
        self.form.addRow(tr("Course"), self.course)
        self.form.addRow("", self.rows_first)
        for name, words, most, step in _WEIGHTS:
            box = NumberBox(0, 0, most, 2)
            box.setSingleStep(step)
            box.setAccessibleName(tr("Weight of {words} for a laid line", words=inside(words)))
            box.valueChanged.connect(lambda value, name=name: self._weigh(name, value))
            self.form.addRow(words, box)
            self.weights[name] = box
        self.form.addRow(tr("Ends snap"), self.reach)
        self.form.addRow("", self.classes)
        self.lay = QPushButton(tr("Lay it"))
        self.lay.setToolTip(tr("Lay the line that waits (Ctrl+Enter)"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self.form)
        column.addWidget(self.lay)
        self.course.currentIndexChanged.connect(
            lambda _at: self._set(course=self.course.currentData())
        )
        self.kind.currentIndexChanged.connect(lambda at: self._set(code=max(0, at)))
        self.rows_first.toggled.connect(lambda on: self._set(rows_first=on))
        self.reach.valueChanged.connect(lambda cells: self._set(reach=cells))
        session.choices.on("ways", self.show_chosen)
        session.reformed.connect(self.show_chosen)
        desk.tools.stroked.connect(self.show_chosen)
        session.replaced.connect(self.show_chosen)

    def _set(self, **changes: Any) -> None:
        session = self._session
        session.choices.set_ways(drawing=replace(session.choices.ways.drawing, **changes))

    def _weigh(self, name: str, value: float) -> None:
        weights = self._session.choices.ways.drawing.weights
        self._set(weights=replace(weights, **{name: value}))

    def show_chosen(self) -> None:
        session, drawing = self._session, self._session.choices.ways.drawing
        names = [item.name for item in session.plan.road_table]
        if names != [self.kind.itemText(k) for k in range(self.kind.count())]:
            quietly(self.kind, self.kind.clear)
            quietly(self.kind, lambda: self.kind.addItems(names))
        code = min(drawing.code, len(names) - 1)
        if code != drawing.code:
            session.choices.ways = replace(
                session.choices.ways, drawing=replace(drawing, code=code)
            )
        quietly(self.kind, lambda: self.kind.setCurrentIndex(code))
        at = self.course.findData(drawing.course)
        quietly(self.course, lambda: self.course.setCurrentIndex(at))
        quietly(self.rows_first, lambda: self.rows_first.setChecked(drawing.rows_first))
        quietly(self.reach, lambda: self.reach.setValue(drawing.reach))
        laid = drawing.course is Course.LAID
        for widget in (self.kind, self.classes):
            self.form.setRowVisible(widget, session.choices.ways.tool is WayTool.ROAD)
        self.form.setRowVisible(self.rows_first, drawing.course is Course.ELBOW)
        for name, box in self.weights.items():
            self.form.setRowVisible(box, laid)
            quietly(box, partial(box.setValue, getattr(drawing.weights, name)))
        self.lay.setVisible(laid)
        self.lay.setEnabled(bool(getattr(self._desk.tools.current, "waiting", False)))


class EraseSettings(QWidget):
    """By stroke or by rectangle."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.block = QCheckBox(tr("A rectangle at a time"))
        self.block.toggled.connect(lambda on: session.choices.set_ways(block=on))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.block)


class SignSettings(QWidget):
    """What the sign tool puts up."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.sign = ComboBox()
        self.sign.setAccessibleName(tr("What the sign tool does"))
        for sign, words in (
            (Sign.NORTH, tr("One way, along the drag")),
            (Sign.CLOSED, tr("Closed")),
            (Sign.CROSSING, tr("Crossing for people")),
            (Sign.NONE, tr("Open both ways")),
        ):
            self.sign.addItem(words, sign)
        self.sign.currentIndexChanged.connect(
            lambda _at: session.choices.set_ways(sign=self.sign.currentData())
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.sign)


class PushSettings(QWidget):
    """Nothing to choose; what can be done at the pointer."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            muted(
                tr("Shift+X splits the road at the pointer, Shift+J joins it to the nearest piece.")
            )
        )


class RouteSettings(QWidget):
    """How whoever asks for a route travels."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.over = ComboBox()
        for over, words in (
            (Over.ROADS, tr("Roads")),
            (Over.GROUND, tr("Ground and roads")),
            (Over.PREFERRED, tr("Ground, roads preferred")),
        ):
            self.over.addItem(words, over)
        self.over.setAccessibleName(tr("Route over"))
        self.moves = ComboBox()
        for moves, words in ((4, tr("4: edge to edge")), (8, tr("8: diagonals too"))):
            self.moves.addItem(words, moves)
        self.moves.setAccessibleName(tr("Moves"))
        self.agent_size = whole_box(1, 1, LARGEST_AGENT, tr("Cells that the agent is wide"))
        self.agent_size.setSuffix(tr(" wide"))
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow(tr("Over"), self.over)
        form.addRow(tr("Moves"), self.moves)
        form.addRow(tr("Agent"), self.agent_size)
        self.over.currentIndexChanged.connect(self._choose)
        self.moves.currentIndexChanged.connect(self._choose)
        self.agent_size.valueChanged.connect(self._choose)
        desk.routes.changed.connect(self._show)

    def _show(self) -> None:
        manner = self._desk.routes.manner
        for box, value in ((self.over, manner.over), (self.moves, manner.moves)):
            quietly(box, partial(box.setCurrentIndex, box.findData(value)))
        quietly(self.agent_size, lambda: self.agent_size.setValue(manner.size))

    def _choose(self) -> None:
        self._desk.routes.travel(
            self.over.currentData(), self.moves.currentData(), self.agent_size.value()
        )
