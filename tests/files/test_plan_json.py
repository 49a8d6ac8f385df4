import json
import os
import stat
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw, put
from tests.helpers.random_steps import random_step
from tests.helpers.strategies import plans
from woven_locus.core.editing import History
from woven_locus.core.errors import FileProblem
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.files import atomic, plan_json

SCHEMA = plan_json.schema()


@given(plans(), st.integers(0, 2**32 - 1))
def test_loading_what_was_saved_gives_the_same_bytes(plan: Plan, seed: int) -> None:
    history = History(plan)
    rng = np.random.default_rng(seed)
    for _ in range(8):
        random_step(plan, history, rng)
    saved = plan_json.dump(plan)
    assert plan_json.dump(plan_json.parse(saved)) == saved
    jsonschema.validate(json.loads(saved), SCHEMA)


def test_the_shipped_plan_is_valid_and_in_the_form_that_is_saved() -> None:
    data = plan_json.dump(open_demo())
    jsonschema.validate(json.loads(data), SCHEMA)
    shipped = Path(plan_json.__file__).parents[1] / "demo" / "selvedge-vale.plan.json"
    assert shipped.read_bytes() == data


def test_a_change_is_a_small_difference_in_the_text() -> None:
    plan = draw("....\n....\n....")
    before = plan_json.dump(plan).decode().splitlines()
    put(plan, "hut", 1, 1)
    after = plan_json.dump(plan).decode().splitlines()
    assert len(set(after) - set(before)) <= 4


def test_a_document_of_version_1_is_read_as_it_was() -> None:
    plan = draw("..s\n=o.")
    document = json.loads(plan_json.dump(plan))
    for key in ("window", "heights", "funds", "actor", "barriers"):
        assert document.pop(key) is None
    assert document.pop("gone") == []
    assert document["grid"].pop("y_up") is False
    assert document.pop("signs") is None
    (plain,) = document.pop("road_classes")
    assert (plain["mark"], plain["cost"]) == ("w", 1)
    document["version"] = 1
    jsonschema.validate(document, SCHEMA)
    again = plan_json.parse(json.dumps(document).encode())
    assert plan_json.dump(again) == plan_json.dump(plan)
    assert json.loads(plan_json.dump(again))["version"] == 8


def good() -> dict[str, object]:
    plan = draw("..s\n=o.")
    put(plan, "hut", 0, 0)
    return json.loads(plan_json.dump(plan))  # type: ignore[no-any-return]


def broken(**changes: object) -> bytes:
    return json.dumps({**good(), **changes}).encode()


def without(key: str) -> bytes:
    document = good()
    del document[key]
    return json.dumps(document).encode()


def grid(**changes: object) -> bytes:
    return broken(grid={**good()["grid"], **changes})  # type: ignore[dict-item]


def structure(**changes: object) -> bytes:
    return broken(structures=[{**good()["structures"][0], **changes}])  # type: ignore[index]


CORPUS = {
    "empty": (b"", "is empty"),
    "not JSON": (b"PK\x03\x04", "broken JSON"),
    "cut off": (plan_json.dump(draw("...."))[:300], "broken JSON: .*"),
    "a comma too many": (b'{\n"format": "woven-locus/plan",,\n}', "line 2, column 30: broken JSON"),
    "not UTF-8": (b'{"format": "\xff"}', "line 1, column 13: is not UTF-8"),
    "UTF-16": ('{"format": 1}'.encode("utf-16"), "is not UTF-8"),
    "byte order mark": (b"\xef\xbb\xbf{}", "byte order mark"),
    "a list": (b"[]", "Expected `object`"),
    "another format": (b'{"format": "other", "version": 1}', "this is no plan"),
    "a later version": (broken(version=9), "reads versions 1 to 8, the file is version 9"),
    "a key missing": (without("roads"), "missing required field `roads`"),
    "a key too many": (broken(wind=3), "unknown field `wind`"),
    "a word for a number": (grid(cols="three"), "grid.cols: Expected `int`, got `str`"),
    "half a column": (grid(cols=2.5), "grid.cols: Expected `int`"),
    "no columns": (grid(cols=0), "at least one column"),
    "far too many cells": (grid(cols=60_000, rows=60_000), "the most is"),
    "an endless cell": (broken().replace(b'"cell": [1, 1]', b'"cell": [1e999, 1]'), "cell|range"),
    "a negative cell": (grid(cell=[-1, 1]), "width must be a number above 0"),
    "rows missing": (broken(ground=["3m"]), "ground: has 1 rows, the grid has 2"),
    "a row too long": (broken(ground=["4m", "3m"]), r"ground\[0\]: has 4 cells"),
    "an unknown mark": (broken(roads=["3.", "3q"]), r"roads\[1\]: character 2: 'q' is no mark"),
    "a sign off the road": (
        broken(signs=["3.", ".n."]),
        r"signs\[1\]: a sign stands in column 1, where no road is",
    ),
    "a road class for nothing": (
        broken(road_classes=[{**good()["road_classes"][0], "cost": 0}]),  # type: ignore[index]
        r"road_classes\[0\]: cost must be a number above 0, not 0",
    ),
    "lanes for a crowd": (
        broken(road_classes=[{**good()["road_classes"][0], "lanes": 40}]),  # type: ignore[index]
        r"road_classes\[0\]: lanes must be 1 to 6",
    ),
    "a kind nobody knows": (structure(kind="inn"), r"structures\[0\]: no kind 'inn'"),
    "a place outside": (structure(cell=[7, 0]), r"structures\[0\]: cell 7, 0 is outside"),
    "a cell of an obstacle twice": (
        broken(obstacles=[{**good()["obstacles"][0], "cells": [[1, 1], [1, 1]]}]),  # type: ignore[index]
        r"obstacles\[0\]: cell 1, 1 is there twice",
    ),
    "on an obstacle": (structure(cell=[1, 1]), "already taken by"),
    "on the road": (structure(cell=[0, 1]), "already taken by road"),
    "a turn of five": (structure(turn=5), r"structures\[0\].turn: Invalid enum value 5"),
    "a huge number": (structure(number=10**30), "structures"),
    "a dye by name": (
        broken(terrain=[{**good()["terrain"][0], "dye": "red"}]),  # type: ignore[index]
        r"terrain\[0\]: dye must be #RRGGBB, not 'red'",
    ),
    "a window without cells": (
        broken(window={"low": [0, 0], "cols": 0, "rows": 1}),
        "at least one column and row",
    ),
    "a height too few": (broken(heights=["eJxjAAEAAAIAAQ=="]), "heights: has 1 rows"),
    "heights that are no rows": (broken(heights=[1, 2]), "heights"),
    "an empty footprint": (
        broken(kinds=[{**good()["kinds"][0], "footprint": ["."]}]),  # type: ignore[index]
        r"kinds\[0\]: a footprint needs at least one cell",
    ),
    "a door inside": (
        broken(kinds=[{**good()["kinds"][1], "doors": [[0, 0, "east"]]}]),  # type: ignore[index]
        r"kinds\[0\]: .* opens into the structure itself",
    ),
}


@pytest.mark.parametrize("name", CORPUS)
def test_a_broken_file_is_refused_in_one_line_with_its_place(name: str, tmp_path: Path) -> None:
    data, words = CORPUS[name]
    path = tmp_path / "broken.plan.json"
    path.write_bytes(data)
    with pytest.raises(FileProblem, match=words) as caught:
        plan_json.load(path)
    assert str(path) in str(caught.value)
    assert "\n" not in str(caught.value)


@given(st.data())
def test_any_damage_is_read_or_refused(data: st.DataObject) -> None:
    whole = plan_json.dump(draw("..s\n=o."))
    at = data.draw(st.integers(0, len(whole) - 1))
    damage = data.draw(st.binary(max_size=6))
    try:
        plan = plan_json.parse(whole[:at] + damage + whole[at + len(damage) :])
    except FileProblem:
        return
    assert plan.terrain.shape == plan.spec.shape


def test_crlf_is_read_like_any_white_space() -> None:
    data = plan_json.dump(draw("..s"))
    assert plan_json.dump(plan_json.parse(data.replace(b"\n", b"\r\n"))) == data


def test_files_that_cannot_be_read_say_so(tmp_path: Path) -> None:
    with pytest.raises(FileProblem, match="cannot be read: No such file"):
        plan_json.load(tmp_path / "nothing")
    with pytest.raises(FileProblem, match="is a folder"):
        plan_json.load(tmp_path)


def test_a_failed_write_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "a.plan.json"
    plan_json.save(draw(".."), path)
    before = path.read_bytes()

    def fail(_handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(FileProblem, match="cannot be written: No space left"):
        plan_json.save(draw("ss"), path)
    assert path.read_bytes() == before
    assert os.listdir(tmp_path) == ["a.plan.json"]


def test_a_write_keeps_the_mode_and_follows_a_link(tmp_path: Path) -> None:
    target, link = tmp_path / "real", tmp_path / "link"
    target.write_bytes(b"old")
    target.chmod(0o640)
    link.symlink_to(target)
    atomic.write_bytes(link, b"new")
    assert link.is_symlink()
    assert target.read_bytes() == b"new"
    assert stat.S_IMODE(target.stat().st_mode) == 0o640


def test_a_file_beyond_all_measure_is_not_read(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "large"
    path.write_bytes(b"12345")
    monkeypatch.setattr(atomic, "LARGEST_FILE", 4)
    with pytest.raises(FileProblem, match="is 5 bytes long; the most that is read is 4"):
        plan_json.load(path)
