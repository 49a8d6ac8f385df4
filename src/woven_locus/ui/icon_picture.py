"""The program's icon as a PNG of any size."""

from __future__ import annotations

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

from woven_locus.package_data import package_data


def icon_png(pixels: int) -> bytes:
    """A square of so many pixels; needs no display."""
    picture = QSvgRenderer(QByteArray(package_data("woven_locus.ui", "icons/woven-locus.svg")))
    image = QImage(pixels, pixels, QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    picture.render(painter)
    painter.end()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())
