"""The verdict in writing: each rule, passed or not, with the names of what is in the way."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from woven_locus.core.placing import Reason, Verdict
from woven_locus.core.placing.judge import rule_rows
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.theme import Theme, colour, text_font

_WORDS = {
    Reason.OUTSIDE: "Inside the grid",
    Reason.TERRAIN: "Terrain may be built on",
    Reason.RESERVED: "Not reserved",
    Reason.OBSTACLE: "No obstacle",
    Reason.OCCUPIED: "Not occupied",
    Reason.ROAD: "No road",
}
_ROW = 19


class VerdictView(QWidget):
    """Rows with the same marks as the sheet's."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._rows: list[tuple[Reason, bool, str]] = []
        self.title = ""
        self._ok: bool | None = None
        self.setFixedHeight(24 + _ROW * len(_WORDS))
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(260, self.height())

    def show_verdict(self, title: str, verdict: Verdict | None) -> None:
        """title : the answer in one line.  verdict : None when nothing is asked."""
        rows = rule_rows(verdict) if verdict is not None else []
        ok = bool(verdict) if verdict is not None else None
        if (title, rows, ok) == (self.title, self._rows, self._ok):
            return
        self.title, self._rows, self._ok = title, rows, ok
        self.setAccessibleName(title)
        self.setAccessibleDescription(self.words())
        self.update()

    def words(self) -> str:
        """All that is shown, as text."""
        lines = []
        for reason, ok, names in self._rows:
            if names and reason is Reason.OUTSIDE:
                names = f"outside {names}"
            lines.append(
                f"{'yes' if ok else 'no'}: {_WORDS[reason]}{': ' + names if names else ''}"
            )
        return "\n".join([self.title, *lines])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        palette = self._theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(text_font(10, bold=True))
        dye = palette.ink
        if self._ok is not None:
            dye = palette.indigo if self._ok else palette.madder
        painter.setPen(colour(dye))
        title = QFontMetricsF(painter.font()).elidedText(
            self.title, Qt.TextElideMode.ElideRight, self.width()
        )
        painter.drawText(QRectF(0, 0, self.width(), 22), middle, title)
        for at, (reason, ok, names) in enumerate(self._rows):
            y = 24 + at * _ROW
            mark = QRectF(2, y + 2.5, 13, 13)
            (marks.free if ok else marks.blocked)(painter, palette, mark)
            painter.setFont(text_font(9, bold=not ok))
            painter.setPen(colour(palette.ink if not ok else palette.muted))
            text = _WORDS[reason]
            if not ok:
                text = _failed(reason, names)
            metrics = QFontMetricsF(painter.font())
            shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, self.width() - 26)
            painter.drawText(QRectF(24, y, self.width() - 24, _ROW), middle, shown)


_FAILED = {
    Reason.TERRAIN: "Terrain",
    Reason.RESERVED: "Reserved ground",
    Reason.OBSTACLE: "Obstacle",
    Reason.OCCUPIED: "Occupied",
    Reason.ROAD: "A road runs here",
}
# Reasons behind which a thing with a name of its own stands.
_NAMED = (Reason.TERRAIN, Reason.OBSTACLE, Reason.OCCUPIED)


def _failed(reason: Reason, names: str) -> str:
    """A rule that did not pass, with the names of what is in the way."""
    if reason is Reason.OUTSIDE:
        return f"Outside {names or 'the grid'}"
    return f"{_FAILED[reason]}: {names}" if reason in _NAMED else _FAILED[reason]
