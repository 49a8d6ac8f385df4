"""Every method of the link in one table, and the OpenRPC document that says so."""

from __future__ import annotations

from typing import Any

import msgspec

from woven_locus.link import asking, editing, reading
from woven_locus.link.agents import Report
from woven_locus.link.method import Method, Nothing, Params
from woven_locus.version import __version__

# Of whom a client can hear.
TOPICS = ("changes", "traffic", "waves")


class Subscribe(Params):
    """to : what to be told of.  seconds, every, seed : of a run of traffic or waves: how long, how often it is told, by
    which seed."""

    to: str
    seconds: float = 60.0
    every: float = 1.0
    seed: int = 0


class Unsubscribe(Params):
    """to : what no longer to be told of."""

    to: str


def _answered_elsewhere(_host: Any, _params: Any) -> Any:
    raise NotImplementedError  # by the session of the client that asks


# What concerns a client alone.
OWN: tuple[Method, ...] = (
    Method(
        "subscribe",
        "Be told of changes, or of a run of traffic or waves on the plan as it is now",
        Subscribe,
        "to, revision",
        _answered_elsewhere,
    ),
    Method(
        "agents.report",
        "Show the game's own agents on the sheet, as they are now; they are no part of the plan",
        Report,
        "shown: how many",
        _answered_elsewhere,
    ),
    Method("unsubscribe", "Be told no longer", Unsubscribe, "to", _answered_elsewhere),
    Method("rpc.discover", "This document", Nothing, "OpenRPC 1.2", _answered_elsewhere),
)
METHODS = {
    method.name: method for method in (*reading.METHODS, *asking.METHODS, *editing.METHODS, *OWN)
}
# What a client is told without asking.
NOTICES = {
    "changed": "The plan changed: revision, label, layers, boxes with the cells as they are now, structures",
    "traffic": "A moment of traffic that was asked for: time, agents, done",
    "waves": "A moment of waves that were asked for: time, attackers, lives, done",
}


def openrpc() -> dict[str, Any]:
    """The OpenRPC 1.2 document."""
    found = []
    for method in METHODS.values():
        schema = msgspec.json.schema(method.params)
        own = schema["$defs"][method.params.__name__]
        required = own.get("required", ())
        params = [
            {"name": name, "required": name in required, "schema": part}
            for name, part in own.get("properties", {}).items()
        ]
        found.append(
            {
                "name": method.name,
                "summary": method.summary,
                "description": " ".join((method.params.__doc__ or "").split()),
                "paramStructure": "by-name",
                "params": params,
                "result": {"name": "result", "description": method.result, "schema": True},
            }
        )
    return {
        "openrpc": "1.2.6",
        "info": {
            "title": "Woven Locus",
            "version": __version__,
            "description": "Notifications: " + "; ".join(f"{k}: {v}" for k, v in NOTICES.items()),
        },
        "methods": found,
    }
