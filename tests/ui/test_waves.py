"""Waves in the real window: places marked, a maze that may not seal, a tower on its best spot, a wave lost, mended, held."""

from collections.abc import Callable

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QComboBox

from tests.core.test_waves import BOLT, MOTH, POST, WALL, field
from tests.ui.conftest import SHIFT, Driver
from woven_locus.core.edits.waves import set_attackers, set_wave_list
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue
from woven_locus.core.placing import Reason
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Group, Moves, Wave
from woven_locus.core.waves.run import WaveRun
from woven_locus.document.starter import starter_terrain
from woven_locus.ui.bench.build.where_panel import NAMES
from woven_locus.ui.bench.waves.attackers_sheet import AttackersSheet
from woven_locus.ui.bench.waves.places_sheet import PlacesSheet
from woven_locus.ui.bench.waves.towers_sheet import TowersSheet
from woven_locus.ui.bench.waves.waves_sheet import WavesSheet
from woven_locus.ui.session.stages import WaveTool


def in_waves(make_window: Callable[..., Driver]) -> Driver:
    found = make_window(field(7, 16))
    found.key("F7")
    return found


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_waves(make_window)


def take(user: Driver, name: str) -> None:
    """A kind off the list on the bench."""
    kinds = user.window.bench.waves.shelf.kinds
    row = next(k for k in range(kinds.count()) if name in kinds.item(k).text())  # type: ignore[union-attr]
    kinds.itemClicked.emit(kinds.item(row))
    user.settle()


def test_a_stroke_held_by_key_ends_when_another_tool_or_kind_is_taken(user: Driver) -> None:
    history, tools = user.session.document.history, user.window.bench.waves.tool_buttons.buttons
    take(user, "Post")
    user.point((3, 1))
    user.sheet.setFocus()
    for other in (lambda: user.push(tools[WaveTool.ENTRY]), lambda: take(user, "Post")):
        user.key("Shift+Return")
        assert history.in_gesture
        other()
        # As Esc would: nothing stays, and all goes on.
        assert (history.in_gesture, len(user.plan.register)) == (False, 0)
        take(user, "Post")
        user.sheet.setFocus()
    user.key("Return")
    assert [row.cell for row in user.plan.register] == [Cell(3, 1)]
    user.key("Ctrl+Z")
    assert len(user.plan.register) == 0


def words(user: Driver) -> str:
    return user.window.reading.vehicle.text()


def test_entries_and_goals_are_marked_moved_and_cleared(make_window: Callable[..., Driver]) -> None:
    spec = GridSpec(12, 8, 1.0, 1.0, 0.0, 0.0)
    user = make_window(Plan("Bare", spec, starter_terrain(), Catalogue([POST, WALL])))
    user.key("F7")
    page = user.window.bench.waves
    assert page.about.text() == "Set an entry: take the tool and click a cell."
    user.push(page.clock.run)
    assert user.said == "No wave was begun: set an entry and a goal first"
    user.push(page.tool_buttons.buttons[WaveTool.ENTRY])
    user.drag((0, 2), (0, 4))
    (entry,) = user.plan.waves.entries
    assert entry.cells == (Cell(0, 2), Cell(0, 3), Cell(0, 4))
    user.key("Shift+G")
    user.click((11, 3))
    user.drag((11, 4), (11, 5), keys=SHIFT)
    (goal,) = user.plan.waves.goals
    assert goal.cells == (Cell(11, 3), Cell(11, 4), Cell(11, 5))
    (way,) = user.desk.wave_ways.ways
    assert way.found
    assert way.length == pytest.approx(11.0)
    # A stroke that is dropped marks nothing, nor does one beyond the edge.
    user.press((5, 5))
    user.to((6, 6))
    user.key(Qt.Key.Key_Escape)
    user.release((6, 6))
    assert len(user.plan.waves.goals) == 1
    user.push(page.tool_buttons.buttons[WaveTool.CLEAR])
    user.click((11, 4))
    assert user.plan.waves.goals[0].cells == (Cell(11, 3), Cell(11, 5))
    user.click((6, 6))
    assert user.said == "No entry or goal is there"
    user.key("Ctrl+Z")
    assert len(user.plan.waves.goals[0].cells) == 3
    assert page.about.text() == "1 entry, 1 goal; 0 waves of 0."


def test_a_maze_grows_the_way_before_letting_go_and_may_not_seal_it(user: Driver) -> None:
    take(user, "Post")
    for row in (1, 2, 4, 5):
        user.click((8, row))
    assert len(user.plan.register) == 4
    # In the middle row between them the way is longer; it is said before the button goes down.
    before = user.desk.wave_ways.ways[0].length
    user.point((8, 3))
    (grown,) = user.desk.wave_ways.growth
    assert grown.changed
    assert grown.longer > 0.5
    assert words(user) == grown.words == f"E1: {grown.change}"
    assert grown.seconds == pytest.approx(grown.longer / MOTH.speed)
    user.click((8, 3))
    assert user.desk.wave_ways.ways[0].length == pytest.approx(before + grown.longer)
    # The last gap may not be closed.
    user.click((8, 0))
    user.point((8, 6))
    assert words(user) == "E1: sealed"
    user.click((8, 6))
    assert "takes the last way from Hollow" in user.said
    assert len(user.plan.register) == 6
    user.key(Qt.Key.Key_Escape)
    assert words(user) == ""


def test_a_tower_on_its_best_spot_and_a_wave_lost_mended_held(user: Driver) -> None:
    session, waves = user.session, user.desk.waves
    session.attempt(set_attackers, user.plan, [MOTH])
    session.attempt(
        set_wave_list, user.plan, [Wave("Flight", 0.0, (Group("E1", "moth", 10, 0.5),))]
    )
    user.push(user.window.bench.waves.clock.run)
    assert waves.running
    user.key("Ctrl+R")
    assert not waves.running
    run = waves.run
    assert run is not None
    run.advance(30 * 14)
    waves.set_running(True)
    # By frames, each of which does a step at least, and not by the clock of a busy machine.
    for _ in range(3000):
        if not waves.running:
            break
        waves.advance(0.1)
    assert not waves.running
    assert run.lost
    assert user.said == "Lost in Flight: no life is left"
    # The best spot is listed, gone to, and built on.
    page = user.window.bench.waves
    take(user, "Post")
    user.tick(page.gains)
    user.idle()
    found = user.desk.gains.found
    assert found is not None
    user.window.tray.waves.show_view("Best spots")
    best = found.best()[0]
    assert user.window.tray.waves.best.table.figures.rows[0][0] == f"{best.col}, {best.row}"
    for cell in found.best()[:5]:
        user.click(cell)
    assert len(user.plan.register) >= 3
    user.key(Qt.Key.Key_Escape)
    user.idle()
    assert user.desk.gains.found is None
    user.push(page.clock.clear)
    waves.step()
    assert waves.run is not None
    waves.run.advance(30 * 60)
    waves.step()
    assert waves.run.held
    assert waves.run.digest() == _again(user).digest()
    tab = user.window.tray.waves
    tab.show_view("Towers")
    user.settle()
    assert sum(int(row[3] or 0) for row in tab.towers.figures.rows) > 0  # type: ignore[call-overload]
    tab.show_view("Waves")
    assert tab.waves.figures.rows[0][2:5] == (10, 10, 0)


def _again(user: Driver) -> WaveRun:
    run = WaveRun(user.plan)
    assert user.desk.waves.run is not None
    run.advance(user.desk.waves.run.steps)
    return run


def test_an_attacker_is_clicked_and_building_leads_it_another_way(user: Driver) -> None:
    waves = user.desk.waves
    waves.step()
    assert waves.run is not None
    waves.run.advance(30 * 4)
    waves.moved.emit()
    x, y = waves.run.points(np.array([0]))[0].tolist()
    user.click(user.plan.spec.locate_virtual(x, y))
    assert waves.chosen == 1
    assert "A1 Moth" in words(user)
    assert "shot at   by nobody" in words(user)
    user.sheet.zoom(3)
    user.sheet.camera.centre_at(Point(x, y))
    assert user.colour_at(user.plan.spec.locate_virtual(x, y)) == (0xA5, 0x38, 0x3F)
    # A wall goes up before it while it walks.
    before = waves.run.way_left(0)
    ahead = user.plan.spec.locate_virtual(x, y).moved(2, 0)
    user.sheet.show_whole()
    take(user, "Post")
    user.click(ahead)
    assert len(user.plan.register) == 1
    assert waves.run.way_left(0) > before + 0.2
    assert waves.run.towers[0].number == 1
    # Undone, it goes straight on; another wave list ends the run, and says so.
    user.key(Qt.Key.Key_Escape)
    user.key("Ctrl+Z")
    assert waves.run.towers == ()
    user.session.attempt(set_wave_list, user.plan, [])
    assert waves.run is None
    assert "taken off the map" in user.said


def test_whether_it_holds_is_asked_in_a_worker_and_void_after_an_edit(user: Driver) -> None:
    tab = user.window.tray.waves
    tab.show_view("Will it hold?")
    user.push(tab.held.ask)
    user.idle()
    found = user.desk.holding.found
    assert found is not None
    assert [item.wave for item in found] == [0, None]
    assert tab.held.table.figures.rows[1][0] == "All in order"
    assert found[-1].held == 1.0
    user.push(tab.held.ask)
    user.session.attempt(set_attackers, user.plan, [MOTH, *[]])
    take(user, "Post")
    user.click((8, 5))
    user.idle()
    assert user.desk.holding.found is None
    assert not user.desk.holding.working


def test_kinds_waves_and_places_are_made_in_sheets(user: Driver) -> None:
    page = user.window.bench.waves
    user.push(page.attackers)
    sheet = user.sheet_of(AttackersSheet)
    user.push(sheet.add)
    assert len({kind.dye for kind in user.plan.waves.attackers}) == 2
    speed = sheet.table.cellWidget(1, 2)
    assert speed is not None
    user.type(speed, "3.5")
    over = sheet.table.cellWidget(1, 7)
    assert isinstance(over, QComboBox)
    over.activated.emit(2)
    made = user.plan.waves.attackers[1]
    assert (made.speed, made.moves) == (3.5, Moves.AIR)
    sheet.table.selectRow(0)
    user.push(sheet.remove)
    assert sheet.problem.text() == "Moth cannot be removed: 1 group sends it"
    user.push(sheet.shut)
    user.push(page.waves)
    waves = user.sheet_of(WavesSheet)
    user.push(waves.add)
    user.push(waves.group)
    assert [len(wave.groups) for wave in user.plan.waves.waves] == [1, 2]
    count = waves.table.cellWidget(2, 4)
    assert count is not None
    user.type(count, "7")
    assert user.plan.waves.waves[1].groups[1].count == 7
    waves.table.selectRow(2)
    user.push(waves.remove)
    waves.table.selectRow(1)
    user.push(waves.remove)
    assert len(user.plan.waves.waves) == 1
    user.push(waves.shut)
    user.push(page.places)
    places = user.sheet_of(PlacesSheet)
    name = places.table.cellWidget(0, 1)
    assert name is not None
    user.type(name, "North gate")
    assert user.plan.waves.entries[0].name == "North gate"
    user.type(places.lives, "3")
    assert user.plan.waves.lives == 3
    user.push(places.shut)
    user.push(page.towers)
    towers = user.sheet_of(TowersSheet)
    on = towers.table.cellWidget(1, 1)
    assert isinstance(on, QCheckBox)
    user.tick(on)
    assert user.plan.kinds["wall"].tower is not None
    reach = towers.table.cellWidget(0, 3)
    assert reach is not None
    user.type(reach, "0")
    assert "range must be more than its least" in towers.problem.text()
    assert user.plan.kinds["post"].tower == BOLT
    user.push(towers.shut)


def test_the_second_demo_opens_with_all_that_belongs_to_it(
    make_window: Callable[..., Driver],
) -> None:
    from woven_locus.demo import open_demo

    user = make_window(open_demo("thornmoth"))
    user.key("F7")
    assert len(user.desk.wave_ways.ways) == 5
    assert all(way.found for way in user.desk.wave_ways.ways)
    assert user.window.thread_.buttons[user.session.choices.stage].count == 0


def test_a_maze_piece_and_the_least_cut_are_shown_and_listed(user: Driver) -> None:
    page = user.window.bench.waves
    user.tick(page.cuts)
    user.idle()
    assert page.cut_words.text() == "E1 over ground: 3 cells"
    (cut,) = user.desk.cuts.found or ()
    assert user.plan.waves.cells().isdisjoint(cut.cells)
    take(user, "Wall")
    user.tick(page.gains)
    user.idle()
    found = user.desk.gains.found
    assert found is not None
    tab = user.window.tray.waves
    tab.show_view("Best spots")
    assert len(tab.best.table.figures.rows) == len(found.best()) > 0
    # Where the way is narrow is listed, and gone to.
    user.tick(page.narrow)
    user.idle()
    narrow = user.desk.narrow.found
    assert narrow is not None
    tab.show_view("Narrow places")
    user.settle()
    assert [row[2] for row in tab.narrow.table.figures.rows] == [len(item.cells) for item in narrow]
    user.tick(page.narrow)
    assert user.desk.narrow.found is None
    # What makes no way longer is drawn without harm.
    user.sheet.grab()
    user.key(Qt.Key.Key_Escape)
    user.tick(page.cuts)
    assert user.desk.cuts.found is None


def test_every_reason_has_a_name_where_it_is_listed() -> None:
    assert set(NAMES) == set(Reason)
