"""Ground: the terrain classes and the brush."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QHBoxLayout,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.ground import TerrainClass
from woven_locus.core.render.stamps import TERRAIN, Stamps
from woven_locus.core.tools.lines import LARGEST_BRUSH
from woven_locus.ui.session import Session
from woven_locus.ui.theme import Theme, colour, text_font
from woven_locus.ui.widgets import Page, heading, muted


class TerrainButton(QAbstractButton):
    """A class with a swatch of its real look, and what it allows in words."""

    def __init__(self, code: int, item: TerrainClass, swatch: QImage, theme: Theme) -> None:
        super().__init__()
        self.code, self._item, self._swatch, self._theme = code, item, swatch, theme
        self.setText(item.name)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._words = f"{'build' if item.buildable else 'no building'}, {'walk' if item.passable else 'no way'}"
        if item.passable and item.cost != 1:
            self._words += f" ×{item.cost:g}"
        self.setAccessibleName(f"{item.name}: {self._words}")

    def sizeHint(self) -> QSize:
        return QSize(200, 40)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        palette = self._theme.palette
        painter = QPainter(self)
        if self.isChecked():
            painter.fillRect(self.rect(), colour(palette.raised))
            painter.fillRect(0, 0, 3, self.height(), colour(palette.madder))
        painter.drawImage(10, 4, self._swatch)
        painter.setPen(QPen(colour(palette.ink), 1))
        painter.drawRect(10, 4, self._swatch.width() - 1, self._swatch.height() - 1)
        left = 10 + self._swatch.width() + 10
        painter.setFont(text_font(10, bold=self.isChecked()))
        painter.drawText(
            QRectF(left, 3, self.width() - left, 18), Qt.AlignmentFlag.AlignVCenter, self.text()
        )
        painter.setFont(text_font(8))
        painter.setPen(colour(palette.muted))
        painter.drawText(
            QRectF(left, 20, self.width() - left, 16), Qt.AlignmentFlag.AlignVCenter, self._words
        )
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.5))
            painter.drawRect(1, 1, self.width() - 3, self.height() - 3)


class GroundPage(Page):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("bench")
        self._session, self._theme = session, theme
        self.column.addWidget(heading("Terrain to paint"))
        self._list = QWidget()
        self.column.addWidget(self._list)
        self.buttons: list[TerrainButton] = []
        self.column.addWidget(heading("Brush"))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(1, LARGEST_BRUSH)
        self.slider.setAccessibleName("Brush size in cells")
        self.size = QSpinBox()
        self.size.setRange(1, LARGEST_BRUSH)
        self.size.setSuffix(" cells")
        self.size.setAccessibleName("Brush size in cells")
        self.slider.valueChanged.connect(lambda size: session.set_brush(size=size))
        self.size.valueChanged.connect(lambda size: session.set_brush(size=size))
        row = QHBoxLayout()
        row.addWidget(self.slider, 1)
        row.addWidget(self.size)
        self.column.addLayout(row)
        self.column.addWidget(muted("A stroke is one step of the history. Esc drops it."))
        self.column.addStretch(1)
        session.replaced.connect(self._fill)
        session.tool_changed.connect(self._show)
        theme.changed.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        """One button per class of the plan."""
        fresh = QWidget()
        column = QVBoxLayout(fresh)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        group = QButtonGroup(fresh)
        self.buttons = []
        plan = self._session.plan
        stamps = Stamps(32, 32, self._theme.palette, plan.terrain_table, plan.kinds)
        for code, item in enumerate(plan.terrain_table):
            keys = (np.arange(2, dtype=np.int64) + 1)[None, :] | (code << TERRAIN)
            pixels = np.ascontiguousarray(stamps.look_up(keys)[:32, :52])
            image = QImage(pixels.data, 52, 32, 4 * 52, QImage.Format.Format_RGB32).copy()  # type: ignore[call-overload]
            button = TerrainButton(code, item, image, self._theme)
            button.clicked.connect(lambda _on, code=code: self._take(code))
            group.addButton(button)
            column.addWidget(button)
            self.buttons.append(button)
        self.column.replaceWidget(self._list, fresh)
        self._list.deleteLater()
        self._list = fresh
        self._show()

    def _take(self, code: int) -> None:
        self._session.set_brush(code=code)
        self._session.taken_up.emit()

    def _show(self) -> None:
        if self._session.terrain_code < len(self.buttons):
            self.buttons[self._session.terrain_code].setChecked(True)
        for widget in (self.slider, self.size):
            widget.blockSignals(True)
            widget.setValue(self._session.brush_size)
            widget.blockSignals(False)
