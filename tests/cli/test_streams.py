"""Standard input and output in place of files, file: URLs, and where a new plan begins."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from tests.helpers import patience
from woven_locus.demo import NAMES, open_demo
from woven_locus.files import plan_json


def piped(*words: object, given: bytes = b"") -> tuple[int, bytes, str]:
    """As a shell runs it."""
    done = subprocess.run(
        [sys.executable, "-m", "woven_locus", *map(str, words)],
        input=given,
        capture_output=True,
        check=False,
        timeout=patience.SECONDS,
    )
    return done.returncode, done.stdout, done.stderr.decode()


def test_a_plan_goes_through_pipes(plan: Path) -> None:
    code, out, err = piped("place", "-", "--kind", "hut", "--cell", "2,-1", given=plan.read_bytes())
    assert (code, json.loads(err)["structure"]) == (0, "S4")
    made = plan_json.parse(out)
    assert made.register[4].cell == (2, -1)
    code, out, err = piped("links", "-", given=out)
    assert (code, err) == (0, "")
    assert "groups" in json.loads(out)
    # Only what is asked for is written: the file is as it was.
    assert 4 not in plan_json.load(plan).register.numbers()


def test_tables_go_through_pipes(plan: Path) -> None:
    code, out, err = piped("export", plan, "--as", "register-csv", "--out", "-")
    assert code == 0
    assert out.splitlines()[0].startswith(b"number,")
    assert json.loads(err)["as"] == "register-csv"
    code, table, _err = piped("export", plan, "--as", "kinds-json", "--out", "/dev/stdout")
    assert code == 0
    again = plan.with_name("again.plan.json")
    code, out, err = piped("import", plan, "-", "--as", "kinds", "--out", again, given=table)
    assert (code, err) == (0, "")
    assert json.loads(out)["kinds"] == [kind.key for kind in plan_json.load(plan).kinds]
    assert again.exists()
    code, out, err = piped("new", "-", "--size", "4x3")
    assert code == 0
    assert plan_json.parse(out).spec.shape == (3, 4)
    assert json.loads(err)["cols"] == 4


def test_what_fails_half_way_writes_nothing_to_standard_output(plan: Path) -> None:
    code, out, err = piped("place", "-", "--kind", "hut", "--cell", "2,-1", given=b"{")
    assert (code, out) == (2, b"")
    assert len(err.splitlines()) == 1


@pytest.mark.parametrize("form", ["file://{}", "file://localhost{}", "file:{}", "FILE://{}"])
def test_a_url_of_a_file_is_the_file(run: Any, plan: Path, form: str) -> None:
    spaced = plan.with_name("to w n.plan.json")
    plan.rename(spaced)
    url = form.format(str(spaced).replace(" ", "%20"))
    assert run("links", url).code == 0
    out = spaced.with_name("out.csv")
    assert run("export", url, "--as", "register-csv", "--out", f"file://{out}").code == 0
    assert out.exists()


@pytest.mark.parametrize("url", ["file://elsewhere/a.plan.json", "file://", "file:a.plan.json"])
def test_a_url_of_another_machine_is_refused(run: Any, url: str) -> None:
    found = run("links", url)
    assert (found.code, found.value) == (2, None)
    assert "names no file of this machine" in found.err


def test_a_demo_is_copied_without_a_window(run: Any, tmp_path: Path) -> None:
    path = tmp_path / "pass.plan.json"
    assert run("demo", "thornmoth", "--copy", path).value == {
        "plan": str(path),
        "name": "Thornmoth Pass",
    }
    assert plan_json.dump(plan_json.load(path)) == plan_json.dump(open_demo(NAMES[1]))
    assert "is there already" in run("demo", "--copy", path).err
    assert run("demo", "--copy", path, "--force").value["name"] == "Selvedge Vale"
    assert run("demo", "nowhere", "--copy", tmp_path / "x.plan.json").code == 2


def test_a_new_plan_begins_with_what_is_asked_for(run: Any, plan: Path, tmp_path: Path) -> None:
    def made(*words: object) -> Any:
        path = tmp_path / "new.plan.json"
        found = run("new", path, "--size", "3x2", "--force", *words)
        assert found.code == 0, found.err
        return plan_json.load(path)

    town = plan_json.load(plan)
    bare = made("--kinds", "none", "--terrain", "none")
    assert (list(bare.kinds), [item.key for item in bare.terrain_table]) == ([], ["ground"])
    like = made("--kinds", plan, "--terrain", plan)
    assert [kind.key for kind in like.kinds] == [kind.key for kind in town.kinds]
    assert list(like.terrain_table) == list(town.terrain_table)
    assert list(like.road_table) == list(town.road_table)
    table = tmp_path / "kinds.csv"
    assert run("export", plan, "--as", "kinds-csv", "--out", table).code == 0
    assert [kind.key for kind in made("--kinds", table).kinds] == [k.key for k in town.kinds]
    assert next(item.key for item in made().terrain_table) == "meadow"
    assert len(list(made("--kinds", "demo").kinds)) > 3
    wrong = run("new", tmp_path / "n.plan.json", "--size", "3x2", "--kinds", tmp_path / "none.csv")
    assert (wrong.code, "none.csv" in wrong.err) == (2, True)
    assert not (tmp_path / "n.plan.json").exists()


def test_options_that_say_nothing_about_it_are_refused(
    run: Any, plan: Path, tmp_path: Path
) -> None:
    table = tmp_path / "kinds.csv"
    run("export", plan, "--as", "kinds-csv", "--out", table)
    before = plan.read_bytes()
    found = run("import", plan, table, "--as", "kinds", "--fit", "low", "--nodata", "0")
    assert found.code == 2
    assert "--fit, --nodata says nothing about kinds" in found.err
    assert plan.read_bytes() == before
    assert run("import", plan, table, "--as", "kinds", "--over").code == 0
    assert run("import", plan, table, "--as", "register-csv", "--demolish").code == 2


def test_a_schema_that_a_document_names_is_kept(run: Any, plan: Path) -> None:
    document = json.loads(plan.read_bytes())
    document = {"$schema": "https://example.org/plan.schema.json", **document}
    plan.write_text(json.dumps(document))
    assert run("place", plan, "--kind", "hut", "--cell", "2,-1").code == 0
    kept = json.loads(plan.read_bytes())
    assert next(iter(kept)) == "$schema"
    assert kept["$schema"] == "https://example.org/plan.schema.json"
    twin = plan_json.load(plan).twin()
    assert twin.schema == kept["$schema"]


def test_help_shows_what_is_taken_without_an_option() -> None:
    code, out, _err = piped("route", "--help")
    assert code == 0
    assert b"[default: roads]" in out
    code, out, err = piped("export")
    assert (code, out) == (2, b"")
    assert len(err.splitlines()) == 1


def test_whoever_writes_makes_the_folder_and_says_where_it_cannot(
    run: Any, plan: Path, tmp_path: Path
) -> None:
    deep = tmp_path / "a" / "b"
    for words in (
        ("export", plan, "--as", "kinds-csv", "--out", deep / "kinds.csv"),
        ("demo", "--copy", deep / "c" / "vale.plan.json"),
        ("new", deep / "d" / "new.plan.json", "--size", "4x4"),
        ("vectors", plan, "--count", "20", "--out", deep / "e" / "vectors.json"),
        ("place", plan, "--kind", "hut", "--cell", "2,2", "--out", deep / "f" / "p.plan.json"),
    ):
        assert run(*words).code == 0, words
    (tmp_path / "file").write_text("")
    said = run("export", plan, "--as", "kinds-csv", "--out", tmp_path / "file" / "x" / "k.csv")
    assert said.code == 2
    assert "its folder cannot be made" in said.err
    assert said.err.count("\n") == 1
