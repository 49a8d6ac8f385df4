"""Sizes at which windows and sheets open: what they need, as far as the screen has room for it."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QDialog, QTableView, QWidget

from woven_locus.ui.theme import em

# Pixels of the frame around a window, at most: at its sides, and above it.
_FRAME = QSize(16, 48)


def room_for(window: QWidget) -> QSize:
    """What the screen has free for a window within its frame."""
    screen = window.screen()
    return screen.availableSize() - _FRAME if screen is not None else window.maximumSize()


def open_within_screen(window: QWidget, wanted: QSize) -> None:
    """Not larger than what the screen has free."""
    window.resize(wanted.boundedTo(room_for(window)))


def open_as(sheet: QWidget, width: int, height: int) -> None:
    """width, height : pixels of the plain font."""
    open_within_screen(sheet, QSize(em(width), em(height)))


def width_of_all(table: QTableView) -> int:
    """Pixels for all columns of a table side by side, and the bar beside them."""
    head, bar = table.horizontalHeader(), table.verticalScrollBar()
    assert head is not None
    assert bar is not None
    return head.length() + bar.sizeHint().width() + 2 * table.frameWidth()


class Dialog(QDialog):
    """Opens as large as what it holds wants to be, as far as the screen has room. Qt itself stops at two thirds
    of the screen, and then lays one part over another."""

    def showEvent(self, event: QShowEvent | None) -> None:
        layout = self.layout()
        first = event is not None and not event.spontaneous() and self.isWindow()
        if first and layout is not None:
            wanted = layout.totalSizeHint().expandedTo(self.size())
            if layout.hasHeightForWidth():
                tall = layout.totalHeightForWidth(wanted.width())
                wanted.setHeight(max(wanted.height(), tall))
            open_within_screen(self, wanted)
        # Only now, which puts it in the middle of its window.
        super().showEvent(event)
