"""The tools of Ground, and the settings of the one in hand."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.edits.heights import HIGHEST, Sculpt
from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.lines import LARGEST_BRUSH
from woven_locus.core.value import replace
from woven_locus.ui.bench.tool_buttons import ToolButtons
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import ComboBox, quietly, side_by_side, whole_box, world_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import GroundTool
from woven_locus.ui.theme import Theme

# Icon, key, what it does.
TOOLS = {
    GroundTool.BRUSH: ("brush", "B", tr("Paint under a brush")),
    GroundTool.LINE: ("line", "L", tr("Paint a straight line")),
    GroundTool.BOX: ("box", "R", tr("Paint a rectangle")),
    GroundTool.FILL: ("fill", "F", tr("Fill a piece of equal ground")),
    GroundTool.REPLACE: ("replace", "E", tr("Replace one terrain by another all over")),
    GroundTool.PICK: ("pick", "P", tr("Take up the terrain under the pointer")),
    GroundTool.SCULPT: ("sculpt", "G", tr("Raise, lower, level or smooth the ground")),
    GroundTool.PROFILE: ("profile", "H", tr("See the heights along a line")),
    GroundTool.OBSTACLE: ("obstacle", "O", tr("Put down an obstacle")),
    GroundTool.CLEAR: ("clear", "X", tr("Clear obstacles")),
}
BRUSHES = (GroundTool.BRUSH, GroundTool.LINE, GroundTool.SCULPT)


class GroundTools(ToolButtons[GroundTool]):
    def __init__(self, session: Session, theme: Theme) -> None:
        def take(tool: GroundTool) -> None:
            session.choices.set_ground(tool=tool)
            session.taken_up.emit()

        super().__init__(TOOLS, theme, take)
        session.choices.on("ground", lambda: self.show_chosen(session.choices.ground.tool))
        self.show_chosen(session.choices.ground.tool)


class BrushPanel(QWidget):
    """Size and shape of the brush."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(1, LARGEST_BRUSH)
        self.slider.setAccessibleName(tr("Brush size in cells"))
        self.size_box = whole_box(3, 1, LARGEST_BRUSH, tr("Brush size in cells"))
        self.size_box.setSuffix(tr(" cells"))
        self.round = QCheckBox(tr("Round"))
        self.slider.valueChanged.connect(lambda size: session.choices.set_brush(size=size))
        self.size_box.valueChanged.connect(lambda size: session.choices.set_brush(size=size))
        self.round.toggled.connect(
            lambda on: session.choices.set_ground(
                brush=replace(session.choices.ground.brush, round=on)
            )
        )
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.slider, 1)
        row.addWidget(self.size_box)
        row.addWidget(self.round)
        session.choices.on("ground", self._show)
        session.reformed.connect(self._show)
        self._show()

    def _show(self) -> None:
        brush = self._session.choices.ground.brush
        quietly(self.slider, lambda: self.slider.setValue(brush.size))
        quietly(self.size_box, lambda: self.size_box.setValue(brush.size))
        quietly(self.round, lambda: self.round.setChecked(brush.round))


class SculptPanel(QWidget):
    """What the sculpting brush does, and by how much."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.how = ComboBox()
        self.how.setAccessibleName(tr("What the brush does to heights"))
        for each in Sculpt:
            self.how.addItem(tr(each.value), each)
        self.amount = world_box(4, 0.0001, HIGHEST, tr("Units to raise or lower by"))
        self.how.currentIndexChanged.connect(
            lambda _at: session.choices.set_ground(sculpt=self.how.currentData())
        )
        self.amount.valueChanged.connect(lambda value: session.choices.set_ground(amount=value))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.how, 1)
        row.addWidget(self.amount, 1)
        session.choices.on("ground", self._show)
        session.reformed.connect(self._show)
        self._show()

    def _show(self) -> None:
        chosen = self._session.choices.ground
        at = self.how.findData(chosen.sculpt)
        quietly(self.how, lambda: self.how.setCurrentIndex(at))
        quietly(self.amount, lambda: self.amount.setValue(chosen.amount))
        self.amount.setEnabled(chosen.sculpt in (Sculpt.RAISE, Sculpt.LOWER))


class ObstaclePanel(QWidget):
    """Name, look and size of the next obstacle."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        chosen = session.choices.ground
        self.name = QLineEdit(chosen.obstacle_name)
        self.name.setAccessibleName(tr("Name of the obstacle"))
        self.look = ComboBox()
        self.look.setAccessibleName(tr("Look of the obstacle"))
        for look in LOOKS:
            self.look.addItem(tr(look.capitalize()), look)
        self.cols = whole_box(chosen.obstacle_cols, 1, 16, tr("Columns of the obstacle"))
        self.rows = whole_box(chosen.obstacle_rows, 1, 16, tr("Rows of the obstacle"))
        self.scatter = QPushButton(tr("Scatter many…"))
        form = QFormLayout()
        form.addRow(tr("Name"), self.name)
        form.addRow(tr("Look"), self.look)
        form.addRow(tr("Cells"), side_by_side(self.cols, self.rows))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(form)
        column.addWidget(self.scatter)
        self.name.textChanged.connect(self._choose)
        self.look.currentIndexChanged.connect(self._choose)
        self.cols.valueChanged.connect(self._choose)
        self.rows.valueChanged.connect(self._choose)

    def _choose(self) -> None:
        self._session.choices.set_ground(
            obstacle_name=self.name.text(),
            obstacle_look=self.look.currentData(),
            obstacle_cols=self.cols.value(),
            obstacle_rows=self.rows.value(),
        )
