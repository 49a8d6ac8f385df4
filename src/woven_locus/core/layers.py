"""The recorded layers of a plan: one row each, with all that the rest of the house has to know of a layer.

`Plan`, the edits, the reader, the writer, its schema, the journal, another grid, and the tests' strategies go
through this table. A layer that is added here is saved, read, undone, copied and carried to another grid.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from woven_locus.core.errors import BadPlan
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import TerrainTable
from woven_locus.core.phrase import mark, phrase
from woven_locus.core.value import Value
from woven_locus.core.ways.roads import CLASS_BITS, SIGN_SHIFT, RoadTable


class Tables(Protocol):
    """What the codes of layers refer to: a plan, or what is known of one while it is read."""

    spec: GridSpec
    terrain_table: TerrainTable
    road_table: RoadTable


class Cells(Tables, Protocol):
    """What is recorded and derived cell by cell, as rules and derivations read it: a plan."""

    window: BuildWindow | None
    terrain: npt.NDArray[np.uint8]
    reserved: npt.NDArray[np.uint8]
    road: npt.NDArray[np.uint8]
    barrier: npt.NDArray[np.uint8]
    occupant: npt.NDArray[np.int32]
    blocks: npt.NDArray[np.uint8]
    movement: npt.NDArray[np.uint8]


class Rows(Value):
    """How a byte layer, or some bits of it, stands in the document: a row of text for each row of the map,
    runs of one letter for each code (see `files.runs`).

    key : in the document.  marks : (tables) -> a letter or dot for each code, from 0 on.
    letters : the letters that are possible, as in a regular expression.  about : for the schema.
    bits, shift : the bits of the byte that this is, and by how much they are shifted.
    required : from the first version of the document on; otherwise null, or left out, is all 0.
    loose : of bits that need the first rows' bits: what is wrong where these are 0, with the column.
    """

    key: str
    marks: Callable[[Tables], Sequence[str]]
    letters: str
    about: str
    bits: int = 0xFF
    shift: int = 0
    required: bool = False
    loose: str = ""


class Packed(Value):
    """How a layer of float32 stands in the document (see `files.height_rows`)."""

    key: str
    about: str


class Layer(Value):
    """name : of the plan's attribute, and of the layer in edits and in the journal.
    rows : its text in the document: `Packed` for float32, else one `Rows` or more, whose bits together
    are the byte.
    lost : what a cell of it is called when another grid would leave it behind, as in "3 cells of road".
    known : (tables) -> (256,) bool, the bytes that may stand in it; any byte without.
    unknown : what a byte means that may not, in words.
    dtype, empty : of the array, and of cells where nothing is recorded.  optional : may be None.
    gathers : to another grid's cell it also comes from old cells other than the one under its middle.
    alike : another code on a cell of another grid is a loss too.
    yields : nothing of it stays where a structure or an obstacle stands on another grid.
    dirties_cells : blocks and movement follow from it.  dirties_network : so does the road network.
    """

    name: str
    rows: Packed | tuple[Rows, ...]
    lost: str
    known: Callable[[Tables], npt.NDArray[np.bool_]] | None = None
    unknown: str = ""
    dtype: type[np.generic] = np.uint8
    empty: float = 0
    optional: bool = False
    gathers: bool = False
    alike: bool = False
    yields: bool = False
    dirties_cells: bool = False
    dirties_network: bool = False

    @property
    def key(self) -> str:
        """The first key of its text, which names it where a file is wrong."""
        return self.rows.key if isinstance(self.rows, Packed) else self.rows[0].key

    def made(self, shape: tuple[int, int]) -> npt.NDArray[Any]:
        """An empty array of the layer."""
        return np.full(shape, self.empty, self.dtype)

    def same(self, a: npt.NDArray[Any], b: npt.NDArray[Any]) -> npt.NDArray[np.bool_]:
        """Where two blocks of the layer agree."""
        if self.dtype is np.float32:
            return same_floats(a, b)
        equal: npt.NDArray[np.bool_] = np.equal(a, b)
        return equal


def same_floats(a: npt.NDArray[np.float32], b: npt.NDArray[np.float32]) -> npt.NDArray[np.bool_]:
    """Where two arrays agree. NaN agrees with NaN; 0 and -0 do not agree: a file tells them apart."""
    equal: npt.NDArray[np.bool_] = a.view(np.uint32) == b.view(np.uint32)
    return equal | (np.isnan(a) & np.isnan(b))


def first_codes(count: int) -> npt.NDArray[np.bool_]:
    """(256,) bool: the bytes below `count`."""
    return np.arange(256) < count


def _sign_marks(tables: Tables) -> tuple[str, ...]:
    """North is up on screen, whichever way rows grow."""
    up = tables.spec.y_up
    return (".", "s", "e", "n", "w", "x", "p") if up else (".", "n", "e", "s", "w", "x", "p")


# In the order of the document. A list, so that a test can add one.
LAYERS: list[Layer] = [
    Layer(
        "terrain",
        (
            Rows(
                "ground",
                lambda tables: [item.mark for item in tables.terrain_table],
                "A-Za-z",
                "One string a row: runs of terrain marks, as in 12m4bm.",
                required=True,
            ),
        ),
        phrase("of painted terrain"),
        known=lambda tables: first_codes(len(tables.terrain_table)),
        unknown=phrase("holds no class of the table"),
        alike=True,
        dirties_cells=True,
    ),
    Layer(
        "reserved",
        (
            Rows(
                "reserved",
                lambda _: (".", "r"),
                ".r",
                "Runs of r (reserved) and . (not).",
                required=True,
            ),
        ),
        "reserved",
        known=lambda _: first_codes(2),
        unknown=phrase("is neither reserved nor not"),
        gathers=True,
        dirties_cells=True,
    ),
    Layer(
        "road",
        (
            Rows(
                "roads",
                lambda tables: [".", *(item.mark for item in tables.road_table)],
                ".A-Za-z",
                "Runs of the marks of road classes (w before version 4) and . (none).",
                bits=CLASS_BITS,
                required=True,
            ),
            Rows(
                "signs",
                _sign_marks,
                ".neswxp",
                "Runs of n, e, s, w (one way, as on screen), x (closed), p (people cross, version 6) and . "
                "(none); null for none at all (version 4).",
                bits=0xFF & ~CLASS_BITS,
                shift=SIGN_SHIFT,
                loose=mark("a sign stands in column {col}, where no road is"),
            ),
        ),
        phrase("of road"),
        known=lambda tables: tables.road_table.known,
        unknown=phrase("holds no class of the table"),
        gathers=True,
        yields=True,
        dirties_cells=True,
        dirties_network=True,
    ),
    Layer(
        "barrier",
        (
            Rows(
                "barriers",
                lambda _: (".", "x"),
                ".x",
                "Runs of x (barrier) and . (none); null for none at all (version 3).",
            ),
        ),
        phrase("of barrier"),
        known=lambda _: first_codes(2),
        unknown=phrase("holds neither a barrier nor none"),
        gathers=True,
        yields=True,
        dirties_cells=True,
    ),
    Layer(
        "heights",
        Packed(
            "heights",
            "One string per row, base64 of a zlib stream; null is a plan without heights (version 2).",
        ),
        phrase("with a height"),
        dtype=np.float32,
        empty=np.nan,
        optional=True,
    ),
]


def layer(name: str) -> Layer:
    """The row of a layer. Raises KeyError."""
    for row in LAYERS:
        if row.name == name:
            return row
    raise KeyError(name)


def checked(layer: Layer, array: npt.NDArray[Any], tables: Tables) -> npt.NDArray[Any]:
    """An array as a plan keeps it. Raises BadPlan for another shape or type, or for a code that no table has."""
    if layer.dtype is np.float32:
        return checked_heights(tables.spec, array)
    if array.shape != tables.spec.shape or array.dtype != layer.dtype:
        raise BadPlan(
            layer.name,
            phrase(
                "layer is {shape} {dtype}, the grid {shape2} {dtype2}",
                shape=array.shape,
                dtype=array.dtype,
                shape2=tables.spec.shape,
                dtype2=np.dtype(layer.dtype),
            ),
        )
    known = layer.known(tables) if layer.known is not None else None
    # As a rule every code up to the greatest is known, and that of each cell need not be looked up.
    if known is not None and not (known[: int(array.max()) + 1].all() or known[array].all()):
        row, col = np.argwhere(~known[array])[0]
        raise BadPlan(
            phrase("{layer} rows", layer=layer.name),
            phrase("row {row}, column {col} {unknown}", row=row, col=col, unknown=layer.unknown),
        )
    made: npt.NDArray[Any] = np.ascontiguousarray(array)
    return made


def checked_heights(spec: GridSpec, heights: npt.NDArray[np.floating]) -> npt.NDArray[np.float32]:
    """Heights as a plan keeps them. Raises BadPlan for another shape, or for infinite ones."""
    if heights.shape != spec.shape:
        raise BadPlan(
            "heights",
            phrase("layer is {shape}, the grid {shape2}", shape=heights.shape, shape2=spec.shape),
        )
    kept = np.ascontiguousarray(heights, np.float32)
    if np.isinf(kept).any():
        row, col = np.argwhere(np.isinf(kept))[0]
        raise BadPlan("heights", phrase("row {row}, column {col} is infinite", row=row, col=col))
    return kept
