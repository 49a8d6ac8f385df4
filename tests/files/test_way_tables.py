"""What roads and routes look like to other programs."""

import csv
import io
import json
from pathlib import Path

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.strategies import cells_of, plans
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.errors import FileProblem, Unknown
from woven_locus.core.geometry import Cell
from woven_locus.core.ground import TerrainTable
from woven_locus.core.plan import Plan
from woven_locus.core.routing import BY_ROAD, ON_FOOT, Route, find_route
from woven_locus.core.routing.trips import find_routes, route_matrix
from woven_locus.core.value import replace
from woven_locus.core.ways.roads import Sign
from woven_locus.demo import open_demo
from woven_locus.files import graphml, way_tables
from woven_locus.files.formats import (
    FORMATS,
    ROUTES_CSV,
    ROUTES_LINES,
    Out,
    joined_trips,
    write_routes,
)


def table(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


@pytest.mark.parametrize("y_up", [False, True])
def test_the_table_of_shapes_tells_what_is_seen(y_up: bool) -> None:
    rows = ["==.", "=s=", "==="]
    plan = draw("\n".join(rows[::-1] if y_up else rows), first=(3, -1))
    plan = Plan(
        "T",
        replace(plan.spec, y_up=y_up),
        TerrainTable([replace(item, bridge=item.key == "stream") for item in plan.terrain_table]),
        plan.kinds,
        terrain=plan.terrain,
        road=plan.road,
    )
    middle = Cell(4, 0)
    History(plan).do(edits.lay_road(plan, [middle]))
    top = Cell(3, 1 if y_up else -1)
    History(plan).do(edits.put_signs(plan, [top], [Sign.NORTH if y_up else Sign.SOUTH]))
    found = {(int(r["col"]), int(r["row"])): r for r in table(way_tables.road_shapes(plan))}
    assert len(found) == 8
    corner = found[top]
    assert (corner["shape"], corner["turn"], corner["number"]) == ("bend", "1", "6")
    assert corner["sign"] == "south"  # on screen, whichever way rows grow
    assert (found[middle]["shape"], found[middle]["bridge"]) == ("crossing", "yes")
    assert (found[4, -1 if y_up else 1]["shape"], found[4, -1 if y_up else 1]["turn"]) == (
        "three-way",
        "3",
    )


def test_routes_are_told_cell_by_cell_and_as_lines() -> None:
    plan = draw("====\n.b..", cell=(8.0, 4.0), first=(-1, 2))
    hut = put(plan, "hut", 2, 3)
    route, walk = (
        find_route(plan, Cell(-1, 2), hut),
        find_route(plan, Cell(-1, 3), Cell(1, 3), ON_FOOT),
    )
    assert isinstance(route, Route)
    assert isinstance(walk, Route)
    asked: list[way_tables.Asked] = [
        (Cell(-1, 2), hut, BY_ROAD, route),
        (Cell(-1, 3), Cell(1, 3), ON_FOOT, walk),
    ]
    rows = table("".join(way_tables.routes_csv(plan, asked)))
    assert [(r["col"], r["row"], r["x"], r["y"], r["cost"]) for r in rows[:2]] == [
        ("-1", "2", "4", "2", "0"),
        ("0", "2", "12", "2", "8"),
    ]
    last = [r for r in rows if r["route"] == "2"][-1]
    assert float(last["cost"]) == pytest.approx(walk.cost)
    text = "".join(way_tables.routes_lines(plan, asked))
    lines = json.loads(text)
    assert (lines["type"], lines["units"]) == ("FeatureCollection", plan.spec.unit or "units")
    first = lines["features"][0]
    assert first["geometry"]["coordinates"][0] == [4, 2]
    assert first["properties"] == {
        "from": "-1,2",
        "to": "S1",
        "names": ["cell \N{MINUS SIGN}1, 2", "S1 Hut"],
        "over": "roads",
        "moves": 4,
        "length": 24,
        "cost": 24,
        "detour": 1,
    }
    assert json.loads("".join(way_tables.routes_lines(plan, [])))["features"] == []


@given(plans(), st.data())
@settings(max_examples=40)
def test_lines_hold_every_centre_to_the_last_digit(plan: Plan, data: st.DataObject) -> None:
    ends = data.draw(st.lists(cells_of(plan.spec), min_size=2, max_size=6))
    trips = [(a, b, ON_FOOT) for a in ends for b in ends]
    asked = [(*trip, route) for trip, route in find_routes(plan, trips) if isinstance(route, Route)]
    found = json.loads("".join(way_tables.routes_lines(plan, asked)))["features"]
    assert len(found) == len(asked)
    for line, (*_, route) in zip(found, asked, strict=True):
        points = line["geometry"]["coordinates"]
        alone = line["geometry"]["type"] == "Point"
        assert alone == (len(route.slots) == 1)
        assert ([points] if alone else points) == route.points.tolist()


@pytest.mark.parametrize("form", [ROUTES_CSV, ROUTES_LINES])
def test_routes_that_are_stopped_or_asked_wrongly_leave_the_old_file(
    tmp_path: Path, form: str
) -> None:
    plan = draw("====\n....")
    for col in range(3):
        put(plan, "hut", col, 1)
    out = tmp_path / "routes"
    out.write_text("what was there")
    trips = joined_trips(plan, BY_ROAD)
    assert len(trips) == 3
    answers = iter([False, True, True])
    with pytest.raises(FileProblem, match="stopped"):
        write_routes(plan, out, form, trips, Out(stopped=lambda: next(answers)))
    with pytest.raises(Unknown, match="S99"):
        write_routes(plan, out, form, [*trips, (1, 99, BY_ROAD)])
    assert out.read_text() == "what was there"
    assert list(tmp_path.iterdir()) == [out]


def test_the_junction_graph_opens_in_networkx_and_tells_the_same_costs(tmp_path: Path) -> None:
    plan = open_demo()
    path = tmp_path / "junctions.graphml"
    FORMATS["junctions-graphml"].write(plan, path, Out())
    graph = nx.read_graphml(path)
    assert graph.is_directed()
    at = {
        tuple(data["structures"].split()): n
        for n, data in graph.nodes(data=True)
        if "structures" in data
    }
    of = {name: node for names, node in at.items() for name in names}
    matrix = route_matrix(plan, plan.register.numbers())
    assert matrix is not None
    compared = 0
    for k, a in enumerate(matrix.numbers):
        for m, b in enumerate(matrix.numbers):
            doors = [[n for n, d in graph.nodes(data=True) if f"S{x}" in d.get("structures", "").split()] for x in (a, b)]  # fmt: skip
            if a == b or not all(doors):
                continue
            theirs = min(
                (
                    nx.shortest_path_length(graph, p, q, weight="cost")
                    if nx.has_path(graph, p, q)
                    else np.inf
                )
                for p in doors[0]
                for q in doors[1]
            )
            assert matrix.cost[k, m] == pytest.approx(theirs)
            compared += np.isfinite(theirs)
    assert compared > 20
    assert of
    ring = draw("===\n=.=\n===")
    History(ring).do(edits.put_signs(ring, [Cell(1, 0)], [Sign.EAST]))
    (tmp_path / "ring.graphml").write_text(graphml.dump(ring))
    one_way = nx.read_graphml(tmp_path / "ring.graphml")
    assert [data["kind"] for _, data in one_way.nodes(data=True)] == ["ring"]
    assert [data["length"] for *_, data in one_way.edges(data=True)] == [8.0]


def test_the_matrix_leaves_out_what_is_not_joined() -> None:
    plan = draw("==.=\n....")
    for col in (0, 1, 3):
        put(plan, "hut", col, 1)
    matrix = route_matrix(plan, [1, 2, 3])
    assert matrix is not None
    assert way_tables.matrix_csv(matrix) == "from,S1,S2,S3\nS1,0,1,\nS2,1,0,\nS3,,,0\n"
    assert joined_trips(plan, BY_ROAD) == [(1, 2, BY_ROAD)]


def test_trips_without_a_route_are_told(tmp_path: Path) -> None:
    plan = draw("==.=\n....")
    for col in (0, 1, 3):
        put(plan, "hut", col, 1)
    out = tmp_path / "r.csv"
    without = write_routes(plan, out, ROUTES_CSV, [(1, 2, BY_ROAD), (1, 3, BY_ROAD)])
    assert len(without) == 1
    assert "does not meet" in without[0]
    assert {r["route"] for r in table(out.read_text())} == {"1"}
