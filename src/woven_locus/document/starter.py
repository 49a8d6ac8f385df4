"""What a new plan begins with: classes of terrain and road, and kinds of structures to change or remove."""

from __future__ import annotations

from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import TerrainClass, TerrainTable
from woven_locus.core.kinds import Catalogue
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import NO_WAVES, WavePlan
from woven_locus.core.ways.roads import RoadClass, RoadTable
from woven_locus.files import catalogue
from woven_locus.package_data import package_data

MONEY = "tallies"


def starter_terrain() -> TerrainTable:
    """The classes of terrain."""
    return TerrainTable(
        [
            TerrainClass("meadow", "Meadow", "m", True, True, 1.0, "#A9B07A", "tufts"),
            TerrainClass("terrace", "Terrace", "t", True, True, 1.2, "#C9B27C", "steps"),
            TerrainClass("bog", "Bog", "b", False, True, 3.0, "#6E7A5E", "reeds"),
            TerrainClass("stream", "Stream", "s", False, False, 1.0, "#7FA3BD", "waves"),
            TerrainClass("scree", "Scree", "c", True, True, 2.0, "#B5ABA0", "stipple"),
            TerrainClass("cliff", "Cliff", "k", False, False, 1.0, "#84756B", "cracks"),
        ]
    )


def starter_roads() -> RoadTable:
    """The classes of road."""
    return RoadTable(
        [
            RoadClass("cart", "Cart road", "w", 8.0, 1.0, 2, "#EFE3C8"),
            RoadClass("pack", "Pack path", "p", 5.0, 1.4, 1, "#D8C3A0"),
            RoadClass("toll", "Toll road", "t", 14.0, 0.7, 4, "#E6D9B0"),
        ]
    )


def starter_kinds() -> Catalogue:
    """The kinds of structures."""
    data = package_data("woven_locus.document", "starter.kinds.json")
    return catalogue.from_json(data, "starter kinds")


def bare_terrain() -> TerrainTable:
    """One class, on which anything may stand and anybody go."""
    return TerrainTable(
        [TerrainClass("ground", "Ground", "g", True, True, 1.0, "#A9B07A", "plain")]
    )


def new_plan(
    spec: GridSpec,
    name: str = "Untitled plan",
    *,
    kinds: Catalogue | None = None,
    terrain: TerrainTable | None = None,
    roads: RoadTable | None = None,
    waves: WavePlan = NO_WAVES,
) -> Plan:
    """An empty plan: the first class of terrain all over. kinds, terrain, roads : the starter's by default."""
    return Plan(
        name,
        spec,
        terrain if terrain is not None else starter_terrain(),
        kinds if kinds is not None else starter_kinds(),
        road_table=roads if roads is not None else starter_roads(),
        money=MONEY,
        waves=waves,
    )
