"""JSON-RPC without a network: whatever comes in, what goes out is an answer."""

import asyncio
import json
from typing import Any

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from woven_locus.document import Document
from woven_locus.link import rpc
from woven_locus.link.line import Line
from woven_locus.link.method import Host, Method, Params
from woven_locus.link.table import METHODS, openrpc


def asked(text: str | bytes, host: Host | None = None) -> Any:
    """The answer to a message, as a value."""
    host = host or Host(Document(draw("...\n===\n...")))

    async def run(method: Method, params: Params) -> Any:
        return method.run(host.plan if method.long else host, params)

    def bug(error: Exception) -> None:
        raise error

    found = asyncio.run(rpc.answer(text, run, bug))
    return None if found is None else json.loads(found)


def call(host: Host, name: str, /, **params: Any) -> Any:
    got = asked(json.dumps({"jsonrpc": "2.0", "id": 7, "method": name, "params": params}), host)
    assert got["id"] == 7
    return got.get("result", got.get("error"))


values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3)
    ),
    max_leaves=6,
)
requests = st.fixed_dictionaries(
    {},
    optional={
        "jsonrpc": st.just("2.0") | values,
        "id": values,
        "method": st.sampled_from(
            sorted(set(METHODS) - {"subscribe", "unsubscribe", "rpc.discover", "save"})
        )
        | values,
        "params": values
        | st.fixed_dictionaries(
            {},
            optional={
                "cell": st.tuples(st.integers(), st.integers()) | values,
                "kind": st.sampled_from(["hut", "barn", "none"]) | values,
                "cells": st.lists(st.tuples(st.integers(-9, 9), st.integers(-9, 9)), max_size=3),
                "world": st.tuples(st.floats(), st.floats()),
                "structure": st.text(max_size=4),
                "class": st.text(max_size=4),
                "low": st.tuples(st.integers(), st.integers()),
                "high": st.tuples(st.integers(), st.integers()),
                "from": st.text(max_size=4),
                "to": st.text(max_size=4),
            },
        ),
    },
)


@settings(max_examples=examples(300), deadline=None)
@given(
    st.one_of(requests, st.lists(requests, max_size=3), values).map(json.dumps)
    | st.text()
    | st.binary()
)
def test_every_message_has_an_answer_or_needs_none(message: str | bytes) -> None:
    found = asked(message)
    for one in found if isinstance(found, list) else [found]:
        if one is not None:
            assert one["jsonrpc"] == "2.0"
            assert ("result" in one) is not ("error" in one)
            assert one.get("error", {}).get("code") != rpc.INTERNAL


def test_errors_have_the_codes_of_the_standard() -> None:
    def code(text: str) -> int:
        return int(asked(text)["error"]["code"])

    assert code("{") == rpc.PARSE
    assert code("[]") == code("1") == code('{"method": "links"}') == rpc.INVALID
    assert code('{"jsonrpc": "2.0", "id": 1, "method": "fly"}') == rpc.UNKNOWN
    assert (
        code('{"jsonrpc": "2.0", "id": 1, "method": "probe", "params": {"kind": 3}}') == rpc.PARAMS
    )
    assert code('{"jsonrpc": "2.0", "id": 1, "method": "probe", "params": [1]}') == rpc.PARAMS
    one = (
        '{"jsonrpc": "2.0", "id": 1, "method": "probe", "params": {"kind": "mill", "cell": [0, 0]}}'
    )
    assert code(one) == rpc.REFUSED
    # A notification is done and not answered; a batch has an answer for each request.
    assert asked('{"jsonrpc": "2.0", "method": "links"}') is None
    assert asked('[{"jsonrpc": "2.0", "method": "links"}]') is None
    batch = asked(
        '[{"jsonrpc": "2.0", "id": 1, "method": "links"}, 5, {"jsonrpc": "2.0", "id": "b", "method": "links"}]'
    )
    assert [item.get("id") for item in batch] == [1, None, "b"]


def test_questions_have_the_answers_of_the_command_line() -> None:
    plan = draw("....\n====\n....", cell=(24, 24))
    put(plan, "hut", 0, 0)
    put(plan, "hut", 3, 2)
    host = Host(Document(plan))
    assert call(host, "locate", world=[25, 1]) == {"cell": [1, 0], "virtual_cell": [1, 0]}
    assert call(host, "locate", world=[-1, 1]) == {"cell": None, "virtual_cell": [-1, 0]}
    assert call(host, "snap", world=[25, 1], rule="corner")["snapped"] == [24, 0]
    assert call(host, "snap", world=[25, 1], holding=[2, 2])["low_cell"] == [0, -1]
    assert call(host, "probe", kind="hut", cell=[0, 0])["reasons"] == ["occupied"]
    assert call(host, "route", **{"from": "S1", "to": "S2"})["length"] == 72
    assert call(host, "links")["groups"] == [{"structures": ["S1", "S2"], "road_cells": 4}]
    assert call(host, "lane", **{"from": "S1", "to": "S2"})["found"] is True
    assert "counts" in call(host, "proof", only=["cut-off"])
    assert call(host, "proof", only=["nonsense"])["code"] == rpc.REFUSED
    cells = call(host, "plan.cells", low=[0, 0], high=[1, 1])
    assert cells["roads"] == [[None, None], ["road", "road"]]
    assert cells["occupants"] == [["S1", None], [None, None]]
    assert (
        "too many"
        in call(
            Host(Document(draw("\n".join(["." * 300] * 300)))),
            "plan.cells",
            low=[0, 0],
            high=[299, 299],
        )["message"]
    )
    assert call(host, "plan.document")["format"] == "woven-locus/plan"
    assert [row["structure"] for row in call(host, "plan.structures")] == ["S1", "S2"]


def test_each_edit_is_a_step_from_the_game() -> None:
    host = Host(Document(draw("....\n....\n....")))
    placed = call(host, "place", kind="hut", cell=[1, 1])
    assert (placed["structure"], placed["revision"], placed["changed"]) == ("S1", 1, True)
    assert call(host, "place", kind="hut", cell=[1, 1])["code"] == rpc.REFUSED
    assert call(host, "move", structure="S1", cell=[2, 1])["cell"] == [2, 1]
    assert call(host, "road.lay", cells=[[0, 0], [1, 0]])["changed"] is True
    assert call(host, "road.lay", cells=[[0, 0]])["changed"] is False
    assert call(host, "barrier.raise", cells=[[3, 2]])["changed"] is True
    assert call(host, "barrier.erase", cells=[[3, 2]])["changed"] is True
    assert call(host, "road.erase", cells=[[0, 0]])["changed"] is True
    key = host.plan.terrain_table[1].key
    assert call(host, "terrain.paint", cells=[[0, 2], [3, 0]], **{"class": key})["changed"] is True
    assert host.plan.terrain.tolist() == [[0, 0, 0, 1], [0] * 4, [1, 0, 0, 0]]
    assert call(host, "road.lay", cells=[[9, 9]])["code"] == rpc.REFUSED
    assert call(host, "demolish", structures=["S1"])["changed"] is True
    assert call(host, "demolish", structures=["S1"])["code"] == rpc.REFUSED
    assert all(label.endswith(", from the game") for label in host.document.history.entries)
    while call(host, "undo")["changed"]:
        pass
    assert len(host.plan.register) == 0
    assert not host.plan.terrain.any()
    assert call(host, "redo")["changed"] is True
    assert len(host.plan.register) == 1


def test_a_link_that_reads_does_not_write() -> None:
    host = Host(Document(draw("....\n....")), read_only=True)
    for name, params in (
        ("place", {"kind": "hut", "cell": [1, 1]}),
        ("road.lay", {"cells": [[0, 0]]}),
        ("undo", {}),
        ("save", {}),
    ):
        assert "only reads" in call(host, name, **params)["message"]
    assert host.document.revision == 0
    assert call(host, "probe", kind="hut", cell=[1, 1])["ok"] is True


def test_the_openrpc_document_says_what_there_is() -> None:
    found = openrpc()
    assert {method["name"] for method in found["methods"]} == set(METHODS)
    probe = next(method for method in found["methods"] if method["name"] == "probe")
    assert [(each["name"], each["required"]) for each in probe["params"]] == [
        ("kind", True),
        ("cell", True),
        ("turn", False),
        ("mirror", False),
    ]
    route = next(method for method in found["methods"] if method["name"] == "route")
    assert [each["name"] for each in route["params"]][:2] == ["from", "to"]
    for method in found["methods"]:
        for param in method["params"]:
            jsonschema.Draft202012Validator.check_schema(param["schema"])


def test_a_line_refuses_what_nobody_reads_and_lets_answers_wait() -> None:
    async def scenario() -> list[str]:
        line = Line(most=10)
        assert line.put_now("12345")
        assert line.put_now("678901")
        assert not line.put_now("x")
        late = asyncio.create_task(line.put("late"))
        await asyncio.sleep(0)
        assert not late.done()
        got = [await line.get()]
        await late
        got += [await line.get(), await line.get()]
        soon = asyncio.create_task(line.get())
        await asyncio.sleep(0)
        assert line.put_now("soon")
        return [*got, await soon]

    assert asyncio.run(scenario()) == ["12345", "678901", "late", "soon"]


def test_a_bug_is_told_and_the_link_goes_on() -> None:
    told: list[Exception] = []

    async def run(_method: Method, _params: Params) -> Any:
        raise ZeroDivisionError

    found = asyncio.run(
        rpc.answer('{"jsonrpc": "2.0", "id": 1, "method": "links"}', run, told.append)
    )
    assert json.loads(found or "")["error"]["code"] == rpc.INTERNAL
    assert [type(error) for error in told] == [ZeroDivisionError]
