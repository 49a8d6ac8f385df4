"""A level to walk through: glTF 2.0 (ISO/IEC 12113), one file, y up, one unit a world unit.

x is the world's x; z is its y where that grows down the screen, else the other way round, so that the map lies as on screen
seen from above. Terrain is one mesh with a part a class; structures are blocks, a node each, with their id as name; roads are
ribbons that lie on the ground.
"""

from __future__ import annotations

import base64
import json
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import WovenError
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.render.palette import rgb
from woven_locus.core.value import Record, field
from woven_locus.core.ways.roads import CLASS_BITS
from woven_locus.version import __version__

MOST_CELLS = 4_000_000
# As parts of a cell's shorter side: how high a structure is, how wide a road, how far it lies above the ground.
_TALL, _ROAD, _ABOVE = 0.8, 0.56, 0.02
_FLOAT, _UINT, _TRIANGLES = 5126, 5125, 4
_VERTICES, _INDICES = 34962, 34963
Floats = npt.NDArray[np.float64]


class TooLarge(WovenError):
    """A scene of more cells than one file should hold."""


class _Scene(Record):
    """The parts of a document while it is put together."""

    views: list[dict[str, Any]] = field(default_factory=list)
    accessors: list[dict[str, Any]] = field(default_factory=list)
    materials: list[dict[str, Any]] = field(default_factory=list)
    meshes: list[dict[str, Any]] = field(default_factory=list)
    nodes: list[dict[str, Any]] = field(default_factory=list)
    data: bytearray = field(default_factory=bytearray)

    def points(self, places: Floats) -> int:
        """(N, 3) as vertices; the number of the accessor."""
        values = np.ascontiguousarray(places, "<f4")
        ends = {"min": values.min(axis=0).tolist(), "max": values.max(axis=0).tolist()}
        return self._accessor(values.tobytes(), _VERTICES, _FLOAT, len(values), "VEC3", ends)

    def triangles(self, corners: npt.NDArray[np.integer]) -> int:
        """(N, 3) numbers of vertices; the number of the accessor."""
        values = np.ascontiguousarray(corners, "<u4").ravel()
        return self._accessor(values.tobytes(), _INDICES, _UINT, len(values), "SCALAR", {})

    def _accessor(
        self, data: bytes, target: int, kind: int, count: int, sort: str, more: dict[str, Any]
    ) -> int:
        self.views.append(
            {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(data), "target": target}
        )
        self.data += data
        found = {"bufferView": len(self.views) - 1, "componentType": kind}
        self.accessors.append(found | {"count": count, "type": sort} | more)
        return len(self.accessors) - 1

    def material(self, name: str, dye: str) -> int:
        """A matt colour; glTF has it linear, a dye is sRGB (IEC 61966-2-1)."""
        parts = np.array(rgb(dye)) / 255
        linear = np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)
        look: dict[str, Any] = {"metallicFactor": 0.0, "roughnessFactor": 1.0}
        look["baseColorFactor"] = [*map(float, linear.round(6)), 1.0]
        self.materials.append({"name": name, "pbrMetallicRoughness": look, "doubleSided": True})
        return len(self.materials) - 1

    def mesh(self, name: str, parts: list[tuple[int, int, int]]) -> int:
        """parts : (vertices, triangles, material) of each."""
        primitives = [
            {
                "attributes": {"POSITION": at},
                "indices": corners,
                "material": look,
                "mode": _TRIANGLES,
            }
            for at, corners, look in parts
        ]
        self.meshes.append({"name": name, "primitives": primitives})
        return len(self.meshes) - 1

    def node(self, name: str, mesh: int, **more: Any) -> None:
        self.nodes.append({"name": name, "mesh": mesh} | more)


def gltf(plan: Plan) -> bytes:
    """The document. Raises TooLarge."""
    spec = plan.spec
    if spec.cols * spec.rows > MOST_CELLS:
        raise TooLarge(
            f"{spec.cols:,} × {spec.rows:,} cells are more than {MOST_CELLS:,}, which one scene may have"
        )
    scene, ground = _Scene(), _Ground(plan)
    _terrain(scene, plan, ground)
    _roads(scene, plan, ground)
    _structures(scene, plan, ground)
    document: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": f"Woven Locus {__version__}"},
        "scene": 0,
        "scenes": [{"name": plan.name, "nodes": [len(scene.nodes)]}],
    }
    origin = [spec.origin_x, 0.0, -spec.origin_y if spec.y_up else spec.origin_y]
    whole = {"name": plan.name, "children": list(range(len(scene.nodes))), "translation": origin}
    scene.nodes.append(whole)
    for key in ("nodes", "meshes", "materials", "accessors"):
        document[key] = getattr(scene, key)
    data = base64.b64encode(bytes(scene.data)).decode("ascii")
    document["bufferViews"] = scene.views
    document["buffers"] = [
        {"byteLength": len(scene.data), "uri": f"data:application/octet-stream;base64,{data}"}
    ]
    return json.dumps(document, ensure_ascii=False).encode("utf-8")


class _Ground:
    """corners : (rows + 1, cols + 1) heights where cells meet: the mean of the known ones around, 0 without any."""

    def __init__(self, plan: Plan) -> None:
        spec = self._spec = plan.spec
        self.corners = np.zeros((spec.rows + 1, spec.cols + 1))
        if plan.heights is not None:
            known = np.isfinite(plan.heights)
            values = np.pad(np.where(known, plan.heights, 0).astype(np.float64), 1)
            counts = np.pad(known.astype(np.float64), 1)
            sums, total = (
                a[:-1, :-1] + a[1:, :-1] + a[:-1, 1:] + a[1:, 1:] for a in (values, counts)
            )
            self.corners = np.divide(sums, total, out=self.corners, where=total > 0)

    def places(self, slots: Floats, above: float = 0.0) -> Floats:
        """(N, 3) of (row, col) between the corners of the grid, (N, 2), lying on the ground; from the grid's origin, so that a
        far one costs no digits."""
        spec = self._spec
        rows, cols = slots[:, 0], slots[:, 1]
        r = np.clip(np.floor(rows).astype(np.int64), 0, spec.rows - 1)
        c = np.clip(np.floor(cols).astype(np.int64), 0, spec.cols - 1)
        down, across = rows - r, cols - c
        low = self.corners[r, c] * (1 - across) + self.corners[r, c + 1] * across
        high = self.corners[r + 1, c] * (1 - across) + self.corners[r + 1, c + 1] * across
        y = low * (1 - down) + high * down + above
        z = rows * spec.cell_h
        return np.stack([cols * spec.cell_w, y, -z if spec.y_up else z], axis=1)


def _terrain(scene: _Scene, plan: Plan, ground: _Ground) -> None:
    """All corners once, and for each class the triangles of its cells."""
    tall, wide = ground.corners.shape
    rows, cols = np.mgrid[0:tall, 0:wide]
    slots = np.stack([rows.ravel(), cols.ravel()], axis=1).astype(np.float64)
    at = scene.points(ground.places(slots))
    parts = []
    for code, item in enumerate(plan.terrain_table):
        r, c = np.nonzero(plan.terrain == code)
        if not len(r):
            continue
        first = r * wide + c
        corners = np.stack(
            [first, first + wide, first + 1, first + 1, first + wide, first + wide + 1]
        )
        look = scene.material(item.name, item.dye)
        parts.append((at, scene.triangles(_wound(corners.T.reshape(-1, 3), plan)), look))
    scene.node("Terrain", scene.mesh("Terrain", parts))


def _wound(corners: npt.NDArray[np.integer], plan: Plan) -> npt.NDArray[np.integer]:
    """Triangles with their front up, whichever way rows grow."""
    return corners[:, ::-1] if plan.spec.y_up else corners


def _roads(scene: _Scene, plan: Plan, ground: _Ground) -> None:
    """For each class a middle for each cell and an arm to each neighbour that is road."""
    road = plan.road != 0
    padded = np.pad(road, 1)
    half = _ROAD / 2
    # (rows, cols) of two corners of a part of the cell, and which neighbour it needs.
    shapes: tuple[tuple[float, float, float, float, tuple[int, int]], ...] = (
        (-half, -half, half, half, (0, 0)),
        (-0.5, -half, -half, half, (-1, 0)),
        (half, -half, 0.5, half, (1, 0)),
        (-half, -0.5, half, -half, (0, -1)),
        (-half, half, half, 0.5, (0, 1)),
    )
    above = _ABOVE * min(plan.spec.cell_w, plan.spec.cell_h)
    for code, item in enumerate(plan.road_table, 1):
        mine = (plan.road & np.uint8(CLASS_BITS)) == code
        if not mine.any():
            continue
        slots = []
        for r0, c0, r1, c1, (down, across) in shapes:
            there = padded[
                1 + down : 1 + down + road.shape[0], 1 + across : 1 + across + road.shape[1]
            ]
            rows, cols = np.nonzero(mine & there)
            around = ((r0, c0), (r1, c0), (r0, c1), (r1, c1))
            slots.append(
                np.stack(
                    [np.stack([rows + 0.5 + r, cols + 0.5 + c], axis=1) for r, c in around], axis=1
                )
            )
        quads = np.concatenate(slots)
        first = 4 * np.arange(len(quads))[:, None]
        corners = (first + np.array([[0, 1, 2, 2, 1, 3]])).reshape(-1, 3)
        at = scene.points(ground.places(quads.reshape(-1, 2), above))
        look = scene.material(item.name, item.dye)
        name = f"Road: {item.name}"
        scene.node(name, scene.mesh(name, [(at, scene.triangles(_wound(corners, plan)), look)]))


# The corners of a block, (row, col, up), and its faces but the one below, outwards where rows grow towards the viewer.
_BLOCK = np.array([(r, c, u) for u in (0, 1) for r in (0, 1) for c in (0, 1)], np.float64)
_FACES = np.array(
    [
        *((4, 6, 5), (5, 6, 7)),  # above
        *((2, 3, 6), (3, 7, 6)),  # towards higher rows
        *((1, 0, 4), (1, 4, 5)),  # towards lower rows
        *((3, 1, 7), (1, 5, 7)),  # towards higher columns
        *((0, 2, 4), (2, 6, 4)),  # towards lower columns
    ]
)


def _structures(scene: _Scene, plan: Plan, ground: _Ground) -> None:
    """A mesh for each kind and turn, a node for each structure, standing on the highest of its ground."""
    spec = plan.spec
    tall = _TALL * min(spec.cell_w, spec.cell_h)
    looks: dict[str, int] = {}
    meshes: dict[tuple[str, int], int] = {}
    for row in plan.register:
        kind = plan.kinds[row.kind]
        footprint = plan.footprint_of(row)
        if (row.kind, row.turn) not in meshes:
            if row.kind not in looks:
                looks[row.kind] = scene.material(kind.name, kind.dye)
            cells = np.array(footprint.cells, np.float64)[:, ::-1]
            block = _BLOCK[None] + np.pad(cells, ((0, 0), (0, 1)))[:, None]
            block = block.reshape(-1, 3)
            z = block[:, 0] * spec.cell_h * (-1 if spec.y_up else 1)
            places = np.stack([block[:, 1] * spec.cell_w, block[:, 2] * tall, z], axis=1)
            faces = (8 * np.arange(len(cells))[:, None, None] + _FACES).reshape(-1, 3)
            part = (scene.points(places), scene.triangles(_wound(faces, plan)), looks[row.kind])
            meshes[row.kind, row.turn] = scene.mesh(kind.name, [part])
        box = plan.box_of(row)
        base = float(ground.corners[box.r0 : box.r1 + 1, box.c0 : box.c1 + 1].max())
        (place,) = ground.places(np.array([[box.r0, box.c0]], np.float64)).tolist()
        name = f"{structure_id(row.number)} {kind.name}"
        scene.node(
            name,
            meshes[row.kind, row.turn],
            translation=[place[0], base, place[2]],
            extras={"structure": row.number, "kind": row.kind},
        )
