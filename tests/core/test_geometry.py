import pytest
from hypothesis import given
from hypothesis import strategies as st

from woven_locus.core.geometry import NOWHERE, Box, Cell, Slot, cell_text

boxes = st.builds(
    lambda r, c, h, w: Box(r, c, r + h, c + w),
    *[st.integers(-20, 20)] * 2,
    *[st.integers(0, 9)] * 2,
)


def cells(box: Box) -> set[tuple[int, int]]:
    return {(r, c) for r in range(box.r0, box.r1) for c in range(box.c0, box.c1)}


def test_around_holds_every_slot() -> None:
    assert Box.around([Slot(3, 5), Slot(1, 9)]) == Box(1, 5, 4, 10)
    assert Box.around([]).empty


@given(boxes, boxes)
def test_touches_means_a_shared_slot(a: Box, b: Box) -> None:
    assert (a.touches(b) and not a.empty and not b.empty) == bool(cells(a) & cells(b))


@given(boxes, boxes)
def test_union_holds_both(a: Box, b: Box) -> None:
    assert cells(a) | cells(b) <= cells(a.union(b))
    assert a.union(NOWHERE) == (a if not a.empty else NOWHERE)


@given(boxes, st.integers(0, 12), st.integers(0, 12))
def test_clipped_is_what_lies_inside(box: Box, rows: int, cols: int) -> None:
    inside = {(r, c) for r, c in cells(box) if 0 <= r < rows and 0 <= c < cols}
    assert cells(box.clipped((rows, cols))) == inside


@pytest.mark.parametrize(
    ("cell", "text"), [(Cell(14, 9), "14, 9"), (Cell(-3, -12), "\u22123, \u221212")]
)
def test_cells_are_written_with_a_true_minus(cell: Cell, text: str) -> None:
    assert cell_text(cell) == text
