"""What can be painted, each drawn as it looks on the map."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from woven_locus.core.edits.ground import Coat
from woven_locus.core.ground import TerrainClass
from woven_locus.core.render.palette import Palette
from woven_locus.core.render.stamps import RESERVED, TERRAIN, Stamps
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, em, row_height, text_font

_SWATCH = QSize(44, 26)


def image_of(stamps: Stamps, bits: int, size: QSize = _SWATCH) -> QImage:
    """A swatch of two cells of a look, given as bits of a key."""
    keys = (np.arange(2, dtype=np.int64) + 1)[None, :] | bits
    pixels = np.ascontiguousarray(stamps.look_up(keys)[: size.height(), : size.width()])
    tall, wide = pixels.shape
    image: QImage = QImage(pixels.data, wide, tall, 4 * wide, QImage.Format.Format_RGB32)  # type: ignore[call-overload]
    return image.copy()


def words_of(item: TerrainClass) -> str:
    """What a class allows."""
    build = tr("build") if item.buildable else tr("no building")
    walk = tr("walk") if item.passable else tr("no way")
    words = f"{build}, {walk}"
    return f"{words} ×{item.cost:g}" if item.passable and item.cost != 1 else words


class _Swatch:
    """Drawn when it is first asked for: all of them take as long as a few frames."""

    def __init__(self, draw: Callable[[], QImage]) -> None:
        self._draw = draw
        self._image: QImage | None = None

    @property
    def drawn(self) -> bool:
        """Whether it is there."""
        return self._image is not None

    def image(self) -> QImage:
        """The picture."""
        if self._image is None:
            self._image = self._draw()
        return self._image


class CoatButton(QAbstractButton):
    """A coat with a swatch of its real look, and what it means in words."""

    def __init__(self, coat: Coat, name: str, words: str, swatch: _Swatch, theme: Theme) -> None:
        super().__init__()
        self.coat, self._words, self._swatch, self._theme = coat, words, swatch, theme
        self.setText(name)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{name}: {words}")

    def sizeHint(self) -> QSize:
        return QSize(em(200), max(34, row_height(text_font(10), 1) + row_height(text_font(8), 2)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        if self.isChecked():
            painter.fillRect(self.rect(), colour(palette.raised))
            painter.fillRect(0, 0, 3, self.height(), colour(palette.madder))
        swatch = self._swatch.image()
        painter.drawImage(8, 4, swatch)
        painter.setPen(QPen(colour(palette.ink), 1))
        painter.drawRect(8, 4, swatch.width() - 1, swatch.height() - 1)
        left = 8 + swatch.width() + 8
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(text_font(10, bold=self.isChecked()))
        name = row_height(painter.font(), 1)
        painter.drawText(QRectF(left, 1, self.width() - left, name), middle, self.text())
        painter.setFont(text_font(8))
        painter.setPen(colour(palette.muted))
        words = row_height(painter.font(), 1)
        painter.drawText(QRectF(left, name, self.width() - left, words), middle, self._words)
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.5))
            painter.drawRect(1, 1, self.width() - 3, self.height() - 3)


class Coats(QWidget):
    """A button for each terrain class and for reserved ground; one is chosen."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._made_of: object = None
        self.buttons: list[CoatButton] = []
        # By what each shows.
        self._swatches: dict[object, _Swatch] = {}
        session.replaced.connect(self._fill)
        session.choices.on("ground", self._show)
        session.reformed.connect(self._show)
        theme.changed.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        plan = self._session.plan
        self._made_of = plan.terrain_table
        for button in self.buttons:
            self._column.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        group = QButtonGroup(self)
        palette = self._theme.palette
        stamps = Stamps(26, 26, palette, plan.terrain_table, plan.kinds)
        before, self._swatches = self._swatches, {}

        def swatch(shown: object, bits: int) -> _Swatch:
            key = palette.name, shown, bits
            made = before.get(key) or _Swatch(partial(image_of, stamps, bits))
            self._swatches[key] = made
            return made

        for code, item in enumerate(plan.terrain_table):
            look = swatch(item, code << TERRAIN)
            self._add(group, Coat("terrain", code), item.name, words_of(item), look)
        # Over the first class.
        look = swatch(plan.terrain_table[0], 1 << RESERVED)
        self._add(
            group,
            Coat("reserved", 1),
            tr("Reserved ground"),
            tr("no building, walked freely"),
            look,
        )
        free = tr("takes the reservation off")
        self._add(
            group, Coat("reserved", 0), tr("Free ground"), free, _Swatch(partial(blank, palette))
        )
        self._show()

    def prepare(self) -> bool:
        """Draw one more swatch ahead of the first look at it; False when all are there."""
        for swatch in self._swatches.values():
            if not swatch.drawn:
                swatch.image()
                return True
        return False

    def _add(self, group: QButtonGroup, coat: Coat, name: str, words: str, swatch: _Swatch) -> None:
        button = CoatButton(coat, name, words, swatch, self._theme)
        button.clicked.connect(lambda _on: self._take(coat))
        group.addButton(button)
        self._column.addWidget(button)
        self.buttons.append(button)

    def _take(self, coat: Coat) -> None:
        self._session.choices.set_ground(coat=coat)
        self._session.taken_up.emit()

    def _show(self) -> None:
        if self._session.plan.terrain_table is not self._made_of:
            self._fill()
            return
        for button in self.buttons:
            if button.coat == self._session.choices.ground.coat:
                button.setChecked(True)


def blank(palette: Palette) -> QImage:
    """A swatch of bare paper."""
    image = QImage(_SWATCH, QImage.Format.Format_RGB32)
    image.fill(colour(palette.paper))
    return image
