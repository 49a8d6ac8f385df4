"""`lanes`, and the files that hold the lane graph."""

import csv
import json
from pathlib import Path

import networkx as nx
import pytest

from woven_locus.core.editing import History
from woven_locus.core.edits import lay_road
from woven_locus.core.edits.roads import keep_to
from woven_locus.core.geometry import Cell
from woven_locus.core.lanes import KeepSide
from woven_locus.files import plan_json


def test_the_graph_has_the_fixed_keys_and_numbers_that_do_not_depend_on_edits(
    run, plan: Path
) -> None:  # type: ignore[no-untyped-def]
    got = run("lanes", plan)
    assert got.code == 0
    assert set(got.value) == {"keep", "nodes", "edges"}
    assert got.value["keep"] == "right"
    assert [node["id"] for node in got.value["nodes"]] == list(
        range(1, len(got.value["nodes"]) + 1)
    )
    assert {"id", "point", "cell", "heading"} <= set(got.value["nodes"][0])
    assert {"from", "to", "length", "seconds"} <= set(got.value["edges"][0])
    loaded = plan_json.load(plan)
    history = History(loaded)
    _ = loaded.lanes.graph
    for cell in (Cell(1, -1), Cell(-1, 1)):
        history.do(lay_road(loaded, [cell]))
        history.undo()
    plan_json.save(loaded, plan)
    assert run("lanes", plan).value == got.value


def test_keeping_left_turns_the_ways_about(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    right = run("lanes", plan, "--from", "S1", "--to", "S2").value
    loaded = plan_json.load(plan)
    History(loaded).do(keep_to(loaded, KeepSide.LEFT))
    plan_json.save(loaded, plan)
    left = run("lanes", plan, "--from", "S1", "--to", "S2").value
    assert run("lanes", plan).value["keep"] == "left"
    # The road lies on the second row; its middle is at y = 24 with cells 16 high.
    assert {point[1] > 24 for point in right["points"]} == {True}
    assert {point[1] > 24 for point in left["points"]} == {False}
    assert left["seconds"] == pytest.approx(right["seconds"])


def test_one_way_is_the_quickest_over_the_printed_edges(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    whole = run("lanes", plan).value
    graph = nx.DiGraph()
    graph.add_nodes_from(node["id"] for node in whole["nodes"])
    graph.add_weighted_edges_from((e["from"], e["to"], e["seconds"]) for e in whole["edges"])
    way = run("lanes", plan, "--from", "4,0", "--to", "S1")
    assert (way.code, way.value["found"]) == (0, True)
    nodes = way.value["nodes"]
    assert way.value["seconds"] == pytest.approx(
        nx.dijkstra_path_length(graph, nodes[0], nodes[-1])
    )
    by_id = {node["id"]: node for node in whole["nodes"]}
    assert by_id[nodes[0]]["cell"] == [4, 0]
    assert way.value["points"] == [by_id[node]["point"] for node in nodes]


def test_no_way_and_wrong_questions(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    none = run("lanes", plan, "--from", "S1", "--to", "1,2")
    assert (none.code, none.value["found"]) == (1, False)
    assert "does not meet" in none.value["why"]
    half = run("lanes", plan, "--from", "S1")
    assert half.code == 2
    assert "belong together" in half.err
    assert run("lanes", plan, "--from", "S1", "--to", "S99").code == 2
    assert run("lanes", plan, "--from", "S1", "--to", "east").code == 2


def test_files_of_lanes_hold_what_is_printed(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    whole = run("lanes", plan).value
    out = {form: tmp_path / f"out.{form}" for form in ("lanes-csv", "lanes-graphml", "lanes-lines")}
    for form, path in out.items():
        assert run("export", plan, "--as", form, "--out", path).code == 0
    edges = {(e["from"], e["to"]): (e["length"], e["seconds"]) for e in whole["edges"]}
    with out["lanes-csv"].open() as file:
        rows = list(csv.DictReader(file))
    assert {
        (int(row["node"]), int(row["to"])): (float(row["length"]), float(row["seconds"]))
        for row in rows
        if row["to"]
    } == edges
    assert {int(row["node"]) for row in rows} == {node["id"] for node in whole["nodes"]}
    graph = nx.read_graphml(out["lanes-graphml"])
    assert len(graph) == len(whole["nodes"])
    assert {
        (int(a[1:]), int(b[1:])): (about["length"], about["seconds"])
        for a, b, about in graph.edges(data=True)
    } == edges
    about = graph.nodes["n1"]
    assert [about["x"], about["y"]] == whole["nodes"][0]["point"]
    lines = json.loads(out["lanes-lines"].read_text())
    assert lines["keep"] == "right"
    assert len(lines["features"]) == len(edges)
    first = lines["features"][0]
    by_id = {node["id"]: node["point"] for node in whole["nodes"]}
    ends = [by_id[first["properties"][key]] for key in ("from", "to")]
    assert first["geometry"]["coordinates"] == ends
