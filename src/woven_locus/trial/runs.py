"""One run of a trial: the plan with its settings, and what is noted of the answer. It needs nothing but its arguments, so
that any process on any machine can do it."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

import numpy as np

from woven_locus.core.errors import WovenError
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.files import atomic, plan_json

# Of a digest in a row.
_DIGITS = 16


def outcome(
    data: bytes, name: str, run: str, settings: dict[str, Any], note: tuple[str, ...]
) -> list[str]:
    """The cells of a row that follow those of the settings: what is noted, the digest, then what went wrong.

    data, name : a plan document and what it is called.  settings : what is varied, and "seconds".
    """
    made_of = digest(data, run, settings["seconds"])
    from woven_locus import kernel_cache

    kernel_cache.install_when_needed(lambda _words: None)
    try:
        answer = _ANSWERS[run](with_settings(data, name, settings), settings)
        return [*(_text(_noted(answer, key)) for key in note), made_of, ""]
    except WovenError as err:
        return [*([""] * len(note)), made_of, str(err)]
    except Exception as err:  # noqa: BLE001 (a run that fails is a row that says so)
        return [*([""] * len(note)), made_of, f"{type(err).__name__}: {err}"]


def digest(data: bytes, run: str, seconds: float) -> str:
    """What tells a row that is still true from one of a plan that is another now: of its document and what is asked."""
    return atomic.digest(b"%s %r\n%s" % (run.encode(), float(seconds), data))[:_DIGITS]


def with_settings(data: bytes, name: str, settings: dict[str, Any]) -> Plan:
    """A plan as if its document said what is varied. Raises FileProblem."""
    plain = plan_json.dump(plan_json.parse(data, name))
    document = json.loads(plain)
    for key, value in settings.items():
        if key in _CHANGES:
            _CHANGES[key](document, value)
    return plan_json.parse(json.dumps(document).encode(), name)


def _times(rows: list[dict[str, Any]], key: str, factor: float) -> None:
    for row in rows:
        row[key] = round(row[key] * factor)


def _vehicles(document: dict[str, Any], factor: float) -> None:
    for part in ("trips", "trip_rules"):
        _times(document[part], "count", factor)
        document[part] = [row for row in document[part] if row["count"]]


def _attackers(document: dict[str, Any], factor: float) -> None:
    for wave in document["waves"]:
        _times(wave["groups"], "count", factor)
        wave["groups"] = [group for group in wave["groups"] if group["count"]]


def _health(document: dict[str, Any], factor: float) -> None:
    for kind in document["attackers"]:
        kind["health"] *= factor


def _junctions(document: dict[str, Any], rule: str) -> None:
    from woven_locus.core.lanes.pattern import open_sides

    document["junctions"] = []
    if rule == "larger":
        plan = plan_json.parse(json.dumps(document).encode())
        sides = open_sides(plan.lanes.graph.pattern)
        # Three sides or more are open.
        branching = np.flatnonzero(np.array([bits.bit_count() > 2 for bits in range(16)])[sides])
        cells = [plan.spec.cell_at_index(slot) for slot in branching.tolist()]
        document["junctions"] = [
            {"cell": [*cell], "rule": "larger", "phases": [], "offset": 0} for cell in cells
        ]


def _lives(document: dict[str, Any], lives: int) -> None:
    document["defence"]["lives"] = lives


def _prices(document: dict[str, Any], factor: float) -> None:
    _times(document["kinds"], "price", factor)


def _opening(document: dict[str, Any], opening: int) -> None:
    document["funds"] = (document["funds"] or {"share": 50, "clock": 0}) | {"opening": opening}


def _keep(document: dict[str, Any], side: str) -> None:
    document["keep"] = side


_CHANGES: dict[str, Callable[[dict[str, Any], Any], None]] = {
    "vehicles": _vehicles,
    "junctions": _junctions,
    "keep": _keep,
    "attackers": _attackers,
    "health": _health,
    "lives": _lives,
    "prices": _prices,
    "opening": _opening,
}


# --- answers, as the verbs print them --------------------------------------------------------------


def _traffic(plan: Plan, settings: dict[str, Any]) -> dict[str, Any]:
    from woven_locus.core.traffic.record import EVERY
    from woven_locus.core.traffic.report import Watch, figures
    from woven_locus.core.traffic.run import TrafficRun
    from woven_locus.core.traffic.trips import all_trips

    seed = settings.get("seed", 0)
    run = TrafficRun(plan, all_trips(plan, seed), plan.traffic.vehicles, seed=seed)
    watch = Watch(run)
    steps, often = round(settings["seconds"] / run.step), max(1, round(EVERY / run.step))
    for at in range(1, steps + 1):
        run.advance()
        if at % often == 0 or at == steps:
            watch.look()
    return {**figures(run, watch, plan), "seed": seed}


def _waves(plan: Plan, settings: dict[str, Any]) -> dict[str, Any]:
    from woven_locus.core.waves.run import WaveRun
    from woven_locus.files.waves_json import outcome_json, waves_json

    run = WaveRun(plan, settings.get("seed", 0))
    run.finish()
    return waves_json(plan) | {"outcome": outcome_json(run)}


def _proof(plan: Plan, settings: dict[str, Any]) -> dict[str, Any]:
    from woven_locus.core.proof.table import prove
    from woven_locus.files.proof_json import proof_json

    return proof_json(prove(plan, (), settings["seconds"], settings.get("seed", 0)))


_ANSWERS = {"traffic": _traffic, "waves": _waves, "proof": _proof}


def _noted(answer: Any, key: str) -> Any:
    """A value of an answer: ``outcome.lives``, ``junctions.0.mean_wait``; of a list alone its length. Raises WovenError."""
    for part in key.split("."):
        try:
            answer = answer[int(part)] if isinstance(answer, list) else answer[part]
        except (KeyError, ValueError, IndexError, TypeError):
            raise WovenError(phrase("the answer has no {key}", key=key)) from None
    return len(answer) if isinstance(answer, list) else answer


def _text(value: Any) -> str:
    """As in the answer: numbers so that they read back the same."""
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
