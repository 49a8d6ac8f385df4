"""One curve of the snap study: its switch and its legend in one."""

from __future__ import annotations

import math

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton

from woven_locus.core.grid.snap_study import Curve
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.charts import curve_looks
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.theme import Theme, colour, em, row_height, text_font


class CurveSwitch(QAbstractButton):
    """Shows or hides a curve, and is its legend: the line as it is drawn. Wrong variants lean."""

    def __init__(self, curve: Curve, look: int, theme: Theme) -> None:
        super().__init__()
        self._theme, self._look, self._wrong = theme, look, bool(curve.wrong)
        self.setText(shown(curve.name))
        self.setFont(text_font(9))
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip(
            tr("Wrong: {wrong}", wrong=curve.wrong)
            if curve.wrong
            else tr("The rule {key}", key=curve.key)
        )
        self.setAccessibleName(
            tr("{name}: a wrong variant", name=curve.name) if curve.wrong else shown(curve.name)
        )

    def sizeHint(self) -> QSize:
        font = text_font(9)
        font.setItalic(self._wrong)
        wide = 46 + QFontMetricsF(font).horizontalAdvance(self.text())
        return QSize(max(em(118), math.ceil(wide)), row_height(text_font(9), 2, 18))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        on = self.isChecked()
        painter.setPen(QPen(colour(palette.ink if on else palette.muted), 1))
        middle = self.height() // 2
        painter.drawRect(1, middle - 5, 10, 10)
        if on:
            painter.fillRect(4, middle - 2, 5, 5, colour(palette.ink))
        dye, dashes = curve_looks(palette)[self._look]
        pen = QPen(colour(dye if on else palette.line), 2.4)
        if dashes:
            pen.setDashPattern(list(dashes))
        painter.setPen(pen)
        painter.drawLine(16, middle, 40, middle)
        font = text_font(9)
        font.setItalic(self._wrong)
        painter.setFont(font)
        painter.setPen(colour(palette.ink if on else palette.muted))
        rect = QRectF(45, 0, self.width() - 45, self.height())
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, self.text())
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.2))
            painter.drawRect(0, 0, self.width() - 1, self.height() - 1)
