"""The source that is handed over: how long its runner takes for test vectors, beside our core."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.table import Row, seconds
from benchmarks.towns import town
from woven_locus.core.handover import LANGUAGES
from woven_locus.files import plan_json
from woven_locus.files.handover_folder import source_texts, write_folder
from woven_locus.files.vectors_json import vectors_json

_RUNS = 2


def rows(side: int, structures: int, count: int) -> list[Row]:
    """A row for each language that has its tools here: whole processes, reading included; ours is the core alone."""
    made = []
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        path, cases = folder / "town.plan.json", folder / "cases.json"
        plan_json.save(town(side, structures), path)
        ours = []
        for _ in range(_RUNS):
            plan = plan_json.load(path)
            start = time.perf_counter()
            found = vectors_json(plan, 0, count)
            ours.append(time.perf_counter() - start)
        cases.write_text(json.dumps(found))
        for key, language in LANGUAGES.items():
            write_folder(folder / key, source_texts(plan, language, path.name))
            command = _built(key, folder / key)
            if command is None:
                continue
            spent = []
            for _ in range(_RUNS):
                start = time.perf_counter()
                subprocess.run([*command, path, cases], stdout=subprocess.DEVNULL, check=True)
                spent.append(time.perf_counter() - start)
            took, core = min(spent), min(ours)
            case = (
                f"{count:,} test vectors in {language.name}, a town of {side}², reading it included"
            )
            reference = f"{seconds(core)} (our core)"
            made.append(
                Row("handover", case, seconds(took), reference, took / core, "information", True)
            )
    return made


def _built(key: str, folder: Path) -> list[str] | None:
    """The command of a runner; None without its tools."""
    if key == "cpp":
        if not shutil.which("g++"):
            return None
        subprocess.run(["make", "-s", "-j2"], cwd=folder, check=True)
        return [str(folder / "run")]
    if key == "csharp":
        if not shutil.which("mcs"):
            return None
        sources = ["Run.cs", *(f"Locus/{path.name}" for path in (folder / "Locus").glob("*.cs"))]
        subprocess.run(["mcs", "-optimize+", "-out:run.exe", *sources], cwd=folder, check=True)
        return ["mono", str(folder / "run.exe")]
    program, script = LANGUAGES[key].run.split()
    if key == "python":
        program = sys.executable
    return [program, str(folder / script)] if shutil.which(program) else None
