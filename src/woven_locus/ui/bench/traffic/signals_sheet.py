"""The signals of a junction: which turns have green when, and what that costs."""

from __future__ import annotations

import math
import time
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.edits.traffic import set_rule
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import cell_text
from woven_locus.core.junction_rules import (
    LONGEST_PHASE,
    MOST_PHASES,
    JunctionRule,
    Phase,
    Rule,
    Turn,
    turn_words,
)
from woven_locus.core.traffic.report import junction_figures_at
from woven_locus.core.traffic.signals import AMBER, FULL, Timing
from woven_locus.core.value import replace
from woven_locus.ui.bench.traffic.signal_band import SignalBand
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog, open_as
from woven_locus.ui.parts.widgets import Label, WorldBox, muted, set_quietly, world_box
from woven_locus.ui.theme import Theme

# Real seconds between two looks at what came.
_EVERY = 0.5


class SignalsSheet(Dialog):
    """Every change is a step of the history at once. checks : by turn and phase.  greens, ambers : by phase."""

    def __init__(self, desk: Desk, theme: Theme, parent: QWidget | None) -> None:
        super().__init__(parent)
        assert desk.junctions.cell is not None
        self._desk, self._session, self._cell = desk, desk.session, desk.junctions.cell
        self.setWindowTitle(tr("Signals at {cell}", cell=cell_text(self._cell)))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(2)
        self.checks: dict[tuple[Turn, int], QCheckBox] = {}
        self.greens: list[WorldBox] = []
        self.ambers: list[WorldBox] = []
        self._shape: object = None
        self._due = 0.0
        self.band = SignalBand(theme)
        self.cycle = world_box(60, 0.2, MOST_PHASES * 2 * LONGEST_PHASE, tr("Cycle, seconds"))
        self.offset = world_box(0, 0, LONGEST_PHASE, tr("Offset, seconds"))
        for box in (self.cycle, self.offset):
            box.setSuffix(" s")
        self.cycle.editingFinished.connect(self._scale)
        self.offset.editingFinished.connect(lambda: self._change(offset=self.offset.value()))
        self.propose = QPushButton(tr("Propose from counted flows"))
        self.propose.setToolTip(tr("Phases that do not cross, cycle and green by Webster's method"))
        self.propose.clicked.connect(desk.junctions.propose)
        self.add, self.remove = QPushButton(tr("Add a phase")), QPushButton(tr("Remove the last"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.shut = QPushButton(tr("Close"))
        self.shut.clicked.connect(self.accept)
        self.words = muted()
        self.problem = Label()
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self._lay_out()
        open_as(self, 720, 440)
        # A method, not a lambda: Qt ends the connection when the sheet is closed, which deletes it.
        self._session.changed.connect(self._edited)
        self._session.replaced.connect(self.reject)
        desk.traffic.moved.connect(self._show_time)
        self._show()

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.addRow(tr("Cycle"), self.cycle)
        form.addRow(tr("Offset"), self.offset)
        beside = QHBoxLayout()
        beside.addLayout(self._grid)
        beside.addWidget(self.band, 1)
        row = QHBoxLayout()
        for button in (self.propose, self.add, self.remove):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.shut)
        column = QVBoxLayout(self)
        column.addWidget(
            muted(
                tr(
                    "A tick is green. Of turns that cross within a phase, whoever came first goes first."
                )
            )
        )
        column.addLayout(beside)
        column.addLayout(form)
        column.addWidget(self.words)
        column.addWidget(self.problem)
        column.addStretch(1)
        column.addLayout(row)

    # --- what is shown ------------------------------------------------------------------------------

    @property
    def rule(self) -> JunctionRule | None:
        """As the plan has it, None when it has no signals there any more."""
        rule = self._session.plan.traffic.rule_at(self._cell)
        return rule if rule is not None and rule.rule is Rule.SIGNALS else None

    def _edited(self, _notice: object) -> None:
        self._show()

    def _turns(self, rule: JunctionRule) -> list[Turn]:
        """The turns of the junction, and those that its signals name."""
        turns = {turn for phase in rule.phases for turn in phase.turns}
        return sorted(turns | set(self._desk.junctions.turns(self._cell)))

    def _show(self) -> None:
        rule = self.rule
        if rule is None:
            self.reject()
            return
        turns = self._turns(rule)
        if self._shape != (turns, len(rule.phases)):
            self._shape = (turns, len(rule.phases))
            self._build(turns, len(rule.phases))
        for (turn, at), check in self.checks.items():
            check.setChecked(turn in rule.phases[at].turns)
        for at, phase in enumerate(rule.phases):
            set_quietly(self.greens[at], phase.green)
            set_quietly(self.ambers[at], phase.amber)
        set_quietly(self.cycle, rule.cycle)
        set_quietly(self.offset, rule.offset)
        self.add.setEnabled(len(rule.phases) < MOST_PHASES)
        self.remove.setEnabled(len(rule.phases) > 1)
        self.words.setText(self._about(rule))
        self._show_time()

    def _show_time(self) -> None:
        rule, run = self.rule, self._desk.traffic.run
        if rule is not None:
            if time.monotonic() >= self._due:
                self._due = time.monotonic() + _EVERY
                self.words.setText(self._about(rule))
            now = (run.seconds - rule.offset) % rule.cycle if run is not None else None
            self.band.show_rule(rule, self._turns(rule), now)

    def _about(self, rule: JunctionRule) -> str:
        run = self._desk.traffic.run
        junction = run.streets.junctions.find(self._cell) if run is not None else None
        never = rule.never_green(self._turns(rule))
        up = self._session.plan.spec.y_up
        names = ", ".join(tr(turn_words(turn, up)) for turn in never)
        words = tr("Never green: {names}. ", names=names) if never else ""
        if run is None or junction is None or run.seconds < 1:
            return words + tr("Let traffic run for a while: then it is counted what comes here.")
        found = Timing(run, junction).predicted(rule)
        measured = junction_figures_at(run, self._cell)
        assert measured is not None
        if found.load >= 1 or math.isinf(found.delay):
            words += tr(
                "More arrives than can pass ({load:.0%}): queues will grow. ", load=found.load
            )
        else:
            full = tr(", nearly full") if found.load > FULL else ""
            words += tr(
                "{load:.0%} of what can pass arrives{full}; predicted delay {delay:.1f} s a vehicle. ",
                load=found.load,
                full=full,
                delay=found.delay,
            )
        return words + tr(
            "Measured with these times: {mean_delay:.1f} s, of {passed:,}.",
            mean_delay=measured.mean_delay,
            passed=measured.passed,
        )

    def _build(self, turns: list[Turn], phases: int) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        self.checks.clear()
        up = self._session.plan.spec.y_up
        for at in range(phases):
            self._grid.addWidget(Label(tr("Phase {at}", at=at + 1)), 0, at + 1)
        for row, turn in enumerate(turns, 1):
            words = tr(turn_words(turn, up))
            self._grid.addWidget(Label(words), row, 0)
            for at in range(phases):
                check = QCheckBox()
                check.setAccessibleName(tr("{words} in phase {at}", words=words, at=at + 1))
                check.clicked.connect(lambda on, turn=turn, at=at: self._tick(turn, at, on))
                self._grid.addWidget(check, row, at + 1)
                self.checks[turn, at] = check
        last = len(turns) + 1
        green, amber = tr("Green"), tr("Amber")
        self.greens = [self._seconds("green", green, at, 0.1) for at in range(phases)]
        self.ambers = [self._seconds("amber", amber, at, 0.0) for at in range(phases)]
        for row, (name, boxes) in enumerate(((green, self.greens), (amber, self.ambers))):
            self._grid.addWidget(Label(tr("{name}, s", name=name)), last + row, 0)
            for at, box in enumerate(boxes):
                self._grid.addWidget(box, last + row, at + 1)
        self.band.set_rows(lambda: self._middles(turns))

    def _middles(self, turns: list[Turn]) -> list[float]:
        """The middle of each turn's row, as the band counts."""
        checks = [self.checks[turn, 0] for turn in turns if (turn, 0) in self.checks]
        return [check.geometry().center().y() - self.band.y() + 0.5 for check in checks]

    def _seconds(self, key: str, name: str, at: int, least: float) -> WorldBox:
        box = world_box(
            least, least, LONGEST_PHASE, tr("{name} of phase {at}, seconds", name=name, at=at + 1)
        )
        box.setMinimumWidth(64)
        box.editingFinished.connect(lambda: self._time(at, key, box.value()))
        return box

    # --- what is done -------------------------------------------------------------------------------

    def _change(self, **changes: Any) -> None:
        rule = self.rule
        if rule is None:
            return
        self.problem.setText("")
        try:
            edit = set_rule(self._session.plan, self._cell, replace(rule, **changes))
        except WovenError as err:
            self.problem.setText(tr(err))
            self._show()
            return
        self._session.document.history.do(edit)

    def _phase(self, at: int, phase: Phase) -> None:
        rule = self.rule
        if rule is not None:
            phases = (*rule.phases[:at], phase, *rule.phases[at + 1 :])
            self._change(phases=phases)

    def _tick(self, turn: Turn, at: int, on: bool) -> None:
        rule = self.rule
        if rule is not None:
            others = set(rule.phases[at].turns) - {turn}
            turns = tuple(sorted(others | {turn} if on else others))
            self._phase(at, replace(rule.phases[at], turns=turns))

    def _time(self, at: int, key: str, seconds: float) -> None:
        rule = self.rule
        if rule is not None and at < len(rule.phases) and getattr(rule.phases[at], key) != seconds:
            changes: dict[str, Any] = {key: seconds}
            self._phase(at, replace(rule.phases[at], **changes))

    def _scale(self) -> None:
        """Another cycle: ambers stay, greens keep their shares."""
        rule = self.rule
        if rule is None or self.cycle.value() == rule.cycle:
            return
        ambers = sum(phase.amber for phase in rule.phases)
        factor = (self.cycle.value() - ambers) / (rule.cycle - ambers)
        if factor <= 0:
            self.problem.setText(
                tr("The ambers alone take {ambers:g} s: a cycle must be longer", ambers=ambers)
            )
            set_quietly(self.cycle, rule.cycle)
            return
        self._change(
            phases=tuple(replace(phase, green=phase.green * factor) for phase in rule.phases)
        )

    def _add(self) -> None:
        rule = self.rule
        if rule is not None:
            self._change(phases=(*rule.phases, Phase((), 10.0, AMBER)))

    def _remove(self) -> None:
        rule = self.rule
        if rule is not None:
            self._change(phases=rule.phases[:-1])
