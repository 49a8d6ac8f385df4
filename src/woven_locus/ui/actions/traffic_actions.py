"""The actions of Traffic."""

from __future__ import annotations

from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Stage


def _in_traffic(window: Host) -> bool:
    return window.session.choices.stage is Stage.TRAFFIC


def clock(window: Host) -> TrafficKeeper | WaveKeeper:
    """What the keys of the clock are for: one key for both stages."""
    return window.desk.waves if window.session.choices.stage is Stage.WAVES else window.desk.traffic


def toggle(window: Host) -> None:
    """Let the clock go, or stop it."""
    clock(window).set_running(not clock(window).running)


def may_run(window: Host) -> bool:
    """Whether the stage has something that can run."""
    if window.session.choices.stage is Stage.WAVES:
        return has_waves(window)
    traffic = window.session.plan.traffic
    return _in_traffic(window) and bool(traffic.trips or traffic.rules)


def has_waves(window: Host) -> bool:
    """Whether somebody would come."""
    waves = window.session.plan.waves
    return bool(waves.waves and waves.entries and waves.goals)


TRAFFIC: tuple[Action, ...] = (
    Action(
        "traffic.run",
        tr("&Traffic"),
        tr("&Run, or pause"),
        "Ctrl+R",
        toggle,
        may_run,
        on_sheet=True,
    ),
    Action(
        "traffic.step",
        tr("&Traffic"),
        tr("One &step"),
        "Ctrl+E",
        lambda w: clock(w).step(),
        may_run,
        on_sheet=True,
    ),
    Action(
        "traffic.again",
        tr("&Traffic"),
        tr("Begin &again"),
        "",
        lambda w: w.desk.traffic.clear(),
        lambda w: w.desk.traffic.run is not None,
    ),
    Action(
        "traffic.trips_in",
        tr("&Traffic"),
        tr("Import &trips…"),
        "",
        lambda w: w.exchange.trips_in(),
        gap_before=True,
    ),
)
