"""What towers and maze pieces are made of: the kinds of the plan, to take in hand."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidgetItem, QVBoxLayout, QWidget

from woven_locus.core.grid.snapping import number
from woven_locus.core.kinds import Kind
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import List, heading, quietly, tip
from woven_locus.ui.theme import em, row_height, text_font


class TowerShelf(QWidget):
    """kinds : one a row, towers first."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._session = desk.session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(heading(tr("Build")))
        self.kinds = List()
        self.kinds.setAccessibleName(tr("Kinds to build"))
        self.kinds.setToolTip(tr("Click a kind to take it in hand"))
        self.kinds.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.kinds.itemClicked.connect(self._take)
        self.kinds.itemActivated.connect(self._take)
        column.addWidget(self.kinds)
        self._session.changed.connect(self._edited)
        self._session.replaced.connect(self._fill)
        self._session.hand.changed.connect(self._show_hand)
        self._fill()

    def _edited(self, notice: object) -> None:
        if "kinds" in notice.layers:  # type: ignore[attr-defined]
            self._fill()

    def _fill(self) -> None:
        plan = self._session.plan
        kinds = sorted(plan.kinds, key=lambda kind: kind.tower is None)
        quietly(self.kinds, self.kinds.clear)
        for kind in kinds:
            item = QListWidgetItem(f"{kind.code}  {kind.name}, {kind.price:,}")
            item.setData(Qt.ItemDataRole.UserRole, kind.key)
            item.setToolTip(tip(tower_words(kind)))
            self.kinds.addItem(item)
        rows = min(7, max(3, len(kinds)))
        self.kinds.setFixedHeight(rows * row_height(text_font(10), 4) + em(8))
        self._show_hand()

    def _show_hand(self) -> None:
        held = self._session.hand.kind
        for at in range(self.kinds.count()):
            item = self.kinds.item(at)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == held:
                self.kinds.setCurrentRow(at)
                return
        self.kinds.clearSelection()
        self.kinds.setCurrentRow(-1)

    def _take(self, item: QListWidgetItem) -> None:
        self._session.hand.take_kind(item.data(Qt.ItemDataRole.UserRole))
        self._session.taken_up.emit()


def tower_words(kind: Kind) -> str:
    """What a kind does to attackers, in words."""
    tower = kind.tower
    if tower is None:
        return tr("{kind}: no tower; it stands in the way", kind=kind.name)
    parts = [
        tr("range {least} to {most}", least=number(tower.least), most=number(tower.most)),
        tr(
            "{damage} every {interval} s",
            damage=number(tower.damage),
            interval=number(tower.interval),
        ),
        tr("hits {hits}", hits=tr(tower.hits.value)),
        tr("takes the {takes}", takes=tr(tower.takes.value)),
    ]
    if tower.splash:
        parts.append(tr("splash {splash}", splash=number(tower.splash)))
    if tower.slowing:
        parts.append(
            tr(
                "slows by {slowing:.0%} for {slow_for} s",
                slowing=tower.slowing,
                slow_for=number(tower.slow_for),
            )
        )
    return f"{kind.name}: {', '.join(parts)}"
