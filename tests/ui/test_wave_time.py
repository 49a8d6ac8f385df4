"""Waves turned back in time, and what they earn."""

from collections.abc import Callable

import pytest

from tests.ui.conftest import Driver
from tests.ui.test_waves import in_waves, take
from woven_locus.core.edits import money
from woven_locus.core.edits.waves import set_wave_list
from woven_locus.core.wave_plan import Group, Wave


@pytest.fixture
def user(make_window: Callable[..., Driver]) -> Driver:
    return in_waves(make_window)


def test_waves_are_turned_back_and_what_they_earned_is_built_with(user: Driver) -> None:
    waves, page = user.desk.waves, user.window.bench.waves
    session = user.session
    twenty = Wave("Flight", 0.0, (Group("E1", "moth", 20, 1.0),))
    session.attempt(set_wave_list, user.plan, [twenty])
    take(user, "Post")
    user.click((5, 2))
    user.click((6, 2))
    session.attempt(money.set_funds, user.plan, 24, 0)
    user.point((8, 2))
    assert user.plan.account.balance == 4
    user.click((8, 2))
    assert "more than there is" in user.said
    # Two moths later it can be paid.
    waves.step()
    waves.advance(0)
    assert waves.timeline is not None
    waves.timeline.advance(30 * 9)
    waves.step()
    run = waves.run
    assert run is not None
    assert run.waves[0].stopped >= 2
    assert user.plan.account.there == run.funds >= 18
    user.click((8, 2))
    assert len(user.plan.register) == 3
    assert user.plan.account.there == run.funds == 4 + 7 * run.waves[0].stopped - 10
    # Back to when it was built, not before: that was another plan.
    first = run.steps
    assert page.clock.back.minimum() == first
    waves.timeline.advance(100)
    waves.moved.emit()
    digest, end = run.digest(), run.steps
    assert page.clock.back.value() == end
    # A slow machine goes there over several frames.
    page.clock.back.setValue(first + 20)
    user.qtbot.waitUntil(lambda: run.steps == first + 20)
    assert page.clock.since.text().startswith("Back to 0:09")
    page.clock.back.setValue(end)
    user.qtbot.waitUntil(lambda: run.steps == end)
    assert run.digest() == digest
    # Turned back to the beginning of the plan, nothing has been earned.
    user.push(page.clock.clear)
    assert user.plan.account.there == user.plan.account.balance == -6
    assert session.document.history.position == 5
    assert page.clock.back.maximum() == 0


def test_when_it_can_be_paid_counts_what_the_waves_bring_in(user: Driver) -> None:
    session, funds = user.session, user.window.tray.funds
    session.attempt(set_wave_list, user.plan, [Wave("Flight", 0.0, (Group("E1", "moth", 5, 2.0),))])
    take(user, "Post")
    user.click((5, 2))
    session.attempt(money.set_funds, user.plan, 12, 0)
    user.window.actions_.by_name["waves.paid"].trigger()
    assert user.window.tray.currentWidget() is funds
    funds.purchases.kinds.setCurrentIndex(funds.purchases.kinds.findData("post"))
    user.push(funds.purchases.add)
    user.push(funds.purchases.add)
    user.idle()
    first, second = funds.purchases.found
    assert first.at is not None
    assert second.at is not None
    assert 0 < first.at < second.at < 20
    assert funds.purchases.list.item(0).text().startswith("Post: at ")  # type: ignore[union-attr]
    # Without the waves nothing comes in; and another tower asks anew.
    user.tick(funds.purchases.with_waves)
    assert [item.at for item in funds.purchases.found] == [None, None]
    user.tick(funds.purchases.with_waves)
    user.key("F7")
    session.attempt(set_wave_list, user.plan, [])
    user.window.tray.setCurrentWidget(funds)
    user.idle()
    assert [item.at for item in funds.purchases.found] == [None, None]
    assert not funds.purchases.with_waves.isEnabled()
