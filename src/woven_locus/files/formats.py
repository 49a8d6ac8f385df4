"""What can be brought into a plan and taken out of it, by name: the table that the window's sheets and
the command line share."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import numpy.typing as npt

from woven_locus.core.editing import Edit, LayerChange, Patch
from woven_locus.core.errors import FileProblem
from woven_locus.core.ground.relief import Fit, fitted
from woven_locus.core.plan import Heights, Plan, checked_heights
from woven_locus.core.proof.table import prove
from woven_locus.core.routing import Manner, Route, find_links
from woven_locus.core.routing.trips import (
    Progress,
    Stopped,
    Trip,
    find_routes,
    never,
    nobody,
    route_matrix,
)
from woven_locus.files import (
    ascii_grid,
    catalogue,
    graphml,
    lane_rows,
    pictures,
    register_csv,
    traffic_rows,
    wave_tables,
    way_tables,
)
from woven_locus.files.atomic import read_bytes, write_bytes
from woven_locus.files.findings_csv import FINDINGS_CSV, findings_csv

TERRAIN_PNG, HEIGHTS_ASC = "terrain-png", "heights-asc"
HEIGHTS_PNG8, HEIGHTS_PNG16 = "heights-png8", "heights-png16"
KINDS_JSON, KINDS_CSV, REGISTER_CSV = "kinds-json", "kinds-csv", "register-csv"
ROADS_CSV, JUNCTIONS, MATRIX_CSV = "roads-csv", "junctions-graphml", "matrix-csv"
ROUTES_CSV, ROUTES_LINES = "routes-csv", "routes-lines"
TRIPS_CSV = "trips-csv"
LANES_CSV, LANES_GRAPHML, LANES_LINES = "lanes-csv", "lanes-graphml", "lanes-lines"


@dataclass(frozen=True)
class Out:
    """How a file is written.  scale, base : of a grey picture, else passed over; None uses all greys.
    stopped, progress : asked and told by what takes long."""

    scale: float | None = None
    base: float | None = None
    stopped: Stopped = never
    progress: Progress = nobody


PLAIN_OUT = Out()


@dataclass(frozen=True)
class Format:
    """name : for ``--as``.  words : in a menu.  suffix : of its files.  holds : heights, terrain, kinds,
    the register, roads, lanes or routes.  write(plan, path, how) : raises FileProblem, also when it was stopped.
    depth : bits of a grey picture, else 0."""

    name: str
    words: str
    suffix: str
    holds: str
    write: Callable[[Plan, Path, Out], None]
    depth: int = 0

    @property
    def heights(self) -> bool:
        """Whether it holds heights, of which a plan may have none."""
        return self.holds == "heights"


def _heights_of(plan: Plan, path: Path) -> Heights:
    if plan.heights is None:
        raise FileProblem(path, "", "was not written: this plan has no heights")
    return plan.heights


def _write_terrain(plan: Plan, path: Path, _how: Out) -> None:
    dyes = [item.dye for item in plan.terrain_table]
    pictures.save_terrain(plan.terrain, dyes, plan.spec.y_up, path)


def _write_asc(plan: Plan, path: Path, _how: Out) -> None:
    ascii_grid.save(_heights_of(plan, path), plan.spec, path)


def _write_grey(depth: int) -> Callable[[Plan, Path, Out], None]:
    def write(plan: Plan, path: Path, how: Out) -> None:
        heights = _heights_of(plan, path)
        on_screen = heights[::-1] if plan.spec.y_up else heights
        pictures.save_grey(pictures.grey_of(on_screen, depth, how.scale, how.base), path)

    return write


def _write_kinds(plan: Plan, path: Path, _how: Out) -> None:
    catalogue.save(plan.kinds, plan.money, path)


def _write_text(text_of: Callable[[Plan], str]) -> Callable[[Plan, Path, Out], None]:
    def write(plan: Plan, path: Path, _how: Out) -> None:
        write_bytes(path, text_of(plan).encode())

    return write


def _write_matrix(plan: Plan, path: Path, how: Out) -> None:
    matrix = route_matrix(plan, plan.register.numbers(), how.stopped, how.progress)
    if matrix is None:
        raise _stopped(path)
    write_bytes(path, way_tables.matrix_csv(matrix).encode())


def _write_findings(plan: Plan, path: Path, how: Out) -> None:
    proof = prove(plan, stopped=how.stopped, told=how.progress)
    if how.stopped():
        raise _stopped(path)
    write_bytes(path, findings_csv(proof).encode())


def _stopped(path: Path) -> FileProblem:
    return FileProblem(path, "", "was not written: stopped")


def write_routes(
    plan: Plan, path: Path, form: str, trips: Sequence[Trip], how: Out = PLAIN_OUT
) -> list[str]:
    """Write the routes of trips as ROUTES_CSV or ROUTES_LINES; returns why some of them have none. Raises
    FileProblem, also when it was stopped, Unknown for a number that is not in the register."""
    without: list[str] = []
    asked = 0

    def found() -> Iterator[way_tables.Asked]:
        nonlocal asked
        for trip, route in find_routes(plan, trips, how.stopped, how.progress):
            asked += 1
            if isinstance(route, Route):
                yield (*trip, route)
            else:
                without.append(route.why)

    table = way_tables.routes_csv if form == ROUTES_CSV else way_tables.routes_lines
    data = table(plan, found()).encode()
    if asked < len(trips):
        raise _stopped(path)
    write_bytes(path, data)
    return without


def joined_trips(plan: Plan, manner: Manner) -> list[Trip]:
    """From every structure to each later one that road joins it to."""
    return [
        (a, b, manner)
        for group in find_links(plan).groups
        for at, a in enumerate(group.structures)
        for b in group.structures[at + 1 :]
    ]


def _write_all_routes(form: str) -> Callable[[Plan, Path, Out], None]:
    def write(plan: Plan, path: Path, how: Out) -> None:
        write_routes(plan, path, form, joined_trips(plan, Manner()), how)

    return write


def _write_register(plan: Plan, path: Path, _how: Out) -> None:
    cut_off = set(find_links(plan).cut_off)
    register_csv.save(plan, lambda number: number not in cut_off, path)


FORMATS: dict[str, Format] = {
    each.name: each
    for each in (
        Format(TERRAIN_PNG, "Terrain as a PNG, a pixel a cell", ".png", "terrain", _write_terrain),
        Format(HEIGHTS_ASC, "Heights as an ASCII grid", ".asc", "heights", _write_asc),
        Format(HEIGHTS_PNG8, "Heights as an 8-bit grey PNG", ".png", "heights", _write_grey(8), 8),
        Format(
            HEIGHTS_PNG16, "Heights as a 16-bit grey PNG", ".png", "heights", _write_grey(16), 16
        ),
        Format(KINDS_JSON, "Kinds as JSON", ".kinds.json", "kinds", _write_kinds),
        Format(KINDS_CSV, "Kinds as CSV", ".csv", "kinds", _write_kinds),
        Format(REGISTER_CSV, "The register as CSV", ".csv", "register", _write_register),
        Format(
            ROADS_CSV,
            "Road cells, shapes and turns, as CSV",
            ".csv",
            "roads",
            _write_text(way_tables.road_shapes),
        ),
        Format(
            JUNCTIONS,
            "The junction graph as GraphML",
            ".graphml",
            "junctions",
            _write_text(graphml.dump),
        ),
        Format(
            LANES_CSV, "The lane graph as CSV", ".csv", "lanes", _write_text(lane_rows.lanes_csv)
        ),
        Format(
            LANES_GRAPHML,
            "The lane graph as GraphML",
            ".graphml",
            "lanes",
            _write_text(graphml.dump_lanes),
        ),
        Format(
            LANES_LINES,
            "The lane graph as lines",
            ".geojson",
            "lanes",
            _write_text(lane_rows.lanes_lines),
        ),
        Format(TRIPS_CSV, "Trips as CSV", ".csv", "trips", _write_text(traffic_rows.trips_csv)),
        Format(
            wave_tables.PLACES_CSV,
            "Entries and goals as CSV",
            ".csv",
            "entries and goals",
            _write_text(wave_tables.places_csv),
        ),
        Format(
            wave_tables.ATTACKERS_CSV,
            "Kinds of attacker as CSV",
            ".csv",
            "attackers",
            _write_text(wave_tables.attackers_csv),
        ),
        Format(
            wave_tables.WAVES_CSV,
            "Waves as CSV",
            ".csv",
            "waves",
            _write_text(wave_tables.waves_csv),
        ),
        Format(FINDINGS_CSV, "Findings as CSV", ".csv", "findings", _write_findings),
        Format(MATRIX_CSV, "Costs between structures as CSV", ".csv", "matrix", _write_matrix),
        Format(ROUTES_CSV, "Routes as CSV", ".csv", "routes", _write_all_routes(ROUTES_CSV)),
        Format(
            ROUTES_LINES, "Routes as lines", ".geojson", "routes", _write_all_routes(ROUTES_LINES)
        ),
    )
}
# What `import` reads; a grey picture says itself how many bits it has.
WAVE_IMPORTS = (wave_tables.PLACES_CSV, wave_tables.ATTACKERS_CSV, wave_tables.WAVES_CSV)
IMPORTS = (
    *("terrain-png", "heights-asc", "heights-png", "kinds", REGISTER_CSV, TRIPS_CSV),
    *WAVE_IMPORTS,
)


Source = Heights | pictures.Grey


def heights_source(path: Path) -> tuple[Source, str]:
    """Heights from an ASCII grid (an array, top row first) or a grey PNG, told apart by what the file
    begins with; and what it is, in words. Raises FileProblem."""
    data = read_bytes(path, max(ascii_grid.LARGEST, pictures.LARGEST))
    if data.startswith(b"\x89PNG"):
        grey = pictures.parse_grey(data, path)
        tall, wide = grey.values.shape
        return grey, f"{grey.depth}-bit grey picture, {wide} × {tall}"
    values = ascii_grid.parse(data, path).heights
    return values, f"ASCII grid, {values.shape[1]} × {values.shape[0]}"


def scaled(
    source: Source,
    scale: float | None = None,
    base: float | None = None,
    nodata: int | None = None,
) -> Heights:
    """Heights, top row first, as base + scale x value.

    scale, base, nodata : those of the picture itself, or 1, 0 and none, when left out.
    """
    if isinstance(source, pictures.Grey):
        own = (
            1.0 if source.scale is None else source.scale,
            0.0 if source.base is None else source.base,
        )
        return source.heights(
            own[0] if scale is None else scale,
            own[1] if base is None else base,
            source.nodata if nodata is None else nodata,
        )
    if scale in (None, 1.0) and not base:
        return source
    out = source * np.float32(1.0 if scale is None else scale) + np.float32(base or 0.0)
    return np.asarray(out, np.float32)


def described(lowest: float, highest: float, unknown: int) -> str:
    """A range of heights, and how many cells are unknown, in words. NaN for no known height."""
    if lowest != lowest:
        return "no height known"
    span = f"{lowest:.6g} to {highest:.6g}"
    return f"{span}, {unknown:,} cells unknown" if unknown else span


def thinned(source: Source, every: int) -> Source:
    """Every nth row and column of a source, for a picture of it."""
    if isinstance(source, pictures.Grey):
        return replace(source, values=source.values[::every, ::every])
    return source[::every, ::every]


class Spread:
    """The range of a source's own values, worked out once, so that a scale can be tried at once."""

    def __init__(self, source: Source) -> None:
        self._greys: npt.NDArray[np.int64] | None = None
        if isinstance(source, pictures.Grey):
            self._greys = np.zeros(source.most + 1, np.int64)
            flat = source.values.ravel()
            for at in range(0, len(flat), 1 << 20):
                self._greys += np.bincount(flat[at : at + (1 << 20)], minlength=source.most + 1)
            return
        self._range = (
            float(np.fmin.reduce(source, axis=None)),
            float(np.fmax.reduce(source, axis=None)),
        )
        self._unknown = int(np.count_nonzero(np.isnan(source)))

    def scaled(
        self, scale: float, base: float, nodata: int | None = None
    ) -> tuple[float, float, int]:
        """(lowest, highest, unknown cells) as base + scale x value; NaN when none is known."""
        if self._greys is None:
            ends, unknown = self._range, self._unknown
        else:
            greys = self._greys.copy()
            unknown = 0
            if nodata is not None and 0 <= nodata < len(greys):
                unknown, greys[nodata] = int(greys[nodata]), 0
            seen = np.flatnonzero(greys)
            ends = (float(seen[0]), float(seen[-1])) if len(seen) else (np.nan, np.nan)
        low, high = sorted((base + scale * ends[0], base + scale * ends[1]))
        return low, high, unknown


def _laid(raster: npt.NDArray[np.generic], plan: Plan) -> npt.NDArray[np.generic]:
    """A raster with its top row first, in rows of the plan."""
    return raster[::-1] if plan.spec.y_up else raster


def heights_edit(plan: Plan, values: Heights, fit: Fit, name: str) -> Edit:
    """Put heights, top row first, under a plan. Where an anchored raster does not reach, heights stay
    as they were, or unknown. Raises BadPlan."""
    under = plan.heights
    if under is None:
        under = np.full(plan.spec.shape, np.nan, np.float32)
    after = checked_heights(plan.spec, fitted(_laid(values, plan), under, fit))  # type: ignore[arg-type]
    return Edit(f"Heights from {name}", (LayerChange("heights", plan.heights, after),))


def terrain_edit(
    plan: Plan,
    picture: pictures.Picture,
    classes: list[int | None],
    fit: Fit,
    name: str,
) -> Edit:
    """Put terrain from a picture under a plan. classes : a terrain code for each colour of the picture,
    or None for colours whose cells stay as they were. Raises BadPlan."""
    keep = np.uint8(255)
    table = np.array([keep if code is None else code for code in classes], np.uint8)
    codes = table[picture.codes]
    under = np.full(plan.spec.shape, keep)
    laid = fitted(_laid(codes, plan), under, fit).astype(np.uint8)
    after = np.where(laid == keep, plan.terrain, laid)
    patch = Patch.of_block(plan, "terrain", plan.spec.box, after)
    return Edit(f"Terrain from {name}", (patch,) if patch else ())
