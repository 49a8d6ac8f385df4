"""The sheet: the map, its overlays and scales, and the events that move it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPoint, QPointF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QEnterEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.render import GroundView, Overlay, Raster, Scale
from woven_locus.core.render.scale import STEPS
from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.drawing import apart, painting
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.stages import Stage, Where
from woven_locus.ui.sheet import layers
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.sheet.overlays import ground, scales
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.tiles import Tiles
from woven_locus.ui.theme import Theme, colour

_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class Sheet(QWidget):
    """Paints the plan and turns mouse and keys into hovers, presses and drags of the tool."""

    painted = pyqtSignal()
    acted = pyqtSignal()  # a press, before the tool hears of it

    def __init__(self, desk: Desk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, session = desk, desk.session
        self.setObjectName("sheet")
        self.setAccessibleName("Sheet: the map. Arrow keys move the cell cursor, Enter clicks")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(280, 200)
        self._session, self._theme = session, theme
        self._left, self._top = scales.left(), scales.top()  # where the map begins
        self.camera = Camera(session.plan.spec)
        self._tiles = Tiles(Raster(session.plan, theme.palette))
        self._contours = ground.Contours()
        self._fitted = False
        self._pan_from: QPointF | None = None
        self._space = False
        self._pressing = False
        self._wheel = 0
        self.patient = False  # for pictures: every frame is complete
        self.unfinished = False  # tiles of the last frame are still to be made or mended
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.setInterval(0)
        self._again.timeout.connect(self.update)
        # When nothing else is to do, the neighbouring zoom steps are made ready.
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.setInterval(20)
        self._idle.timeout.connect(self._prepare)
        # What takes too long for every frame is drawn when nothing has moved for a moment.
        self._quiet_now = False
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(90)
        self._quiet.timeout.connect(self._be_patient)
        session.replaced.connect(self._replaced)
        session.changed.connect(self._plan_changed)
        for signal in (
            session.pointer.moved,
            session.selection.changed,
            session.choices.profiled,
            desk.walk.moved,
            desk.routes.changed,
            desk.study.changed,
            desk.study.stepped,
        ):
            signal.connect(self.update)
        for signal in (
            session.hand.judged,
            desk.tools.stroked,
        ):
            signal.connect(self.update)
        for signal in (
            session.choices.stage_changed,
            session.choices.changed,
            session.hand.changed,
        ):
            signal.connect(self._view_changed)
        desk.where.changed.connect(self._view_changed)
        desk.where.mended.connect(self._where_mended)
        session.reveal.connect(self._reveal)
        theme.changed.connect(self._rebuild)

    def sizeHint(self) -> QSize:
        return QSize(730, 520)

    # --- the document ------------------------------------------------------------------------

    def _replaced(self) -> None:
        self.camera = Camera(
            self._session.plan.spec,
            width=self.camera.width,
            height=self.camera.height,
            sharp=self.camera.sharp,
        )
        self.camera.show_whole()
        self._rebuild()

    def _rebuild(self) -> None:
        self._tiles = Tiles(Raster(self._session.plan, self._theme.palette, self._view()))
        self.update()

    def _view(self) -> GroundView:
        """What is shown of the ground: what was chosen in Ground, or where the kind in hand could go."""
        session = self._session
        if session.choices.stage is Stage.GROUND:
            return session.choices.ground.view
        if self._desk.where.map is not None:
            any_turn = session.choices.build.where is Where.ANY
            return GroundView(Overlay.WHERE, where=self._desk.where.map, any_turn=any_turn)
        return GroundView()

    def _view_changed(self) -> None:
        view = self._view()
        if view != self._tiles.raster.view:
            self._rebuild()
        self.update()

    def _where_mended(self, boxes: list[Box]) -> None:
        self._tiles.mend(boxes)
        self.update()

    def _plan_changed(self, notice: Notice) -> None:
        if notice.reformed:
            if self._session.plan.spec != self.camera.spec:
                self._replaced()
            else:
                self._rebuild()
            return
        self._tiles.forget(notice)
        self.update()

    # --- looking around ----------------------------------------------------------------------

    def show_whole(self) -> None:
        self.camera.show_whole()
        self._looked()

    def show_selection(self) -> None:
        number = self._session.selection.front
        if number:
            plan = self._session.plan
            self.camera.show_box(plan.box_of(plan.register[number]))
            self._looked()
        else:
            self._session.say("Nothing is selected", "no")

    def show_actual(self) -> None:
        """1:1, a pixel for a world unit as nearly as whole pixels allow."""
        spec = self._session.plan.spec
        size = min(spec.cell_w, spec.cell_h)
        best = min(range(len(STEPS)), key=lambda k: abs(STEPS[k] - size) if STEPS[k] > 0 else 1e9)
        self.zoom(best - self.camera.step)

    def zoom(self, steps: int, at: QPointF | None = None) -> None:
        """Zoom by steps at a widget place (the middle by default)."""
        if at is None:
            x, y = self.camera.width / 2, self.camera.height / 2
        else:
            x, y = at.x() - self._left, at.y() - self._top
        self.camera.zoom(steps, x, y)
        self._looked()

    def pan(self, dx: int, dy: int) -> None:
        self.camera.pan(dx, dy)
        self._looked()

    def _looked(self) -> None:
        # The world under a resting pointer has changed.
        if self.underMouse() and self._session.pointer.hover is not None:
            self._hover(QPointF(self.mapFromGlobal(self.cursor().pos())))
        self.update()

    def _reveal(self, cell: Cell) -> None:
        self.camera.reveal(cell)
        self.update()

    def place_of(self, cell: Cell) -> QPointF:
        """The widget place of a cell's centre."""
        x, y = self.camera.middle_of(cell)
        return QPointF(x + self._left, y + self._top)

    # --- painting ----------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._sharpen()
        self.camera.resize(self.width() - self._left, self.height() - self._top)

    def _sharpen(self) -> None:
        """The raster is made in pixels of the screen, however that is scaled."""
        if self.camera.sharp != self.devicePixelRatioF():
            self.camera.set_sharp(self.devicePixelRatioF())
            self._rebuild()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self._sharpen()
        if not self._fitted:
            # Only now has the window its real size.
            self._fitted = True
            self.camera.show_whole()
        with painting(self, "The sheet") as painter:
            self._paint(painter)
        (self._again if self.unfinished else self._idle).start()
        self.painted.emit()

    def _paint(self, painter: QPainter) -> None:
        """The map, then one thing after the other over it: what fails is left out, the rest is drawn."""
        session, palette = self._session, self._theme.palette
        area = (self._left, self._top, self.camera.width, self.camera.height)
        painter.fillRect(*area, colour(palette.paper))
        painter.save()
        painter.setClipRect(*area)
        painter.translate(self._left, self._top)
        canvas = Canvas(painter, self.camera, self._desk, palette)
        self.unfinished = self._tiles.draw(painter, self.camera, self.patient)
        if self._tiles.raster.view.contours:
            stale = layers.over_map(canvas, self._contours, self.patient or self._quiet_now)
            self._quiet_now = False
            if stale:
                self._quiet.start()
        else:
            layers.over_map(canvas, None, self.patient)
        painter.restore()
        apart(
            painter,
            "The scales",
            lambda: scales.draw(painter, self.camera, session, palette, self._span()),
        )
        if self.hasFocus():
            painter.setPen(colour(palette.indigo))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(0, 0, self.width() - 1, self.height() - 1)

    def _be_patient(self) -> None:
        self._quiet_now = True
        self.update()

    def _prepare(self) -> None:
        """A few milliseconds of work for the next zoom, as long as nobody waits for a frame."""
        spec = self.camera.spec
        for step in (self.camera.step + 1, self.camera.step - 1):
            if 0 <= step < len(STEPS):
                scale = Scale.at(step, spec.cell_w, spec.cell_h, self.camera.sharp)
                if self._tiles.raster.prepare(scale):
                    self._idle.start()
                    return

    def _span(self) -> tuple[Cell, int, int] | None:
        """What is marked on the scales: the ghost, the brush, or the pointer's cell."""
        session = self._session
        if session.hand.ghost is not None:
            footprint = session.plan.footprint(session.hand.ghost.kind, session.hand.ghost.turn)
            return session.hand.ghost.cell, footprint.cols, footprint.rows
        if session.hand.block_ghost is not None:
            block = session.hand.block_ghost
            return block.cell, block.block.cols, block.block.rows
        if session.pointer.hover is None:
            return None
        covered = self._desk.tools.current.cover()
        if covered is not None:
            box = covered[0].clipped(session.plan.spec.shape)
            if not box.empty:
                return session.plan.spec.cell_of_slot((box.r0, box.c0)), box.shape[1], box.shape[0]
        return session.pointer.hover.cell, 1, 1

    # --- the pointer -------------------------------------------------------------------------

    def _hover(self, at: QPointF) -> None:
        x, y = at.x() - self._left, at.y() - self._top
        # A drag goes on beyond the edge; only an idle pointer over the scales is nowhere.
        if not self._pressing and (x < 0 or y < 0):
            self._session.pointer.to(None)
        else:
            self._session.pointer.to(self.camera.point_at(x, y))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        middle = event.button() == Qt.MouseButton.MiddleButton
        left = event.button() == Qt.MouseButton.LeftButton
        if middle or (left and self._space):
            self._pan_from = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif left:
            self._hover(event.position())
            if self._session.pointer.hover is not None:
                self._press(self._session.pointer.hover, _shift(event))
        elif event.button() == Qt.MouseButton.RightButton:
            self.back_out()

    def _press(self, hover: Hover, held: bool) -> None:
        self.acted.emit()
        if self._pressing:
            # The button came up where nobody told us; what it had begun ends here.
            self._desk.tools.current.release(hover, held)
        self._pressing = True
        self._desk.tools.current.press(hover, held)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan_from is not None:
            moved = event.position() - self._pan_from
            self._pan_from = event.position()
            self.camera.pan(round(moved.x()), round(moved.y()))
            self.update()
            return
        self._hover(event.position())
        if self._pressing and self._session.pointer.hover is not None:
            self._desk.tools.current.drag(self._session.pointer.hover, _shift(event))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan_from is not None:
            self._pan_from = None
            self.unsetCursor()
        elif self._pressing and event.button() == Qt.MouseButton.LeftButton:
            self._pressing = False
            self._desk.tools.current.release(self._session.pointer.hover, _shift(event))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        # Touchpads send many small turns; a step is a whole notch.
        self._wheel += event.angleDelta().y()
        steps = int(self._wheel / 120)
        self._wheel -= steps * 120
        if steps:
            self.zoom(steps, event.position())

    def enterEvent(self, event: QEnterEvent | None) -> None:
        assert event is not None
        self._hover(event.position())

    def leaveEvent(self, event: QEvent | None) -> None:
        if not self._pressing:
            self._session.pointer.to(None)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._space = False
        super().focusOutEvent(event)

    # --- pulled off the shelf ----------------------------------------------------------------

    def pull(self, at: QPoint) -> None:
        """The pointer, its button held since it was on the shelf, has come to a place on the screen."""
        place = self.mapFromGlobal(at)
        if self.rect().contains(place):
            self._hover(QPointF(place))
        else:
            self._session.pointer.to(None)

    def let_go(self, at: QPoint) -> None:
        """The button came up. Off the map, and on ground that refuses it, the kind is put back."""
        place, session = self.mapFromGlobal(at), self._session
        on_map = self.rect().contains(place) and place.x() >= self._left and place.y() >= self._top
        if not on_map or session.hand.kind is None:
            session.disarm()
            session.say("Let go off the map: nothing was placed")
            return
        self._hover(QPointF(place))
        hover = session.pointer.hover
        if hover is not None:
            before = session.document.revision
            tool = self._desk.tools.current
            tool.press(hover, False)
            tool.release(hover, False)
            if session.document.revision == before:
                session.disarm()

    # --- the keyboard ------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        if key in _ARROWS:
            cols, rows = _ARROWS[key]
            way = (cols, rows * self.camera.row_way)
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self._desk.building.nudge(*way)
                return
            if not self._desk.tools.current.walk(*way, _shift(event)):
                self._step_cursor(cols, rows, 8 if _shift(event) else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            # With Ctrl it is an action's key, even where that has nothing to do.
            if not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self._press_by_key(_shift(event))
        elif key == Qt.Key.Key_Space:
            self._space = True
        elif key == Qt.Key.Key_Shift and self._pressing and self._session.pointer.hover is not None:
            self._desk.tools.current.drag(self._session.pointer.hover, True)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
        elif (
            event.key() == Qt.Key.Key_Shift
            and self._pressing
            and self._session.pointer.hover is not None
        ):
            self._desk.tools.current.drag(self._session.pointer.hover, False)
        else:
            super().keyReleaseEvent(event)

    def _step_cursor(self, cols: int, rows: int, far: int) -> None:
        """Move the pointer's cell by the keyboard; it stays on the grid."""
        spec = self._session.plan.spec
        hover = self._session.pointer.hover
        if hover is None:
            sight = self.camera.visible()
            cell = spec.cell_of_slot(((sight.r0 + sight.r1) // 2, (sight.c0 + sight.c1) // 2))
        else:
            cell = hover.cell.moved(cols * far, rows * far * self.camera.row_way)
        last = spec.last
        cell = Cell(
            min(max(cell.col, spec.first_col), last.col),
            min(max(cell.row, spec.first_row), last.row),
        )
        self.camera.reveal(cell)
        self._session.pointer.to(spec.centre(cell))
        if self._pressing and self._session.pointer.hover is not None:
            self._desk.tools.current.drag(self._session.pointer.hover, False)

    def _press_by_key(self, held: bool) -> None:
        """Enter presses and lets go; with Shift it holds down until Enter comes again."""
        hover = self._session.pointer.hover
        if hover is None:
            self._step_cursor(0, 0, 0)
            return
        if not self._pressing:
            self._press(hover, False)
            if held:
                return
        self._pressing = False
        self._desk.tools.current.release(self._session.pointer.hover, False)

    def back_out(self) -> None:
        """One step back: the stroke, then what is in hand, then the selection."""
        session = self._session
        if self._desk.tools.current.cancel() or session.disarm():
            self._pressing = False
        elif (
            self._desk.routes.withdraw()
            or self._desk.study.stop_explaining()
            or session.choices.put_tool_down()
        ):
            return
        elif self._session.selection.numbers:
            self._session.select(0)

    @property
    def busy(self) -> bool:
        """Whether Esc has something to take back here."""
        session = self._session
        waits = bool(self._desk.routes.proposed) or self._desk.study.explained is not None
        waits = waits or self._desk.tools.current.stroke is not None
        return self._pressing or not session.hand.empty or bool(session.selection.numbers) or waits


def _shift(event: QMouseEvent | QKeyEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
