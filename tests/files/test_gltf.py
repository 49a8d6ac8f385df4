"""A level as glTF, read back: every cell, road and structure where it is, with its front outwards."""

import base64
import json
import shutil
import struct
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given, settings

from tests.helpers import patience
from tests.helpers.builders import draw, put
from tests.helpers.depth import examples
from tests.helpers.strategies import plans
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.files.gltf import TooLarge, gltf

SIZES = {"SCALAR": 1, "VEC3": 3}


class Level:
    """The document, as another program reads it."""

    def __init__(self, plan: Plan) -> None:
        self.document = json.loads(gltf(plan))
        uri = self.document["buffers"][0]["uri"]
        self.data = base64.b64decode(uri.partition(",")[2])
        assert len(self.data) == self.document["buffers"][0]["byteLength"]
        self.nodes = {node["name"]: node for node in self.document["nodes"]}
        # All stand on the whole, which lies at the grid's origin.
        (root,) = self.document["scenes"][0]["nodes"]
        self.whole = self.document["nodes"][root]
        assert sorted([*self.whole["children"], root]) == list(range(len(self.document["nodes"])))

    def values(self, number: int) -> Any:
        accessor = self.document["accessors"][number]
        view = self.document["bufferViews"][accessor["bufferView"]]
        letter = {5126: "f", 5125: "I"}[accessor["componentType"]]
        count = accessor["count"] * SIZES[accessor["type"]]
        assert count * 4 == view["byteLength"]
        found = np.array(struct.unpack_from(f"<{count}{letter}", self.data, view["byteOffset"]))
        found = found.reshape(-1, SIZES[accessor["type"]])
        if "min" in accessor:
            npt.assert_allclose(found.min(axis=0), accessor["min"])
            npt.assert_allclose(found.max(axis=0), accessor["max"])
        return found

    def triangles(self, node: dict[str, Any]) -> dict[str, Any]:
        """(N, 3, 3) corners by the material's name, from the grid's origin."""
        found = {}
        for part in self.document["meshes"][node["mesh"]]["primitives"]:
            places = self.values(part["attributes"]["POSITION"]) + node.get(
                "translation", [0, 0, 0]
            )
            corners = self.values(part["indices"]).reshape(-1, 3)
            name = self.document["materials"][part["material"]]["name"]
            found[name] = places[corners]
        return found


def normals(triangles: Any) -> Any:
    found = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    return found / np.linalg.norm(found, axis=1, keepdims=True)


def area(triangles: Any) -> float:
    """Seen from above."""
    a, b, c = (triangles[:, k][:, [0, 2]] for k in range(3))
    u, v = b - a, c - a
    return float(np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum() / 2)


@settings(max_examples=examples(40), deadline=None)
@given(plans(8))
def test_every_cell_and_structure_is_there(plan: Plan) -> None:
    level, spec = Level(plan), plan.spec
    cell = spec.cell_w * spec.cell_h
    ground = level.triangles(level.nodes["Terrain"])
    for code, item in enumerate(plan.terrain_table):
        count = int((plan.terrain == code).sum())
        if count:
            assert area(ground[item.name]) == pytest.approx(count * cell, rel=1e-3)
    assert all((normals(part)[:, 1] > 0).all() for part in ground.values())
    blocks = [node for node in level.document["nodes"] if "extras" in node]
    assert [node["extras"]["structure"] for node in blocks] == plan.register.numbers()
    for node, row in zip(blocks, plan.register, strict=True):
        assert node["name"].startswith(f"S{row.number} ")
        ((_name, walls),) = level.triangles(node).items()
        top = walls[normals(walls)[:, 1] > 0.9]
        assert area(top) == pytest.approx(len(plan.cells_of(row)) * cell, rel=1e-3)
        middle = plan.middle_of(row)
        x0, _y0, z0 = level.whole["translation"]
        x, z = middle.x - x0, (-middle.y if spec.y_up else middle.y) - z0
        around = top.reshape(-1, 3)
        ends = around.min(axis=0), around.max(axis=0)
        scale = max(abs(x), abs(z), spec.cell_w, spec.cell_h, 1e-9 * abs(x0), 1e-9 * abs(z0))
        assert (ends[0][0] + ends[1][0]) / 2 == pytest.approx(x, abs=1e-4 * scale)
        assert (ends[0][2] + ends[1][2]) / 2 == pytest.approx(z, abs=1e-4 * scale)
    json.dumps(level.document, allow_nan=False)


def test_roads_lie_on_the_ground_and_join() -> None:
    plan = draw("....\n====\n....", cell=(24, 24))
    level = Level(plan)
    ((name, road),) = level.triangles(level.nodes[f"Road: {plan.road_table[0].name}"]).items()
    assert name == plan.road_table[0].name
    # From the middle of the first part's edge to the last one's: three arms within, none at the ends.
    half = 0.56 / 2
    wanted = (3 + 2 * half) * 24 * 0.56 * 24
    assert area(road) == pytest.approx(wanted)
    assert (normals(road)[:, 1] > 0).all()
    assert road[..., 1] == pytest.approx(0.02 * 24)


def test_blocks_have_their_fronts_outwards_and_stand_on_the_ground() -> None:
    plan = draw("....\n....", cell=(24, 24))
    plan.heights = np.full((2, 4), 7, np.float32)
    number = put(plan, "hut", 1, 0)
    level = Level(plan)
    node = next(
        n for n in level.document["nodes"] if n.get("extras", {}).get("structure") == number
    )
    ((_name, walls),) = level.triangles(node).items()
    low, high = walls.reshape(-1, 3).min(axis=0), walls.reshape(-1, 3).max(axis=0)
    assert (low[1], high[1]) == (7, pytest.approx(7 + 0.8 * 24))
    outwards = (walls.mean(axis=1) - (low + high) / 2) * normals(walls)
    assert (outwards.sum(axis=1) > 0).all()


def test_the_shipped_valley_passes_the_khronos_validator(tmp_path: Path) -> None:
    (tmp_path / "level.gltf").write_bytes(gltf(open_demo()))
    npm = shutil.which("npm")
    if npm is None:
        pytest.skip("npm is not there")
    done = subprocess.run(
        [npm, "install", "--silent", "--no-fund", "--no-audit", "gltf-validator@2.0.0-dev.3.10"],
        cwd=tmp_path,
        check=False,
        capture_output=True,
        timeout=patience.SECONDS,
    )
    if done.returncode:
        pytest.skip("the validator cannot be had")
    code = (
        "const v = require('gltf-validator'), fs = require('fs');"
        "v.validateBytes(new Uint8Array(fs.readFileSync('level.gltf')))"
        ".then(r => console.log(JSON.stringify(r.issues)));"
    )
    done = subprocess.run(
        ["node", "-e", code],
        cwd=tmp_path,
        check=True,
        capture_output=True,
        timeout=patience.SECONDS,
    )
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"][:5]


def test_a_scene_that_nobody_could_open_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("woven_locus.files.gltf.MOST_CELLS", 3)
    with pytest.raises(TooLarge):
        gltf(draw("...."))
