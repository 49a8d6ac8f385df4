"""Proof in the real window: a finding followed, mended, accepted with a reason; checked anew as the plan changes."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.helpers.builders import draw, paint, put, three_huts
from tests.ui.conftest import Driver
from woven_locus.core import edits
from woven_locus.core.accepted import Accepted
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.proof import table
from woven_locus.core.proof.finding import Finding, Part, Severity
from woven_locus.core.proof.table import prove
from woven_locus.core.render import DARK, LIGHT
from woven_locus.core.vehicles import Trip
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.ui.answers.proof import ProofKeeper
from woven_locus.ui.bench.proof.page import ProofPage
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import colour
from woven_locus.ui.tray import findings_model
from woven_locus.ui.tray.findings_tab import FindingsTab

Make = Callable[..., Driver]

TOWN = """
.............
.............
=====.=======
.............
.......k.....
......k.k....
.......k.....
"""


@pytest.fixture
def user(make_window: Make) -> Driver:
    plan = draw(TOWN, cell=(24, 24))
    for col, row in ((1, 1), (10, 1), (4, 5)):
        put(plan, "hut", col, row)
    found = make_window(plan)
    found.key("F8")
    checked(found)
    return found


def checked(user: Driver) -> None:
    """All checks are of the plan as it is."""
    user.qtbot.waitUntil(lambda: user.desk.proof.current and not user.desk.proof.working)
    user.settle()


def page(user: Driver) -> ProofPage:
    return user.window.bench.proof


def tab(user: Driver) -> FindingsTab:
    return user.window.tray.findings


def codes(user: Driver) -> list[str]:
    return [each.code for each in tab(user).rows]


def pick(user: Driver, code: str) -> None:
    """Click the first row of a code."""
    table = tab(user).table
    row = codes(user).index(code)
    place = table.visualRect(tab(user).model.index(row, 2)).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=place)
    user.settle()


def test_a_finding_is_followed_mended_and_accepted_with_a_reason(
    user: Driver, tmp_path: Path
) -> None:
    assert user.window.tray.currentWidget() is tab(user)
    assert codes(user) == ["near-miss", "cut-off", "cut-off", "cut-off"]
    assert page(user).figures.text().splitlines()[1].split() == ["warnings", "4"]
    assert user.window.thread_.buttons[Stage.PROOF].count == 0
    user.qtbot.waitUntil(lambda: user.window.thread_.buttons[Stage.WAYS].count == 4)
    # Followed: the sheet goes there, and the structure is selected.
    pick(user, "cut-off")
    assert user.session.selection.front == 1
    assert not tab(user).mend.isEnabled()
    # Mended: the two that were apart are joined, and checked at once.
    pick(user, "near-miss")
    user.push(tab(user).mend)
    assert codes(user) == ["cut-off"]
    assert user.plan.road[2, 5]
    # Accepted, with a reason, and only with one.
    pick(user, "cut-off")
    assert not tab(user).accept.isEnabled()
    user.type(tab(user).reason, "A hermit")
    user.push(tab(user).accept)
    assert codes(user) == []
    assert tab(user).empty.isVisible()
    assert user.plan.accepted == (Accepted("cut-off", "A hermit", None, 3),)
    assert user.session.document.history.entries[-1] == (
        "Accepted: S3 Hut reaches no other structure by road"
    )
    user.tick(page(user).accepted)
    assert [each.reason for each in tab(user).rows] == ["A hermit"]
    last = tab(user).model.index(0, 3)
    assert last.data() == "accepted: A hermit"
    # Muted, in either theme.
    for name, palette in (("dark", DARK), ("light", LIGHT)):
        user.window.theme.choose(name)
        assert last.data(Qt.ItemDataRole.ForegroundRole) == colour(palette.muted)
    # It is saved, and read again.
    path = tmp_path / "again.plan.json"
    plan_json.save(user.plan, path)
    assert [item.reason for item in prove(plan_json.load(path)).accepted] == ["A hermit"]
    # No more, and undone.
    pick(user, "cut-off")
    assert tab(user).accept.text() == "Accept it no longer"
    user.push(tab(user).accept)
    assert user.plan.accepted == ()
    assert codes(user) == ["cut-off"]
    for _ in range(3):
        user.key("Ctrl+Z")
    assert codes(user) == ["near-miss", "cut-off", "cut-off", "cut-off"]


def test_what_is_accepted_and_no_more_there_is_found_and_taken_away(user: Driver) -> None:
    pick(user, "near-miss")
    user.type(tab(user).reason, "A ford")
    user.push(tab(user).accept)
    user.session.attempt(edits.demolish, user.plan, [1])
    checked(user)
    assert "outdated" not in codes(user)
    user.tick(page(user).shown[Severity.NOTE])
    user.session.document.history.undo()
    user.key("F5")
    user.session.attempt(edits.lay_road, user.plan, [Cell(5, 2)])
    user.key("F8")
    checked(user)
    pick(user, "outdated")
    assert tab(user).mend.isEnabled()
    user.push(tab(user).mend)
    assert user.plan.accepted == ()
    assert "outdated" not in codes(user)


def test_the_list_is_filtered_by_severity_stage_and_words(user: Driver) -> None:
    user.tick(page(user).shown[Severity.NOTE])
    assert {"unreached-ground", "near-miss"} <= set(codes(user))
    user.choose(page(user).part, "Ground")
    assert codes(user) == ["unreached-ground"]
    user.tick(page(user).shown[Severity.NOTE])
    assert codes(user) == []
    assert "by the boxes in Proof" in tab(user).empty.text()
    user.choose(page(user).part, "All stages")
    page(user).word.setFocus()
    QTest.keyClicks(page(user).word, "spring")
    assert codes(user) == []
    page(user).word.clear()
    QTest.keyClicks(page(user).word, "S3")
    assert codes(user) == ["cut-off"]
    assert user.desk.proof.proof.open_in(Part.WAYS) == 4


def test_each_finding_is_marked_on_the_sheet(user: Driver) -> None:
    user.session.pointer.to(None)
    pick(user, "near-miss")
    warned = user.colour_at((5, 2), 0, 5)
    user.tick(page(user).shown[Severity.WARNING])
    assert user.colour_at((5, 2), 0, 5) != warned
    bare = user.colour_at((7, 5))
    user.tick(page(user).shown[Severity.NOTE])
    assert user.colour_at((7, 5)) != bare or user.colour_at((7, 5), 6) != bare


def test_an_edit_is_checked_anew_and_a_check_of_the_plan_before_is_dropped(user: Driver) -> None:
    keeper = user.desk.proof
    user.tick(page(user).shown[Severity.NOTE])
    assert "unreached-ground" in codes(user)
    keeper._ask()
    user.session.attempt(_open_up, user.plan)
    assert not keeper.current
    checked(user)
    assert "unreached-ground" not in codes(user)
    expected = prove(user.plan)
    assert list(keeper.proof.findings) == list(expected.findings)
    # Stopped, it says what it knows; and the next edit asks again.
    user.key("Ctrl+Z")
    keeper._ask()
    for job in list(user.session.jobs.running):
        job.stop()
    user.idle()
    assert not keeper.current
    assert page(user).words.text() == "Some checks are still to come."
    user.key("Ctrl+Shift+Z")
    checked(user)
    assert page(user).words.text() == "All checks are of the plan as it is."


def _open_up(plan):  # type: ignore[no-untyped-def]
    return paint(plan, [Cell(7, 4)], plan.terrain_table.code("meadow"))


def test_traffic_is_let_pass_once_it_is_asked_for(make_window: Make) -> None:
    plan = three_huts()
    user = make_window(plan)
    user.key("F8")
    assert not page(user).let_pass.isEnabled()
    user.session.attempt(set_trips, user.plan, [Trip(1, 2, 0.0, "", 0.1, 400)])
    checked(user)
    assert page(user).passed.text() == "Not tried since the last edit."
    page(user).seconds.setValue(20)
    user.push(page(user).let_pass)
    checked(user)
    assert page(user).passed.text() == "20 s of traffic were looked at."
    assert "held-back" in codes(user)
    user.key("Ctrl+Z")
    assert "held-back" not in codes(user)


def test_a_large_plan_is_checked_while_somebody_looks(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    from woven_locus.ui.jobs import asking

    monkeypatch.setattr(asking, "AT_ONCE", 0)
    plan = draw(TOWN, cell=(24, 24))
    put(plan, "hut", 4, 5)
    user = make_window(plan)
    user.desk.proof._ask()  # as a moment after an edit
    user.idle()
    assert not user.desk.proof.current
    user.key("F8")
    checked(user)
    user.window.tray.setCurrentWidget(user.window.tray.history)
    user.key("F4")
    user.session.attempt(edits.demolish, user.plan, [1])
    user.desk.proof._ask()  # as a moment after an edit
    user.idle()
    assert not user.desk.proof.current
    user.window.tray.setCurrentWidget(tab(user))
    checked(user)


def test_nothing_is_put_together_for_a_page_that_nobody_sees(
    user: Driver, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Once every stage has been looked at, an edit would take half as long again."""
    counted = page(user).figures.text()
    user.push(user.window.thread_.buttons[Stage.BUILD])
    user.window.tray.setCurrentWidget(user.window.tray.register_tab)
    user.settle()
    made = []
    put_together = ProofKeeper._put_together
    monkeypatch.setattr(
        ProofKeeper, "_put_together", lambda keeper: made.append(1) or put_together(keeper)
    )
    user.session.attempt(edits.erase_road, user.plan, [Cell(2, 2)])
    assert made == []
    checked(user)
    user.key("F8")
    assert page(user).figures.text() != counted


def test_another_plan_is_another_proof(user: Driver) -> None:
    assert codes(user)
    user.session.open(Document(draw("....\n....")))
    checked(user)
    assert codes(user) == []
    assert tab(user).empty.text() == "Nothing to find fault with."


def test_many_that_cannot_stand_are_named_at_once_and_given_reasons_later(
    make_window: Make,
) -> None:
    plan = draw("\n".join(["." * 30] * 3))
    for col in range(25):
        put(plan, "hut", col, 1)
    user = make_window(plan)
    user.key("F8")
    checked(user)
    cells = [Cell(col, 1) for col in range(25)]
    user.session.attempt(lambda plan: paint(plan, cells, plan.terrain_table.code("bog")), user.plan)
    assert tab(user).rows[0].message == "S1 Hut could not be placed where it stands"
    assert codes(user).count("unsound") == 25
    checked(user)
    assert tab(user).rows[0].message.endswith(": Bog cannot be built on")
    assert codes(user).count("unsound") == 25


def test_a_stage_tells_of_those_that_are_not_listed_too(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(table, "MOST_OF_A_CODE", 3)
    plan = draw("......\n......")
    for col in range(6):
        put(plan, "hut", col, 1)
    user = make_window(plan)
    cells = [Cell(col, 1) for col in range(6)]
    user.session.attempt(lambda plan: paint(plan, cells, plan.terrain_table.code("bog")), user.plan)
    strip = user.window.thread_
    strip.count()
    assert strip.buttons[Stage.BUILD].count == strip.buttons[Stage.PROOF].count == 6


def test_findings_are_worded_where_they_show(
    make_window: Make, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = draw("\n".join(["." * 40] * 12))
    for number in range(120):
        put(plan, "hut", number % 40, 3 * (number // 40))
    user = make_window(plan)
    user.session.set_stage(Stage.PROOF)
    checked(user)
    user.idle()
    model, shown = tab(user).model, tab(user).table
    worded: set[int] = set()
    text = findings_model._text

    def counted(each: Finding, column: int) -> str:
        worded.add(model.rows.index(each))
        return text(each, column)

    def agrees() -> bool:
        """Every row says what is listed."""
        rows = tab(user).rows
        assert model.rowCount() == len(rows) > 100
        for row, each in enumerate(rows):
            texts = [model.index(row, column).data() for column in (1, 2)]
            assert texts == ["" if each.cell is None else cell_text(each.cell), each.message]
        return True

    assert agrees()
    shown.scrollToBottom()
    user.settle()
    at = shown.verticalScrollBar().value()  # type: ignore[union-attr]
    monkeypatch.setattr(findings_model, "_text", counted)
    # An edit after which fewer are listed, and its undoing: what is scrolled to stays, and what does not show is not worded.
    listed = model.rowCount()
    user.session.attempt(edits.demolish, user.plan, [2])
    checked(user)
    assert model.rowCount() == listed - 1
    user.session.document.history.undo()
    checked(user)
    assert shown.verticalScrollBar().value() == pytest.approx(at, abs=1)  # type: ignore[union-attr]
    assert 0 < len(worded) < 30
    assert min(worded) > 60
    monkeypatch.undo()
    assert agrees()
