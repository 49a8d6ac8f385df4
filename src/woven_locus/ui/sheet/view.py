"""The sheet: the picture of the map, and the mouse and keys that work on it."""

from __future__ import annotations

from functools import cache

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from woven_locus.core.geometry import Cell
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.sheet.picture import MapPicture
from woven_locus.ui.theme import Theme


@cache
def _arrows() -> dict[int, tuple[int, int]]:
    """Columns and rows by arrow key. `Qt.Key` is made when it is first named, which takes some 30 ms."""
    return {
        Qt.Key.Key_Left: (-1, 0),
        Qt.Key.Key_Right: (1, 0),
        Qt.Key.Key_Up: (0, -1),
        Qt.Key.Key_Down: (0, 1),
    }


class Sheet(MapPicture):
    """Turns mouse and keys into hovers, presses and drags of the tool."""

    acted = pyqtSignal()  # a press, before the tool hears of it

    def __init__(self, desk: Desk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(desk, theme, parent)
        self.setObjectName("sheet")
        self.setAccessibleName(tr("Sheet: the map. Arrow keys move the cell cursor, Enter clicks"))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._pan_from: QPointF | None = None
        self._space = False
        self._pressing = False
        self._wheel = 0
        self.looked.connect(self._point_again)
        desk.traffic.moved.connect(self._traffic_moved)
        desk.session.ending.connect(self._ended)
        for signal in (
            desk.waves.moved,
            desk.wave_ways.changed,
            desk.gains.changed,
            desk.cuts.changed,
            desk.narrow.changed,
            desk.proof.changed,
            desk.compared.changed,
            desk.reported.changed,
        ):
            signal.connect(self.update)

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
        if self._desk.compared.turned:
            # Nothing is done to a plan that is not shown.
            self._desk.compared.turn(False)
            return
        if self._pressing:
            # The button came up where nobody told us; what it had begun ends here.
            self._desk.tools.current.release(hover, held)
        self._pressing = True
        self._desk.tools.current.press(hover, held)

    def _drag(self, held: bool) -> None:
        if self._pressing and self._session.pointer.hover is not None:
            self._desk.tools.current.drag(self._session.pointer.hover, held)
            # What the drag pulled up is another tool's now; it goes down with the button.
            self._pressing |= self._session.hand.pulled

    def _ended(self) -> None:
        """A stroke ends before its button comes up: what comes next begins anew."""
        self._pressing = False

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan_from is not None:
            moved = event.position() - self._pan_from
            self._pan_from = event.position()
            if self._desk.traffic.follow:
                self._desk.traffic.set_follow(False)
            self.camera.pan(round(moved.x()), round(moved.y()))
            self.update()
            return
        self._hover(event.position())
        self._drag(_shift(event))

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

    def _point_again(self) -> None:
        """The world under a resting pointer has changed."""
        if self.underMouse() and self._session.pointer.hover is not None:
            self._hover(QPointF(self.mapFromGlobal(self.cursor().pos())))

    def _traffic_moved(self) -> None:
        """The sheet goes with the vehicle that is followed."""
        place = self._desk.traffic.followed()
        if place is not None:
            self.camera.centre_at(place)
            self.looked.emit()
        self.update()

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
            session.say(tr("Let go off the map: nothing was placed"))
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
        if key in _arrows():
            cols, rows = _arrows()[key]
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
        elif key == Qt.Key.Key_Shift and self._pressing:
            self._drag(True)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
        elif event.key() == Qt.Key.Key_Shift and self._pressing:
            self._drag(False)
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
        self.put_cursor(cell)
        self._drag(False)

    def put_cursor(self, cell: Cell) -> None:
        """Put the cell cursor on a cell of the grid, and show it."""
        self.camera.reveal(cell)
        self._session.pointer.to(self._session.plan.spec.centre(cell))
        self.update()

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
            or self._desk.search.put_away()
            or session.choices.put_tool_down()
        ):
            return
        elif self._session.selection.numbers:
            self._session.select(0)

    @property
    def busy(self) -> bool:
        """Whether Esc has something to take back here."""
        session = self._session
        waits = bool(self._desk.routes.proposed) or self._desk.search.explained is not None
        waits = waits or self._desk.tools.current.stroke is not None
        return self._pressing or not session.hand.empty or bool(session.selection.numbers) or waits


def _shift(event: QMouseEvent | QKeyEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
