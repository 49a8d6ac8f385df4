"""The actions of Traffic."""

from __future__ import annotations

from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.session.stages import Stage


def _in_traffic(window: Host) -> bool:
    return window.session.choices.stage is Stage.TRAFFIC


def _has_trips(window: Host) -> bool:
    traffic = window.session.plan.traffic
    return bool(traffic.trips or traffic.rules)


def _toggle(window: Host) -> None:
    traffic = window.desk.traffic
    traffic.set_running(not traffic.running)


TRAFFIC: tuple[Action, ...] = (
    Action(
        "traffic.run",
        "&Traffic",
        "&Run, or pause",
        "Ctrl+R",
        _toggle,
        lambda w: _in_traffic(w) and _has_trips(w),
        on_sheet=True,
    ),
    Action(
        "traffic.step",
        "&Traffic",
        "One &step",
        "Ctrl+E",
        lambda w: w.desk.traffic.step(),
        lambda w: _in_traffic(w) and _has_trips(w),
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
