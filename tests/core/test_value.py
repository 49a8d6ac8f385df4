import pickle

import pytest

from woven_locus.core.errors import BadKind
from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Footprint
from woven_locus.core.kinds.footprint import Door
from woven_locus.core.value import Record, Value, replace


class Spot(Value):
    at: Cell
    note: str = ""


class Marked(Spot):
    by: str = "nobody"


class Held(Record):
    spot: Spot


def test_a_value_stays_what_it_is() -> None:
    spot = Spot(Cell(1, 2))
    with pytest.raises(AttributeError):
        spot.note = "changed"  # type: ignore[misc]
    assert (spot, hash(spot)) == (Spot(Cell(1, 2)), hash(Spot(Cell(1, 2))))
    assert spot != Spot(Cell(1, 2), "other")
    # As others of its base are not, whatever their fields.
    assert spot != Marked(Cell(1, 2))
    assert replace(Marked(Cell(1, 2)), note="x") == Marked(Cell(1, 2), "x")


def test_a_record_changes_and_is_no_key() -> None:
    held = Held(Spot(Cell(0, 0)))
    held.spot = Spot(Cell(3, 3))
    assert held == Held(Spot(Cell(3, 3)))
    with pytest.raises(TypeError):
        hash(held)


def test_what_is_replaced_or_pickled_is_checked_and_put_in_order_as_what_is_made() -> None:
    shape = Footprint(((1, 0), (0, 0)), (Door(0, 0, 3), Door(0, 0, 0)))
    assert shape.cells == ((0, 0), (1, 0))
    assert (shape.cols, shape.rows) == (2, 1)
    taller = replace(shape, cells=((0, 1), (0, 0)), doors=())
    assert (taller.cells, taller.cols, taller.rows) == (((0, 0), (0, 1)), 1, 2)
    assert hash(taller) == hash(Footprint(((0, 0), (0, 1))))
    with pytest.raises(BadKind):
        replace(shape, cells=())
    assert pickle.loads(pickle.dumps(shape)) == shape
