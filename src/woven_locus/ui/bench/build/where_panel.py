"""Where could it go: the map's overlay, how many spots there are, and what each rule costs."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from woven_locus.core.placing import Feasibility, Reason
from woven_locus.core.render import GroundOverlay, GroundView
from woven_locus.core.render.stamps import OVERLAY, Stamps
from woven_locus.ui.bench.ground.coats import image_of
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, inside, listed, shown, tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.widgets import ComboBox, muted, quietly
from woven_locus.ui.session.stages import WhereShown
from woven_locus.ui.theme import Theme, colour, row_height, text_font

NAMES = {
    Reason.OUTSIDE: tr("The edge"),
    Reason.TERRAIN: tr("Terrain"),
    Reason.RESERVED: tr("Reserved ground"),
    Reason.OBSTACLE: tr("Obstacles"),
    Reason.OCCUPIED: tr("What stands there"),
    Reason.ROAD: tr("Roads"),
    Reason.BARRIER: tr("Barriers"),
    Reason.SLOPE: tr("Slope"),
    Reason.SUPPORT: tr("What it must touch or stand on"),
    Reason.CLEARANCE: tr("Clearance"),
    Reason.LATTICE: tr("The lattice"),
    Reason.REACH: tr("Reach"),
    Reason.ACCESS: tr("Road access"),
    Reason.SEALS: tr("The last way of attackers"),
    Reason.LIMIT: tr("How many there may be"),
    Reason.FUNDS: tr("Funds"),
    Reason.TURN: tr("This turn"),
}

_PLURAL = (Reason.OBSTACLE, Reason.ROAD, Reason.BARRIER, Reason.FUNDS)


class WhereLegend(Drawn):
    """The classes of the overlay, hatched as on the map."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session, self._theme = session, theme
        self.rows: list[tuple[int, str]] = []
        self._swatches: list[QImage] = []
        self._row = row_height(text_font(9), 2, 18)
        theme.changed.connect(self._forget)

    def refresh(self) -> None:
        any_turn = self._session.choices.build.where is WhereShown.ANY
        view = GroundView(GroundOverlay.WHERE, where=self._desk.where.map, any_turn=any_turn)
        rows = view.legend(self._session.plan)
        if rows != self.rows:
            self.rows = rows
            self.setFixedHeight(self._row * len(rows))
            self.setAccessibleName(
                tr("Legend: ") + "; ".join(shown(words) for _code, words in rows)
            )
            self._forget()

    def _forget(self) -> None:
        self._swatches = []
        self.update()

    def _made(self) -> list[QImage]:
        """A swatch of each class, hatched as on the map."""
        if not self._swatches:
            palette, plan = self._theme.palette, self._session.plan
            stamps = Stamps(16, 14, palette, plan.terrain_table, plan.kinds, GroundOverlay.WHERE)
            self._swatches = [
                image_of(stamps, (code + 1) << OVERLAY, QSize(32, 14)) for code, _words in self.rows
            ]
        return self._swatches

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        painter.setFont(text_font(9))
        for at, ((_code, words), swatch) in enumerate(zip(self.rows, self._made(), strict=True)):
            y = at * self._row
            painter.drawImage(0, y + 1, swatch)
            painter.setPen(colour(palette.line))
            painter.drawRect(QRectF(0.5, y + 1.5, 31, 13))
            painter.setPen(colour(palette.ink))
            rect = QRectF(40, y, self.width() - 40, self._row)
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, shown(words))


class WherePanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.mode = ComboBox()
        self.mode.setAccessibleName(tr("Show where the kind in hand could go"))
        for each in WhereShown:
            self.mode.addItem(tr(each.value), each)
        self.counts = muted()
        self.legend = WhereLegend(desk, theme)
        self.reasons = muted()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for widget in (self.mode, self.counts, self.legend, self.reasons):
            column.addWidget(widget)
        self.mode.currentIndexChanged.connect(
            lambda _at: session.choices.set_build(where=self.mode.currentData())
        )
        session.choices.on("build", self.refresh)
        session.hand.changed.connect(self.refresh)
        desk.where.changed.connect(self.refresh)
        desk.where.mended.connect(self.refresh)
        session.changed.connect(self.refresh)
        theme.changed.connect(self.legend.update)
        self.refresh()

    def refresh(self, _what: object = None) -> None:
        session = self._session
        where = session.choices.build.where
        quietly(self.mode, lambda: self.mode.setCurrentIndex(self.mode.findData(where)))
        found = self._desk.where.map
        self.legend.setVisible(found is not None)
        self.reasons.setVisible(found is not None)
        self.counts.setVisible(where is not WhereShown.OFF)
        if where is WhereShown.OFF:
            return
        if found is None:
            working = self._desk.where.working
            self.counts.setText(
                tr("Looking …") if working else tr("Take a kind in hand to see where.")
            )
            return
        self.legend.refresh()
        self.counts.setText(counts_text(found))
        self.reasons.setText(reasons_text(found))


def counts_text(found: Feasibility) -> str:
    """How many spots there are."""
    if found.always:
        names = listed([inside(NAMES[reason]) for reason in found.always])
        one = len(found.always) == 1 and found.always[0] not in _PLURAL
        if one:
            return tr("Nowhere: {names} rules out every spot.", names=names)
        return tr("Nowhere: {names} rule out every spot.", names=names)
    if len(found.kind.all_turns) == 1:
        return tr("{spots}.", spots=counted(found.free, "{n:,} spot", "{n:,} spots"))
    return tr(
        "{spots} as it is turned, {free_any:,} in any turn.",
        spots=counted(found.free, "{n:,} spot", "{n:,} spots"),
        free_any=found.free_any,
    )


def reasons_text(found: Feasibility) -> str:
    """What each rule rules out that everything else allows."""
    lines = [
        tr("{names} rule out {count:,}", names=NAMES[reason], count=count)
        if reason in _PLURAL
        else tr("{names} rules out {count:,}", names=NAMES[reason], count=count)
        for reason, count in found.alone().items()
        if count
    ]
    if not lines:
        return tr("No rule by itself rules out a spot.")
    return tr("Spots that everything else allows:\n") + "\n".join(lines)
