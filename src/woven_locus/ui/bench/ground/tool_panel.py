"""The tools of Ground, and the settings of the one in hand."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.ground.obstacles import LOOKS
from woven_locus.core.tools.heights import HIGHEST, Sculpt
from woven_locus.core.tools.lines import LARGEST_BRUSH
from woven_locus.ui.icons import dress
from woven_locus.ui.session import Session
from woven_locus.ui.stages import GroundTool
from woven_locus.ui.theme import Theme
from woven_locus.ui.widgets import quietly, side_by_side, whole_box, world_box

# Icon, key, what it does.
TOOLS = {
    GroundTool.BRUSH: ("brush", "B", "Paint under a brush"),
    GroundTool.LINE: ("line", "L", "Paint a straight line"),
    GroundTool.BOX: ("box", "R", "Paint a rectangle"),
    GroundTool.FILL: ("fill", "F", "Fill a piece of equal ground"),
    GroundTool.REPLACE: ("replace", "E", "Replace one terrain by another all over"),
    GroundTool.PICK: ("pick", "P", "Take up the terrain under the pointer"),
    GroundTool.SCULPT: ("sculpt", "G", "Raise, lower, level or smooth the ground"),
    GroundTool.PROFILE: ("profile", "H", "See the heights along a line"),
    GroundTool.OBSTACLE: ("obstacle", "O", "Put down an obstacle"),
    GroundTool.CLEAR: ("clear", "X", "Clear obstacles"),
}
BRUSHES = (GroundTool.BRUSH, GroundTool.LINE, GroundTool.SCULPT)


class ToolButtons(QWidget):
    """One button a tool, two to a row."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        group = QButtonGroup(self)
        self.buttons: dict[GroundTool, QPushButton] = {}
        for at, (tool, (_icon, key, words)) in enumerate(TOOLS.items()):
            button = QPushButton(tool.value)
            button.setCheckable(True)
            button.setToolTip(f"{words} ({key})")
            button.setStyleSheet("text-align: left; padding-left: 6px; padding-right: 4px;")
            button.clicked.connect(lambda _on, tool=tool: self._take(tool))
            group.addButton(button)
            grid.addWidget(button, at // 2, at % 2)
            self.buttons[tool] = button
        theme.changed.connect(self._dress)
        session.tool_changed.connect(self._show)
        self._dress()
        self._show()

    def _dress(self) -> None:
        for tool, button in self.buttons.items():
            dress(button, TOOLS[tool][0], self._theme.palette)

    def _take(self, tool: GroundTool) -> None:
        self._session.set_ground(tool=tool)
        self._session.taken_up.emit()

    def _show(self) -> None:
        self.buttons[self._session.ground.tool].setChecked(True)


class BrushPanel(QWidget):
    """Size and shape of the brush."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(1, LARGEST_BRUSH)
        self.slider.setAccessibleName("Brush size in cells")
        self.size = whole_box(3, 1, LARGEST_BRUSH, "Brush size in cells")
        self.size.setSuffix(" cells")
        self.round = QCheckBox("Round")
        self.slider.valueChanged.connect(lambda size: session.set_brush(size=size))
        self.size.valueChanged.connect(lambda size: session.set_brush(size=size))
        self.round.toggled.connect(
            lambda on: session.set_ground(brush=replace(session.ground.brush, round=on))
        )
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.slider, 1)
        row.addWidget(self.size)
        row.addWidget(self.round)
        session.tool_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        brush = self._session.ground.brush
        for widget in (self.slider, self.size):
            quietly(widget, lambda widget=widget: widget.setValue(brush.size))
        quietly(self.round, lambda: self.round.setChecked(brush.round))


class SculptPanel(QWidget):
    """What the sculpting brush does, and by how much."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.how = QComboBox()
        self.how.setAccessibleName("What the brush does to heights")
        for each in Sculpt:
            self.how.addItem(each.value, each)
        self.amount = world_box(4, 0.0001, HIGHEST, "Units to raise or lower by")
        self.how.currentIndexChanged.connect(
            lambda _at: session.set_ground(sculpt=self.how.currentData())
        )
        self.amount.valueChanged.connect(lambda value: session.set_ground(amount=value))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.how, 1)
        row.addWidget(self.amount, 1)
        session.tool_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        chosen = self._session.ground
        at = self.how.findData(chosen.sculpt)
        quietly(self.how, lambda: self.how.setCurrentIndex(at))
        quietly(self.amount, lambda: self.amount.setValue(chosen.amount))
        self.amount.setEnabled(chosen.sculpt in (Sculpt.RAISE, Sculpt.LOWER))


class ObstaclePanel(QWidget):
    """Name, look and size of the next obstacle."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        chosen = session.ground
        self.name = QLineEdit(chosen.obstacle_name)
        self.name.setAccessibleName("Name of the obstacle")
        self.look = QComboBox()
        self.look.setAccessibleName("Look of the obstacle")
        for look in LOOKS:
            self.look.addItem(look.capitalize(), look)
        self.cols = whole_box(chosen.obstacle_cols, 1, 16, "Columns of the obstacle")
        self.rows = whole_box(chosen.obstacle_rows, 1, 16, "Rows of the obstacle")
        self.scatter = QPushButton("Scatter many…")
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Look", self.look)
        form.addRow("Cells", side_by_side(self.cols, self.rows))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(form)
        column.addWidget(self.scatter)
        self.name.textChanged.connect(self._choose)
        self.look.currentIndexChanged.connect(self._choose)
        self.cols.valueChanged.connect(self._choose)
        self.rows.valueChanged.connect(self._choose)

    def _choose(self) -> None:
        self._session.set_ground(
            obstacle_name=self.name.text(),
            obstacle_look=self.look.currentData(),
            obstacle_cols=self.cols.value(),
            obstacle_rows=self.rows.value(),
        )
