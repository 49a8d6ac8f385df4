"""The program's own icons: one stroke weight, in the ink of the theme."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QByteArray, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QAbstractButton

from woven_locus.core.render import Palette
from woven_locus.package_data import package_data

SIZE = 18


@lru_cache(maxsize=128)
def _text(name: str) -> str:
    """Each is drawn in three dyes."""
    return package_data("woven_locus.ui", f"icons/{name}.svg").decode()


def _drawn(name: str, dye: str, size: int) -> QPixmap:
    text = _text(name).replace("currentColor", dye)
    pixmap = QPixmap(QSize(size, size))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    QSvgRenderer(QByteArray(text.encode())).render(painter)
    painter.end()
    return pixmap


@lru_cache(maxsize=128)
def _icon(name: str, ink: str, chosen: str, muted: str) -> QIcon:
    icon = QIcon(_drawn(name, ink, 2 * SIZE))
    icon.addPixmap(_drawn(name, chosen, 2 * SIZE), QIcon.Mode.Normal, QIcon.State.On)
    icon.addPixmap(_drawn(name, muted, 2 * SIZE), QIcon.Mode.Disabled)
    return icon


def dress(button: QAbstractButton, name: str, palette: Palette) -> None:
    """Put an icon beside a button's label; on a chosen button it is drawn in the paper's colour."""
    button.setIcon(_icon(name, palette.ink, palette.paper, palette.muted))
    button.setIconSize(QSize(SIZE, SIZE))


def app_icon() -> QIcon:
    return QIcon(_drawn("woven-locus", "#000000", 128))
