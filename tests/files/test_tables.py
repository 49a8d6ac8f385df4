"""Catalogues and the register as tables."""

import json
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import KINDS, WHEN, draw, put
from tests.helpers.strategies import kinds
from woven_locus.core.editing import History
from woven_locus.core.edits import many
from woven_locus.core.errors import FileProblem
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.value import replace
from woven_locus.files import catalogue, plan_json, register_csv

HEAD = b"key,name,footprint,price\n"


@given(st.lists(st.integers(0, 99), max_size=3, unique=True), st.data())
def test_kinds_go_there_and_back(keys: list[int], data: st.DataObject) -> None:
    held = Catalogue(data.draw(kinds(f"k{key}")) for key in keys)
    text = catalogue.to_json(held, "coins")
    jsonschema.validate(json.loads(text), catalogue.schema())
    assert catalogue.from_json(text.encode()) == held
    # Blanks around a cell of a table mean nothing.
    stripped = Catalogue(_stripped(kind) for kind in held)
    assert catalogue.from_csv(catalogue.to_csv(held).encode()) == stripped


def _stripped(kind: Kind) -> Kind:
    return replace(kind, name=kind.name.strip())


def test_the_two_schemas_say_the_same_of_a_kind() -> None:
    assert catalogue.schema()["$defs"]["kind"] == plan_json.schema()["$defs"]["kind"]


def test_kinds_come_out_of_a_plan_too(tmp_path: Path) -> None:
    path = tmp_path / "other.plan.json"
    plan_json.save(draw(".."), path)
    assert catalogue.load(path) == KINDS
    renamed = path.rename(tmp_path / "other.json")
    assert catalogue.load(renamed) == KINDS
    for name in ("k.csv", "k.kinds.json"):
        catalogue.save(KINDS, "coins", tmp_path / name)
        assert catalogue.load(tmp_path / name) == KINDS


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "line 1: no column 'key'"),
        (b"key,name\n", "line 1: no column 'footprint'"),
        (b"key,name,footprint,wind\n", "unknown column 'wind'"),
        (HEAD + b"a,A\n", "line 2: does not have 4 columns"),
        (HEAD + b"a,A,#,much\n", "line 2: price is a whole number, not 'much'"),
        (HEAD + b"a,A,#,-5\n", "line 2: kind a: the price must not be negative"),
        (HEAD + b"a,A,,5\n", "line 2: a footprint needs at least one cell"),
        (HEAD + b"a,A," + b"#" * 100_000 + b",5\n", "at most 64 cells a side; this is 100000x1"),
        (HEAD + b"a," + b"A" * 10_240 + b",#,5\n", "a name has up to 120 letters, this has 10,240"),
        (HEAD + b"a b,A,#,5\n", "a letter or digit first"),
        (HEAD + b"a,A,#,5\na,B,#,6\n", "kind 'a' is there twice"),
        (b"key,name,footprint,doors\na,A,##,0 0 east\n", "opens into the structure itself"),
        (b"key,name,footprint,doors\na,A,##,5 5 east\n", "stands on no cell"),
        (b"key,name,footprint,doors\na,A,##,door\n", "column, row and side"),
        (b"key,name,footprint,rules\na,A,##,{\n", "line 2"),
        (b'key,name,footprint,rules\na,A,##,"{""wind"": 3}"\n', "unknown field `wind`"),
        (b"key,name,footprint,art\na,A,##,9by9\n", "width x height"),
        (b"key,name,footprint,mirror\na,A,##,maybe\n", "yes or no"),
        (b"\xff\xfe", "not UTF-8"),
        (b'key,name,footprint\na,"A,##\n', "no CSV"),
    ],
)
def test_a_bad_table_of_kinds_is_refused_with_its_line(data: bytes, words: str) -> None:
    with pytest.raises(FileProblem, match=words) as caught:
        catalogue.from_csv(data, "kinds.csv")
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{", "broken JSON"),
        (b'{"format": "x", "version": 1, "kinds": []}', "this is no catalogue"),
        (b'{"format": "woven-locus/kinds", "version": 9, "kinds": []}', "the file is version 9"),
        (b'{"format": "woven-locus/kinds", "version": 1, "kinds": [{"key": "a"}]}', r"kinds\[0\]"),
    ],
)
def test_a_bad_catalogue_is_refused_with_its_place(data: bytes, words: str) -> None:
    with pytest.raises(FileProblem, match=words):
        catalogue.from_json(data)


def test_the_register_goes_out_and_comes_in(tmp_path: Path) -> None:
    plan = draw("....=\n.....")
    put(plan, "barn", 0, 0, 2)
    put(plan, "hut", 3, 0)
    path = tmp_path / "register.csv"
    register_csv.save(plan, lambda number: number == 2, path)
    lines = path.read_text().splitlines()
    assert lines[0].split(",") == list(register_csv.COLUMNS)
    assert lines[1:] == [
        f"S1,barn,0,0,2,no,6,1.5,1,25,{WHEN},0,no",
        f"S2,hut,3,0,0,no,1,3.5,0.5,10,{WHEN},0,yes",
    ]
    bare = draw("....=\n.....")
    wishes, strange = register_csv.load(path)
    assert strange == []
    edit, refused = many.place_all(bare, wishes, WHEN)
    History(bare).do(edit)
    assert refused == []
    assert list(bare.register) == list(plan.register)


def test_each_line_that_cannot_be_understood_is_named() -> None:
    data = b"kind,col,row,turn\nhut,1,2,0\nhut,one,2,0\nhut,1,2,9\nhut,99999999999,0,0\n"
    wishes, strange = register_csv.parse(data)
    assert [wish.where for wish in wishes] == ["line 2"]
    assert strange == [
        "line 3: col is a whole number, not 'one'",
        "line 4: turn is 0 to 3, not 9",
        "line 5: cell 99999999999, 0 is on no map",
    ]
    with pytest.raises(FileProblem, match="no column 'kind'"):
        register_csv.parse(b"a,b\n1,2\n")
