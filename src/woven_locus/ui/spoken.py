"""What a screen reader hears of the sheet: the cell under the cursor, what is on it, and the answer to what is asked there."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.plan import Plan
from woven_locus.core.ways.roads import road_words
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
            text = "No cell: press an arrow key"
        elif not hover.inside:
            text = f"Cell {cell_text(hover.cell)}, outside"
        else:
            text = f"Cell {cell_text(hover.cell)}: {cell_words(self._session.plan, hover.cell)}"
        refused = self._reading.verdict.refusals()
        if hover is not None:
            text += f". {self._reading.verdict.title}"
            text += f", {'; '.join(refused)}" if refused else ""
        if text != self._sheet.accessibleDescription():
            self._sheet.setAccessibleDescription(text)


def cell_words(plan: Plan, cell: Cell) -> str:
    """Ground, and what is on it."""
    slot = plan.spec.slot(cell)
    words = [plan.terrain_table[int(plan.terrain[slot])].name]
    if plan.reserved[slot]:
        words.append("reserved")
    if who := plan.occupant_at(cell):
        words.append(plan.title_of(who))
    if byte := int(plan.road[slot]):
        words.append(road_words(plan.road_table, byte, plan.spec.y_up))
    if plan.barrier[slot]:
        words.append("barrier")
    return ", ".join(words)
