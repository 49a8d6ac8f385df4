"""`proof`: findings for people and for build servers."""

import json
from pathlib import Path
from xml.etree import ElementTree as ET

import jsonschema
import pytest

from tests.cli.conftest import Answer
from tests.helpers.builders import draw, put
from woven_locus.cli.main import main
from woven_locus.core.accepted import Accepted
from woven_locus.core.geometry import Cell
from woven_locus.core.proof.table import CHECKS, prove
from woven_locus.files import plan_json
from woven_locus.files.proof_json import proof_json

SARIF = json.loads((Path(__file__).parents[1] / "schemas" / "sarif-2.1.0.json").read_text("utf-8"))


@pytest.fixture
def sound(tmp_path: Path) -> Path:
    path = tmp_path / "levels" / "sound.plan.json"
    path.parent.mkdir()
    level = draw("......\n======\n......")
    put(level, "hut", 0, 0)
    put(level, "hut", 5, 2)
    level.accepted = (Accepted("weak", "No <other> way & that is meant", Cell(0, 1)),)
    plan_json.save(level, path)
    return path


def test_one_plan_says_what_is_wrong_where_and_of_what(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    got: Answer = run("proof", plan)
    loaded = plan_json.load(plan)
    assert got.value == proof_json(prove(loaded))
    assert got.code == 0
    by_code = {item["code"]: item for item in got.value["findings"]}
    cut = by_code["cut-off"]
    assert (cut["severity"], cut["structure"], cut["cell"]) == ("warning", "S3", [0, 2])
    assert by_code["near-miss"]["mend"] == "lay 1, 1"
    assert got.value["counts"] == {
        name: sum(item["severity"] == name for item in got.value["findings"])
        for name in ("error", "warning", "note")
    }
    assert run("proof", plan, "--strict").code == 1
    only = run("proof", plan, "--only", "cut-off, near-miss", "--strict")
    assert {item["code"] for item in only.value["findings"]} == {"cut-off", "near-miss"}
    assert run("proof", plan, "--only", "dead-end", "--strict").code == 0


def test_what_is_accepted_is_kept_apart(run, sound: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("proof", sound, "--strict")
    assert got.code == 0
    # The road's ends are in front of doors; each of its cells is weak, and the first is accepted.
    assert [item["code"] for item in got.value["findings"]] == ["weak", "weak"]
    (taken,) = got.value["accepted"]
    assert (taken["cell"], taken["reason"]) == ([0, 1], "No <other> way & that is meant")


def test_folders_and_several_plans_in_one_answer(run, plan: Path, sound: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("proof", plan, sound.parent)
    assert [Path(item["plan"]) for item in got.value["plans"]] == [plan, sound]
    assert [item["counts"]["warning"] > 0 for item in got.value["plans"]] == [True, False]
    assert run("proof", sound.parent).value["plans"][0]["findings"]
    empty = sound.parent / "empty"
    empty.mkdir()
    bad = run("proof", empty)
    assert (bad.code, bad.err.strip()) == (2, f"{empty}: there is no *.plan.json in this folder")


def test_many_plans_over_several_processes(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    many = tmp_path / "many"
    many.mkdir()
    for at in range(20):
        (many / f"{at:02}.plan.json").write_bytes(plan.read_bytes())
    got = run("proof", many)
    alone = run("proof", plan).value
    assert len(got.value["plans"]) == 20
    for at, item in enumerate(got.value["plans"]):
        assert item.pop("plan") == str(many / f"{at:02}.plan.json")
        assert item == alone
    # One that cannot be read does not keep the others from being proved.
    (many / "05.plan.json").write_text("{")
    got = run("proof", many)
    assert got.code == 2
    assert got.err.count("\n") == 1
    assert "05.plan.json" in got.err
    (bad,) = [item for item in got.value["plans"] if item["findings"][0]["code"] == "unreadable"]
    assert bad["counts"] == {"error": 1, "warning": 0, "note": 0}


def test_junit_has_a_case_for_each_check(capsys, plan: Path, sound: Path) -> None:  # type: ignore[no-untyped-def]
    def suites(*more: str) -> list[ET.Element]:
        main(["proof", str(plan), str(sound), "--as", "junit", *more])
        root = ET.fromstring(capsys.readouterr().out)
        assert root.tag == "testsuites"
        for suite in root:
            cases = suite.findall("testcase")
            assert int(suite.get("tests", "")) == len(cases) >= len(CHECKS)
            assert int(suite.get("failures", "")) == len(suite.findall("testcase/failure"))
        return list(root)

    town, level = suites()
    assert [suite.get("failures") for suite in (town, level)] == ["0", "0"]
    (cut,) = [case for case in town if case.get("name") == "cut-off: Cut off"]
    assert "S3 Hut reaches no other" in (cut.findtext("system-out") or "")
    town, level = suites("--strict")
    assert [suite.get("failures") for suite in (town, level)] == ["2", "0"]
    failures = [case.findtext("failure") or "" for case in town.findall("testcase")]
    assert any("S3 Hut reaches no other" in text for text in failures)
    (weak,) = [case for case in level if case.get("name") == "weak: Weak point"]
    assert "No <other> way & that is meant" in (weak.findtext("system-out") or "")


def test_sarif_is_valid_and_says_the_same(run, plan: Path, sound: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("proof", plan, sound, "--as", "sarif").value
    jsonschema.validate(got, SARIF)
    (one,) = got["runs"]
    rules = one["tool"]["driver"]["rules"]
    found = run("proof", plan, sound).value["plans"]
    every = [item for each in found for item in (*each["findings"], *each["accepted"])]
    assert len(one["results"]) == len(every)
    for result, item in zip(one["results"], every, strict=True):
        assert (result["ruleId"], result["level"]) == (item["code"], item["severity"])
        assert rules[result["ruleIndex"]]["id"] == item["code"]
    (taken,) = [result for result in one["results"] if "suppressions" in result]
    assert taken["suppressions"][0]["justification"] == "No <other> way & that is meant"


def test_text_is_one_line_a_finding(capsys, plan: Path, sound: Path) -> None:  # type: ignore[no-untyped-def]
    main(["proof", str(plan), str(sound), "--as", "text"])
    lines = capsys.readouterr().out.splitlines()
    assert lines[0].startswith(f"{plan}: 2 warnings")
    assert "  warning cut-off at 0, 2: S3 Hut reaches no other structure by road" in lines
    assert any(line.startswith("  accepted note weak at ") for line in lines)


def test_bad_questions_are_one_line(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    assert run("proof").code == 2
    bad = run("proof", plan, "--only", "seal")
    assert bad.code == 2
    assert bad.err.startswith("no finding 'seal'; there is occupancy, unsound")
    assert "is not in the range" in run("proof", plan, "--traffic", "-3").err
    gone = run("proof", tmp_path / "gone.plan.json")
    assert (gone.code, gone.value) == (2, None)
    assert "gone.plan.json" in gone.err


def test_traffic_is_let_pass_where_it_is_asked_for(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    from woven_locus.core.vehicles import TrafficPlan, Trip

    town = plan_json.load(plan)
    town.traffic = TrafficPlan(trips=(Trip(1, 2, 0.0, "", 0.1, 300),))
    plan_json.save(town, plan)
    codes = [item["code"] for item in run("proof", plan).value["findings"]]
    assert "held-back" not in codes
    got = run("proof", plan, "--traffic", "10", "--only", "held-back,gridlock,overlap")
    assert [item["code"] for item in got.value["findings"]] == ["held-back"]


def test_the_findings_as_files_for_build_servers(run, sound: Path) -> None:  # type: ignore[no-untyped-def]
    for form, words in (("junit", "<testsuites"), ("sarif", '"version": "2.1.0"')):
        out = sound.with_name(f"found.{form}")
        assert run("export", sound, "--as", f"findings-{form}", "--out", out).code == 0
        text = out.read_text("utf-8")
        assert words in text
        assert sound.name in text
    printed = run("proof", sound, "--as", "sarif").value
    assert json.loads(out.read_text("utf-8")) == printed


def test_the_findings_as_a_table(run, plan: Path, sound: Path) -> None:  # type: ignore[no-untyped-def]
    import csv

    out = plan.with_name("findings.csv")
    assert run("export", sound, "--as", "findings-csv", "--out", out).code == 0
    with out.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    found = run("proof", sound).value
    assert [row["code"] for row in rows] == [
        item["code"] for item in (*found["findings"], *found["accepted"])
    ]
    assert rows[-1]["accepted"] == "No <other> way & that is meant"
    assert (rows[-1]["col"], rows[-1]["row"]) == ("0", "1")
