"""The questions about a grid, with a picture of the result and its figures, worked out while it is typed."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QWidget

from woven_locus.core.errors import WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.ui.bench.survey.facts import grid_facts
from woven_locus.ui.language import tr
from woven_locus.ui.parts import drawing
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import WorldBox, figures, heading, side_by_side, whole_box
from woven_locus.ui.theme import Theme, colour, em, number_font, row_height

_PICTURE, _LOWEST = 190, 90


class GridPicture(Drawn):
    """The grid in the world: its cells, where it is anchored, the axes, and the grid as it was."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.spec: GridSpec | None = None
        self.old: GridSpec | None = None
        self.setFixedWidth(em(_PICTURE + 70))
        # Lower where the screen is: what stands below it is not to be covered.
        self.setMinimumHeight(em(_LOWEST))
        self.setMaximumHeight(em(_PICTURE))
        self.setAccessibleName(tr("Picture of the grid in the world"))

    def sizeHint(self) -> QSize:
        return self.maximumSize()

    def show_grid(self, spec: GridSpec | None, old: GridSpec | None) -> None:
        self.spec, self.old = spec, old
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour(palette.paper))
        painter.setPen(QPen(colour(palette.line), 1))
        painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
        spec = self.spec
        if spec is None:
            return
        shown = [each for each in (spec, self.old) if each is not None]
        x0 = min(each.origin_x for each in shown)
        x1 = max(each.high.x for each in shown)
        y0 = min(each.origin_y for each in shown)
        y1 = max(each.high.y for each in shown)
        room = em(44)
        scale = min((self.width() - room) / (x1 - x0), (self.height() - room) / (y1 - y0))
        left = (self.width() - (x1 - x0) * scale) / 2
        top = (self.height() - (y1 - y0) * scale) / 2

        def at(x: float, y: float) -> QPointF:
            down = y1 - y if spec.y_up else y - y0
            return QPointF(left + (x - x0) * scale, top + down * scale)

        def area(each: GridSpec) -> QRectF:
            return QRectF(at(each.origin_x, each.origin_y), at(*each.high)).normalized()

        if self.old is not None and self.old != spec:
            painter.setPen(QPen(colour(palette.muted), 1.4, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area(self.old))
        rect = area(spec)
        painter.fillRect(rect, colour(palette.woad, 60))
        self._cells(painter, spec, rect)
        painter.setPen(QPen(colour(palette.indigo), 2))
        painter.drawRect(rect)
        anchor = at(spec.anchor_x, spec.anchor_y)
        painter.setPen(QPen(colour(palette.paper), 1.5))
        painter.setBrush(colour(palette.madder))
        painter.drawEllipse(anchor, 5, 5)
        self._words(painter, spec, rect, anchor)

    def _cells(self, painter: QPainter, spec: GridSpec, rect: QRectF) -> None:
        """Lines of every cell, or of every nth when they would be a grey wash."""
        painter.setPen(QPen(colour(self._theme.palette.indigo, 90), 0.7))
        lines = []
        for count, size, upright in (
            (spec.cols, rect.width(), True),
            (spec.rows, rect.height(), False),
        ):
            step = size / count
            every = 1
            while step * every < 5:
                every *= 2
            for k in range(0, count, every):
                off = k * step
                if upright:
                    lines.append(
                        QLineF(rect.left() + off, rect.top(), rect.left() + off, rect.bottom())
                    )
                else:
                    # Counted from the low edge, which is the lower one where y grows upwards.
                    y = rect.bottom() - off if spec.y_up else rect.top() + off
                    lines.append(QLineF(rect.left(), y, rect.right(), y))
        drawing.lines(painter, lines)

    def _words(self, painter: QPainter, spec: GridSpec, rect: QRectF, anchor: QPointF) -> None:
        palette = self._theme.palette
        painter.setFont(number_font(8))
        line = row_height(number_font(8), 0)
        painter.setPen(colour(palette.ink))
        first, last = spec.first, spec.last
        low, high = f"{first.col}, {first.row}", f"{last.col}, {last.row}"
        y_low, y_high = (
            (rect.bottom() + 3, rect.top() - line - 2)
            if spec.y_up
            else (rect.top() - line - 2, rect.bottom() + 3)
        )
        flag = Qt.AlignmentFlag
        for cell, y, x in ((low, y_low, rect.left() - 20), (high, y_high, rect.right() - 20)):
            words = cell.replace("-", "−")
            wide = painter.fontMetrics().horizontalAdvance(words) + 2
            # By its own corner, as long as it stays inside.
            left = min(max(x, 4), self.width() - 4 - wide)
            painter.drawText(QRectF(left, y, wide, line), flag.AlignLeft, words)
        arrow = "y ↑" if spec.y_up else "y ↓"
        painter.setPen(colour(palette.muted))
        painter.drawText(QRectF(4, (self.height() - line) / 2, em(30), line), flag.AlignLeft, arrow)
        painter.drawText(QRectF(4, y_low, self.width() - 8, line), flag.AlignHCenter, "x →")


class GridForm(FormSheet):
    """Boxes for every value of a grid. `spec` is what they say, None as long as that is no grid.

    A sheet that is built on it adds its own questions, and calls `add_grid` and `begin`.
    """

    def __init__(self, title: str, make: str, theme: Theme, old: GridSpec, parent: QWidget) -> None:
        """old : what the boxes begin with."""
        super().__init__(title, make, parent)
        self.spec: GridSpec | None = None
        self.cols = whole_box(old.cols, 1, 65536, tr("Columns"))
        self.rows = whole_box(old.rows, 1, 65536, tr("Rows"))
        self.cell_w = _world(old.cell_w, tr("Cell width"))
        self.cell_h = _world(old.cell_h, tr("Cell height"))
        self.anchor_x = _world(old.anchor_x, tr("Origin x"))
        self.anchor_y = _world(old.anchor_y, tr("Origin y"))
        self.centred = QCheckBox(tr("The origin is the middle, not the low corner"))
        self.centred.setChecked(old.centred)
        self.first_col = whole_box(old.first_col, -(10**9), 10**9, tr("First column"))
        self.first_row = whole_box(old.first_row, -(10**9), 10**9, tr("First row"))
        self.y_up = QCheckBox(tr("y grows up the screen"))
        self.y_up.setChecked(old.y_up)
        self.unit = QLineEdit(old.unit)
        self.unit.setAccessibleName(tr("Unit"))
        self.picture = GridPicture(theme)
        self.facts = figures()
        self.facts.setMinimumWidth(em(260))

    def add_grid(self) -> None:
        """The grid's questions, and beside them what they give."""
        self.form.addRow(tr("Columns, rows"), side_by_side(self.cols, self.rows))
        self.form.addRow(tr("Cell width, height"), side_by_side(self.cell_w, self.cell_h))
        self.form.addRow(tr("Origin x, y"), side_by_side(self.anchor_x, self.anchor_y))
        self.form.addRow("", self.centred)
        self.form.addRow(tr("First column, row"), side_by_side(self.first_col, self.first_row))
        self.form.addRow("", self.y_up)
        self.form.addRow(tr("Unit"), self.unit)
        self.side.addWidget(heading(tr("That gives")))
        self.side.addWidget(self.picture)
        self.side.addWidget(self.facts)

    def begin(self) -> None:
        """Follow the boxes from here on."""
        for box in (
            self.cols,
            self.rows,
            self.cell_w,
            self.cell_h,
            self.anchor_x,
            self.anchor_y,
            self.first_col,
            self.first_row,
        ):
            box.valueChanged.connect(self.work_out)
        for button in (self.centred, self.y_up):
            button.toggled.connect(self.work_out)
        self.unit.textChanged.connect(self.work_out)
        self.work_out()

    def before(self) -> GridSpec | None:
        """The grid that this one takes the place of."""
        return None

    def work_out(self) -> None:
        """`spec`, its picture and figures, or why there is none."""
        try:
            self.spec = GridSpec(
                self.cols.value(),
                self.rows.value(),
                self.cell_w.value(),
                self.cell_h.value(),
                self.anchor_x.value(),
                self.anchor_y.value(),
                self.centred.isChecked(),
                self.first_col.value(),
                self.first_row.value(),
                self.unit.text() or "units",
                self.y_up.isChecked(),
            )
        except WovenError as err:
            self.spec = None
            self.show_problem(tr("This grid cannot be made: {err}", err=err))
            self.facts.setText("")
        else:
            self.show_problem("")
            facts = grid_facts(self.spec)
            self.facts.setText("\n".join(f"{name:<9} {value}" for name, value in facts))
        self.picture.show_grid(self.spec, self.before())


def _world(value: float, name: str) -> WorldBox:
    box = WorldBox(value, -1e12, 1e12)
    box.setAccessibleName(name)
    return box
