"""Waves: entries and goals, the towers, the clock of the run, and the sheets."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QPushButton

from woven_locus.core.placing.verdict import cells_text
from woven_locus.core.waves.gain import Measure
from woven_locus.ui.bench.tool_buttons import ToolButtons
from woven_locus.ui.bench.waves.attackers_sheet import AttackersSheet
from woven_locus.ui.bench.waves.clock_panel import WaveClockPanel
from woven_locus.ui.bench.waves.places_sheet import PlacesSheet
from woven_locus.ui.bench.waves.shelf_panel import TowerShelf
from woven_locus.ui.bench.waves.tools import TOOLS
from woven_locus.ui.bench.waves.towers_sheet import TowersSheet
from woven_locus.ui.bench.waves.waves_sheet import WavesSheet
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.widgets import ComboBox, Page, heading, muted, quietly, rule, side_by_side
from woven_locus.ui.session.stages import WaveTool
from woven_locus.ui.theme import Theme


class WavesPage(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("bench")
        self._desk, self._session = desk, desk.session
        self.clock = WaveClockPanel(desk, theme)
        self.column.addWidget(self.clock)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Entries and goals")))
        self.tool_buttons = ToolButtons(TOOLS, theme, self.take)
        self.column.addWidget(self.tool_buttons)
        self.about = muted()
        self.column.addWidget(self.about)
        self.column.addWidget(rule())
        self.shelf = TowerShelf(desk)
        self.column.addWidget(self.shelf)
        self._add_looks(desk)
        self._add_sheets()
        self._session.choices.on("waves", self._show)
        self._session.changed.connect(self._edited)
        self._session.replaced.connect(self._show)
        self._show()

    def _add_looks(self, desk: Desk) -> None:
        self.ranges = QCheckBox(tr("Ranges of all towers"))
        self.ranges.toggled.connect(lambda on: self._session.choices.set_waves(ranges=on))
        self.gains = QCheckBox(tr("Where it gains most"))
        self.gains.setToolTip(
            tr(
                "For what is in hand: every spot by the seconds of the ways in its range, or by which it makes them longer"
            )
        )
        self.gains.toggled.connect(self._show_gains)
        self.column.addWidget(self.ranges)
        self.column.addWidget(self.gains)
        self.measure = ComboBox()
        self.measure.setAccessibleName(tr("By what the spots are ranked"))
        self.measure.addItem(tr("by seconds in range"), Measure.SECONDS)
        self.measure.addItem(tr("by new damage"), Measure.DAMAGE)
        self.measure.setToolTip(
            tr("New damage: beyond what the towers there can deal, over all attackers of all waves")
        )
        self.measure.currentIndexChanged.connect(
            lambda _at: desk.gains.rank_by(self.measure.currentData())
        )
        self.measure.hide()
        self.column.addWidget(self.measure)
        self.cuts = QCheckBox(tr("Least cut"))
        self.cuts.setToolTip(tr("The fewest cells whose closing seals an entry"))
        self.cuts.toggled.connect(desk.cuts.show)
        self.column.addWidget(self.cuts)
        self.narrow = QCheckBox(tr("Narrow places"))
        self.narrow.setToolTip(tr("Where few cells in a straight line across would close a way"))
        self.narrow.toggled.connect(desk.narrow.show)
        self.column.addWidget(self.narrow)
        self.cut_words = muted()
        self.column.addWidget(self.cut_words)
        desk.cuts.changed.connect(self._show_cuts)
        self._show_cuts()

    def _add_sheets(self) -> None:
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Sheets")))
        self.waves, self.attackers = QPushButton(tr("Waves…")), QPushButton(tr("Attackers…"))
        self.towers, self.places = QPushButton(tr("Towers…")), QPushButton(tr("Places…"))
        self.towers.setToolTip(tr("What each kind of structure does to attackers"))
        self.towers.clicked.connect(lambda: TowersSheet(self._session, self.window()).open())
        self.waves.setToolTip(tr("Which attackers come when, and from where"))
        self.attackers.setToolTip(tr("The kinds of attacker"))
        self.places.setToolTip(tr("Names of entries and goals, lives, and how attackers move"))
        self.waves.clicked.connect(lambda: WavesSheet(self._session, self.window()).open())
        self.attackers.clicked.connect(lambda: AttackersSheet(self._session, self.window()).open())
        self.places.clicked.connect(lambda: PlacesSheet(self._session, self.window()).open())
        self.column.addWidget(side_by_side(self.waves, self.attackers))
        self.column.addWidget(side_by_side(self.towers, self.places))
        self.column.addStretch(1)

    def _show_gains(self, on: bool) -> None:
        self.measure.setVisible(on)
        self._desk.gains.show(on)

    def _show_cuts(self) -> None:
        found = self._desk.cuts.found
        lines = [
            tr(
                "{entry} over {moves}: {why}",
                entry=cut.entry,
                moves=tr(cut.moves.value),
                why=cut.why or cells_text(len(cut.cells)),
            )
            for cut in found or ()
        ]
        self.cut_words.setText("\n".join(lines))
        self.cut_words.setVisible(bool(lines))

    def take(self, tool: WaveTool) -> None:
        """A tool in the pointer's hand."""
        self._session.hand.drop()
        self._session.choices.set_waves(tool=tool)
        self._session.taken_up.emit()

    def _edited(self, _notice: object) -> None:
        self._show()

    def _show(self) -> None:
        chosen, waves = self._session.choices.waves, self._session.plan.waves
        self.tool_buttons.show_chosen(chosen.tool)
        quietly(self.ranges, lambda: self.ranges.setChecked(chosen.ranges))
        if not waves.entries or not waves.goals:
            missing = tr("an entry") if not waves.entries else tr("a goal")
            self.about.setText(
                tr("Set {missing}: take the tool and click a cell.", missing=missing)
            )
            return
        entries, goals = len(waves.entries), len(waves.goals)
        count = sum(wave.count for wave in waves.waves)
        self.about.setText(
            tr(
                "{entries}, {goals}; {waves} of {count:,}.",
                entries=counted(entries, "{n} entry", "{n} entries"),
                goals=counted(goals, "{n} goal", "{n} goals"),
                waves=counted(len(waves.waves), "{n} wave", "{n} waves"),
                count=count,
            )
        )
