"""The picture of the map: its tiles, what lies over them, and the scales along its edges."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import QWidget

from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Box, Cell, Point
from woven_locus.core.render import GroundOverlay, GroundView, Raster, Scale
from woven_locus.core.render.scale import STEPS
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import apart, painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.session.stages import Stage, WhereShown
from woven_locus.ui.sheet import layers
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.sheet.overlays import ground, scales
from woven_locus.ui.sheet.overlays.base import Canvas
from woven_locus.ui.sheet.tiles import Tiles
from woven_locus.ui.theme import Theme, colour


def view_of(desk: Desk) -> GroundView:
    """What is shown of the ground: what was chosen in Ground, or where the kind in hand could go."""
    choices = desk.session.choices
    if choices.stage is Stage.GROUND:
        return choices.ground.view
    if desk.where.map is not None:
        any_turn = choices.build.where is WhereShown.ANY
        return GroundView(GroundOverlay.WHERE, where=desk.where.map, any_turn=any_turn)
    return GroundView()


class MapPicture(Drawn):
    """Paints the plan and what lies over it, and can be looked around on; knows nothing of mouse and keys."""

    painted = pyqtSignal()
    looked = pyqtSignal()  # another part of the map is in sight

    def __init__(self, desk: Desk, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, session = desk, desk.session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(280, 200)
        self._session, self._theme = session, theme
        self._left, self._top = scales.left(), scales.top()  # where the map begins
        self.camera = Camera(session.plan.spec)
        self._tiles = Tiles(Raster(session.plan, theme.palette))
        self._other: Tiles | None = None  # of the plan that is compared, while it is shown
        self._contours = ground.Contours()
        self._fitted = False
        self._first: tuple[int, Point] | None = None  # where to look once the size is known
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
            desk.routes.changed,
            desk.lanes.changed,
            desk.measures.changed,
            desk.study.changed,
            desk.search.changed,
            desk.search.stepped,
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
        desk.compared.turned_round.connect(self._turned_round)
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

    def _turned_round(self) -> None:
        """The other plan is shown, or the open one again."""
        compared = self._desk.compared
        other = compared.other if compared.turned else None
        self._other = Tiles(Raster(other, self._theme.palette)) if other is not None else None
        self.update()

    def _rebuild(self) -> None:
        if self._other is not None:
            self._turned_round()
        self._tiles = Tiles(Raster(self._session.plan, self._theme.palette, view_of(self._desk)))
        self.update()

    def _view_changed(self) -> None:
        view = view_of(self._desk)
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

    def look(self, step: int, middle: Point) -> None:
        """At a world point, at a step of the zoom; once the sheet has its size."""
        if not self._fitted:
            self._first = step, middle
            return
        self.camera.set_step(step)
        self.camera.centre_at(middle)
        self._looked()

    def show_selection(self) -> None:
        number = self._session.selection.front
        if number:
            plan = self._session.plan
            self.camera.show_box(plan.box_of(plan.register[number]))
            self._looked()
        else:
            self._session.say(tr("Nothing is selected"), "no")

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
        self.looked.emit()
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
        camera = self.camera
        before = camera.step, camera.left, camera.top
        camera.resize(self.width() - self._left, self.height() - self._top)
        if (camera.step, camera.left, camera.top) != before:
            self.looked.emit()

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
            if self._first is not None:
                self.look(*self._first)
        with painting(self, tr("The sheet")) as painter:
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
        if self._other is not None:
            self.unfinished = self._other.draw(painter, self.camera, self.patient)
            layers.over_other(canvas)
        else:
            self.unfinished = self._tiles.draw(painter, self.camera, self.patient)
            self._paint_over(canvas)
        painter.restore()
        apart(
            painter,
            tr("The scales"),
            lambda: scales.draw(painter, self.camera, session, palette, scales.span(self._desk)),
        )
        if self.hasFocus():
            painter.setPen(colour(palette.indigo))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(0, 0, self.width() - 1, self.height() - 1)

    def _paint_over(self, canvas: Canvas) -> None:
        if not self._tiles.raster.view.contours:
            layers.over_map(canvas, None, self.patient)
            return
        stale = layers.over_map(canvas, self._contours, self.patient or self._quiet_now)
        self._quiet_now = False
        if stale:
            self._quiet.start()

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
