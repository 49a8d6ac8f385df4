"""What is shown of the ground: overlay, hill shade, contour lines, and a legend that reads without
colour."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QVBoxLayout, QWidget

from woven_locus.core.render import GroundOverlay
from woven_locus.core.render.stamps import OVERLAY, Stamps
from woven_locus.ui.bench.ground.coats import image_of
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.widgets import ComboBox, quietly
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, row_height, text_font

# The overlays that are chosen here; Build has one of its own.
OF_GROUND = tuple(each for each in GroundOverlay if each is not GroundOverlay.WHERE)
_SWATCH = QSize(34, 16)


class Legend(Drawn):
    """The classes of the overlay, hatched as on the map, with what each means."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self.rows: list[tuple[int, str]] = []
        self._row = row_height(text_font(9), 2, 20)
        self._shown: GroundOverlay | None = None
        self.refresh()

    def refresh(self) -> None:
        view = self._session.choices.ground.view
        rows = view.legend(self._session.plan)
        if (rows, view.overlay) == (self.rows, self._shown):
            return  # a stroke says at every move that something changed
        self.rows, self._shown = rows, view.overlay
        self.setFixedHeight(self._row * len(self.rows))
        self.setAccessibleName(
            tr("Legend: ") + "; ".join(shown(words) for _code, words in self.rows)
        )
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette, plan = self._theme.palette, self._session.plan
        stamps = Stamps(
            17,
            16,
            palette,
            plan.terrain_table,
            plan.kinds,
            self._session.choices.ground.view.overlay,
        )
        painter.setFont(text_font(9))
        for at, (code, words) in enumerate(self.rows):
            y = at * self._row
            painter.drawImage(0, y + 2, image_of(stamps, (code + 1) << OVERLAY, _SWATCH))
            painter.setPen(QPen(colour(palette.ink), 1))
            painter.drawRect(0, y + 2, _SWATCH.width() - 1, _SWATCH.height() - 1)
            left = _SWATCH.width() + 8
            rect = QRectF(left, y, self.width() - left, self._row)
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, shown(words))


class ViewPanel(QWidget):
    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session = session
        self.overlay = ComboBox()
        self.overlay.setAccessibleName(tr("Colour the ground by"))
        for each in OF_GROUND:
            self.overlay.addItem(tr(each.value), each)
        self.shade = QCheckBox(tr("Hill shade"))
        self.contours = QCheckBox(tr("Contour lines"))
        self.legend = Legend(session, theme)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        form = QFormLayout()
        form.addRow(tr("Colour by"), self.overlay)
        column.addLayout(form)
        column.addWidget(self.legend)
        column.addWidget(self.shade)
        column.addWidget(self.contours)
        self.overlay.currentIndexChanged.connect(
            lambda _at: session.choices.set_view(overlay=self.overlay.currentData())
        )
        self.shade.toggled.connect(lambda on: session.choices.set_view(shade=on))
        self.contours.toggled.connect(lambda on: session.choices.set_view(contours=on))
        session.choices.on("ground", self._show)
        session.reformed.connect(self._show)
        session.replaced.connect(self._show)
        theme.changed.connect(self.legend.update)
        self._show()

    def _show(self) -> None:
        view, some = self._session.choices.ground.view, self._session.plan.heights is not None
        at = self.overlay.findData(view.overlay)
        quietly(self.overlay, lambda: self.overlay.setCurrentIndex(at))
        quietly(self.shade, lambda: self.shade.setChecked(view.shade))
        quietly(self.contours, lambda: self.contours.setChecked(view.contours))
        why = "" if some else tr("This plan has no heights yet: import, make or sculpt some")
        for widget in (self.shade, self.contours):
            widget.setEnabled(some)
            widget.setToolTip(why)
        model = self.overlay.model()
        for row, each in enumerate(OF_GROUND):
            item = model.item(row)  # type: ignore[union-attr]
            item.setEnabled(some or not each.needs_heights)
        self.legend.refresh()
