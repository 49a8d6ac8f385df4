"""The grid sheet: another grid under the plan that is open, and what would fall outside, counted beforehand."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QRadioButton, QWidget

from woven_locus.core.editing import Keep, Losses, Regrid
from woven_locus.core.edits.grid import regrid
from woven_locus.core.errors import WovenError
from woven_locus.core.grid import GridSpec
from woven_locus.core.layers import LAYERS
from woven_locus.core.plan import Plan
from woven_locus.ui.bench.survey.grid_form import GridForm
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.widgets import Label, heading, muted
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme

# Names of what would be lost that are written out.
MOST_NAMES = 4


class GridSheet(GridForm):
    """Does the edit itself, once it is accepted."""

    def __init__(self, theme: Theme, parent: QWidget, session: Session) -> None:
        self._session, self._old = session, session.plan.spec
        super().__init__(tr("Change the grid"), tr("Change it"), theme, self._old, parent)
        self.by_index = QRadioButton(tr("by cell index: what is in cell 3, 4 stays in cell 3, 4"))
        self.by_place = QRadioButton(tr("by world place: what is at a point stays at that point"))
        self.by_index.setChecked(True)
        self.losses = Label()
        self.losses.setWordWrap(True)
        self.losses.setMinimumWidth(300)
        self.add_grid()
        self.form.addRow(tr("Content is kept"), self.by_index)
        self.form.addRow("", self.by_place)
        self.form.addRow(heading(tr("What would fall outside")))
        self.form.addRow(self.losses)
        self.side.addWidget(muted(tr("Dashed: the grid as it is. One step of the history.")))
        self.side.addStretch(1)
        # A large plan is not laid out anew with every key.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0 if session.asking.is_small() else 350)
        self._soon.timeout.connect(self._count_losses)
        self.counted: Losses | None = None
        self._job: Job | None = None
        for button in (self.by_index, self.by_place):
            button.toggled.connect(self.work_out)
        self.accepted.connect(self._change)
        self.begin()

    @property
    def keep(self) -> Keep:
        return Keep.PLACE if self.by_place.isChecked() else Keep.INDEX

    def before(self) -> GridSpec:
        return self._old

    def work_out(self) -> None:
        super().work_out()
        self.counted = None
        if self.spec is None:
            self.losses.setText("")
            return
        # Nothing is done before it was said what would be lost.
        self.make.setEnabled(False)
        if self.spec == self._old:
            self.losses.setText(tr("Nothing: the grid is as it was."))
            return
        self.losses.setText(tr("Working it out …"))
        self._soon.start()

    def _count_losses(self) -> None:
        if self.spec is None:
            return
        question = Regrid(self.spec, self.keep)
        if self._job is not None:
            self._job.stop()

        def asked() -> bool:
            """Whether that is still what the sheet says."""
            return (
                not sip.isdeleted(self)
                and self.spec is not None
                and Regrid(self.spec, self.keep) == question
            )

        def done(lost: Losses) -> None:
            if asked():
                self.counted = lost
                self.losses.setText(losses_words(lost))
                self.make.setEnabled(True)

        def refused(error: WovenError) -> None:
            if asked():
                self.losses.setText("")
                self.show_problem(tr("This grid cannot be made: {error}", error=error))

        def again() -> None:
            if asked():
                self._soon.start()

        self._job = self._session.asking.ask(
            tr("Counting what would fall outside"),
            lambda plan, _control: question.work_out(plan)[1],
            done,
            of=Plan.snapshot,
            refused=refused,
            dropped=again,
        )

    def _change(self) -> None:
        session, spec, keep = self._session, self.spec, self.keep
        if spec is None:
            return
        question = Regrid(spec, keep)
        session.work(tr("Changing the grid"), lambda plan, _control: regrid(plan, question))


def losses_words(lost: Losses) -> str:
    """What would be lost, exactly, in words."""
    if not lost:
        return tr("Nothing: everything finds its place.")
    parts = []
    for what, items in (("structure", lost.structures), ("obstacle", lost.obstacles)):
        if items:
            names = [words for _number, words in items[:MOST_NAMES]]
            more = (
                tr(" and {count:,} more", count=len(items) - MOST_NAMES)
                if len(items) > MOST_NAMES
                else ""
            )
            parts.append(
                f"{len(items):,} {what}{'s' * (len(items) != 1)}: {', '.join(names)}{more}"
            )
    for layer in LAYERS:
        what, count = layer.lost, lost.cells.get(layer.name, 0)
        if count:
            parts.append(
                tr("{cells} {what}", cells=counted(count, "{n:,} cell", "{n:,} cells"), what=what)
            )
    return "\n".join(f"• {part}" for part in parts)
