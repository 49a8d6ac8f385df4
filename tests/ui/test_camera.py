from typing import TYPE_CHECKING, cast

from hypothesis import assume, given
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF

from tests.helpers.strategies import cells_of, grids
from woven_locus.core.geometry import Box
from woven_locus.core.grid import GridSpec
from woven_locus.core.render.scale import STEPS, stride
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.sheet.overlays.base import Canvas

if TYPE_CHECKING:
    from PyQt6.QtGui import QPainter

    from woven_locus.core.render import Palette
    from woven_locus.ui.desk import Desk

steps = st.integers(0, len(STEPS) - 1)


@given(st.data(), grids(), steps)
def test_a_cell_is_found_again_under_its_middle(
    data: st.DataObject, spec: GridSpec, step: int
) -> None:
    camera = Camera(spec, step)
    camera.pan(data.draw(st.integers(-300, 300)), data.draw(st.integers(-300, 300)))
    cell = data.draw(cells_of(spec))
    assert camera.cell_at(*camera.middle_of(cell)) == cell
    point = camera.point_at(*camera.middle_of(cell))
    assert spec.locate_virtual(*point) == cell
    assert abs(camera.x_of(point.x) - camera.middle_of(cell)[0]) < 1e-3


@given(st.data(), grids(), steps, st.integers(-4, 4))
def test_zooming_keeps_the_world_under_the_pointer(
    data: st.DataObject, spec: GridSpec, step: int, by: int
) -> None:
    camera = Camera(spec, step)
    camera.show_whole()
    x, y = data.draw(st.integers(0, 799)), data.draw(st.integers(0, 599))
    before = camera.point_at(x, y)
    camera.zoom(by, x, y)
    free = (camera.left, camera.top)
    camera.keep_in_sight()
    assume(free == (camera.left, camera.top))
    after = camera.point_at(x, y)
    wide, tall = spec.cols * camera.ppc_x, spec.rows * camera.ppc_y
    assume(64 < camera.left + camera.width < wide + camera.width - 64 and tall > 64)
    assert abs(after.x - before.x) / spec.cell_w * camera.ppc_x <= 1 or camera.left in (
        round(64 - camera.width),
        round(wide - 64),
    )


@given(grids())
def test_the_whole_map_fits_in_the_middle(spec: GridSpec) -> None:
    camera = Camera(spec)
    camera.show_whole()
    assert camera.visible() == spec.box or camera.step == 0
    left, right = -camera.left, camera.width + camera.left - spec.cols * camera.ppc_x
    assert abs(left - right) <= 2


sizes = st.lists(st.tuples(st.integers(1, 3000), st.integers(1, 2000)), min_size=1, max_size=5)


@given(grids(), sizes)
def test_the_whole_map_stays_whole_in_another_size(
    spec: GridSpec, sizes: list[tuple[int, int]]
) -> None:
    camera = Camera(spec)
    camera.show_whole()
    for size in sizes:
        camera.resize(*size)
    anew = Camera(spec, width=camera.width, height=camera.height)
    anew.show_whole()
    assert (camera.step, camera.left, camera.top) == (anew.step, anew.left, anew.top)


@given(grids(), sizes, st.sampled_from(["pan", "zoom", "centre_on", "centre_at", "show_box", "reveal"]))  # fmt: skip
def test_who_looked_elsewhere_keeps_the_scale_in_another_size(
    spec: GridSpec, sizes: list[tuple[int, int]], by: str
) -> None:
    camera = Camera(spec)
    camera.show_whole()
    asked: dict[str, tuple[object, ...]] = {
        "pan": (7, 3),
        "zoom": (1, 30, 20),
        "show_box": (Box(0, 0, 1, 1),),
        "centre_on": (spec.first,),
        "centre_at": (spec.centre(spec.first),),
        # So wide a margin that it has to pan.
        "reveal": (spec.first, 500),
    }
    getattr(camera, by)(*asked[by])
    step = camera.step
    for size in sizes:
        camera.resize(*size)
    assert camera.step == step


@given(grids(), steps, st.integers(-(10**5), 10**5), st.integers(-(10**5), 10**5))
def test_some_of_the_map_always_stays_in_sight(spec: GridSpec, step: int, dx: int, dy: int) -> None:
    camera = Camera(spec, step)
    camera.pan(dx, dy)
    assert not camera.visible().empty


def test_a_selection_is_shown_no_nearer_than_is_useful() -> None:
    camera = Camera(GridSpec(100, 100))
    camera.show_box(Box(50, 50, 52, 53))
    assert camera.scale.pw == 32
    assert camera.visible().touches(Box(50, 50, 52, 53))


@given(st.floats(0.01, 200), st.floats(10, 100))
def test_labels_have_room_at_round_numbers(px: float, room: float) -> None:
    every = stride(px, room)
    assert every * px >= room or every == 1
    assert str(every).rstrip("0") in ("1", "2", "5")


@given(
    grids(),
    steps,
    st.lists(st.tuples(st.integers(-8, 60), st.integers(-8, 60)), max_size=30),
    st.tuples(st.integers(-300, 300), st.integers(-300, 300)),
)
def test_cells_in_sight_are_those_that_reach_into_the_picture(
    spec: GridSpec, step: int, offs: list[tuple[int, int]], by: tuple[int, int]
) -> None:
    camera = Camera(spec, step)
    camera.pan(*by)
    canvas = Canvas(cast("QPainter", None), camera, cast("Desk", None), cast("Palette", None))
    some = [spec.first.moved(*off) for off in offs]
    view = QRectF(0, 0, camera.width, camera.height)
    seen = [rect for rect in map(canvas.rect_of, some) if rect.intersects(view)]
    assert canvas.rects_in_sight(some) == seen
    if some:
        around = canvas.rect_around(some).adjusted(-1e-6, -1e-6, 1e-6, 1e-6)
        assert all(around.contains(rect) for rect in seen)
