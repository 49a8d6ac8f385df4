"""The cycle of signals as bands: a row a turn, green where it may be driven, a line at the time now."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QLineF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy

from woven_locus.core.junction_rules import JunctionRule, Turn
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.theme import Theme, colour, number_font, row_height


class SignalBand(Drawn):
    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._rule: JunctionRule | None = None
        self._turns: list[Turn] = []
        self._now: float | None = None
        self._middles: Callable[[], list[float]] = list
        self.setAccessibleName(tr("Green times within a cycle"))
        self.setMinimumWidth(160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(320, 200)

    def set_rows(self, middles: Callable[[], list[float]]) -> None:
        """Where the rows lie: beside what names them. middles : their y, in this widget's own."""
        self._middles = middles
        self.update()

    def show_rule(self, rule: JunctionRule, turns: Sequence[Turn], now: float | None) -> None:
        """now : seconds since the cycle began, None while nothing runs."""
        self._rule, self._turns, self._now = rule, list(turns), now
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            if self._rule is not None and self._turns:
                self._paint(painter, self._rule)

    def _paint(self, painter: QPainter, rule: JunctionRule) -> None:
        palette = self._theme.palette
        foot = row_height(number_font(8), 4)
        middles = self._middles()
        if len(middles) != len(self._turns):
            return
        wide = self.width() - 8.0
        scale = wide / rule.cycle
        painter.setFont(number_font(8))
        for y, turn in zip(middles, self._turns, strict=True):
            painter.setPen(QPen(colour(palette.line), 1))
            painter.drawLine(QLineF(4, y, 4 + wide, y))
            begun = 4.0
            for phase in rule.phases:
                green, amber = phase.green * scale, phase.amber * scale
                if turn in phase.turns:
                    bar = QRectF(begun, y - 6, green, 12)
                    painter.fillRect(bar, colour(palette.lichen))
                    hatch = QBrush(colour(palette.weld), Qt.BrushStyle.BDiagPattern)
                    painter.fillRect(
                        bar.translated(green, 0).adjusted(0, 0, amber - green, 0), hatch
                    )
                begun += green + amber
        begun, bottom = 0.0, middles[-1] + 10
        painter.setPen(colour(palette.ink))
        for phase in rule.phases:
            x = 4 + begun * scale
            painter.drawLine(QLineF(x, middles[0] - 10, x, bottom))
            if x + 40 < self.width():
                words = QRectF(x + 2, bottom, 60, foot)
                painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, f"{begun:.4g} s")
            begun += phase.green + phase.amber
        if self._now is not None:
            x = 4 + self._now * scale
            painter.setPen(QPen(colour(palette.madder), 2))
            painter.drawLine(QLineF(x, middles[0] - 10, x, bottom))
