"""Short texts that are drawn again and again, each laid out once."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QStaticText


@lru_cache(maxsize=4096)
def _laid_out(text: str, font: str) -> tuple[QStaticText, float]:
    face = QFont()
    face.fromString(font)
    made = QStaticText(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.prepare(font=face)
    return made, made.size().width()


class Face:
    """A font for texts that come again: about half of what laying them out anew would take.

    height : of a line, pixels.
    """

    def __init__(self, font: QFont) -> None:
        self.font = font
        self._name = font.toString()
        self.height = QFontMetricsF(font).height()

    def width(self, text: str) -> float:
        """Pixels that a text takes."""
        return _laid_out(text, self._name)[1]

    def elided(self, text: str, room: float) -> str:
        """The text, or as much of it as there is room for, and an ellipsis."""
        if self.width(text) <= room:
            return text
        return QFontMetricsF(self.font).elidedText(text, Qt.TextElideMode.ElideRight, room)

    def draw(self, painter: QPainter, x: float, y: float, text: str) -> None:
        """With its upper left corner there, in the painter's pen; the painter has this font."""
        painter.drawStaticText(QPointF(x, y), _laid_out(text, self._name)[0])
