import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.helpers.builders import draw, put
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.routing import Connections, find_links
from woven_locus.core.ways.shapes import EAST, NORTH, SHAPES, SOUTH, WEST, neighbour_masks


@pytest.mark.parametrize(
    ("mask", "name", "turn"),
    [
        (0, "single", 0),
        (NORTH, "end", 0),
        (WEST, "end", 3),
        (NORTH | SOUTH, "straight", 0),
        (EAST | WEST, "straight", 1),
        (NORTH | EAST, "bend", 0),
        (SOUTH | WEST, "bend", 2),
        (NORTH | EAST | SOUTH, "three-way", 0),
        (EAST | SOUTH | WEST, "three-way", 1),
        (15, "crossing", 0),
    ],
)
def test_shapes_follow_from_the_neighbours(mask: int, name: str, turn: int) -> None:
    assert SHAPES[mask] == (name, turn)


@given(
    hnp.arrays(
        np.uint8, st.tuples(st.integers(1, 8), st.integers(1, 8)), elements=st.integers(0, 1)
    )
)
def test_masks_of_any_block_are_those_of_the_whole(road: np.ndarray) -> None:
    h, w = road.shape
    whole = neighbour_masks(road, Box(0, 0, h, w))
    for r in range(h):
        for c in range(w):
            expected = 0
            for bit, (dr, dc) in zip((1, 2, 4, 8), ((-1, 0), (0, 1), (1, 0), (0, -1)), strict=True):
                inside = 0 <= r + dr < h and 0 <= c + dc < w
                expected |= bit * int(inside and road[r + dr, c + dc])
            assert whole[r, c] == (expected if road[r, c] else 0)
    part = Box(h // 3, w // 4, h, w)
    np.testing.assert_array_equal(neighbour_masks(road, part), whole[part.slices])


TOWN = """
    .......
    =======
    .......
    ...=...
    .......
"""


def test_links_group_what_road_joins() -> None:
    plan = draw(TOWN)
    a, b = put(plan, "hut", 0, 0), put(plan, "hut", 6, 2)
    c, d = put(plan, "hut", 2, 3), put(plan, "hut", 6, 4)
    links = find_links(plan)
    assert [(g.structures, g.road_cells) for g in links.groups] == [((a, b), 7)]
    assert links.cut_off == (c, d)  # c has road that leads to nobody, d has none


def test_only_a_door_joins_where_there_are_doors() -> None:
    plan = draw("===\n...\n...\n...")
    put(plan, "hut", 0, 1)
    barn = put(plan, "barn", 0, 2)
    assert barn in find_links(plan).cut_off
    turned = draw("....=\n....=\n....=\n....=")
    put(turned, "hut", 3, 3)
    east = put(turned, "barn", 2, 0, turn=3)
    assert find_links(turned).groups[0].structures == (1, east)


def test_connections_follow_placements_and_road() -> None:
    plan = draw(TOWN)
    history = History(plan)
    connections = Connections(plan)
    history.listen(lambda notice: connections.update(notice.structures))
    for cell in (Cell(0, 0), Cell(6, 2), Cell(3, 4)):
        history.do(edits.place(plan, "hut", cell, 0, ""))
    assert connections.links().cut_off == (3,)
    history.do(edits.lay_road(plan, [Cell(3, 2)]))
    assert connections.links().cut_off == ()
    assert connections.links() == find_links(plan)
    history.do(edits.erase_road(plan, [Cell(1, 1)]))
    assert connections.links().cut_off == (1,)
    history.do(edits.demolish(plan, [1]))
    assert connections.links() == find_links(plan)
    assert connections.links().groups[0].structures == (2, 3)
