"""Parts of the window on their own: jobs, tiles, routes worked out elsewhere, marks, the theme."""

import threading
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import QLocale, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.exceptions import capture_exceptions
from pytestqt.qtbot import QtBot

from tests.helpers import patience
from tests.helpers.builders import draw, put
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.render import DARK, LIGHT, Palette
from woven_locus.core.routing import Manner, NoRoute, Route
from woven_locus.ui.answers import routes as route_keeper
from woven_locus.ui.bars import left_words
from woven_locus.ui.jobs.pool import Control, Job, Jobs
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.number_boxes import NumberBox, WholeBox
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import marks

# --- jobs ------------------------------------------------------------------------------------


def test_a_job_works_elsewhere_and_answers_here(qtbot: QtBot) -> None:
    jobs, got = Jobs(), []
    here = threading.get_ident()
    jobs.start(
        "count",
        lambda _stopped: threading.get_ident(),
        lambda there: got.append((there, threading.get_ident())),
    )
    qtbot.waitUntil(lambda: bool(got) and not jobs.running)
    assert got[0][0] != here
    assert got[0][1] == here


def test_nothing_is_begun_once_the_window_has_closed(qtbot: QtBot) -> None:
    jobs, got = Jobs(), []
    assert jobs.shut(1000)
    job = jobs.start("late", lambda _stopped: got.append("ran"), got.append)
    assert job.stopped
    assert not jobs.running
    assert jobs.wait(patience.MSEC)
    assert got == []


def test_a_stopped_job_is_told_and_its_answer_dropped(qtbot: QtBot) -> None:
    jobs, got, seen = Jobs(), [], threading.Event()

    def work(stopped: Callable[[], bool]) -> str:
        while not stopped():
            pass
        seen.set()
        return "late"

    jobs.start("wait", work, got.append)
    jobs.stop_all()
    qtbot.waitUntil(lambda: not jobs.running)
    assert seen.is_set()
    assert got == []


def test_a_failed_job_hands_over_its_error(qtbot: QtBot) -> None:
    jobs, errors = Jobs(), []

    def work(_stopped: Callable[[], bool]) -> None:
        raise Refused("no such thing")

    jobs.start("fail", work, lambda _answer: None, errors.append)
    qtbot.waitUntil(lambda: bool(errors) and not jobs.running)
    assert str(errors[0]) == "no such thing"


def test_a_bug_in_a_job_is_told_and_its_asker_does_not_wait_for_ever(qtbot: QtBot) -> None:
    jobs, ended = Jobs(), []

    def work(_stopped: Callable[[], bool]) -> None:
        raise ZeroDivisionError("a bug")

    with capture_exceptions() as caught:
        jobs.start("bug", work, lambda _answer: None, stopped=lambda: ended.append(True))
        qtbot.waitUntil(lambda: not jobs.running)
    assert [kind for kind, _error, _trace in caught] == [ZeroDivisionError]
    assert ended == [True]


def test_stop_ends_questions_and_lets_acts_go_on_to_their_end(qtbot: QtBot) -> None:
    jobs, go, told = Jobs(), threading.Event(), []

    def work(_control: object) -> str:
        go.wait(patience.SECONDS)
        return "written"

    jobs.start("ask", work, told.append, stopped=lambda: told.append("stopped"))
    jobs.act("write", work, told.append, lambda error: told.append(str(error)))
    assert [job.label for job in jobs.acting] == ["write"]
    jobs.after_acting(lambda: told.append("afterwards"))
    jobs.stop_all()
    go.set()
    qtbot.waitUntil(lambda: not jobs.running)
    assert sorted(told) == ["afterwards", "stopped", "written"]


# --- tiles -----------------------------------------------------------------------------------


# --- marks -----------------------------------------------------------------------------------


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_the_three_marks_differ_in_shape_when_all_colour_is_gone(
    qtbot: QtBot, palette: Palette
) -> None:
    looks = []
    for mark in (marks.free, marks.blocked, marks.doubtful):
        image = QImage(24, 24, QImage.Format.Format_Grayscale8)
        image.fill(QColor(palette.ground("#A9B07A").astype(int)[0], 0, 0))
        painter = QPainter(image)
        mark(painter, palette, QRectF(0, 0, 24, 24))
        painter.end()
        bits = image.constBits()
        assert bits is not None
        grey = np.frombuffer(bits.asarray(image.sizeInBytes()), np.uint8).reshape(24, -1)[:, :24]
        # Only where lightness changes, whatever it is: the shape.
        looks.append(np.abs(np.diff(grey.astype(int), axis=1)) > 20)
    for k, one in enumerate(looks):
        assert one.any()
        for two in looks[k + 1 :]:
            assert (one != two).mean() > 0.05


# --- routes worked out in a job --------------------------------------------------------------


def test_an_answer_for_an_older_plan_is_dropped(
    make_window: Callable[..., Driver], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(route_keeper, "AT_ONCE", 0)
    plan = draw("......\n=====.\n......", cell=(24, 24))
    put(plan, "hut", 0, 0)
    put(plan, "hut", 4, 0)
    user = make_window(plan)
    user.desk.routes.manner = Manner(moves=8)  # what the junction graph cannot answer at once
    pin = user.desk.routes.ask(1, 2)
    assert pin is not None
    # Before the first answer can come in, the road is cut.
    user.session.attempt(edits.erase_road, plan, [Cell(2, 1)])
    user.qtbot.waitUntil(lambda: not user.session.jobs.running)
    user.settle()
    assert not isinstance(pin.answer, Route)
    assert pin.answer is not None
    user.session.attempt(edits.lay_road, plan, [Cell(2, 1)])
    user.qtbot.waitUntil(lambda: isinstance(pin.answer, Route))
    assert not pin.stale


def test_of_two_answers_the_newer_question_wins_whichever_comes_last(
    make_window: Callable[..., Driver], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(route_keeper, "AT_ONCE", 0)
    plan = draw("......\n=====.\n......", cell=(24, 24))
    put(plan, "hut", 0, 0)
    put(plan, "hut", 4, 0)
    user = make_window(plan)
    waiting: list[tuple[Job, Callable[..., object], Callable[[object], None]]] = []

    begin = user.session.jobs.start

    def start(label: str, work: Callable, done: Callable, *more: Any, **named: Any) -> Job:  # type: ignore[type-arg]
        if not label.startswith("Routing"):
            # What else is worked out beside the plan goes its way.
            return begin(label, work, done, *more, **named)
        job = Job(label, work)
        waiting.append((job, work, done))
        return job

    monkeypatch.setattr(user.session.jobs, "start", start)
    user.desk.routes.manner = Manner(moves=8)
    pin = user.desk.routes.ask(1, 2)
    assert pin is not None
    user.session.attempt(edits.erase_road, plan, [Cell(2, 1)])
    (old, old_work, _old_done), (new, new_work, new_done) = waiting
    assert (old.stopped, new.stopped) == (True, False)  # what is stopped answers nothing
    assert old_work(lambda: False)
    new_done(new_work(lambda: False))
    assert isinstance(pin.answer, NoRoute)


# --- looks of the plan that hang together ----------------------------------------------------


def test_cells_that_are_not_square_are_drawn_in_their_shape(
    make_window: Callable[..., Driver],
) -> None:
    user = make_window(draw("....\n....\n....\n....", cell=(30, 10)))
    camera = user.sheet.camera
    assert camera.ppc_x == pytest.approx(3 * camera.ppc_y, rel=0.05)
    user.key("F4")
    user.push(user.window.bench.build.buttons["hut"])
    user.click((2, 3))
    assert user.plan.register[1].cell == (2, 3)


def test_the_cut_off_are_marked_in_ways_only(make_window: Callable[..., Driver]) -> None:
    plan = draw("....\n....\n....\n....", cell=(24, 24))
    put(plan, "hut", 1, 2)
    user = make_window(plan)
    corner = round(user.sheet.camera.ppc_x / 2)
    before = user.colour_at((1, 2), corner, -corner)
    user.key("F5")
    user.session.pointer.to(None)
    assert user.colour_at((1, 2), corner, -corner) != before


def test_stages_count_what_is_open(make_window: Callable[..., Driver]) -> None:
    plan = draw("....\n....\n....\n....", cell=(24, 24))
    for col in range(4):
        put(plan, "hut", col, 0)
    user = make_window(plan)
    button = user.window.thread_.buttons[Stage.WAYS]
    user.qtbot.waitUntil(lambda: button.count == 4)
    user.qtbot.waitUntil(lambda: button.width() >= button.sizeHint().width())
    assert button.toolTip() == "Ways (F5): 4 findings"


def test_the_register_sorts_by_what_a_column_means(make_window: Callable[..., Driver]) -> None:
    plan = draw("\n".join(["." * 12] * 12), cell=(24, 24))
    for kind, col, row in (("barn", 1, 9), ("hut", 11, 2), ("ell", 2, 2), ("hut", 9, 9)):
        put(plan, kind, col, row)
    user = make_window(plan)
    table = user.window.tray.register

    def order() -> list[str]:
        return [table.model().index(row, 0).data() for row in range(4)]

    table.sortByColumn(6, Qt.SortOrder.DescendingOrder)
    assert order() == ["S3", "S1", "S2", "S4"]
    table.sortByColumn(2, Qt.SortOrder.AscendingOrder)
    assert order() == ["S3", "S2", "S1", "S4"]
    user.session.attempt(edits.demolish, plan, [2])
    user.session.attempt(edits.place, plan, "hut", Cell(0, 0), 0, "")
    assert order() == ["S5", "S3", "S1", "S4"]
    user.session.document.history.undo()
    user.session.document.history.undo()
    assert order() == ["S3", "S2", "S1", "S4"]


@pytest.mark.parametrize("name", ["de_DE", "ar_EG", "C", "hi_IN"])
def test_numbers_look_the_same_in_every_language(qtbot: QtBot, name: str) -> None:
    before = QLocale()
    QLocale.setDefault(QLocale(name))
    try:
        box, whole = NumberBox(1_234_567.25, -1e9, 1e9), WholeBox(7_654_321, 0, 10**9)
        qtbot.addWidget(box)
        qtbot.addWidget(whole)
        assert (box.text(), whole.text()) == ("1234567.25", "7654321")
        # Both marks are read, and what is shown goes in again.
        for typed, value in (("2.5", 2.5), ("2,5", 2.5), ("1234567.25", 1_234_567.25)):
            box.clear()
            qtbot.keyClicks(box, typed)
            assert box.value() == value
        box.setValue(-0.00001)
        assert box.text() == "0"
    finally:
        QLocale.setDefault(before)


def test_long_work_says_how_far_it_is_and_how_long_it_goes_on(vale: Driver) -> None:
    """And ends within 200 ms of Stop, when it asks as often as it should."""
    vale.idle()
    status, go_on = vale.window.status, threading.Event()

    def work(control: Control) -> None:
        control.tell(0.5)
        while not control():
            go_on.wait(0.02)

    job = vale.session.jobs.start("Counting the threads", work, lambda _nothing: None)
    job._began -= 30.0  # it has taken half a minute so far
    vale.qtbot.waitUntil(lambda: status.progress.value() == 50)
    assert status.progress.maximum() == 100
    vale.qtbot.waitUntil(lambda: "about 30 s left" in status.work.text())
    assert status.work.text().startswith("Counting the threads, ")
    vale.push(status.stop)
    vale.qtbot.waitUntil(lambda: not vale.session.jobs.running)
    assert not status.progress.isVisible()
    assert left_words(1.0) == "a moment left"
    assert left_words(14.2) == "about 14 s left"
    assert left_words(200.0) == "about 3 min left"


def test_of_the_picture_that_makes_a_part_an_image_nothing_shows(qtbot: QtBot) -> None:
    part = Drawn()
    qtbot.addWidget(part)
    part.resize(40, 30)
    image = part.grab().toImage()
    assert len({image.pixel(x, y) for x in range(40) for y in range(30)}) == 1
    assert not part.sizeHint().isValid()
