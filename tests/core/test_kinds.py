import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.strategies import footprints
from woven_locus.core.errors import BadKind, BadPlan, Unknown
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.ground import TerrainClass, TerrainTable
from woven_locus.core.kinds import MIRRORED, Catalogue, Door, Footprint, Kind
from woven_locus.core.kinds.turns import flipped, turned_on
from woven_locus.core.value import replace

NORTH, EAST, SOUTH, WEST = range(4)


def test_a_quarter_turn_is_clockwise_on_screen() -> None:
    ell = Footprint.from_rows(["#.", "#.", "##"], [Door(1, 2, EAST)])
    assert ell.turned(1).to_rows() == ["###", "#.."]
    assert ell.turned(1).doors == (Door(0, 1, SOUTH),)
    assert ell.turned(2).to_rows() == ["##", ".#", ".#"]
    assert ell.turned(3).to_rows() == ["..#", "###"]


@given(footprints, st.integers(0, 7), st.integers(-5, 5))
def test_turning_keeps_the_cells_and_comes_round(
    footprint: Footprint, turn: int, more: int
) -> None:
    turned = footprint.turned(turn)
    assert len(turned.cells) == len(footprint.cells)
    # A mirrored picture turned clockwise is undone by the same turn of the mirrored one.
    back = turned.turned(-turn % 4) if turn < MIRRORED else turned.turned(turn)
    assert back == footprint
    assert footprint.turned(turned_on(turn, more)) == turned.turned(more % 4)
    assert footprint.turned(flipped(turn)) == turned.mirrored()
    assert flipped(flipped(turn)) == turn
    assert (turned.cols, turned.rows) in (
        (footprint.cols, footprint.rows),
        (footprint.rows, footprint.cols),
    )


@given(footprints)
def test_rows_of_text_go_there_and_back(footprint: Footprint) -> None:
    assert Footprint.from_rows(footprint.to_rows()) == footprint


@given(footprints, st.integers(0, 3))
def test_open_sides_lead_out_of_the_footprint(footprint: Footprint, turn: int) -> None:
    turned = footprint.turned(turn)
    low = Cell(-4, 11)
    covered = set(turned.at(low))
    outside = turned.approaches(low)
    assert outside
    assert not covered & set(outside)
    for cell in outside:
        assert any(Cell(cell.col - dc, cell.row - dr) in covered for dr, dc in SIDES)


def test_approaches_are_only_those_of_the_doors() -> None:
    barn = Footprint.block(3, 2, [Door(1, 1, SOUTH), Door(0, 0, WEST)])
    assert sorted(barn.approaches(Cell(10, 20))) == [Cell(9, 20), Cell(11, 22)]


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Footprint(()), "at least one cell"),
        (lambda: Footprint(((1, 0),)), "starts at column 0"),
        (lambda: Footprint(((0, 0), (0, 64))), "at most 64"),
        (lambda: Footprint.block(2, 1, [Door(0, 0, EAST)]), "opens into the structure itself"),
        (lambda: Footprint.block(1, 1, [Door(1, 0, EAST)]), "stands on no cell"),
        (lambda: Footprint.block(1, 1, [Door(0, 0, 7)]), "side is 0 to 3"),
        (lambda: Footprint.from_rows(["##", "#"]), "equally long"),
        (lambda: Footprint.from_rows(["#x"]), "# and . only"),
        (
            lambda: Kind("a b", "A", "A", "#000000", 1, Footprint.block(1, 1)),
            "a letter or digit first",
        ),
        (lambda: Kind("a", "A", "ABCD", "#000000", 1, Footprint.block(1, 1)), "1 to 3 letters"),
        (lambda: Kind("a", "A", "A", "#000000", -1, Footprint.block(1, 1)), "negative"),
    ],
)
def test_what_cannot_exist_is_refused(make: object, words: str) -> None:
    with pytest.raises(BadKind, match=words):
        make()  # type: ignore[operator]


def test_the_catalogue_names_what_it_has() -> None:
    kind = Kind("mill", "Mill", "M", "#000000", 1, Footprint.block(1, 1))
    with pytest.raises(Unknown, match="no kind 'inn'; the plan has mill"):
        Catalogue([kind])["inn"]
    with pytest.raises(BadKind, match="twice"):
        Catalogue([kind, kind])
    with pytest.raises(BadKind, match="at most 255 kinds, not 256"):
        Catalogue([replace(kind, key=f"k{n}") for n in range(256)])


def terrain(**changes: object) -> TerrainClass:
    values = {
        "key": "moor",
        "name": "Moor",
        "mark": "m",
        "buildable": True,
        "passable": True,
        "cost": 1.0,
        "dye": "#778855",
        "pattern": "plain",
    }
    return TerrainClass(**{**values, **changes})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("classes", "words"),
    [
        ([], "1 to 52"),
        ([terrain(mark="mm")], "one letter"),
        ([terrain(mark="é")], "one letter"),
        ([terrain(cost=0)], "above 0"),
        ([terrain(cost=float("nan"))], "above 0"),
        ([terrain(pattern="tartan")], "not one of"),
        ([terrain(), terrain(mark="n")], "'moor' is used twice"),
        ([terrain(), terrain(key="fen")], "'m' is used twice"),
    ],
)
def test_terrain_classes_must_make_sense(classes: list[TerrainClass], words: str) -> None:
    with pytest.raises(BadPlan, match=words):
        TerrainTable(classes)


def test_terrain_codes_by_key() -> None:
    table = TerrainTable([terrain(), terrain(key="fen", mark="f", buildable=False)])
    assert table.code("fen") == 1
    assert table.buildable[:3].tolist() == [True, False, False]
    with pytest.raises(Unknown, match="no terrain class 'sea'"):
        table.code("sea")
