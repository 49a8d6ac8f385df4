"""What there is to know of the waves: ways, towers, what came of them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import (
    QHBoxLayout,
    QWidget,
)

from woven_locus.files.tables import table
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import inside, tr
from woven_locus.ui.parts.figures_table import FiguresTable
from woven_locus.ui.parts.paged_tab import PagedTab
from woven_locus.ui.theme import Theme
from woven_locus.ui.tray.traffic.charts import RunChart
from woven_locus.ui.tray.waves.charts import AccountChart, FallsChart, StrengthChart
from woven_locus.ui.tray.waves.tables import (
    BestPage,
    HeldPage,
    NarrowPage,
    ReachTable,
    TowersTable,
    WavesTable,
    WaysTable,
)

# Real milliseconds between two looks at a run that goes on.
_EVERY_MSEC = 500
# And after the ghost moved, so that one move does not follow another.
_SOON_MSEC = 60


_PAGES = (WaysTable, TowersTable, ReachTable, WavesTable, HeldPage, BestPage, NarrowPage)


class WavesTab(PagedTab):
    """save : writes a table, given what it holds and its text; set by the window."""

    def __init__(self, desk: Desk, theme: Theme) -> None:
        self._desk = desk
        self.save: Callable[[str, str], object] = lambda _words, _text: None
        self.ways, self.towers, self.waves = WaysTable(desk), TowersTable(desk), WavesTable(desk)
        self.held, self.best = HeldPage(desk), BestPage(desk)
        self.reach, self.narrow = ReachTable(desk), NarrowPage(desk)
        self.strength = StrengthChart(desk, theme)
        self.falls, self.account = FallsChart(desk, theme), AccountChart(desk, theme)
        pages: dict[str, QWidget] = {
            tr("Ways"): self.ways,
            tr("Towers"): self.towers,
            tr("In range"): self.reach,
            tr("Waves"): self.waves,
            tr("Will it hold?"): self.held,
            tr("Difficulty"): self.strength,
            tr("Best spots"): self.best,
            tr("Narrow places"): self.narrow,
            tr("Where they fell"): self.falls,
            tr("Funds and lives"): self.account,
        }
        super().__init__(pages, tr("What of the waves is shown"))
        self.out.clicked.connect(self._save)
        head = QHBoxLayout()
        head.addStretch(1)
        head.addWidget(self.out)
        self._lay_out(head)
        desk.waves.moved.connect(lambda: self._soon(_EVERY_MSEC))
        desk.wave_ways.changed.connect(lambda: self._soon(_SOON_MSEC))
        desk.waves.changed.connect(self.refresh)
        desk.session.replaced.connect(self.refresh)
        self.views.setCurrentRow(0)
        self.refresh()

    @property
    def _table(self) -> FiguresTable | None:
        """The table that is shown, if it is one."""
        page = self.stack.currentWidget()
        if isinstance(page, HeldPage | BestPage | NarrowPage):
            return page.table
        return page if isinstance(page, FiguresTable) else None

    def refresh(self) -> None:
        """As it is now."""
        page = self.stack.currentWidget()
        self.out.setEnabled(self._table is not None)
        if not self.isVisible():
            return
        if isinstance(page, RunChart):
            page.draw()
        elif isinstance(page, _PAGES):
            page.refresh()

    def _save(self) -> None:
        shown = self._table
        if shown is None:
            return
        if not shown.figures.rows:
            self._desk.session.say(tr("There is nothing to save yet"), "no")
            return
        heads = [name for name, _show in shown.figures.columns]
        rows = [["" if value is None else value for value in row] for row in shown.figures.rows]
        item = self.views.currentItem()
        assert item is not None
        self.save(inside(item.text().rstrip("?")), table(heads, rows))
