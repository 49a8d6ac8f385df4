"""The shelf: kinds as their real footprints on cells, to take in hand or to pull onto the map."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QApplication, QVBoxLayout, QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import SIDES
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Kind
from woven_locus.core.plan import Plan
from woven_locus.core.render import Palette
from woven_locus.ui.language import tr
from woven_locus.ui.parts import drawing
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.widgets import tip
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, em, number_font, row_height, text_font


def _lines() -> tuple[int, int]:
    """Pixels of the name's line, and of the one below it."""
    return row_height(text_font(10, bold=True), 2, 18), row_height(number_font(8), 2, 18)


def draw_footprint(
    painter: QPainter, kind: Kind, turn: int, area: QRectF, palette: Palette, spec: GridSpec
) -> None:
    """A kind as blocks on cells of the grid's shape with its doors, as large as fits the middle of
    `area`."""
    footprint = kind.footprint.turned(turn)
    long = max(spec.cell_w, spec.cell_h)
    size = min(
        16.0,
        area.width() / footprint.cols * long / spec.cell_w,
        area.height() / footprint.rows * long / spec.cell_h,
    )
    wide, tall = size * spec.cell_w / long, size * spec.cell_h / long
    x0 = area.center().x() - footprint.cols * wide / 2
    y0 = area.center().y() - footprint.rows * tall / 2
    painter.setPen(QPen(colour(palette.panel), 1 if size > 3 else 0))
    if size <= 3:
        painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(kind.dye))
    drawing.rects(
        painter, [QRectF(x0 + c * wide, y0 + r * tall, wide, tall) for c, r in footprint.cells]
    )
    painter.setBrush(colour(palette.ink))
    painter.setPen(Qt.PenStyle.NoPen)
    for door in footprint.doors:
        d_row, d_col = SIDES[door.side]
        x = x0 + (door.col + 0.5 + d_col * 0.5) * wide
        y = y0 + (door.row + 0.5 + d_row * 0.5) * tall
        painter.drawEllipse(QPointF(x, y), 2.5, 2.5)


class ShelfButton(QAbstractButton):
    """A kind on the shelf. Pressed and let go it is taken in hand; pulled away it goes where the button
    comes up."""

    pulled = pyqtSignal(QPoint)  # a place on the screen, with the button held
    let_go = pyqtSignal(QPoint)

    def __init__(self, kind: Kind, plan: Plan, theme: Theme) -> None:
        super().__init__()
        self.kind, self._money, self._theme = kind, plan.money, theme
        self._spec = plan.spec
        self.placed = 0
        self.turn = 0
        self.lacking = ""
        self._press: QPoint | None = None
        self._pulling = False
        self.setText(kind.name)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(sum(_lines()) + 10)
        self.setToolTip(
            tip(
                tr(
                    "{kind} ({key}): click takes it in hand or puts it back, pull it onto the map",
                    kind=kind.name,
                    key=kind.key,
                )
            )
        )
        self.set_placed(0, "")

    def set_placed(self, placed: int, lacking: str) -> None:
        """placed : how many stand.  lacking : what is amiss with their number, in words."""
        if (placed, lacking) == (self.placed, self.lacking) and self.accessibleName():
            return
        self.placed, self.lacking = placed, lacking
        footprint = self.kind.footprint
        self.setAccessibleName(
            tr(
                "{kind}, {cols} by {rows} cells, {price} {money}, {placed} placed{lacking}",
                kind=self.kind.name,
                cols=footprint.cols,
                rows=footprint.rows,
                price=self.kind.price,
                money=self._money,
                placed=placed,
                lacking=", " + lacking if lacking else "",
            )
        )
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(em(200), sum(_lines()) + 10)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._press, self._pulling = event.position().toPoint(), False
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._press is not None and event.buttons() & Qt.MouseButton.LeftButton:
            far = (event.position().toPoint() - self._press).manhattanLength()
            if self._pulling or far >= QApplication.startDragDistance():
                self._pulling = True
                self.setDown(False)
                self.pulled.emit(event.globalPosition().toPoint())
                return
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        pulling, self._press, self._pulling = self._pulling, None, False
        if pulling:
            self.let_go.emit(event.globalPosition().toPoint())
            return
        super().mouseReleaseEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked() or self.underMouse():
            painter.fillRect(self.rect(), colour(palette.raised))
        if self.isChecked():
            painter.fillRect(0, 0, 3, self.height(), colour(palette.madder))
        turn = self.turn if self.isChecked() else self.kind.all_turns[0]
        area = QRectF(8, 4, 52, self.height() - 8)
        draw_footprint(painter, self.kind, turn, area, palette, self._spec)
        left = 68
        upper, lower = _lines()
        wide = self.width() - left - 4
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(colour(palette.ink))
        painter.setFont(text_font(10, bold=self.isChecked()))
        right = middle | Qt.AlignmentFlag.AlignRight
        metrics = QFontMetricsF(painter.font())
        price = f"{self.kind.price:,}"
        cost = QFontMetricsF(number_font(8)).horizontalAdvance(price)
        name = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, wide - cost - 6)
        painter.drawText(QRectF(left, 4, wide, upper), middle, name)
        painter.setFont(number_font(8))
        painter.drawText(QRectF(left, 4, wide, upper), right, price)
        painter.setPen(colour(palette.muted))
        footprint = self.kind.footprint
        size = f"{self.kind.code} {footprint.cols}×{footprint.rows}"
        painter.drawText(QRectF(left, 4 + upper, wide, lower), middle, size)
        count = tr("{placed} placed", placed=self.placed)
        if self.lacking:
            painter.setPen(colour(palette.madder))
            count = self.lacking
        painter.drawText(QRectF(left, 4 + upper, wide, lower), right, count)
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))


class Shelf(QWidget):
    """A button for each kind of the plan, in its order."""

    pulled = pyqtSignal(QPoint)
    let_go = pyqtSignal(QPoint)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.buttons: dict[str, ShelfButton] = {}
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        session.replaced.connect(self._fill)
        session.changed.connect(self._changed)
        session.hand.changed.connect(self.refresh)
        theme.changed.connect(self.update)
        self._fill()

    def _fill(self) -> None:
        for button in self.buttons.values():
            self._column.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = {}
        plan = self._session.plan
        for kind in plan.kinds:
            button = ShelfButton(kind, plan, self._theme)
            button.clicked.connect(lambda on, key=kind.key: self._take(key, on))
            button.pulled.connect(lambda at, key=kind.key: self._pull(key, at))
            button.let_go.connect(self.let_go)
            self._column.addWidget(button)
            self.buttons[kind.key] = button
        self._count()
        self.refresh()

    def _take(self, key: str, on: bool) -> None:
        if on:
            self._session.arm(key)
            self._session.taken_up.emit()
        else:
            self._session.disarm()

    def _pull(self, key: str, at: QPoint) -> None:
        if self._session.hand.kind != key or self._session.hand.lifted:
            self._session.arm(key)
            self._session.taken_up.emit()
        self.pulled.emit(at)

    def _changed(self, notice: Notice) -> None:
        if "kinds" in notice.layers or "grid" in notice.layers:
            self._fill()
        elif notice.structures:
            self._count()

    def _count(self) -> None:
        register = self._session.plan.register
        for key, button in self.buttons.items():
            asked, count = button.kind.demands, register.count(key)
            lacking = (
                tr("{count} of {least}", count=count, least=asked.least)
                if count < asked.least
                else ""
            )
            button.set_placed(count, lacking)

    def refresh(self) -> None:
        """Which is in hand, and how it is turned."""
        session = self._session
        for key, button in self.buttons.items():
            button.turn = session.hand.turn
            button.setChecked(session.hand.kind == key and not session.hand.lifted)
            button.update()
