"""The grid sheet: a new plan's grid, or another grid under a plan that is there, with a picture of the
result, its figures, and what would fall outside, all worked out while it is typed."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QRadioButton, QWidget

from woven_locus.core.editing import Keep, Losses, Regrid
from woven_locus.core.edits.grid import regrid
from woven_locus.core.errors import WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.core.layers import LAYERS
from woven_locus.core.plan import Plan
from woven_locus.ui.bench.survey.facts import grid_facts
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.parts import drawing
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import (
    Label,
    WorldBox,
    figures,
    heading,
    muted,
    side_by_side,
    whole_box,
)
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, number_font

_PICTURE = 190
# Names of what would be lost that are written out.
MOST_NAMES = 4


class GridPicture(QWidget):
    """The grid in the world: its cells, where it is anchored, the axes, and the grid as it was."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.spec: GridSpec | None = None
        self.old: GridSpec | None = None
        self.setFixedSize(_PICTURE + 70, _PICTURE)
        self.setAccessibleName("Picture of the grid in the world")

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
        scale = min((self.width() - 44) / (x1 - x0), (self.height() - 44) / (y1 - y0))
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
        painter.setPen(colour(palette.ink))
        first, last = spec.first, spec.last
        low, high = f"{first.col}, {first.row}", f"{last.col}, {last.row}"
        y_low, y_high = (
            (rect.bottom() + 3, rect.top() - 15)
            if spec.y_up
            else (rect.top() - 15, rect.bottom() + 3)
        )
        flag = Qt.AlignmentFlag
        for cell, y, x in ((low, y_low, rect.left() - 20), (high, y_high, rect.right() - 20)):
            words = cell.replace("-", "−")
            wide = painter.fontMetrics().horizontalAdvance(words) + 2
            # By its own corner, as long as it stays inside.
            left = min(max(x, 4), self.width() - 4 - wide)
            painter.drawText(QRectF(left, y, wide, 13), flag.AlignLeft, words)
        arrow = "y ↑" if spec.y_up else "y ↓"
        painter.setPen(colour(palette.muted))
        painter.drawText(QRectF(4, self.height() / 2 - 7, 30, 14), flag.AlignLeft, arrow)
        painter.drawText(QRectF(4, y_low, self.width() - 8, 13), flag.AlignHCenter, "x →")


class GridSheet(FormSheet):
    """`spec` and `name` hold the answer once accepted; with a session the sheet asks about the plan
    that is open, and does the edit itself."""

    def __init__(
        self, theme: Theme, parent: QWidget | None = None, session: Session | None = None
    ) -> None:
        changing = session is not None
        title = "Change the grid" if changing else "New plan"
        super().__init__(title, "Change it" if changing else "Make the plan", parent)
        self._session = session
        self.spec: GridSpec | None = None
        old = session.plan.spec if session is not None else GridSpec(64, 48, 24, 24)
        self._old = old if changing else None
        self.name = QLineEdit("Untitled plan")
        self.name.setAccessibleName("Name")
        if not changing:
            self.form.addRow("Name", self.name)
        self.cols = whole_box(old.cols, 1, 65536, "Columns")
        self.rows = whole_box(old.rows, 1, 65536, "Rows")
        self.cell_w, self.cell_h = (
            _world(old.cell_w, "Cell width"),
            _world(old.cell_h, "Cell height"),
        )
        self.anchor_x, self.anchor_y = (
            _world(old.anchor_x, "Origin x"),
            _world(old.anchor_y, "Origin y"),
        )
        self.centred = QCheckBox("The middle stays there, not the low corner")
        self.centred.setChecked(old.centred)
        self.first_col = whole_box(old.first_col, -(10**9), 10**9, "First column")
        self.first_row = whole_box(old.first_row, -(10**9), 10**9, "First row")
        self.y_up = QCheckBox("y grows up the screen")
        self.y_up.setChecked(old.y_up)
        self.unit = QLineEdit(old.unit)
        self.unit.setAccessibleName("Unit")
        self.by_index = QRadioButton("by cell index: what is in cell 3, 4 stays in cell 3, 4")
        self.by_place = QRadioButton("by world place: what is at a point stays at that point")
        self.by_index.setChecked(True)
        self.losses = Label()
        self.losses.setWordWrap(True)
        self.losses.setMinimumWidth(300)
        self.picture = GridPicture(theme)
        self.facts = figures()
        self.facts.setMinimumWidth(260)
        self._lay_out(changing)
        # A large plan is not laid out anew with every key.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0 if session is None or session.asking.is_small() else 350)
        self._soon.timeout.connect(self._count_losses)
        self.counted: Losses | None = None
        self._job: Job | None = None
        self._connect()
        self._work_out()

    def _lay_out(self, changing: bool) -> None:
        self.form.addRow("Columns, rows", side_by_side(self.cols, self.rows))
        self.form.addRow("Cell width, height", side_by_side(self.cell_w, self.cell_h))
        self.form.addRow("Origin x, y", side_by_side(self.anchor_x, self.anchor_y))
        self.form.addRow("", self.centred)
        self.form.addRow("First column, row", side_by_side(self.first_col, self.first_row))
        self.form.addRow("", self.y_up)
        self.form.addRow("Unit", self.unit)
        if changing:
            self.form.addRow("Content is kept", self.by_index)
            self.form.addRow("", self.by_place)
            self.form.addRow(heading("What would fall outside"))
            self.form.addRow(self.losses)
        self.side.addWidget(heading("That gives"))
        self.side.addWidget(self.picture)
        self.side.addWidget(self.facts)
        if changing:
            self.side.addWidget(muted("Dashed: the grid as it is. One step of the history."))
        self.side.addStretch(1)

    def _connect(self) -> None:
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
            box.valueChanged.connect(self._work_out)
        for button in (self.centred, self.y_up, self.by_index, self.by_place):
            button.toggled.connect(self._work_out)
        self.unit.textChanged.connect(self._work_out)
        if self._session is not None:
            self.accepted.connect(self._change)

    @property
    def keep(self) -> Keep:
        return Keep.PLACE if self.by_place.isChecked() else Keep.INDEX

    def _work_out(self) -> None:
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
            self.show_problem(f"This grid cannot be made: {err}")
            self.facts.setText("")
            self.losses.setText("")
        else:
            self.show_problem("")
            facts = grid_facts(self.spec)
            self.facts.setText("\n".join(f"{name:<9} {value}" for name, value in facts))
        self.picture.show_grid(self.spec, self._old)
        if self._session is not None and self.spec is not None:
            self.counted = None
            if self.spec == self._old:
                self.losses.setText("Nothing: the grid is as it was.")
                self.make.setEnabled(False)
                return
            # Nothing is done before it was said what would be lost.
            self.make.setEnabled(False)
            self.losses.setText("Working it out …")
            self._soon.start()

    # --- under content -----------------------------------------------------------------------

    def _count_losses(self) -> None:
        session = self._session
        if session is None or self.spec is None:
            return
        question = Regrid(self.spec, self.keep)
        if self._job is not None:
            self._job.stop()

        def asked() -> bool:
            """Whether that is still what the sheet says."""
            return (
                not sip.isdeleted(self)
                and self.spec is not None
                and Regrid(self.spec, self.keep) == question
            )

        def done(lost: Losses) -> None:
            if asked():
                self.counted = lost
                self.losses.setText(losses_words(lost))
                self.make.setEnabled(True)

        def refused(error: WovenError) -> None:
            if asked():
                self.losses.setText("")
                self.show_problem(f"This grid cannot be made: {error}")

        def again() -> None:
            if asked():
                self._soon.start()

        self._job = session.asking.ask(
            "Counting what would fall outside",
            lambda plan, _control: question.work_out(plan)[1],
            done,
            of=Plan.snapshot,
            refused=refused,
            dropped=again,
        )

    def _change(self) -> None:
        session, spec, keep = self._session, self.spec, self.keep
        if session is None or spec is None:
            return
        question = Regrid(spec, keep)
        session.work("Changing the grid", lambda plan, _control: regrid(plan, question))


def losses_words(lost: Losses) -> str:
    """What would be lost, exactly, in words."""
    if not lost:
        return "Nothing: everything finds its place."
    parts = []
    for what, items in (("structure", lost.structures), ("obstacle", lost.obstacles)):
        if items:
            names = [words for _number, words in items[:MOST_NAMES]]
            more = f" and {len(items) - MOST_NAMES:,} more" if len(items) > MOST_NAMES else ""
            parts.append(
                f"{len(items):,} {what}{'s' * (len(items) != 1)}: {', '.join(names)}{more}"
            )
    for layer in LAYERS:
        what, count = layer.lost, lost.cells.get(layer.name, 0)
        if count:
            parts.append(f"{count:,} cell{'s' * (count != 1)} {what}")
    return "\n".join(f"• {part}" for part in parts)


def _world(value: float, name: str) -> WorldBox:
    box = WorldBox(value, -1e12, 1e12)
    box.setAccessibleName(name)
    return box
