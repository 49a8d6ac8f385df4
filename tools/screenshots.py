"""Draws one picture of each main view from the demo plan, offscreen, by using the real window."""

from __future__ import annotations

import argparse
import os
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# Neither the user's settings nor an earlier run's may show in a picture.
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="woven-locus-pictures-")

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QWidget
from road_shapes import ShapesChart
from studio import Studio, charted, point, zoom_to

from woven_locus import kernel_cache
from woven_locus.core import edits
from woven_locus.core.edits.findings import accept
from woven_locus.core.edits.ground import Coat, paint_box
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import Rule, SnapSettings
from woven_locus.core.lines import Brush
from woven_locus.core.proof.finding import Part, Severity
from woven_locus.core.render import GroundOverlay
from woven_locus.core.routing import Over
from woven_locus.core.traffic.maps import Measure
from woven_locus.demo import NAMES
from woven_locus.files import plan_json
from woven_locus.ui.inout.compare_sheet import CompareSheet
from woven_locus.ui.inout.trial_sheet import TrialSheet
from woven_locus.ui.session.stages import GroundTool, Stage, WayTool, WhereShown
from woven_locus.ui.start import make_app
from woven_locus.ui.theme import Theme, use_faces
from woven_locus.ui.window import Window

DOCS = Path("docs/screenshots")


def survey(studio: Studio) -> QWidget:
    window = studio.window()
    session, study = window.session, window.tray.study
    zoom_to(window, Cell(10, 19), 24)
    session.set_snap(SnapSettings(Rule.CENTRE))
    window.tray.setCurrentWidget(study)
    charted(studio, study.chart)
    point(window, Cell(3, 21), 0.31, 0.62)
    return window


def ground(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    session = window.session
    session.set_stage(Stage.GROUND)
    if dark:
        session.choices.set_view(overlay=GroundOverlay.SLOPE, contours=True)
        session.choices.set_ground(tool=GroundTool.SCULPT, brush=Brush(7, round=True))
    else:
        session.choices.set_view(shade=True, contours=True)
        session.choices.set_ground(tool=GroundTool.PROFILE)
    session.choices.set_profile((Cell(5, 2), Cell(58, 34)))
    charted(studio, window.tray.charts.chart)
    point(window, Cell(27, 14))
    return window


def build_refused(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    window.session.set_stage(Stage.BUILD)
    window.session.arm("loom-hall")
    zoom_to(window, Cell(21, 21), 28)
    point(window, Cell(20, 20))
    return window


def build_where(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    session = window.session
    session.set_stage(Stage.BUILD)
    session.arm("fulling-mill")
    session.choices.set_build(where=WhereShown.TURN)
    point(window, Cell(40, 20) if not dark else Cell(30, 14))
    return window


def ways(studio: Studio, dark: bool = False) -> QWidget:
    window = studio.window(dark)
    session = window.session
    session.set_stage(Stage.WAYS)
    session.choices.set_way_tool(WayTool.ROUTE)
    window.desk.routes.ask(1, 10)
    session.select(7)
    zoom_to(window, Cell(34, 27), 24)
    point(window, Cell(31, 25))
    return window


def ways_explained(studio: Studio, dark: bool = False) -> QWidget:
    """A search over the ground with diagonals, by every heuristic; stopped on its way."""
    window = studio.window(dark)
    session = window.session
    session.set_stage(Stage.WAYS)
    session.choices.set_way_tool(WayTool.ROUTE)
    window.desk.routes.travel(Over.GROUND, 8, 1)
    window.desk.search.compare(window.desk.routes.ask(1, 10))
    window.desk.search.look_at(window.desk.search.compared[2])
    window.desk.search.set_step(window.desk.search.explained.steps * 3 // 4)
    point(window, Cell(24, 22))
    return window


def ran(studio: Studio, seconds: float, dark: bool = False) -> Window:
    """A window in which traffic has run for so long."""
    window = studio.window(dark)
    window.session.set_stage(Stage.TRAFFIC)
    keeper = window.desk.traffic
    keeper.step()
    assert keeper.timeline is not None
    keeper.timeline.advance(round(seconds / keeper.timeline.run.step))
    keeper.moved.emit()
    window.messages.hide()
    return window


def traffic(studio: Studio, dark: bool = False, near: bool = False) -> QWidget:
    """Market day: near a junction with a vehicle that waits, or the whole town."""
    window = ran(studio, 190, dark)
    session = window.session
    window.desk.routes.ask(1, 10)
    if near:
        zoom_to(window, Cell(18, 22), 44)
        window.desk.traffic.choose(session.plan.spec.centre(Cell(16, 19)), 500)
        point(window, Cell(18, 19))
    else:
        point(window, Cell(36, 27))
    window.messages.hide()
    return window


def lanes(studio: Studio) -> QWidget:
    window = studio.window()
    session = window.session
    session.set_stage(Stage.TRAFFIC)
    window.desk.routes.ask(1, 10)
    zoom_to(window, Cell(36, 27), 180)
    window.messages.hide()
    point(window, Cell(36, 27))
    return window


def signals(studio: Studio) -> QWidget:
    """The signals that the demo has, near, with what they cost."""
    window = ran(studio, 170)
    cell = window.session.plan.traffic.junctions[0].cell
    zoom_to(window, cell, 120)
    window.desk.traffic.choose_junction(cell)
    window.tray.traffic.show_view("Junctions")
    return window


def time_space(studio: Studio) -> QWidget:
    """A stretch of the market day in time and space, with the time lost over the map."""
    window = ran(studio, 260)
    window.session.choices.set_traffic(shown=Measure.LOST)
    window.desk.routes.ask(10, 5)
    tab = window.tray.traffic
    window.tray.setCurrentWidget(tab)
    tab.show_view("Time and space")
    studio.rest(lambda: window.desk.lanes.way is not None)
    window.desk.stretch.ask()
    studio.rest(lambda: not window.desk.stretch.working and tab.space.chart.plot is not None)
    point(window, Cell(18, 23))
    window.messages.hide()
    return window


def in_waves(studio: Studio, dark: bool = False) -> Window:
    window = studio.window(dark, "thornmoth-pass")
    window.session.set_stage(Stage.WAVES)
    window.sheet.show_whole()
    return window


def waves_ghost(studio: Studio) -> QWidget:
    """A maze piece in hand across a way: the way as it would be."""
    window = in_waves(studio)
    for row in (17, 18):
        window.session.attempt(edits.place, window.session.plan, "hurdle", Cell(22, row), 0, "")
    window.messages.hide()
    window.session.arm("long-hurdle")
    window.desk.building.turn(1)
    point(window, Cell(22, 15))
    return window


def waves_run(studio: Studio) -> QWidget:
    """The third wave, shot at, and what each tower did so far."""
    window = in_waves(studio, dark=True)
    keeper = window.desk.waves
    keeper.step()
    assert keeper.timeline is not None
    keeper.timeline.advance(30 * 103)
    for _ in range(60):
        keeper.step()
        if len(keeper.shots) > 1:
            break
    window.session.select(5)
    window.tray.waves.show_view("Towers")
    zoom_to(window, Cell(16, 11), 24)
    point(window, Cell(14, 12))
    return window


def proof(studio: Studio, dark: bool = False) -> Window:
    """Findings of the vale, one of them accepted."""
    window = studio.window(dark)
    session, keeper = window.session, window.desk.proof
    session.set_stage(Stage.PROOF)
    window.sheet.show_whole()
    studio.rest(lambda: keeper.current)
    (watch,) = [item for item in keeper.proof.findings if item.structure == 15]
    session.attempt(accept, session.plan, watch, "A watch on the ridge needs no road")
    keeper.set_filter(accepted=True)
    studio.rest(lambda: keeper.current)
    window.messages.hide()
    window.tray.findings.table.selectRow(1)
    point(window, Cell(16, 28))
    return window


def proof_dark(studio: Studio) -> Window:
    """Notes too, seen near."""
    window = proof(studio, dark=True)
    window.desk.proof.show_severity(Severity.NOTE, True)
    window.desk.proof.set_filter(part=Part.WAYS)
    window.tray.findings.table.selectRow(0)
    zoom_to(window, Cell(22, 25), 22)
    point(window, Cell(25, 30))
    return window


def compared(studio: Studio, dark: bool = False) -> QWidget:
    """A day's work since yesterday's plan; in the dark, yesterday's."""
    window = studio.window(dark)
    session, other = window.session, Path(tempfile.mkdtemp()) / "yesterday.plan.json"
    plan_json.save(session.plan, other)
    session.attempt(edits.place, session.plan, "spring-house", Cell(8, 18), 0, "2026-01-01")
    session.attempt(edits.lay_road, session.plan, [Cell(col, 30) for col in range(12, 20)])
    session.attempt(paint_box, session.plan, Box(8, 40, 13, 48), Coat("terrain", 2))
    compared = window.desk.compared
    compared.hold_against(other)
    studio.rest(lambda: compared.lines is not None)
    sheet = CompareSheet(session, compared, window.together.turn, window)
    in_window(window, sheet, (640, 330, 560, 360))
    sheet.list.setCurrentRow(1)
    compared.turn(dark)
    point(window, Cell(24, 31))
    return window


def in_window(window: Window, sheet: QDialog, place: tuple[int, int, int, int]) -> None:
    """A sheet in the same picture as what it is about."""
    sheet.setParent(window, Qt.WindowType.Widget)
    sheet.setAutoFillBackground(True)
    sheet.setGeometry(*place)
    sheet.show()
    window.messages.hide()


def trial(studio: Studio, dark: bool = False) -> QWidget:
    """Do the lanterns hold against more moths, and against tougher ones?"""
    window = studio.window(dark, NAMES[1])
    # The sheet shows where it lies: the same place in every picture.
    folder = Path(tempfile.gettempdir()) / "woven-locus-pictures"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    plan_json.save(window.session.plan, folder / "pass.plan.json")
    (folder / "moths.toml").write_text(
        'plan = "pass.plan.json"\nrun = "waves"\n'
        'note = ["outcome.held", "outcome.lives", "outcome.funds", "outcome.seconds"]\n'
        '[vary]\nattackers = [0.5, 0.75, 1]\nhealth = [0.4, 0.8]\nseed = "0..7"\n'
    )
    sheet = TrialSheet(window.desk, studio.theme, window.files, folder / "moths.toml", window)
    in_window(window, sheet, (180, 170, 960, 520))
    studio.rest(lambda: sheet.keeper.results is not None)
    sheet.run.click()
    studio.rest(lambda: not sheet.keeper.running)
    sheet.noted.setCurrentText("outcome.seconds")
    sheet.by.setCurrentText("attackers")
    sheet.charts.setCurrentIndex(int(dark))
    for chart in (sheet.spread.chart, sheet.lines.chart):
        charted(studio, chart)
    assert sheet.table is not None
    sheet.table.selectRow(20)
    sheet.table.picked.emit(20)
    return window


VIEWS: dict[str, Callable[[Studio], QWidget]] = {
    "survey": survey,
    "ground": ground,
    "build-refused": build_refused,
    "build-where": build_where,
    "ways-route": ways,
    "ways-explained": ways_explained,
    "traffic": traffic,
    "traffic-near-dark": lambda studio: traffic(studio, dark=True, near=True),
    "lanes": lanes,
    "signals": signals,
    "time-space": time_space,
    "waves-ghost": waves_ghost,
    "waves-run-dark": waves_run,
    "proof": proof,
    "proof-dark": proof_dark,
    "compare": compared,
    "compare-dark": lambda studio: compared(studio, dark=True),
    "trial": trial,
    "trial-dark": lambda studio: trial(studio, dark=True),
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=DOCS)
    parser.add_argument("views", nargs="*", help=f"some of {', '.join(VIEWS)}; all by default")
    chosen = parser.parse_args()
    chosen.out.mkdir(parents=True, exist_ok=True)
    # Minutes of traffic take a second then, and half a minute otherwise.
    kernel_cache.install()
    app = make_app([])
    # Named faces: the pictures are the same wherever they are made.
    use_faces("DejaVu Sans", "DejaVu Sans Mono", 10)
    studio = Studio(app, Theme(app))
    if not chosen.views and chosen.out == DOCS:
        # Beside the page that explains the numbering.
        ShapesChart().grab().save(str(chosen.out.parent / "road-shapes.png"))
    for name in chosen.views or VIEWS:
        widget = VIEWS[name](studio)
        studio.settle()
        window = widget if isinstance(widget, Window) else widget.parent()
        assert isinstance(window, Window)
        for _ in range(2):
            # What is counted asks for checks, and these are counted.
            window.thread_.count()
            studio.rest(lambda window=window: not window.session.jobs.running)
        path = chosen.out / f"{name}.png"
        if not widget.grab().save(str(path)):
            raise SystemExit(f"{path} cannot be written")
        print(path)
        window.session.document.history.mark_saved()
        window.close()


if __name__ == "__main__":
    main()
