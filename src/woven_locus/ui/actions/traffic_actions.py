"""The actions of Traffic."""

from __future__ import annotations

from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.session.stages import Stage


def _in_traffic(window: Host) -> bool:
    return window.session.choices.stage is Stage.TRAFFIC


def _has_trips(window: Host) -> bool:
    traffic = window.session.plan.traffic
    return bool(traffic.trips or traffic.rules)


def _clock(window: Host) -> TrafficKeeper | WaveKeeper:
    """What the keys of the clock are for: one key for both stages."""
    return window.desk.waves if window.session.choices.stage is Stage.WAVES else window.desk.traffic


def _toggle(window: Host) -> None:
    clock = _clock(window)
    clock.set_running(not clock.running)


def _may_run(window: Host) -> bool:
    waves = window.session.plan.waves
    if window.session.choices.stage is Stage.WAVES:
        return bool(waves.waves and waves.entries and waves.goals)
    return _in_traffic(window) and _has_trips(window)


TRAFFIC: tuple[Action, ...] = (
    Action(
        "traffic.run",
        "&Traffic",
        "&Run, or pause",
        "Ctrl+R",
        _toggle,
        _may_run,
        on_sheet=True,
    ),
    Action(
        "traffic.step",
        "&Traffic",
        "One &step",
        "Ctrl+E",
        lambda w: _clock(w).step(),
        _may_run,
        on_sheet=True,
    ),
    Action(
        "traffic.again",
        "&Traffic",
        "Begin &again",
        "",
        lambda w: w.desk.traffic.clear(),
        lambda w: w.desk.traffic.run is not None,
    ),
    Action(
        "traffic.trips_in",
        "&Traffic",
        "Bring in &trips…",
        "",
        lambda w: w.exchange.trips_in(),
        gap_before=True,
    ),
)
