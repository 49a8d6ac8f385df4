"""`handover`: source in five languages, which is built here and answers test vectors as the program does."""

import json
import os
import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest

from tests.helpers.builders import draw
from tests.helpers.towns import random_town
from woven_locus.cli.handover_verb import LANGUAGES as OFFERED
from woven_locus.core.handover import LANGUAGES
from woven_locus.core.proof.questions import Ask
from woven_locus.files import plan_json
from woven_locus.files.handover_folder import source_texts
from woven_locus.files.vectors_json import answers_from, compared, vectors_json
from woven_locus.package_data import package_data

EXAMPLES = Path(__file__).parents[2] / "examples"
SEEDS, CASES = range(5), 800


def tool(name: str) -> str:
    found = shutil.which(name)
    if found is None:
        pytest.skip(f"there is no {name} here")
    return found


def runner(language: str, folder: Path) -> list[str]:
    """How the runner in a folder is called, built if it has to be."""
    if language == "cpp":
        flags = "-O1 -Wall -Wextra -Wconversion -Wshadow -Werror"
        build = [tool("make"), "-s", "-j2", f"CXX={tool('g++')}", f"CXXFLAGS={flags}"]
        subprocess.run(build, cwd=folder, check=True)
        return [str(folder / "run")]
    if language == "csharp":
        if shutil.which("dotnet"):
            subprocess.run(LANGUAGES[language].build.split(), cwd=folder, check=True)
            return [str(folder / "out" / "run")]
        sources = ["Run.cs", *(f"Locus/{path.name}" for path in (folder / "Locus").glob("*.cs"))]
        build = [tool("mcs"), "-warnaserror", "-out:run.exe", *sources]
        subprocess.run(build, cwd=folder, check=True, capture_output=True)
        return [tool("mono"), str(folder / "run.exe")]
    program, script = LANGUAGES[language].run.split()
    return [tool(program), str(folder / script)]


def call(command: list[str], *words: object) -> subprocess.CompletedProcess[bytes]:
    quiet = os.environ | {"PYTHONDONTWRITEBYTECODE": "1"}
    return subprocess.run([*command, *map(str, words)], capture_output=True, check=False, env=quiet)


@pytest.fixture(scope="session")
def towns(tmp_path_factory: pytest.TempPathFactory) -> list[tuple[Path, Path]]:
    """Files of plans and of their vectors."""
    folder = tmp_path_factory.mktemp("towns")
    found = []
    for seed in SEEDS:
        path, cases = folder / f"{seed}.plan.json", folder / f"{seed}.json"
        plan_json.save(random_town(seed), path)
        cases.write_text(json.dumps(vectors_json(plan_json.load(path), seed, CASES)))
        found.append((path, cases))
    return found


def test_the_towns_ask_after_everything(towns: list[tuple[Path, Path]]) -> None:
    """Otherwise agreeing would say little."""
    reasons: set[str] = set()
    asked, found = set(), set()
    for _plan, vectors in towns:
        for case in json.loads(vectors.read_text())["cases"]:
            asked.add(case["ask"])
            reasons.update(case["expected"].get("reasons", ()))
            if "found" in case["expected"]:
                found.add((case["ask"], case["expected"]["found"]))
    assert asked == {str(ask) for ask in Ask}
    assert found == {(ask, there) for ask in ("route", "lane") for there in (True, False)}
    words = "outside terrain reserved obstacle occupied road barrier slope support clearance"
    assert reasons == {*words.split(), *["lattice", "reach", "access", "seals", "limit", "funds"]}


@pytest.mark.parametrize("language", LANGUAGES)
def test_it_answers_as_the_program_does(
    language: str, towns: list[tuple[Path, Path]], tmp_path: Path, run: Any
) -> None:
    answer = run("handover", towns[0][0], "--language", language, "--out", tmp_path / "game")
    assert (answer.code, answer.err) == (0, "")
    command = runner(language, tmp_path / "game")
    for plan, vectors in towns:
        got = call(command, plan, vectors)
        assert (got.returncode, got.stderr) == (0, b"")
        said = compared(json.loads(vectors.read_text())["cases"], answers_from(got.stdout, "it"))
        assert said["differ"] == said["missing"] == []
        assert said["right"] == CASES
    _refuses_bad_input(command, *towns[0], tmp_path)


def case(ask: str, ends: dict[str, str] | None = None, **given: object) -> dict[str, object]:
    return {"cases": [{"id": 0, "ask": ask, "given": given | (ends or {})}]}


def bad_line(got: subprocess.CompletedProcess[bytes], path: Path) -> None:
    assert (got.returncode, got.stdout) == (2, b"")
    (line,) = got.stderr.decode().splitlines()
    assert line.startswith(str(path)), line
    assert "Traceback" not in line


def _refuses_bad_input(command: list[str], plan: Path, vectors: Path, tmp_path: Path) -> None:
    document = json.loads(plan.read_text())
    bad = tmp_path / "bad.json"
    for text in (
        plan.read_text()[:200],
        "[]",
        json.dumps(document | {"version": 99}),
        json.dumps(document | {"ground": document["ground"][:-1]}),
        json.dumps(document | {"heights": ["eJwDAAAAAAE="] * len(document["ground"])}),
    ):
        bad.write_text(text)
        bad_line(call(command, bad, vectors), bad)
    bad.write_text('{"cases": [{"id": 0, "ask": "probe"')
    bad_line(call(command, plan, bad), bad)
    bad.write_text(json.dumps(case("probe", kind="none", cell=[1, 1], turn=0)))
    bad_line(call(command, plan, bad), bad)
    bad.write_text(json.dumps(case("route", {"from": "S999", "to": "S999"}, over="roads", moves=4)))
    bad_line(call(command, plan, bad), bad)
    assert call(command, plan).returncode == 2
    assert call(command, tmp_path / "none.json", vectors).returncode == 2


def test_what_somebody_changed_is_not_written_over(plan: Path, tmp_path: Path, run: Any) -> None:
    words = ("handover", plan, "--language", "lua", "--out", tmp_path / "game")
    assert run(*words).value["language"] == "lua"
    assert run(*words).code == 0  # the same again
    changed = tmp_path / "game" / "run.lua"
    changed.write_text("-- mine\n")
    (tmp_path / "game" / "README.md").unlink()
    refused = run(*words)
    assert refused.code == 2
    assert "run.lua: is there already" in refused.err
    assert changed.read_text() == "-- mine\n"
    assert not (tmp_path / "game" / "README.md").exists()  # nothing was written
    assert run(*words, "--force").code == 0
    assert changed.read_text() != "-- mine\n"
    assert (tmp_path / "game" / "README.md").read_text().startswith("# The rules of")


def test_a_language_that_is_not_there_is_refused(plan: Path, tmp_path: Path, run: Any) -> None:
    assert tuple(OFFERED) == tuple(LANGUAGES)
    refused = run("handover", plan, "--language", "cobol", "--out", tmp_path / "game")
    assert refused.code == 2
    assert "'python', 'javascript', 'csharp', 'cpp', 'lua'" in refused.err
    assert run("handover", plan, "--language", "lua", "--out", plan).code == 2


@pytest.mark.parametrize("language", LANGUAGES)
def test_nothing_is_left_to_fill_in(language: str, plan: Path) -> None:
    loaded = plan_json.load(plan)
    for name, text in source_texts(loaded, LANGUAGES[language], "odd name.plan.json").items():
        assert not {"{=", "=}", "{%", "%}"} & set(text.split()), name
        assert "Made by Woven Locus" in text or name.startswith("locus/")
        assert text.endswith("\n")
    readme = source_texts(loaded, LANGUAGES[language], "odd name.plan.json")["README.md"]
    assert loaded.name in readme
    assert "odd name.plan.json" in readme
    # A plan with nothing in it has examples, too.
    bare = source_texts(draw("..\n.."), LANGUAGES[language], "bare.plan.json")["README.md"]
    assert "0, 0" in bare


def test_the_examples_say_the_same(tmp_path: Path, run: Any) -> None:
    plan = tmp_path / "vale.plan.json"
    plan.write_bytes(package_data("woven_locus.demo", "selvedge-vale.plan.json"))
    said = []
    for language, program in (("python", "python3"), ("lua", "lua5.4")):
        if shutil.which(program):
            out = tmp_path / language
            assert run("handover", plan, "--language", language, "--out", out).code == 0
            ending = Path(LANGUAGES[language].run).suffix
            got = call([program, str(EXAMPLES / f"valley{ending}")], out, plan)
            assert (got.returncode, got.stderr) == (0, b"")
            said.append(got.stdout.decode())
    assert len(set(said)) == 1
    first, again, to, *frames = said[0].splitlines()
    assert first.startswith("Spring house 16 at ")
    assert again == "once more there: occupied"
    steps = int(frames[0].split("of ")[1].split(",")[0])
    assert to.endswith(f": {24 * steps} units by road")
    # The first frame has the walker at the door, the last one has come all the way.
    assert said[0].count("@") == 1 + -(-steps // 12)
    assert frames[0].startswith("step 0 of ")
    assert f"step {steps} of {steps}, at" in said[0]
