"""What can be brought into a plan and taken out of it, by name: the table that the window's sheets and
the command line share."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Heights, Plan
from woven_locus.core.proof.table import prove
from woven_locus.core.routing import Manner, Route, find_links
from woven_locus.core.routing.trips import (
    Progress,
    Stopped,
    Trip,
    find_routes,
    route_matrix,
)
from woven_locus.core.side_by_side import never, nobody
from woven_locus.core.value import Value
from woven_locus.files import (
    ascii_grid,
    catalogue,
    gltf,
    graphml,
    lane_rows,
    map_png,
    map_svg,
    pictures,
    register_csv,
    traffic_rows,
    wave_tables,
    way_tables,
)
from woven_locus.files.atomic import streamed, write_bytes
from woven_locus.files.findings_csv import FINDINGS_CSV, findings_csv
from woven_locus.files.junit import junit_xml
from woven_locus.files.layer_tables import (
    LAYER_PICTURES,
    LAYER_TABLES,
    layer_csv,
    layer_png,
)
from woven_locus.files.map_frame import PLAIN_LOOK, MapLook
from woven_locus.files.proof_json import proof_json
from woven_locus.files.sarif import sarif_bytes

TERRAIN_PNG, HEIGHTS_ASC = "terrain-png", "heights-asc"
HEIGHTS_PNG8, HEIGHTS_PNG16 = "heights-png8", "heights-png16"
KINDS_JSON, KINDS_CSV, REGISTER_CSV = "kinds-json", "kinds-csv", "register-csv"
ROADS_CSV, JUNCTIONS, MATRIX_CSV = "roads-csv", "junctions-graphml", "matrix-csv"
ROUTES_CSV, ROUTES_LINES = "routes-csv", "routes-lines"
TRIPS_CSV = "trips-csv"
FINDINGS_JUNIT, FINDINGS_SARIF = "findings-junit", "findings-sarif"
MAP_PNG, MAP_SVG, GLTF = "map-png", "map-svg", "gltf"
LANES_CSV, LANES_GRAPHML, LANES_LINES = "lanes-csv", "lanes-graphml", "lanes-lines"


class Out(Value):
    """How a file is written.  scale, base : of a grey picture, else passed over; None uses all greys.
    stopped, progress : asked and told by what takes long.  source : the plan's file, for what says where something is
    found; its name where it has none.  pixels : of a cell's shorter side, in a picture of the map.  look : how that shows
    the map."""

    scale: float | None = None
    base: float | None = None
    stopped: Stopped = never
    progress: Progress = nobody
    source: str = ""
    pixels: int = map_png.PIXELS
    look: MapLook = PLAIN_LOOK


PLAIN_OUT = Out()


class Format(Value):
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
        raise FileProblem(path, "", phrase("was not written: this plan has no heights"))
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


def _write_proof(form: Callable[[str, dict[str, Any]], bytes]) -> Callable[[Plan, Path, Out], None]:
    def write(plan: Plan, path: Path, how: Out) -> None:
        proof = prove(plan, stopped=how.stopped, told=how.progress)
        if how.stopped():
            raise _stopped(path)
        write_bytes(path, form(how.source or plan.name, proof_json(proof)))

    return write


def _stopped(path: Path) -> FileProblem:
    return FileProblem(path, "", phrase("was not written: stopped"))


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
    with streamed(path) as put:
        for piece in table(plan, found()):
            put(piece.encode())
        if asked < len(trips):
            raise _stopped(path)
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
    register_csv.save(plan, find_links(plan).reaches_another, path)


def _write_map_png(plan: Plan, path: Path, how: Out) -> None:
    write_bytes(path, map_png.map_png(plan, how.pixels, how.look, how.stopped))


def _write_map_svg(plan: Plan, path: Path, how: Out) -> None:
    write_bytes(path, map_svg.map_svg(plan, how.look).encode("utf-8"))


def _write_gltf(plan: Plan, path: Path, _how: Out) -> None:
    write_bytes(path, gltf.gltf(plan))


def _write_layer(
    name: str, form: Callable[[Plan, str], str | bytes]
) -> Callable[[Plan, Path, Out], None]:
    def write(plan: Plan, path: Path, _how: Out) -> None:
        if name == "heights":
            _heights_of(plan, path)
        found = form(plan, name)
        write_bytes(path, found.encode() if isinstance(found, str) else found)

    return write


FORMATS: dict[str, Format] = {
    each.name: each
    for each in (
        Format(
            TERRAIN_PNG,
            phrase("Terrain as a PNG, a pixel a cell"),
            ".png",
            "terrain",
            _write_terrain,
        ),
        Format(HEIGHTS_ASC, phrase("Heights as an ASCII grid"), ".asc", "heights", _write_asc),
        Format(
            HEIGHTS_PNG8,
            phrase("Heights as an 8-bit grey PNG"),
            ".png",
            "heights",
            _write_grey(8),
            8,
        ),
        Format(
            HEIGHTS_PNG16,
            phrase("Heights as a 16-bit grey PNG"),
            ".png",
            "heights",
            _write_grey(16),
            16,
        ),
        Format(MAP_PNG, phrase("The map as a PNG"), ".png", "map", _write_map_png),
        Format(MAP_SVG, phrase("The map as an SVG"), ".svg", "map", _write_map_svg),
        Format(GLTF, phrase("The level as glTF"), ".gltf", "level", _write_gltf),
        *(
            Format(
                f"{name}-csv",
                phrase("{layer_tables} as CSV, a value a cell", layer_tables=LAYER_TABLES[name]),
                ".csv",
                name,
                _write_layer(name, layer_csv),
            )
            for name in LAYER_TABLES
        ),
        *(
            Format(
                f"{name}-png",
                phrase("{layer_tables} as a PNG, a pixel a cell", layer_tables=LAYER_TABLES[name]),
                ".png",
                name,
                _write_layer(name, layer_png),
            )
            for name in LAYER_PICTURES
        ),
        Format(KINDS_JSON, phrase("Kinds as JSON"), ".kinds.json", "kinds", _write_kinds),
        Format(KINDS_CSV, phrase("Kinds as CSV"), ".csv", "kinds", _write_kinds),
        Format(REGISTER_CSV, phrase("The register as CSV"), ".csv", "register", _write_register),
        Format(
            ROADS_CSV,
            phrase("Road cells, shapes and turns, as CSV"),
            ".csv",
            "roads",
            _write_text(way_tables.road_shapes),
        ),
        Format(
            JUNCTIONS,
            phrase("The junction graph as GraphML"),
            ".graphml",
            "junctions",
            _write_text(graphml.dump),
        ),
        Format(
            LANES_CSV,
            phrase("The lane graph as CSV"),
            ".csv",
            "lanes",
            _write_text(lane_rows.lanes_csv),
        ),
        Format(
            LANES_GRAPHML,
            phrase("The lane graph as GraphML"),
            ".graphml",
            "lanes",
            _write_text(graphml.dump_lanes),
        ),
        Format(
            LANES_LINES,
            phrase("The lane graph as lines"),
            ".geojson",
            "lanes",
            _write_text(lane_rows.lanes_lines),
        ),
        Format(
            TRIPS_CSV, phrase("Trips as CSV"), ".csv", "trips", _write_text(traffic_rows.trips_csv)
        ),
        Format(
            wave_tables.PLACES_CSV,
            phrase("Entries and goals as CSV"),
            ".csv",
            phrase("entries and goals"),
            _write_text(wave_tables.places_csv),
        ),
        Format(
            wave_tables.ATTACKERS_CSV,
            phrase("Kinds of attacker as CSV"),
            ".csv",
            "attackers",
            _write_text(wave_tables.attackers_csv),
        ),
        Format(
            wave_tables.WAVES_CSV,
            phrase("Waves as CSV"),
            ".csv",
            "waves",
            _write_text(wave_tables.waves_csv),
        ),
        Format(FINDINGS_CSV, phrase("Findings as CSV"), ".csv", "findings", _write_findings),
        Format(
            FINDINGS_JUNIT,
            phrase("Findings as JUnit's XML"),
            ".xml",
            "findings",
            _write_proof(lambda source, found: junit_xml([(source, found)], False)),
        ),
        Format(
            FINDINGS_SARIF,
            phrase("Findings as SARIF"),
            ".sarif",
            "findings",
            _write_proof(lambda source, found: sarif_bytes([(source, found)])),
        ),
        Format(
            MATRIX_CSV, phrase("Costs between structures as CSV"), ".csv", "matrix", _write_matrix
        ),
        Format(
            ROUTES_CSV, phrase("Routes as CSV"), ".csv", "routes", _write_all_routes(ROUTES_CSV)
        ),
        Format(
            ROUTES_LINES,
            phrase("Routes as lines"),
            ".geojson",
            "routes",
            _write_all_routes(ROUTES_LINES),
        ),
    )
}
# What `import` reads; a grey picture says itself how many bits it has.
WAVE_IMPORTS = (wave_tables.PLACES_CSV, wave_tables.ATTACKERS_CSV, wave_tables.WAVES_CSV)
IMPORTS = (
    *("terrain-png", "heights-asc", "heights-png", "kinds", REGISTER_CSV, TRIPS_CSV),
    *WAVE_IMPORTS,
)
