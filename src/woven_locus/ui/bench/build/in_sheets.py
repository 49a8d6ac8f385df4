"""Kinds and structures from a file: what they would do, before it is done."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QListWidgetItem, QWidget

from woven_locus.core.editing import Edit
from woven_locus.core.edits import kinds
from woven_locus.core.edits.kinds import Impact
from woven_locus.core.errors import WovenError
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.plan import Plan
from woven_locus.ui.bench.build.kind_sheet import FEW
from woven_locus.ui.bench.build.kind_texts import impact_text
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import shown, tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.sizes import open_as
from woven_locus.ui.parts.widgets import Label, List
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, em

# Refusals that are listed; of more only the number is said.
MOST_LINES = 2000


def _news(plan: Plan, kind: Kind) -> str:
    """What a kind would be in a plan."""
    if kind.key not in plan.kinds:
        return tr("new")
    return tr("the same") if plan.kinds[kind.key] == kind else tr("another than the one here")


class KindsInSheet(FormSheet):
    """Which of the kinds to bring in, and whether over those of the same key."""

    def __init__(
        self, session: Session, theme: Theme, found: Catalogue, name: str, parent: QWidget | None
    ) -> None:
        super().__init__(tr("Kinds from {name}", name=name), tr("Import them"), parent)
        open_as(self, 620, 420)
        self._session, self._found = session, list(found)
        plan = session.plan
        self.list = List()
        self.list.setAccessibleName(tr("Kinds to import"))
        self.list.setMinimumSize(em(300), em(240))
        for kind in self._found:
            item = QListWidgetItem(f"{kind.name} ({kind.key}): {_news(plan, kind)}")
            item.setFlags(item.flags() | item.flags().ItemIsUserCheckable)
            same = kind.key in plan.kinds and plan.kinds[kind.key] == kind
            state = item.checkState()
            item.setCheckState(type(state).Unchecked if same else type(state).Checked)
            self.list.addItem(item)
        self.over = QCheckBox(tr("In place of kinds with the same key"))
        self.over.setChecked(True)
        self.says = Label()
        self.says.setWordWrap(True)
        self.says.setMinimumWidth(240)
        self.form.addRow(self.list)
        self.form.addRow(self.over)
        self.side.addWidget(self.says)
        self.side.addStretch(1)
        self.top.setStretchFactor(self.form, 2)
        self.list.itemChanged.connect(lambda _item: self._look())
        self.over.toggled.connect(self._look)
        self.accepted.connect(self._bring)
        self._look()

    @property
    def chosen(self) -> list[Kind]:
        checked = [
            item is not None and item.checkState() is not Qt.CheckState.Unchecked
            for item in (self.list.item(k) for k in range(self.list.count()))
        ]
        return [kind for kind, on in zip(self._found, checked, strict=True) if on]

    def _look(self, *_value: object) -> None:
        session, chosen, over = self._session, self.chosen, self.over.isChecked()
        plan = session.plan
        if not chosen:
            self.show_problem(tr("Tick a kind or more"))
            self.says.setText("")
            return
        try:
            catalogue = kinds.merged(plan, chosen, over)
        except WovenError as err:
            self.show_problem(tr(err))
            return
        self.show_problem("")

        def done(found: Impact) -> None:
            if not sip.isdeleted(self):
                text = (
                    impact_text(plan, "", found) if found else tr("Nothing that stands is touched.")
                )
                self.says.setText(text)

        def again() -> None:
            if not sip.isdeleted(self):
                self._look()

        self.says.setText(tr("Looking at what stands …"))
        session.asking.ask(
            tr("Looking at what stands"),
            lambda twin, _control: kinds.impact(twin, catalogue),
            done,
            at_once=len(plan.register) <= FEW and session.asking.is_small(),
            dropped=again,
        )

    def _bring(self) -> None:
        chosen, over = self.chosen, self.over.isChecked()

        def make(plan: Plan, _control: Control) -> Edit:
            return kinds.bring_in(plan, chosen, over)

        self._session.work(tr("Importing kinds"), make)


class RegisterInSheet(FormSheet):
    """How many of the lines can be placed, and why the others cannot."""

    def __init__(
        self,
        session: Session,
        edit: Edit,
        refused: list[str],
        lines: int,
        name: str,
        parent: QWidget | None,
    ) -> None:
        good = lines - len(refused)
        super().__init__(
            tr("Structures from {name}", name=name), tr("Place {good:,}", good=good), parent
        )
        open_as(self, 640, 420)
        self._session, self._edit = session, edit
        self._revision = session.document.revision
        self.says = Label(
            tr(
                "{good:,} of {lines:,} lines can be placed, one after the other, as one step.",
                good=good,
                lines=lines,
            )
        )
        self.says.setWordWrap(True)
        self.list = List()
        self.list.setAccessibleName(tr("Lines that are refused"))
        self.list.addItems([shown(line) for line in refused[:MOST_LINES]])
        if len(refused) > MOST_LINES:
            self.list.addItem(tr("and {count:,} more", count=len(refused) - MOST_LINES))
        self.list.setVisible(bool(refused))
        self.column.insertWidget(0, self.says)
        self.column.insertWidget(1, self.list, 1)
        if not good:
            self.show_problem(tr("None of the lines can be placed"))
        self.accepted.connect(self._place)

    def _place(self) -> None:
        session = self._session
        if session.document.revision != self._revision:
            session.say(tr("Dropped, since the plan changed meanwhile; do it again"), "no")
            return
        session.document.history.do(self._edit)
