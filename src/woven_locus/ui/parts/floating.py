"""Cards that lie over the sheet, so that the map never jumps when one comes or goes."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QFrame, QWidget

from woven_locus.ui.parts.focus import give_focus, has_focus
from woven_locus.ui.theme import Theme


class Floating(QFrame):
    """A hidden card over a widget. It keeps its place when that is resized; see `place`. rank : of two that overlap, the one
    with more lies on top."""

    rank = 0

    def __init__(self, over: QWidget, theme: Theme, border: str) -> None:
        """border : name of the palette's colour for the edge."""
        super().__init__(over)
        self._over, self._theme, self._border = over, theme, border
        self.setObjectName("floating")
        over.installEventFilter(self)
        theme.changed.connect(self._dress)
        self._dress()
        self.hide()

    def _dress(self) -> None:
        palette = self._theme.palette
        edge = getattr(palette, self._border)
        self.setStyleSheet(
            f"QFrame#floating {{ background: {palette.panel}; border: 1px solid {edge};"
            " border-radius: 4px; }"
        )

    def place(self) -> None:
        """Take size and position over the widget."""
        raise NotImplementedError

    def setVisible(self, visible: bool) -> None:
        """Put away with the focus in it, it gives that to what it lies over."""
        if not visible and has_focus(self):
            give_focus(self._over)
        super().setVisible(visible)

    def come_up(self) -> None:
        """Show it, over all of its rank and lower."""
        self.show()
        self.place()
        there = [card for card in self._over.children() if isinstance(card, Floating)]
        for card in sorted(there, key=lambda card: (card.rank, card is self)):
            card.raise_()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self.place()
        return False
