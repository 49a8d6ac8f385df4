"""Build: the shelf of kinds, each drawn as its real footprint on cells."""

from __future__ import annotations

from collections import Counter

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.geometry import SIDES
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Kind
from woven_locus.core.plan import Plan
from woven_locus.core.render import Palette
from woven_locus.ui.icons import dress
from woven_locus.ui.session import Session
from woven_locus.ui.theme import Theme, colour, number_font, text_font
from woven_locus.ui.widgets import Page, heading, muted


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
    painter.setPen(QPen(colour(palette.panel), 1))
    painter.setBrush(colour(kind.dye))
    for c, r in footprint.cells:
        painter.drawRect(QRectF(x0 + c * wide, y0 + r * tall, wide, tall))
    painter.setBrush(colour(palette.ink))
    painter.setPen(Qt.PenStyle.NoPen)
    for door in footprint.doors:
        d_row, d_col = SIDES[door.side]
        x = x0 + (door.col + 0.5 + d_col * 0.5) * wide
        y = y0 + (door.row + 0.5 + d_row * 0.5) * tall
        painter.drawEllipse(QPointF(x, y), 2.5, 2.5)


class ShelfButton(QAbstractButton):
    """A kind on the shelf."""

    def __init__(self, kind: Kind, plan: Plan, theme: Theme) -> None:
        super().__init__()
        self.kind, self._money, self._theme = kind, plan.money, theme
        self._spec = plan.spec
        self.placed = 0
        self.turn = 0
        self.setText(kind.name)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(f"Take a {kind.name.lower()} in hand; click it again to put it back")
        self.set_placed(0)

    def set_placed(self, placed: int) -> None:
        self.placed = placed
        footprint = self.kind.footprint
        self.setAccessibleName(
            f"{self.kind.name}, {footprint.cols} by {footprint.rows} cells, "
            f"{self.kind.price} {self._money}, {placed} placed"
        )
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, 62)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        palette = self._theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked() or self.underMouse():
            painter.fillRect(self.rect(), colour(palette.raised))
        if self.isChecked():
            painter.fillRect(0, 0, 3, self.height(), colour(palette.madder))
        turn = self.turn if self.isChecked() else 0
        area = QRectF(10, 6, 56, 50)
        draw_footprint(painter, self.kind, turn, area, palette, self._spec)
        left = 78
        wide = self.width() - left - 4
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(colour(palette.ink))
        painter.setFont(text_font(10, bold=self.isChecked()))
        painter.drawText(QRectF(left, 6, wide, 18), middle, self.text())
        painter.setFont(number_font(8))
        painter.setPen(colour(palette.muted))
        footprint = self.kind.footprint
        size = f"{self.kind.code}  {footprint.cols}×{footprint.rows}, {len(footprint.cells)} cells"
        painter.drawText(QRectF(left, 24, wide, 16), middle, size)
        price = f"{self.kind.price} {self._money}"
        painter.drawText(QRectF(left, 40, wide, 16), middle, price)
        painter.drawText(
            QRectF(left, 40, wide, 16),
            middle | Qt.AlignmentFlag.AlignRight,
            f"{self.placed} placed",
        )
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))


class BuildPage(Page):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__("bench")
        self._session, self._theme = session, theme
        self.column.addWidget(heading("Shelf"))
        self._shelf = QWidget()
        self.column.addWidget(self._shelf)
        self.buttons: dict[str, ShelfButton] = {}
        self.turn_left = QPushButton("Turn left")
        self.turn_right = QPushButton("Turn right")
        self.turn_left.clicked.connect(lambda: session.turn_ghost(-1))
        self.turn_right.clicked.connect(lambda: session.turn_ghost(1))
        row = QHBoxLayout()
        row.addWidget(self.turn_left)
        row.addWidget(self.turn_right)
        self.column.addLayout(row)
        self.column.addWidget(
            muted(
                "Dots are doors. Drag on the sheet to place many; each lands on its next free spot."
            )
        )
        self.column.addStretch(1)
        session.replaced.connect(self._fill)
        session.changed.connect(self._changed)
        session.tool_changed.connect(self._show)
        session.selected.connect(self._show)
        theme.changed.connect(self._dress)
        self._dress()
        self._fill()

    def _dress(self) -> None:
        dress(self.turn_left, "turn-left", self._theme.palette)
        dress(self.turn_right, "turn-right", self._theme.palette)
        self.update()

    def _fill(self) -> None:
        fresh = QWidget()
        column = QVBoxLayout(fresh)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        plan = self._session.plan
        self.buttons = {}
        for kind in plan.kinds:
            button = ShelfButton(kind, plan, self._theme)
            button.clicked.connect(lambda on, key=kind.key: self._take(key, on))
            column.addWidget(button)
            self.buttons[kind.key] = button
        self.column.replaceWidget(self._shelf, fresh)
        self._shelf.deleteLater()
        self._shelf = fresh
        self._count()
        self._show()

    def _take(self, key: str, on: bool) -> None:
        if on:
            self._session.arm(key)
            self._session.taken_up.emit()
        else:
            self._session.disarm()

    def _changed(self, notice: object) -> None:
        if getattr(notice, "structures", None):
            self._count()

    def _count(self) -> None:
        counts = Counter(row.kind for row in self._session.plan.register)
        for key, button in self.buttons.items():
            button.set_placed(counts[key])

    def _show(self) -> None:
        session = self._session
        for key, button in self.buttons.items():
            button.turn = session.turn
            button.setChecked(session.armed == key and not session.lifted)
            button.update()
        can_turn = session.armed is not None or bool(session.selection)
        self.turn_left.setEnabled(can_turn)
        self.turn_right.setEnabled(can_turn)
