"""The tables of Waves: ways, towers, waves, whether they hold, and the best spots."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.register import structure_id
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.gain import pace
from woven_locus.core.waves.ranges import in_range
from woven_locus.core.waves.towers import towers_of
from woven_locus.ui.desk import Desk
from woven_locus.ui.parts.figures_table import FiguresTable, Value, change, plain, tenths
from woven_locus.ui.parts.widgets import muted

WAYS = (
    *(("Entry", plain), ("Over", plain), ("Goal", plain), ("Length", tenths)),
    *(("Seconds", tenths), ("Towers", plain), ("In hand", plain)),
)
TOWERS = (
    *(("Tower", plain), ("In range", tenths), ("Seconds", tenths), ("Shots", plain)),
    *(("Stopped", plain), ("Dealt", tenths), ("Wasted", tenths), ("Idle, %", tenths)),
)
WAVES = (
    *(("Wave", plain), ("Begins, s", tenths), ("Sent", plain), ("Stopped", plain)),
    *(("Through", plain), ("Lives", plain), ("Earned", plain)),
)
HELD = (
    *(("Wave", plain), ("Held, %", tenths), ("Lives: least", plain), ("mean", tenths)),
    *(("Through", tenths), ("Health", tenths), ("Could be dealt", tenths), ("Lost in", plain)),
)
BEST = (("Spot", plain), ("Seconds", tenths), ("± to the best", change))


class WaysTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__("Ways of attackers", WAYS, (100, 56, 92, 62, 68, 62, 126))
        self._desk = desk
        self.picked.connect(desk.session.reveal)

    def refresh(self) -> None:
        """The ways as they are now."""
        plan, keeper = self._desk.session.plan, self._desk.wave_ways
        names = {place.id: place.name for place in plan.waves.entries}
        goals = {place.id: place.name for place in plan.waves.goals}
        growth = {(g.before.entry, g.before.moves): g for g in keeper.growth}
        towers = towers_of(plan)
        rows: list[tuple[Value, ...]] = []
        keys: list[object] = []
        for way in keeper.ways:
            reach = sum(
                placed.tower.can_hit(way.moves is Moves.AIR)
                and in_range(way.points, placed.centre, placed.tower) > 0
                for placed in towers
            )
            grown = growth.get((way.entry, way.moves))
            entry = plan.waves.entry(way.entry)
            rows.append(
                (
                    f"{way.entry} {names.get(way.entry, '')}",
                    way.moves.value,
                    f"{way.goal} {goals[way.goal]}" if way.found else "no way",
                    way.length if way.found else None,
                    way.length / pace(plan, way) if way.found else None,
                    reach,
                    grown.change if grown is not None else "",
                )
            )
            keys.append(entry.cells[0] if entry is not None else None)
        self.take(rows, keys)


class TowersTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__("Towers", TOWERS, (112, 66, 68, 54, 68, 60, 66, 56))
        self._desk = desk
        self.picked.connect(lambda number: desk.session.select(number, reveal=True))

    def refresh(self) -> None:
        """The towers as they are now, and what they did."""
        plan, run = self._desk.session.plan, self._desk.waves.run
        ways = [way for way in self._desk.wave_ways.ways if way.found]
        rows: list[tuple[Value, ...]] = []
        keys: list[object] = []
        for placed in towers_of(plan):
            lengths = [
                (in_range(way.points, placed.centre, placed.tower), pace(plan, way))
                for way in ways
                if placed.tower.can_hit(way.moves is Moves.AIR)
            ]
            tally = run.tallies.get(placed.number) if run is not None else None
            did: tuple[Value, ...] = (None,) * 5
            if tally is not None:
                idle = 100 * tally.idle / tally.there if tally.there else None
                did = (tally.shots, tally.stopped, tally.dealt, tally.wasted, idle)
            rows.append(
                (
                    f"{structure_id(placed.number)} {plan.kinds[placed.kind].name}",
                    sum(length for length, _pace in lengths),
                    sum(length / speed for length, speed in lengths),
                    *did,
                )
            )
            keys.append(placed.number)
        self.take(rows, keys)


class WavesTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__("Waves", WAVES, (190, 84, 70, 76, 76, 70, 76))
        self._desk = desk

    def refresh(self) -> None:
        """What came of each wave so far."""
        run, waves = self._desk.waves.run, self._desk.session.plan.waves.waves
        rows: list[tuple[Value, ...]] = []
        for at, wave in enumerate(waves):
            tally = run.waves[at] if run is not None else None
            did: tuple[Value, ...] = (wave.count, None, None, None, None)
            if tally is not None:
                did = (tally.sent, tally.stopped, tally.through, tally.lives, tally.earned)
            rows.append((wave.name or f"Wave {at + 1}", wave.begins, *did))
        self.take(rows, list(range(len(waves))))


class HeldPage(QWidget):
    """table : each wave alone, and all in order.  ask : a button."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.words = muted()
        self.ask = QPushButton("Try it out")
        self.ask.setToolTip("Let each wave come alone, and all in order, over several seeds")
        self.ask.clicked.connect(desk.holding.ask)
        self.table = FiguresTable("Will it hold?", HELD, (104, 60, 80, 52, 66, 62, 96, 84))
        head = QHBoxLayout()
        head.addWidget(self.words, 1)
        head.addWidget(self.ask)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 0)
        column.addLayout(head)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        desk.holding.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """What was found."""
        keeper, waves = self._desk.holding, self._desk.session.plan.waves.waves
        self.ask.setEnabled(not keeper.working)
        self.table.setVisible(keeper.found is not None)
        if keeper.working:
            self.words.setText("Being tried …")
            return
        if keeper.found is None:
            self.words.setText(
                "Will it hold? Each wave alone and all in order, over ten seeds; beside it the health that comes against the "
                "damage that could be dealt."
            )
            return
        whole = keeper.found[-1]
        self.words.setText(
            f"All in order: held in {whole.held:.0%} of {whole.runs} run{'s' * (whole.runs != 1)}."
        )
        rows: list[tuple[Value, ...]] = []
        for item in keeper.found:
            name = "All in order" if item.wave is None else waves[item.wave].name
            strong = keeper.strong[item.wave] if item.wave is not None else None
            lost = waves[item.first_lost].name if item.first_lost is not None else ""
            rows.append(
                (
                    name or f"Wave {(item.wave or 0) + 1}",
                    100 * item.held,
                    item.lives[0],
                    item.lives[1],
                    item.through,
                    strong.health if strong else None,
                    strong.damage if strong else None,
                    lost,
                )
            )
        self.table.take(rows, list(range(len(rows))))


class BestPage(QWidget):
    """table : the spots where the tower in hand would gain most."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.words = muted()
        self.table = FiguresTable("Best spots", BEST, (120, 140, 120))
        self.table.picked.connect(self._go)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 0)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        desk.gains.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """As it is known now."""
        keeper = self._desk.gains
        found = keeper.found
        self.table.setVisible(found is not None)
        if found is None:
            self.words.setText(
                "Being worked out …"
                if keeper.working
                else "Take a tower or a maze piece in hand and switch on “Where would it gain most?”: the best spots are listed here."
            )
            return
        kind = self._desk.session.plan.kinds[found.kind]
        what = "is in its range" if kind.tower is not None else "takes longer"
        self.words.setText(f"{kind.name}: seconds that the first attacker of each way {what}.")
        best = found.best[0][1] if found.best else 0.0
        self.table.take(
            [(cell_text(cell), seconds, seconds - best) for cell, seconds in found.best],
            [cell for cell, _seconds in found.best],
        )

    def _go(self, cell: Cell) -> None:
        self._desk.session.reveal.emit(cell)
