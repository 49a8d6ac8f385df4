"""What the window hands to the clipboard, without a window."""

import numpy as np

from tests.helpers.builders import draw
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec, SnapSettings
from woven_locus.core.grid.snap_study import standard_places, study, worked
from woven_locus.core.placing import judge
from woven_locus.files.study_tables import profile_csv, snap_cases_csv
from woven_locus.files.verdict_json import verdict_json


def test_a_profile_leaves_unknown_heights_empty() -> None:
    text = profile_csv(np.array([0.0, 2.5, 5.0]), np.array([1.25, np.nan, -3.0]))
    assert text == "distance,height\n0.0,1.25\n2.5,\n5.0,-3.0\n"


def test_worked_cases_have_a_column_a_curve_and_say_what_differs() -> None:
    made = study(GridSpec(8, 8, 3.0, 3.0), SnapSettings(), "x")
    cases = worked(made, standard_places(made))
    lines = snap_cases_csv(made, cases).splitlines()
    head = lines[0].split(",")
    assert head[0] == "raw"
    assert head[1:-2] == [curve.key for curve in made.curves]
    assert len(lines) == 1 + len(cases)
    assert any(line.rsplit(",", 1)[1] for line in lines[1:])
    assert float(lines[1].split(",")[0]) == cases[0].raw


def test_a_verdict_as_json_has_its_fixed_form() -> None:
    plan = draw(".bo\n...")
    said = verdict_json(judge(plan, plan.kinds["barn"], Cell(0, 0), 0))
    assert said["ok"] is False
    assert said["reasons"] == ["terrain", "obstacle"]
    assert said["cells"][1] == {"cell": [1, 0], "ok": False, "reasons": ["terrain"]}  # type: ignore[index]
    assert said["blockers"] == [
        {"what": "terrain", "name": "Bog", "id": None},
        {"what": "obstacle", "name": "Stone 1", "id": "O1"},
    ]
    assert said["words"] == "Bog cannot be built on; Stone 1 in the way"
    free = verdict_json(judge(plan, plan.kinds["hut"], Cell(0, 1), 0))
    assert (free["ok"], free["words"], free["reasons"]) == (True, "", [])
