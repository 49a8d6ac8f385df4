"""The verdict in writing: each rule, passed or not, with the names of what is in the way."""

from __future__ import annotations

from bisect import bisect_right
from functools import lru_cache

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetricsF,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
)
from PyQt6.QtWidgets import QLabel, QToolTip

from woven_locus.core.kinds import Kind
from woven_locus.core.phrase import with_capital
from woven_locus.core.placing import Blocker, Reason, RuleRow, Verdict, rule_rows
from woven_locus.core.plan import Plan
from woven_locus.core.render import Palette
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.texts import Face
from woven_locus.ui.parts.widgets import tip
from woven_locus.ui.sheet.overlays import marks
from woven_locus.ui.theme import Theme, colour, row_height, text_font


class VerdictView(QLabel):
    """Rows with the same marks as the sheet's. A row with something in the way is a link to it."""

    followed = pyqtSignal(object)  # Blocker: its name was clicked

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.rows: list[RuleRow] = []
        self.title = ""
        self._ok: bool | None = None
        self._visits: dict[Reason, int] = {}
        self._tops: list[int] = []
        self._row = row_height(text_font(9, bold=True), 2, 18)
        self._head = row_height(text_font(10, bold=True), 6, 24)
        self._fit()
        self.setMouseTracking(True)
        theme.changed.connect(self.update)

    def _fit(self) -> None:
        """Where each row lies: a refusal that needs more room takes two lines."""
        room = max(40, self.width() - 26)
        metrics = QFontMetricsF(text_font(9, bold=True))
        self._tops, y = [], self._head
        for row in self.rows:
            self._tops.append(y)
            long = row.ok is not True and metrics.horizontalAdvance(_failed(row)) > room
            y += 2 * self._row - 3 if long else self._row
        self._tops.append(y)
        # Room for the rules of the cells, so that what is below seldom moves.
        self.setFixedHeight(max(self._head + self._row * 7, y))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def sizeHint(self) -> QSize:
        return QSize(260, self.height())

    def show_verdict(
        self,
        title: str,
        verdict: Verdict | None,
        plan: Plan | None = None,
        kind: Kind | None = None,
    ) -> None:
        """title : the answer in one line.  verdict : None when nothing is asked.  kind : whose rules
        were asked too."""
        rows = rule_rows(verdict, plan, kind) if verdict is not None else []
        ok = bool(verdict) if verdict is not None else None
        if (title, rows, ok) == (self.title, self.rows, self._ok):
            return
        self.title, self.rows, self._ok = title, rows, ok
        self._visits.clear()
        self._fit()
        self.setAccessibleName(title)
        self.setAccessibleDescription(self.words())
        self.update()

    def words(self) -> str:
        """All that is shown, as text."""
        lines = []
        for row in self.rows:
            mark = tr("doubtful") if row.ok is None else tr("yes") if row.ok else tr("no")
            short = f": {_short(row)}" if row.ok is not True else ""
            lines.append(f"{mark}: {shown(row.title)}{short}")
        return "\n".join([self.title, *lines])

    def refusals(self) -> list[str]:
        """Each rule that did not pass, with what is in the way."""
        return [_failed(row) for row in self.rows if row.ok is False]

    @property
    def blockers(self) -> list[Blocker]:
        """All that is in the way, in the order of the rules."""
        return [blocker for row in self.rows for blocker in row.blockers]

    def _row_at(self, at: QPointF) -> RuleRow | None:
        index = bisect_right(self._tops, at.y()) - 1
        return self.rows[index] if 0 <= index < len(self.rows) else None

    def place_of(self, reason: Reason) -> QPointF:
        """The middle of a rule's row."""
        index = next(k for k, row in enumerate(self.rows) if row.reason is reason)
        return QPointF(60, self._tops[index] + 0.5 * self._row)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row = self._row_at(event.position())
        link = row is not None and bool(row.blockers)
        self.setCursor(Qt.CursorShape.PointingHandCursor if link else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row = self._row_at(event.position())
        if row is not None and row.blockers:
            # Each click goes on to the next of them.
            at = self._visits.get(row.reason, 0)
            self._visits[row.reason] = at + 1
            self.followed.emit(row.blockers[at % len(row.blockers)])

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            row = self._row_at(QPointF(event.pos()))
            words = "" if row is None else f"{shown(row.title)}. {shown(row.words)}".strip()
            if row is not None and row.blockers:
                words += tr(" (click to go there)")
            QToolTip.showText(event.globalPos(), tip(words), self)
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        dye = palette.ink
        if self._ok is not None:
            dye = palette.indigo if self._ok else palette.madder
        face = Face(text_font(10, bold=True))
        painter.setFont(face.font)
        painter.setPen(colour(dye))
        title = face.elided(self.title, self.width())
        face.draw(painter, 0, (self._head - 2 - face.height) / 2, title)
        for at, row in enumerate(self.rows):
            y, tall = self._tops[at], self._tops[at + 1] - self._tops[at]
            mark = mark_of(row.ok, palette, self.devicePixelRatioF())
            painter.drawPixmap(QPointF(1, y + (self._row - 15) / 2), mark)
            font = text_font(9, bold=row.ok is False)
            font.setUnderline(bool(row.blockers))
            painter.setFont(font)
            painter.setPen(colour(palette.muted if row.ok else palette.ink))
            text, wide = shown(row.title) if row.ok else _failed(row), self.width() - 24
            face = Face(font)
            if tall > self._row:
                room = QRectF(24, y, wide, tall)
                cut = face.elided(text, 1.8 * wide)
                flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(room, flags, cut)
            else:
                face.draw(painter, 24, y + (tall - face.height) / 2, face.elided(text, wide - 2))


@lru_cache(maxsize=32)
def mark_of(ok: bool | None, palette: Palette, sharp: float) -> QPixmap:
    """The sheet's mark of a rule that passed, did not, or is in doubt, 15 pixels a side."""
    made = QPixmap(round(15 * sharp), round(15 * sharp))
    made.setDevicePixelRatio(sharp)
    made.fill(Qt.GlobalColor.transparent)
    area = QRectF(1, 1, 12.5, 12.5)
    with painting(made, tr("A mark")) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if ok is None:
            marks.doubtful(painter, palette, area)
        else:
            (marks.free if ok else marks.blocked)(painter, palette, area)
    return made


_FAILED = {
    Reason.TERRAIN: tr("Terrain"),
    Reason.RESERVED: tr("Reserved ground"),
    Reason.OBSTACLE: tr("Obstacle"),
    Reason.OCCUPIED: tr("Occupied"),
    Reason.ROAD: tr("A road runs here"),
    Reason.BARRIER: tr("A barrier runs here"),
}
# Reasons behind which a thing with a name of its own stands.
_NAMED = (Reason.TERRAIN, Reason.OBSTACLE, Reason.OCCUPIED)


def _names(row: RuleRow) -> str:
    return ", ".join(dict.fromkeys(shown(blocker.name) for blocker in row.blockers))


def _short(row: RuleRow) -> str:
    """Why not, for a reader who knows the rule's name."""
    if row.reason is Reason.OUTSIDE:
        return tr("outside {names}", names=_names(row) or tr("the grid"))
    if row.reason in _FAILED:
        return _names(row)
    return shown(row.words)


def _failed(row: RuleRow) -> str:
    """A rule that did not pass, with the names of what is in the way."""
    if row.reason is Reason.OUTSIDE:
        return tr("Outside {names}", names=_names(row) or tr("the grid"))
    if row.reason in _FAILED:
        text = _FAILED[row.reason]
        return f"{text}: {_names(row)}" if row.reason in _NAMED else text
    return with_capital(shown(row.words))
