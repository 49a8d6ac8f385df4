"""What a screen reader hears of the sheet: the cell under the cursor, what is on it, and the answer to what is asked there."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer

from woven_locus.core.geometry import cell_text
from woven_locus.ui.language import tr
from woven_locus.ui.reading.cell_words import ground_words, thing_words
from woven_locus.ui.reading.reading import Reading
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.view import Sheet

# After the pointer has come to rest: nobody listens faster.
REST_MSEC = 150


class SpokenSheet(QObject):
    """Keeps the sheet's accessible description current, which tells assistive programs of each change."""

    def __init__(self, session: Session, sheet: Sheet, reading: Reading) -> None:
        super().__init__(sheet)
        self._session, self._sheet, self._reading = session, sheet, reading
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MSEC)
        self._rest.timeout.connect(self._say)
        for signal in (session.pointer.moved, session.hand.judged, session.replaced):
            signal.connect(self._rest.start)
        session.changed.connect(self._changed)
        self._say()

    def _changed(self, _notice: object) -> None:
        self._rest.start()

    def _say(self) -> None:
        hover = self._session.pointer.hover
        if hover is None:
            text = tr("No cell: press an arrow key")
        elif not hover.inside:
            text = tr("Cell {cell}, outside", cell=cell_text(hover.cell))
        else:
            plan, cell = self._session.plan, hover.cell
            there = filter(None, (ground_words(plan, cell), thing_words(plan, cell)))
            text = tr("Cell {cell}: {names}", cell=cell_text(cell), names=", ".join(there))
        refused = self._reading.verdict.refusals()
        if hover is not None:
            text += f". {self._reading.verdict.title}"
            text += f", {'; '.join(refused)}" if refused else ""
        if text != self._sheet.accessibleDescription():
            self._sheet.setAccessibleDescription(text)
