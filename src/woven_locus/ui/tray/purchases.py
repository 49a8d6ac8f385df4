"""What if I buy: a list of purchases, when each can be afforded, and whether it pays back."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.books.forecast import Bought, payback, what_if
from woven_locus.core.clock import clock_text
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import ComboBox, Label, List, Strip, muted, quietly


class Purchases(QWidget):
    """wishes : keys of the kinds on the list, in order.  found : when each can be had, as far as it is known."""

    changed = pyqtSignal()  # what is wished for, or whether rewards count

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._session, self._rewards = desk.session, desk.rewards
        self.wishes: list[str] = []
        self.found: list[Bought] = []
        self.kinds = ComboBox()
        self.kinds.setAccessibleName(tr("Kind to buy"))
        self.kinds.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.kinds.setMinimumContentsLength(5)
        self.add, self.drop = QPushButton(tr("Add")), QPushButton(tr("Drop"))
        self.list = List()
        self.list.setAccessibleName(tr("What if: purchases and when each can be afforded"))
        self.with_waves = QCheckBox(tr("Rewards of the waves"))
        self.with_waves.setToolTip(
            tr("Let all waves come from now on against what stands, and count what they bring in")
        )
        self.pays_back = muted()
        self.pays_back.setContentsMargins(6, 0, 0, 0)
        self._lay_out()
        self.kinds.currentIndexChanged.connect(lambda _at: self._say_payback())
        self.add.clicked.connect(self._add)
        self.drop.clicked.connect(self._drop)
        self.with_waves.toggled.connect(self._count_rewards)
        self.fill()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 8, 4)
        column.setSpacing(4)
        strip = Strip()
        strip.row.addWidget(Label(tr("What if I buy")))
        strip.row.addWidget(self.kinds, 1)
        strip.row.addWidget(self.add)
        strip.row.addWidget(self.drop)
        for widget in (strip, self.list, self.with_waves, self.pays_back):
            column.addWidget(widget, 1 if widget is self.list else 0)

    # --- what the user does ------------------------------------------------------------------

    def _add(self) -> None:
        key = self.kinds.currentData()
        if key is not None:
            self.wishes.append(key)
            self.changed.emit()

    def _drop(self) -> None:
        at = self.list.currentRow()
        if self.wishes:
            del self.wishes[at if 0 <= at < len(self.wishes) else -1]
            self.changed.emit()

    def _count_rewards(self, on: bool) -> None:
        if on:
            self._rewards.again()
        self.changed.emit()

    # --- what is shown -----------------------------------------------------------------------

    @property
    def counts_rewards(self) -> bool:
        """Whether the waves' rewards are among what comes in."""
        return self.with_waves.isChecked() and bool(self._session.plan.waves.waves)

    def fill(self) -> None:
        """The kinds of the plan."""
        plan, chosen = self._session.plan, self.kinds.currentData()
        self.wishes = [key for key in self.wishes if key in plan.kinds]

        def fill() -> None:
            self.kinds.clear()
            for kind in plan.kinds:
                self.kinds.addItem(kind.name, kind.key)
            self.kinds.setCurrentIndex(max(0, self.kinds.findData(chosen)))

        quietly(self.kinds, fill)

    def refresh(self) -> None:
        """All that follows from the plan's funds."""
        plan = self._session.plan
        self.add.setEnabled(plan.funds is not None)
        self.drop.setEnabled(plan.funds is not None)
        self.with_waves.setEnabled(plan.funds is not None and bool(plan.waves.waves))
        self._say_payback()
        self.list.clear()
        self.found = []
        if plan.funds is not None:
            self._show_wishes(plan.funds.clock)

    def _show_wishes(self, clock: int) -> None:
        """When each can be had."""
        plan, coming = self._session.plan, None
        if self.counts_rewards:
            self._rewards.want()
            coming = self._rewards.found
            if coming is None:
                stopped = self._rewards.stopped
                self.list.addItem(
                    tr("Stopped: tick again") if stopped else tr("The waves are being tried …")
                )
                return
        self.found = what_if(plan.account, plan.kinds, clock, self.wishes, coming or ())
        for item in self.found:
            self.list.addItem(self._wish_text(item, clock))

    def _wish_text(self, item: Bought, clock: int) -> str:
        kind = self._session.plan.kinds[item.kind]
        if item.at is None:
            return tr("{kind}: never, with what comes in", kind=kind.name)
        when = (
            tr("now") if item.at == clock else tr("at {clock_text}", clock_text=clock_text(item.at))
        )
        return tr("{kind}: {when}, {left:,} left", kind=kind.name, when=when, left=item.left)

    def _say_payback(self) -> None:
        key, plan = self.kinds.currentData(), self._session.plan
        if key is None or key not in plan.kinds:
            self.pays_back.setText("")
            return
        kind = plan.kinds[key]
        seconds = payback(kind)
        words = tr("costs {price:,}", price=kind.price)
        if kind.every and kind.pays:
            words += tr(", pays {pays:,} every {every:,} s", pays=kind.pays, every=kind.every)
        words += (
            tr(", never pays back")
            if seconds is None
            else tr(", has paid back after {clock_text}", clock_text=clock_text(seconds))
        )
        self.pays_back.setText(words + ".")
