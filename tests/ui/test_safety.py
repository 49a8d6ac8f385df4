"""Where parts meet: nothing is lost, nothing is stale, nothing kills, in the real window."""

import html
import threading
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QTextDocument
from PyQt6.QtWidgets import QAbstractItemView, QComboBox, QLabel, QWidget
from pytestqt.exceptions import capture_exceptions

from tests.helpers import patience
from tests.helpers.builders import draw, put
from tests.helpers.state import recorded
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.edits import kinds, money, terrain_classes
from woven_locus.core.geometry import Cell
from woven_locus.core.ways.roads import Sign
from woven_locus.document import Document
from woven_locus.document import saving as saving_module
from woven_locus.files import plan_json
from woven_locus.ui.parts import drawing
from woven_locus.ui.session.stages import Stage, SurveyTool, WayTool

Make = Callable[..., Driver]


class Held:
    """Writing a file waits until it is let go."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.reached, self.go = threading.Event(), threading.Event()
        real = plan_json.write

        def write(data: bytes, path: Path, expected: str | None = None) -> str:
            self.reached.set()
            assert self.go.wait(patience.SECONDS)
            return real(data, path, expected)

        monkeypatch.setattr(saving_module.plan_json, "write", write)


def saved_at(user: Driver, path: Path) -> None:
    user.window.files.choose_save = lambda: str(path)
    user.window.files.save_as()
    user.idle()


# --- painting ------------------------------------------------------------------------------------


def test_a_closed_sign_is_drawn_while_it_is_dragged(make_window: Make) -> None:
    user = make_window("......\n======\n......")
    user.key("F5")
    user.push(user.window.bench.ways.tools[WayTool.SIGN])
    user.session.choices.set_ways(sign=Sign.CLOSED)
    user.press((1, 1))
    user.to((4, 1))
    before = user.colour_at((2, 1), 5, 5)
    user.window.resize(1100, 760)
    user.settle()
    assert (
        user.colour_at((2, 1), 5, 5) == before == (0xA5, 0x38, 0x3F)
    )  # an arm of the cross-stitch
    user.release((4, 1))
    assert [int(n) >> 5 for n in user.plan.road[1, 1:5]] == [int(Sign.CLOSED)] * 4


def test_an_error_in_painting_is_told_once_and_the_rest_is_drawn(
    vale: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    drawing.forget_told()

    def broken(_canvas: object) -> None:
        raise ZeroDivisionError("a bug in an overlay")

    monkeypatch.setattr("woven_locus.ui.sheet.overlays.routes.draw", broken)
    with capture_exceptions() as caught:
        for _ in range(3):
            vale.sheet.repaint()
            vale.settle()
        vale.window.resize(1100, 700)
        vale.settle()
    assert [kind for kind, _error, _trace in caught] == [ZeroDivisionError]
    assert "left out" in caught[0][1].__notes__[0]
    # The ghost, which is drawn after it, is there.
    vale.key("F4")
    plain = vale.colour_at((39, 20))
    vale.session.arm("loom-hall")
    vale.point((40, 20))
    assert vale.colour_at((39, 20)) != plain
    monkeypatch.undo()
    drawing.forget_told()


# --- what a plan says ------------------------------------------------------------------------------

HOSTILE = "<img src='/dev/zero'><b>&amp; x"


def plain(widget: QLabel) -> bool:
    rich = widget.textFormat() is not Qt.TextFormat.PlainText
    return not rich or "<" not in widget.text()


def tip_says(text: str) -> str:
    """What a tooltip shows."""
    if "<" not in text:
        return text
    document = QTextDocument()
    document.setHtml(text)
    return document.toPlainText()


def test_text_from_a_plan_is_plain_everywhere(make_window: Make, tmp_path: Path) -> None:
    plan = draw(".....\n=====\n.o...")
    plan.name = plan.money = HOSTILE
    hut = plan.kinds["hut"]
    from woven_locus.core.value import replace

    plan.kinds = plan.kinds.with_kind(replace(hut, name=HOSTILE))
    plan.obstacles[1] = replace(plan.obstacles[1], name=HOSTILE)
    plan.spec = replace(plan.spec, unit=HOSTILE)
    put(plan, "hut", 0, 0)
    put(plan, "hut", 4, 2)
    user = make_window(plan)
    session, window = user.session, user.window
    window.ask_bar.ask(f"“{HOSTILE}” was not closed", lambda _word: None)
    session.say(HOSTILE, "no")
    user.desk.routes.ask(1, 2)
    session.arm("hut")
    user.point((1, 2))
    seen = 0
    for stage in Stage:
        session.set_stage(stage)
        session.select(1)
        for tab in range(window.tray.count()):
            window.tray.setCurrentIndex(tab)
            user.settle()
            for widget in window.findChildren(QWidget):
                if isinstance(widget, QLabel):
                    assert plain(widget), widget.text()
                    seen += HOSTILE in widget.text()
                tip = widget.toolTip()
                if "img" in tip:
                    assert tip_says(tip).count("<img") == html.unescape(tip).count("<img")
                    assert "\ufffc" not in tip_says(tip)  # no picture came of it
                if isinstance(widget, QAbstractItemView) and widget.model() is not None:
                    model = widget.model()
                    for row in range(model.rowCount()):  # type: ignore[union-attr]
                        for column in range(12):
                            cell = model.index(row, column)  # type: ignore[union-attr]
                            said = cell.data(Qt.ItemDataRole.ToolTipRole)
                            assert said is None or "\ufffc" not in tip_says(str(said))
                if isinstance(widget, QComboBox):
                    assert "\ufffc" not in tip_says(widget.toolTip())
    assert seen > 3


# --- what is in hand --------------------------------------------------------------------------------


def test_undoing_the_kind_in_hand_puts_it_down(vale: Driver) -> None:
    vale.key("F4")
    session = vale.session
    session.attempt(kinds.copy_kind, vale.plan, "loom-hall")
    session.arm("loom-hall-2")
    vale.point((20, 20))
    vale.key("Q")
    heard: list[str] = []
    session.document.listen(lambda notice: heard.append(notice.label))
    vale.key("Ctrl+Z")
    assert session.hand.empty
    assert heard  # whoever listens later heard of it, too
    vale.click((30, 8))
    vale.key("Ctrl+Shift+Z")
    assert "loom-hall-2" in vale.plan.kinds


@pytest.mark.parametrize("tool", ["actor", "line", "kind"])
def test_undoing_a_class_with_a_tool_in_hand_keeps_what_can_be_redone(
    vale: Driver, tool: str
) -> None:
    session, history = vale.session, vale.session.document.history
    item = vale.plan.terrain_table[0]
    from woven_locus.core.value import replace

    changed = [replace(item, cost=3.0), *list(vale.plan.terrain_table)[1:]]
    session.attempt(terrain_classes.change_class, vale.plan, 0, changed[0])
    if tool == "actor":
        vale.key("A")
        vale.click((20, 20))
        history.undo()  # where it stands; then the class
    elif tool == "line":
        vale.key("F5")
        vale.push(vale.window.bench.ways.tools[WayTool.ROAD])
        vale.press((20, 8))
        vale.to((24, 8))
    else:
        vale.key("F4")
        session.arm("loom-hall")
    steps = list(history.entries)
    assert history.undo()
    assert history.entries == steps
    assert history.can_redo


def test_the_actor_stays_when_its_tool_is_left(vale: Driver) -> None:
    vale.key("A")
    vale.click((20, 20))
    at = vale.plan.actor
    assert at is not None
    for keys in ("F4", "F3", "F5", "F2"):
        vale.key(keys)
        assert vale.plan.actor == at
    vale.session.choices.set_survey(tool=SurveyTool.SELECT)
    vale.key("Esc")
    assert vale.plan.actor == at
    assert (
        vale.session.document.history.entries == ["Put the actor at 492, 492"]
        or len(vale.session.document.history.entries) == 1
    )


def test_a_reach_is_judged_from_the_actor_that_stands_in_the_plan(make_window: Make) -> None:
    from woven_locus.core.value import replace

    plan = draw("........\n........\n........")
    hut = plan.kinds["hut"]
    near = replace(hut, demands=replace(hut.demands, reach=2.5))
    plan.kinds = plan.kinds.with_kind(near)
    user = make_window(plan)
    user.key("A")
    user.click((1, 1))
    user.key("F4")
    assert user.plan.actor is not None
    user.session.arm("hut")
    user.point((2, 1))
    assert user.session.hand.ghost is not None
    assert user.session.hand.ghost.verdict
    user.point((7, 1))
    assert [str(r) for r in user.session.hand.ghost.verdict.reasons] == ["reach"]


# --- saving -----------------------------------------------------------------------------------------


@pytest.mark.usefixtures("large")
@pytest.mark.parametrize("what", ["road", "clock", "price"])
def test_what_is_done_while_it_saves_is_not_called_saved(
    make_window: Make, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, what: str
) -> None:
    from woven_locus.core.value import replace

    user = make_window("....\n....")
    plan, session = user.plan, user.session
    session.attempt(money.set_funds, plan, 100, 50)
    path = tmp_path / "a.plan.json"
    held = Held(monkeypatch)
    user.window.files.choose_save = lambda: str(path)
    user.window.files.save_as()
    assert held.reached.wait(patience.SECONDS)
    if what == "road":
        session.attempt(edits.lay_road, plan, [Cell(1, 1)])
    elif what == "clock":
        session.attempt(money.advance, plan, 5)
    else:
        hut = plan.kinds["hut"]
        session.attempt(kinds.change_kind, plan, "hut", replace(hut, price=77))
    user.window.status.stop.click()  # Stop has no say over a file that is being written
    held.go.set()
    user.idle()
    assert not session.document.history.saved
    assert user.window.isWindowModified()
    assert "not in it yet" in user.said
    assert recorded(Document.open(path).plan) != recorded(plan)
    user.key("Ctrl+S")
    user.idle()
    assert session.document.history.saved
    assert recorded(Document.open(path).plan) == recorded(plan)


@pytest.mark.usefixtures("large")
def test_closing_waits_for_the_file_and_asks_again_about_what_came_after(
    make_window: Make, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    user = make_window("....\n....")
    path = tmp_path / "a.plan.json"
    saved_at(user, path)
    user.session.attempt(edits.lay_road, user.plan, [Cell(0, 0)])
    held = Held(monkeypatch)
    user.window.close()
    bar = user.window.ask_bar
    assert bar.isVisible()
    user.push(bar.save)
    assert held.reached.wait(patience.SECONDS)
    for col in (1, 2, 3):
        user.session.attempt(edits.lay_road, user.plan, [Cell(col, 0)])
    user.window.close()  # once more, while it is being written
    assert user.window.isVisible()
    held.go.set()
    user.idle()
    assert user.window.isVisible()
    assert bar.isVisible()
    assert Document.open(path).plan.road[0].tolist() == [1, 0, 0, 0]
    user.push(bar.save)
    user.qtbot.waitUntil(lambda: not user.window.isVisible())
    assert Document.open(path).plan.road[0].tolist() == [1, 1, 1, 1]


def test_a_file_that_another_program_wrote_is_not_written_over_unasked(
    make_window: Make, tmp_path: Path
) -> None:
    user = make_window("....")
    path = tmp_path / "a.plan.json"
    saved_at(user, path)
    Document(draw("ssss")).save(path)
    user.session.attempt(edits.lay_road, user.plan, [Cell(1, 0)])
    user.key("Ctrl+S")
    bar = user.window.ask_bar
    assert bar.isVisible()
    assert "another program" in bar.label.text()
    assert Document.open(path).plan.terrain.all()
    user.push(bar.keep)
    assert not user.session.document.history.saved
    user.key("Ctrl+S")
    other = tmp_path / "other.plan.json"
    user.window.files.choose_save = lambda: str(other)
    user.push(bar.discard)  # under another name
    assert Document.open(other).plan.road[0].tolist() == [0, 1, 0, 0]
    assert Document.open(path).plan.terrain.all()
    # Two windows on one file.
    twin = make_window(Document.open(other).plan)
    twin.session.document.path, twin.session.document.digest = other, user.session.document.digest
    twin.session.attempt(edits.lay_road, twin.plan, [Cell(3, 0)])
    twin.window.files.save()
    assert twin.session.document.history.saved
    user.session.attempt(edits.lay_road, user.plan, [Cell(0, 0)])
    user.window.files.save()
    assert bar.isVisible()
    user.push(bar.save)  # over it
    assert Document.open(other).plan.road[0].tolist() == [1, 1, 0, 0]


def test_a_read_only_file_is_left_alone(make_window: Make, tmp_path: Path) -> None:
    user = make_window("....")
    path = tmp_path / "a.plan.json"
    saved_at(user, path)
    path.chmod(0o444)
    before = path.read_bytes()
    user.session.attempt(edits.lay_road, user.plan, [Cell(1, 0)])
    user.key("Ctrl+S")
    assert "read-only" in user.said
    assert path.read_bytes() == before
    assert not user.session.document.history.saved


@pytest.mark.parametrize("over", [True, False])
def test_a_name_that_got_its_ending_later_is_asked_about(
    make_window: Make, tmp_path: Path, over: bool
) -> None:
    user = make_window("....")
    there = tmp_path / "mine.plan.json"
    Document(draw("ssss")).save(there)
    before = there.read_bytes()
    user.window.files.choose_save = lambda: str(tmp_path / "mine")
    user.window.files.save_as()
    bar = user.window.ask_bar
    assert "is there already" in bar.label.text()
    user.push(bar.save if over else bar.keep)
    assert (there.read_bytes() != before) is over
    out = tmp_path / "list.csv"
    out.write_text("keep me")
    user.window.exchange.choose_out = lambda _title, _start: str(tmp_path / "list")
    user.window.exchange.take_out("register-csv")
    user.idle()
    assert "is there already" in bar.label.text()
    assert user.window.focusWidget() is bar.discard  # Enter writes over nothing
    assert out.read_text() == "keep me"
    user.push(bar.save)
    user.idle()
    assert out.read_text().startswith("number,")


def test_a_dialog_is_never_filled_with_a_path_out_of_a_name(make_window: Make) -> None:
    plan = draw("....")
    plan.name = "../../etc/.passwd"
    user = make_window(plan)
    starts: list[str] = []
    user.window.exchange.choose_out = lambda _title, start: starts.append(start) or ""
    user.window.exchange.take_out("register-csv")
    assert "/" not in starts[0]
    assert not starts[0].startswith(".")
