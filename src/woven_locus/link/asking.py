"""Methods that ask the plan something, with the answers of the command line."""

from __future__ import annotations

from typing import Any, Literal

from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import Rule, SnapSettings, low_cell, snap
from woven_locus.core.kinds import MIRRORED
from woven_locus.core.placing import judge
from woven_locus.core.placing.kind_words import turns_words
from woven_locus.core.plan import Plan
from woven_locus.core.proof.table import prove
from woven_locus.core.routing import Manner, Over, find_lane_way, find_route, parse_end
from woven_locus.files.answers_json import lane_way_json, links_json, route_json
from woven_locus.files.proof_json import proof_json
from woven_locus.files.verdict_json import verdict_json
from woven_locus.link.method import Host, Method, Nothing, Params

Pair = tuple[int, int]
World = tuple[float, float]


class Locate(Params):
    """world : a point."""

    world: World


class Snap(Params):
    """world : a point.  rule, step : the plan's own when left out.  holding : columns and rows."""

    world: World
    rule: Literal["corner", "centre", "intersection"] | None = None
    step: World | None = None
    holding: Pair | None = None


class Probe(Params):
    """kind : a key.  cell : the lowest of the turned footprint."""

    kind: str
    cell: Pair
    turn: Literal[0, 1, 2, 3] = 0
    mirror: bool = False


class RouteParams(Params, rename={"start": "from", "goal": "to"}):
    """from, to : structures as S12, or cells as 14,9."""

    start: str
    goal: str
    over: Literal["roads", "ground", "preferred"] = "roads"
    moves: Literal[4, 8] = 4


class LaneParams(Params, rename={"start": "from", "goal": "to"}):
    """from, to : structures as S12, or cells as 14,9."""

    start: str
    goal: str


class Proof(Params):
    """only : codes of findings, all when left out."""

    only: tuple[str, ...] = ()


def turn_of(plan: Plan, params: Any) -> int:
    """The turn that is meant. Raises Unknown for no such kind, Refused for a turn that it does not take."""
    kind, turn = plan.kinds[params.kind], int(params.turn + MIRRORED * params.mirror)
    if not kind.may_turn(turn):
        raise Refused(f"{kind.key} {turns_words(kind)}")
    return turn


def _locate(host: Host, params: Locate) -> dict[str, Any]:
    spec, plan = host.plan.spec, host.plan
    virtual = spec.locate_virtual(*params.world)
    return {"cell": [*virtual] if plan.may_address(virtual) else None, "virtual_cell": [*virtual]}


def _snap(host: Host, params: Snap) -> dict[str, Any]:
    spec, settings = host.plan.spec, host.plan.snap
    if params.rule is not None or params.step is not None:
        rule = Rule(params.rule) if params.rule is not None else settings.rule
        settings = SnapSettings(rule, *(params.step or (None, None)))
    found = {
        "snapped": [*snap(spec, settings, *params.world).at],
        **_locate(host, Locate(params.world)),
    }
    if params.holding is not None:
        cols, rows = params.holding
        if min(cols, rows) < 1:
            raise Refused(f"a footprint has at least 1 × 1 cells, not {cols} × {rows}")
        found["low_cell"] = [*low_cell(spec, *params.world, cols, rows)]
    return found


def _probe(host: Host, params: Probe) -> dict[str, Any]:
    plan = host.plan
    turn = turn_of(plan, params)
    return verdict_json(judge(plan, plan.kinds[params.kind], Cell(*params.cell), turn))


def _route(plan: Plan, params: RouteParams) -> dict[str, Any]:
    ends = parse_end(params.start), parse_end(params.goal)
    return route_json(find_route(plan, *ends, Manner(Over(params.over), params.moves)))


def _lane(plan: Plan, params: LaneParams) -> dict[str, Any]:
    return lane_way_json(plan, find_lane_way(plan, parse_end(params.start), parse_end(params.goal)))


def _links(host: Host, _params: Nothing) -> dict[str, Any]:
    return links_json(host.document.links())


def _proof(plan: Plan, params: Proof) -> dict[str, Any]:
    return proof_json(prove(plan, params.only))


METHODS: tuple[Method, ...] = (
    Method("locate", "The cell under a point", Locate, "cell, virtual_cell", _locate),
    Method("snap", "Where a point snaps to", Snap, "snapped, cell, virtual_cell, low_cell", _snap),
    Method(
        "probe", "May it stand there, and why not?", Probe, "as the verb probe prints it", _probe
    ),
    Method(
        "route", "The cheapest route", RouteParams, "as the verb route prints it", _route, long=True
    ),
    Method(
        "lane",
        "The quickest way by the lanes",
        LaneParams,
        "as the verb lanes prints it",
        _lane,
        long=True,
    ),
    Method("links", "Who is joined by road", Nothing, "as the verb links prints it", _links),
    Method(
        "proof",
        "What is wrong with the plan",
        Proof,
        "as the verb proof prints it",
        _proof,
        long=True,
    ),
)
