"""The sheet of a merge: what comes in, what is in conflict, and for each conflict whose is taken."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialogButtonBox,
    QHBoxLayout,
    QListWidgetItem,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.compare import Conflict
from woven_locus.core.geometry import Cell
from woven_locus.files.compare_lines import value_words
from woven_locus.files.proof_json import finding_json, finding_text
from woven_locus.ui.answers.merging import MergeKeeper
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.tables import reading_table
from woven_locus.ui.parts.widgets import Label, List, heading
from woven_locus.ui.theme import em, number_font

_OURS, _THEIRS = "ours", "theirs"


class MergeSheet(Dialog):
    """Nothing is done before *Merge* is pressed; then it is one step."""

    def __init__(
        self, desk: Desk, theirs: Path, choose: Callable[[str], Path | None], parent: QWidget
    ) -> None:
        """choose : asks for a plan, by a title."""
        super().__init__(parent)
        self.setWindowTitle(tr("Merge"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session, self._choose = desk.session, choose
        self.keeper = MergeKeeper(desk.session, theirs)
        self.theirs, self.base = Label(), Label()
        self.table = reading_table(
            (tr("In conflict"), tr("Ours"), tr("Theirs"), tr("Taken")),
            tr("Conflicts"),
            0,
            {1: 130, 2: 130, 3: 70},
        )
        self.table.setMinimumHeight(em(120))
        self.table.itemSelectionChanged.connect(self._chosen)
        self.ours_button = QPushButton(tr("Take ours"))
        self.theirs_button = QPushButton(tr("Take theirs"))
        self.ours_button.clicked.connect(lambda: self._solve(False))
        self.theirs_button.clicked.connect(lambda: self._solve(True))
        self.list = List()
        self.list.setFont(number_font())
        self.list.setAccessibleName(tr("What comes in"))
        self.list.currentItemChanged.connect(self._go)
        self.coming = heading(tr("What comes in"))
        self.state, self.problem = Label(), Label()
        self.problem.setObjectName("bad")
        for label in (self.state, self.problem):
            label.setWordWrap(True)
        kinds = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        make = self.buttons.button(kinds.Ok)
        assert make is not None
        self.make = make
        self.make.setText(tr("Merge"))
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        self._lay_out()
        self._rows: list[tuple[Conflict, bool]] = []
        self.accepted.connect(self._merge)
        self.finished.connect(lambda _result: self.keeper.end())
        self.keeper.changed.connect(self._show)
        self.keeper.ask()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        for words, label, press in (
            (tr("Theirs"), self.theirs, self._other_theirs),
            (tr("Both began with"), self.base, self._other_base),
        ):
            row = QHBoxLayout()
            head = Label(words)
            head.setMinimumWidth(em(110))
            button = QPushButton(tr("Choose…"))
            button.setAutoDefault(False)
            button.setAccessibleName(tr("{words}: choose a plan", words=words))
            button.clicked.connect(press)
            for widget in (head, label, button):
                row.addWidget(widget, int(widget is label))
            column.addLayout(row)
        column.addWidget(self.state)
        column.addWidget(self.problem)
        column.addWidget(heading(tr("In conflict")))
        column.addWidget(self.table, 1)
        choice = QHBoxLayout()
        for button in (self.ours_button, self.theirs_button):
            button.setAutoDefault(False)
            choice.addWidget(button)
        choice.addStretch(1)
        column.addLayout(choice)
        column.addWidget(self.coming)
        column.addWidget(self.list, 1)
        column.addWidget(self.buttons)
        open_as(self, 640, 520)

    def _other_theirs(self) -> None:
        if path := self._choose(tr("What somebody else made of this plan")):
            self.keeper.take(theirs=path)

    def _other_base(self) -> None:
        if path := self._choose(tr("The plan that both began with")):
            self.keeper.take(base=path)

    # --- what it shows ------------------------------------------------------------------------

    def _show(self) -> None:
        keeper, outcome = self.keeper, self.keeper.outcome
        self.theirs.setText(str(keeper.theirs))
        self.base.setText(str(keeper.base) if keeper.base is not None else tr("not chosen yet"))
        self.make.setEnabled(outcome is not None and not keeper.working)
        self.problem.setText(keeper.problem)
        self.problem.setVisible(bool(keeper.problem))
        self.state.setText("" if keeper.problem else self._words())
        kept = self.table.currentRow()
        still = outcome.conflicts if outcome is not None else ()
        self._rows = [(conflict, True) for conflict in keeper.solved.values()]
        self._rows += [(conflict, False) for conflict in still]
        self.table.setRowCount(len(self._rows))
        for at, (conflict, theirs) in enumerate(self._rows):
            values = (value_words(conflict.ours), value_words(conflict.theirs))
            what = f"{conflict.part.replace('_', ' ')}: {conflict.what}"
            for column, text in enumerate((what, *values, _THEIRS if theirs else _OURS)):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.table.setItem(at, column, item)
        if self._rows:
            self.table.selectRow(min(max(kept, 0), len(self._rows) - 1))
        self._chosen()
        self._show_lines()

    def _words(self) -> str:
        outcome, working = self.keeper.outcome, self.keeper.working
        if outcome is None or working:
            return tr("Working it out …") if working else ""
        count = len(outcome.conflicts)
        words = (
            tr(
                "{conflicts}, for which ours is kept",
                conflicts=counted(count, "{n} conflict", "{n} conflicts"),
            )
            if count
            else ""
        )
        if not outcome.edit.changes:
            return "; ".join(filter(None, (words, tr("nothing comes in: ours has it all"))))
        found = len(outcome.findings)
        more = (
            tr(counted(found, "{n} finding comes with it", "{n} findings come with it"))
            if found
            else ""
        )
        return "; ".join(filter(None, (words or tr("No conflict"), more)))

    def _show_lines(self) -> None:
        outcome = self.keeper.outcome
        lines = outcome.lines if outcome is not None else ()
        findings = [
            finding_json(item) for item in (outcome.findings if outcome is not None else ())
        ]
        self.coming.setText(
            tr("What comes in: {lines}", lines=counted(len(lines), "{n:,} line", "{n:,} lines"))
        )
        self.list.blockSignals(True)
        self.list.clear()
        places: list[tuple[str, Cell | None]] = [(str(line), line.low) for line in lines]
        places += [
            (
                tr("+ finding {finding_text}", finding_text=finding_text(item)),
                Cell(*item["cell"]) if item["cell"] else None,
            )
            for item in findings
        ]
        for text, place in places:
            made = QListWidgetItem(text)
            made.setToolTip(text)
            made.setData(Qt.ItemDataRole.UserRole, place)
            self.list.addItem(made)
        self.list.blockSignals(False)

    # --- what is chosen -----------------------------------------------------------------------

    @property
    def _row(self) -> tuple[Conflict, bool] | None:
        at = self.table.currentRow()
        return self._rows[at] if 0 <= at < len(self._rows) else None

    def _chosen(self) -> None:
        row = self._row
        free = row is not None and bool(row[0].things) and not self.keeper.working
        self.theirs_button.setEnabled(free and row is not None and not row[1])
        self.ours_button.setEnabled(free and row is not None and row[1])
        if row is not None:
            self._reveal(row[0].at)

    def _solve(self, theirs: bool) -> None:
        if (row := self._row) is not None:
            self.keeper.solve(row[0], theirs)

    def _go(self, item: QListWidgetItem | None, *_before: object) -> None:
        if item is not None:
            self._reveal(item.data(Qt.ItemDataRole.UserRole))

    def _reveal(self, cell: Cell | None) -> None:
        if cell is not None and self._session.plan.spec.contains(cell):
            self._session.reveal.emit(cell)

    def _merge(self) -> None:
        outcome, session = self.keeper.outcome, self._session
        if outcome is None:
            return
        if session.document.revision != outcome.revision:
            session.say(tr("Not merged, since the plan changed meanwhile; do it again"), "no")
            return
        session.document.history.do(outcome.edit)
        left = len(outcome.conflicts)
        kept = (
            tr(
                "; ours was kept in {conflicts}",
                conflicts=counted(left, "{n} conflict", "{n} conflicts"),
            )
            if left
            else ""
        )
        session.say(f"{outcome.edit.label}{kept}")
