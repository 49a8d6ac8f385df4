"""What lies over the map in Ways, and what it says."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFormLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.widgets import ComboBox, muted, quietly, world_box
from woven_locus.ui.session.stages import Trips, WaysOverlay
from woven_locus.ui.sheet.overlays.tints import BANDS, ramp
from woven_locus.ui.theme import Theme, colour, number_font, row_height


class Ramp(Drawn):
    """The colours of the bands, each with its number."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.words: list[str] = []
        self.setFixedHeight(14 + row_height(number_font(8), 2))
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        wide = self.width() / BANDS
        painter.setFont(number_font(8))
        for k, (red, green, blue) in enumerate(ramp(palette.dark)):
            rect = QRectF(k * wide, 0, wide - 1, 12)
            painter.fillRect(rect, colour(f"#{red:02X}{green:02X}{blue:02X}"))
            painter.setPen(colour(palette.ink))
            if k < len(self.words):
                below = QRectF(k * wide, 13, wide, self.height() - 13)
                painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self.words[k])


class StudyPanel(QWidget):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.shown = ComboBox()
        self.shown.setAccessibleName(tr("What lies over the map"))
        for shown in WaysOverlay:
            self.shown.addItem(tr(shown.value), shown)
        self.band = world_box(30, 0.01, 1e6, tr("Seconds of a band of travel time"))
        self.band.setSuffix(" s")
        self.form = QFormLayout()
        self.form.addRow(tr("Show"), self.shown)
        self.form.addRow(tr("A band"), self.band)
        self.trips = ComboBox()
        self.trips.setAccessibleName(tr("Whose trips make the load"))
        for trips in Trips:
            self.trips.addItem(tr(trips.value), trips)
        self.form.addRow(self.trips)
        self.ramp = Ramp(theme)
        self.words = muted()
        self.again = QPushButton(tr("Work it out again"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self.form)
        column.addWidget(self.ramp)
        column.addWidget(self.words)
        column.addWidget(self.again)
        self.shown.currentIndexChanged.connect(
            lambda _at: desk.study.show(self.shown.currentData())
        )
        self.band.valueChanged.connect(lambda seconds: session.choices.set_ways(band=seconds))
        self.trips.currentIndexChanged.connect(self._choose_trips)
        self.again.clicked.connect(desk.study.refresh)
        desk.study.changed.connect(self.show_found)
        session.choices.on("ways", self.show_found)
        session.reformed.connect(self.show_found)
        self.show_found()

    def _choose_trips(self) -> None:
        self._session.choices.set_ways(trips=self.trips.currentData())
        self._desk.study.refresh()

    def show_found(self) -> None:
        session, study, ways = self._session, self._desk.study, self._session.choices.ways
        at = self.shown.findData(ways.shown)
        quietly(self.shown, lambda: self.shown.setCurrentIndex(at))
        self.form.setRowVisible(self.band, ways.shown is WaysOverlay.TIME)
        self.form.setRowVisible(self.trips, ways.shown is WaysOverlay.LOAD)
        self.again.setVisible(study.stale)
        scaled = ways.shown is WaysOverlay.TIME or (
            ways.shown is WaysOverlay.LOAD and study.load is not None
        )
        self.ramp.setVisible(scaled)
        text = ""
        if study.working:
            text = tr("Being worked out …")
        elif study.stale:
            text = tr("The plan has changed since.")
        elif study.why:
            text = study.why
        elif ways.shown is WaysOverlay.TIME and session.selection.front:
            name = session.plan.title_of(session.selection.front)
            text = tr(
                "Seconds from {name} ({words}).", name=name, words=self._desk.routes.manner.words
            )
            self.ramp.words = [f"{ways.band * (k + 1):g}" for k in range(BANDS)]
        elif ways.shown is WaysOverlay.LOAD and study.load is not None:
            load = study.load
            text = tr(
                "{trips:g} trips, at most {most:g} over one cell", trips=load.trips, most=load.most
            )
            text += tr("; {lost:g} find no way.", lost=load.lost) if load.lost else "."
            tops = [(load.most + 1) ** ((k + 1) / BANDS) - 1 for k in range(BANDS)]
            self.ramp.words = [f"{top:.0f}" for top in tops]
        elif ways.shown is WaysOverlay.WEAK and study.weak is not None:
            count = len(study.weak)
            text = tr("The loss of no piece of road cuts a structure off.")
            if count:
                text = tr(
                    "{pieces} of road; each number says how many structures its loss cuts off.",
                    pieces=counted(count, "{n} piece", "{n} pieces"),
                )
        elif ways.shown is WaysOverlay.GROUPS:
            text = tr(
                "Each connected piece of road has a dye and, near by, a letter at its joints."
            )
        self.ramp.update()
        self.words.setText(text)
        self.words.setVisible(bool(text))
