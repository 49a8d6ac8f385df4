"""The recorded layers as rows of text in the plan document, and what its schema says of them."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan
from woven_locus.core.layers import LAYERS, Layer, Packed, Rows, Tables
from woven_locus.core.plan import Plan
from woven_locus.files import height_rows, runs

TextRows = Sequence[str] | None


def row_keys() -> list[str]:
    """The keys of all layers, in the order of the document."""
    return [form.key for layer in LAYERS for form in _forms(layer)]


def required() -> frozenset[str]:
    """Keys that a document of any version has."""
    return frozenset(
        form.key
        for layer in LAYERS
        for form in _forms(layer)
        if isinstance(form, Rows) and form.required
    )


def encode_beside(plan: Plan) -> Callable[[], dict[str, list[str] | None]]:
    """Begin to write all layers as rows while the caller goes on; call what is returned for them by key, None
    for a layer of which there is nothing."""
    packing = {
        layer.rows.key: height_rows.encode_beside(array)
        for layer in LAYERS
        if isinstance(layer.rows, Packed) and (array := getattr(plan, layer.name)) is not None
    }

    def encoded() -> dict[str, list[str] | None]:
        found: dict[str, list[str] | None] = {}
        for layer in LAYERS:
            if isinstance(layer.rows, Packed):
                wait = packing.get(layer.rows.key)
                found[layer.rows.key] = wait() if wait is not None else None
                continue
            array = getattr(plan, layer.name)
            for form in layer.rows:
                part = (array & np.uint8(form.bits)) >> np.uint8(form.shift)
                some = form.required or part.any()
                found[form.key] = runs.encode(part, list(form.marks(plan))) if some else None
        return found

    return encoded


def decode(rows: Mapping[str, TextRows], tables: Tables) -> dict[str, npt.NDArray[Any] | None]:
    """The layers by name, from their rows by key. Raises BadPlan, naming the key and the row."""
    shape = tables.spec.shape
    unpacking = {
        layer.name: height_rows.decode_beside(lines, shape, layer.rows.key)
        for layer in LAYERS
        if isinstance(layer.rows, Packed) and (lines := rows.get(layer.rows.key)) is not None
    }
    found: dict[str, npt.NDArray[Any] | None] = {}
    for layer in LAYERS:
        found[layer.name] = (
            None if isinstance(layer.rows, Packed) else _decoded(layer.rows, rows, tables)
        )
    return found | {name: wait() for name, wait in unpacking.items()}


def _decoded(
    forms: Sequence[Rows], rows: Mapping[str, TextRows], tables: Tables
) -> npt.NDArray[Any] | None:
    made: npt.NDArray[Any] | None = None
    for form in forms:
        lines = rows.get(form.key)
        if lines is None:
            continue
        part = runs.decode(lines, tables.spec.shape, list(form.marks(tables)), form.key)
        if form.loose and (loose := (part != 0) & (made == 0)).any():
            row, col = np.argwhere(loose)[0]
            raise BadPlan(f"{form.key}[{row}]", form.loose.format(col=col))
        part <<= np.uint8(form.shift)
        made = part if made is None else made | part
    return made


def schema() -> dict[str, Any]:
    """The JSON Schema of each key."""
    found: dict[str, Any] = {}
    for layer in LAYERS:
        for form in _forms(layer):
            if isinstance(form, Packed):
                line = r"^[A-Za-z0-9+/]+={0,2}$"
            else:
                line = f"^([0-9]{{0,8}}[{form.letters}])+$"
            rows: dict[str, Any] = {
                "type": "array",
                "minItems": 1,
                "items": {"type": "string", "pattern": line},
            }
            about = {"description": form.about}
            if isinstance(form, Rows) and form.required:
                found[form.key] = about | rows
            else:
                found[form.key] = about | {"oneOf": [{"type": "null"}, rows]}
    return found


def _forms(layer: Layer) -> tuple[Packed | Rows, ...]:
    return (layer.rows,) if isinstance(layer.rows, Packed) else layer.rows


def _publish() -> None:
    """Write the layers into the published schema."""
    path = Path(__file__).with_name("plan.schema.json")
    whole = json.loads(path.read_text("utf-8"))
    whole["properties"] |= schema()
    path.write_text(json.dumps(whole, indent=2) + "\n", "utf-8")


if __name__ == "__main__":
    _publish()
