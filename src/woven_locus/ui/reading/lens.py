"""The lens: the cell under the pointer enlarged, the raw pointer, the snapped point, and the lines at
which the rule would switch."""

from __future__ import annotations

import math

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen, QResizeEvent

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.render import Raster, Scale
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, text_font

# The longer side of a cell in the lens, pixels.
_CELL = 84
HEIGHT = 140


class Lens(Drawn):
    """Shows the pointer's cell and half a cell around it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.setAccessibleName(tr("Lens: the cell under the pointer enlarged"))
        self.setFixedHeight(HEIGHT)
        self._shown: Cell | None = None
        self._image: QImage | None = None
        # The terrain is engraved ahead, a class at a time, so that the first look costs no more.
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.setInterval(40)
        self._idle.timeout.connect(self._prepare)
        self._rebuild()
        session.pointer.moved.connect(self.update)
        session.replaced.connect(self._rebuild)
        session.changed.connect(self._changed)
        theme.changed.connect(self._rebuild)

    def sizeHint(self) -> QSize:
        return QSize(260, HEIGHT)

    def _rebuild(self) -> None:
        spec = self._session.plan.spec
        long = max(spec.cell_w, spec.cell_h)
        # In pixels of the screen, so that a scaled one shows no enlarged picture.
        self._sharp = self.devicePixelRatioF()
        side = _CELL * self._sharp
        self._scale = Scale(
            max(8, round(side * spec.cell_w / long)), max(8, round(side * spec.cell_h / long))
        )
        self._raster = Raster(self._session.plan, self._theme.palette)
        self._shown = None
        if self.isVisible():
            self.start()
        self.update()

    def start(self) -> None:
        """Do ahead, bit by bit, what pointing at another ground would wait for."""
        self._idle.start()

    def _prepare(self) -> None:
        if self._raster.prepare(self._scale):
            self._idle.start()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._shown = None

    def _changed(self, notice: Notice) -> None:
        if notice.reformed:
            self._rebuild()
            return
        self._raster.learn(notice.structures)
        self._shown = None
        self.update()

    def _look(self, cell: Cell) -> QImage | None:
        """The pixels of the cells around, shaded when the cell changes."""
        if cell != self._shown:
            spec = self._session.plan.spec
            row, col = spec.slot(cell)
            # As rows of the screen, like all that the raster makes.
            row = spec.rows - 1 - row if spec.y_up else row
            down = math.ceil((self.height() * self._sharp / self._scale.ph - 1) / 2)
            across = math.ceil((self.width() * self._sharp / self._scale.pw - 1) / 2)
            around = Box(row - down, col - across, row + down + 1, col + across + 1)
            self._box = around.clipped(spec.shape)
            self._image = None
            if not self._box.empty:
                pixels = self._raster.shade(self._box, self._scale)
                tall, wide = pixels.shape
                self._image = QImage(
                    pixels.data,
                    wide,
                    tall,
                    4 * wide,
                    QImage.Format.Format_RGB32,  # type: ignore[call-overload]
                ).copy()
                self._image.setDevicePixelRatio(self._sharp)
            self._shown = cell
        return self._image

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        if self._sharp != self.devicePixelRatioF():
            self._rebuild()
        palette, hover = self._theme.palette, self._session.pointer.hover
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.fillRect(frame, colour(palette.paper))
        if hover is None:
            painter.setPen(colour(palette.muted))
            painter.setFont(text_font(9))
            painter.drawText(
                frame,
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                tr("Point at the sheet, or press an arrow key there"),
            )
        else:
            painter.save()
            painter.setClipRect(frame)
            self._draw(painter, hover.cell)
            painter.restore()
        painter.setPen(QPen(colour(palette.line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)

    def _draw(self, painter: QPainter, cell: Cell) -> None:
        session, palette = self._session, self._theme.palette
        hover, spec = session.pointer.hover, session.plan.spec
        assert hover is not None
        pw, ph = self._scale.pw / self._sharp, self._scale.ph / self._sharp
        # The cell stands still in the middle; the pointer moves in it.
        left, top = self.width() / 2 - pw / 2, self.height() / 2 - ph / 2
        row, col = spec.slot(cell)
        row = spec.rows - 1 - row if spec.y_up else row
        image = self._look(cell)
        if image is not None:
            painter.drawImage(
                QPointF(left + (self._box.c0 - col) * pw, top + (self._box.r0 - row) * ph), image
            )
        low = spec.corner(cell)

        def at(x: float, y: float) -> QPointF:
            down = (y - low.y) / spec.cell_h
            return QPointF(
                left + (x - low.x) / spec.cell_w * pw, top + (1 - down if spec.y_up else down) * ph
            )

        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(colour(palette.ink, 90), 1))
        for k in (-1, 0, 1, 2):
            painter.drawLine(QLineF(left + k * pw, 0, left + k * pw, self.height()))
            painter.drawLine(QLineF(0, top + k * ph, self.width(), top + k * ph))
        painter.setPen(QPen(colour(palette.ink), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(left, top, pw, ph))

        snapped = hover.snapped
        a, b = at(*snapped.low), at(*snapped.high)
        switch = QPen(colour(palette.weld if palette.dark else "#8A6608"), 2)
        switch.setDashPattern([4, 3])
        painter.setPen(switch)
        for line in (
            QLineF(a.x(), 0, a.x(), self.height()),
            QLineF(b.x(), 0, b.x(), self.height()),
            QLineF(0, a.y(), self.width(), a.y()),
            QLineF(0, b.y(), self.width(), b.y()),
        ):
            painter.drawLine(line)

        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        raw, point = at(*hover.point), at(*snapped.at)
        for width, dye in ((4.5, palette.paper), (2, palette.madder)):
            painter.setPen(QPen(colour(dye), width))
            painter.drawLine(raw, point)
        painter.setPen(QPen(colour(palette.paper), 1.5))
        painter.setBrush(colour(palette.madder))
        painter.drawEllipse(point, 6, 6)
        for width, dye in ((4, palette.paper), (1.6, palette.ink)):
            painter.setPen(QPen(colour(dye), width))
            painter.drawLine(QLineF(raw.x() - 8, raw.y(), raw.x() + 8, raw.y()))
            painter.drawLine(QLineF(raw.x(), raw.y() - 8, raw.x(), raw.y() + 8))
