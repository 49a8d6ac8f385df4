"""The tables of Waves: ways, towers, waves, whether they hold, and the best spots."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.register import structure_id
from woven_locus.core.wave_plan import Moves
from woven_locus.core.waves.gain import Measure, pace
from woven_locus.core.waves.ranges import effort_in_range, in_range
from woven_locus.core.waves.reach import reach_of_towers
from woven_locus.core.waves.towers import towers_of
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, mark, phrase, tr
from woven_locus.ui.parts.figures_table import FiguresTable, Value, change, plain, tenths
from woven_locus.ui.parts.widgets import muted

WAYS = (
    *(
        (mark("Entry"), plain),
        (mark("Over"), plain),
        (mark("Goal"), plain),
        (mark("Length"), tenths),
    ),
    *((mark("Seconds"), tenths), (mark("Towers"), plain), (mark("In hand"), plain)),
)
TOWERS = (
    *(
        (mark("Tower"), plain),
        (mark("In range"), tenths),
        (mark("Seconds"), tenths),
        (mark("Shots"), plain),
    ),
    *(
        (mark("Stopped"), plain),
        (mark("Dealt"), tenths),
        (mark("Wasted"), tenths),
        (mark("Idle, %"), tenths),
    ),
)
REACH = (
    *(
        (mark("Tower"), plain),
        (mark("Way"), plain),
        (mark("Attacker"), plain),
        (mark("Length"), tenths),
    ),
    *(
        (mark("Seconds"), tenths),
        (mark("Shots"), plain),
        (mark("Damage"), tenths),
        (mark("Of its health, %"), tenths),
    ),
)
NARROW = (
    (mark("Way"), plain),
    (mark("Cell"), plain),
    (mark("Cells across"), plain),
    (mark("From the entry"), tenths),
)
WAVES = (
    *(
        (mark("Wave"), plain),
        (mark("Begins, s"), tenths),
        (mark("Sent"), plain),
        (mark("Stopped"), plain),
    ),
    *((mark("Through"), plain), (mark("Lives"), plain), (mark("Earned"), plain)),
)
HELD = (
    *(
        (mark("Wave"), plain),
        (mark("Held, %"), tenths),
        (mark("Lives: least"), plain),
        (mark("mean"), tenths),
    ),
    *(
        (mark("Through"), tenths),
        (mark("Health"), tenths),
        (mark("Could be dealt"), tenths),
        (mark("Lost in"), plain),
    ),
)
BEST = (
    (mark("Spot"), plain),
    (mark("Seconds"), tenths),
    (mark("New damage"), tenths),
    (mark("± to the best"), change),
)


class WaysTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Ways of attackers"), WAYS, (100, 56, 92, 62, 68, 62, 126))
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
                and in_range(way.strokes.points, placed.centre, placed.tower) > 0
                for placed in towers
            )
            grown = growth.get((way.entry, way.moves))
            entry = plan.waves.entry(way.entry)
            rows.append(
                (
                    f"{way.entry} {names.get(way.entry, '')}",
                    phrase(way.moves.value),
                    f"{way.goal} {goals[way.goal]}" if way.found else phrase("no way"),
                    way.length if way.found else None,
                    way.effort / pace(plan, way) if way.found else None,
                    reach,
                    grown.change if grown is not None else "",
                )
            )
            keys.append(entry.cells[0] if entry is not None else None)
        self.take(rows, keys)


class TowersTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Towers"), TOWERS, (112, 66, 68, 54, 68, 60, 66, 56))
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
                (
                    in_range(way.strokes.points, placed.centre, placed.tower),
                    effort_in_range(way, placed.centre, placed.tower) / pace(plan, way),
                )
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
                    sum(length for length, _seconds in lengths),
                    sum(seconds for _length, seconds in lengths),
                    *did,
                )
            )
            keys.append(placed.number)
        self.take(rows, keys)


class ReachTable(FiguresTable):
    """What each tower could do to one attacker of each kind that comes by each way."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("In range"), REACH, (112, 80, 96, 62, 72, 56, 74, 118))
        self._desk = desk
        self.picked.connect(lambda number: desk.session.select(number, reveal=True))

    def refresh(self) -> None:
        """As the plan is now."""
        plan = self._desk.session.plan
        found = reach_of_towers(plan)
        kinds = {
            number: plan.kinds[plan.register[number].kind].name
            for number in {r.tower for r in found}
        }
        self.take(
            [
                (
                    f"{structure_id(item.tower)} {kinds[item.tower]}",
                    phrase("{entry} {moves}", entry=item.entry, moves=phrase(item.moves.value)),
                    item.kind.name,
                    item.length,
                    item.seconds,
                    item.shots,
                    item.damage,
                    100 * item.damage / item.kind.health,
                )
                for item in found
            ],
            [item.tower for item in found],
        )


class NarrowPage(QWidget):
    """table : where the ways are narrow."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.words = muted()
        self.table = FiguresTable(tr("Narrow places"), NARROW, (110, 80, 96, 110))
        self.table.picked.connect(desk.session.reveal)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 0)
        column.addWidget(self.words)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        desk.narrow.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """As it is known now."""
        found, waves = self._desk.narrow.found, self._desk.session.plan.waves
        self.table.setVisible(bool(found))
        if not found:
            self.words.setText(
                tr(
                    "Switch on “Narrow places”: where few cells in a straight line across would close a way is listed here."
                )
                if found is None
                else tr("No way over the ground is narrow anywhere.")
            )
            return
        self.words.setText(tr("Where few cells in a straight line across would close a way."))
        names = {place.id: place.name for place in waves.entries}
        self.table.take(
            [
                (
                    f"{item.entry} {names.get(item.entry, '')}",
                    cell_text(item.at),
                    len(item.cells),
                    item.far,
                )
                for item in found
            ],
            [item.at for item in found],
        )


class WavesTable(FiguresTable):
    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Waves"), WAVES, (190, 84, 70, 76, 76, 70, 76))
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
            rows.append((wave.name or phrase("Wave {at}", at=at + 1), wave.begins, *did))
        self.take(rows, list(range(len(waves))))


class HeldPage(QWidget):
    """table : each wave alone, and all in order.  ask : a button."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.words = muted()
        self.ask = QPushButton(tr("Try it out"))
        self.ask.setToolTip(tr("Let each wave come alone, and all in order, over several seeds"))
        self.ask.clicked.connect(desk.holding.ask)
        self.table = FiguresTable(tr("Will it hold?"), HELD, (104, 60, 80, 52, 66, 62, 96, 84))
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
            self.words.setText(tr("Being tried …"))
            return
        if keeper.found is None:
            self.words.setText(
                tr(
                    "Will it hold? Each wave alone and all in order, over ten seeds; beside it the health that comes against the "
                    "damage that could be dealt."
                )
            )
            return
        whole = keeper.found[-1]
        self.words.setText(
            tr(
                "All in order: held in {held:.0%} of {runs}.",
                held=whole.held,
                runs=counted(whole.runs, "{n} run", "{n} runs"),
            )
        )
        rows: list[tuple[Value, ...]] = []
        for item in keeper.found:
            name = phrase("All in order") if item.wave is None else waves[item.wave].name
            strong = keeper.strong[item.wave] if item.wave is not None else None
            lost = waves[item.first_lost].name if item.first_lost is not None else ""
            rows.append(
                (
                    name or phrase("Wave {at}", at=(item.wave or 0) + 1),
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
        self.table = FiguresTable(tr("Best spots"), BEST, (120, 90, 108, 110))
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
                tr("Being worked out …")
                if keeper.working
                else tr(
                    "Take a tower or a maze piece in hand and switch on “Where it gains most”: the best spots are listed here."
                )
            )
            return
        kind = self._desk.session.plan.kinds[found.kind]
        what = tr("is in its range") if kind.tower is not None else tr("takes longer")
        words = tr(
            "{kind}: seconds that the first attacker of each way {what}", kind=kind.name, what=what
        )
        if kind.tower is not None:
            words += tr("; damage beyond what the towers there can deal, over all waves")
        self.words.setText(words + ".")
        cells = found.best(keeper.measure)
        best = found.at(cells[0], keeper.measure) if cells else 0.0
        rows = [
            (
                cell_text(cell),
                found.at(cell),
                found.at(cell, Measure.DAMAGE) if found.damage is not None else None,
                found.at(cell, keeper.measure) - best,
            )
            for cell in cells
        ]
        self.table.take(rows, cells)

    def _go(self, cell: Cell) -> None:
        self._desk.session.reveal.emit(cell)
