"""The tiles of the map: made, mended, shown from another step and dropped."""

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.edits import ground, heights
from woven_locus.core.edits.heights import Sculpt
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.lines import Brush, swept
from woven_locus.core.placing import judge
from woven_locus.core.plan import Plan
from woven_locus.core.render import LIGHT, Raster
from woven_locus.document.starter import new_plan
from woven_locus.ui.sheet.camera import Camera
from woven_locus.ui.sheet.tiles import Tiles


def picture(tiles: Tiles, camera: Camera, patient: bool = True) -> tuple[np.ndarray, bool]:
    image = QImage(camera.width, camera.height, QImage.Format.Format_RGB32)
    image.fill(QColor("#010203"))
    painter = QPainter(image)
    missing = tiles.draw(painter, camera, patient)
    painter.end()
    bits = image.constBits()
    assert bits is not None
    pixels = np.frombuffer(bits.asarray(image.sizeInBytes()), np.uint32)
    return pixels.reshape(camera.height, camera.width).copy(), missing


def large() -> Plan:
    plan = new_plan(GridSpec(200, 150, 24, 24))
    rng = np.random.default_rng(4)
    plan.terrain[:] = rng.integers(0, 6, plan.spec.shape)
    return plan


@pytest.mark.parametrize("hilly", [False, True])
@pytest.mark.parametrize("size", [1, 4, 12, 40])
def test_mended_tiles_look_like_fresh_ones(qtbot: QtBot, size: int, hilly: bool) -> None:
    plan = large()
    history = History(plan)
    if hilly:
        slopes = np.add.outer(np.arange(plan.spec.shape[0]), np.sin(np.arange(plan.spec.shape[1])))
        history.do(heights.set_heights(plan, slopes.astype(np.float32), "Hills"))
    tiles = Tiles(Raster(plan, LIGHT))
    history.listen(tiles.forget)
    camera = Camera(plan.spec, width=400, height=300)
    camera.show_whole()
    camera.zoom(0, 0, 0)
    while camera.scale.skip > 1 or camera.scale.pw < size:
        camera.zoom(1, 200, 150)
    picture(tiles, camera)
    history.do(edits.lay_road(plan, [Cell(c, 75) for c in range(90, 110)]))
    history.do(ground.paint_brush(plan, [Cell(101, 77)], Brush(3), ground.Coat("terrain", 0)))
    for cell in (Cell(95, 72), Cell(104, 72)):
        if judge(plan, plan.kinds["spring-house"], cell):
            history.do(edits.place(plan, "spring-house", cell, 0, ""))
    if hilly:
        box, mask = swept([plan.spec.slot(Cell(99, 74))], Brush(4))
        history.do(heights.sculpt(plan, Sculpt.RAISE, box, mask, 3.0))
    history.undo()
    history.redo()
    mended, _ = picture(tiles, camera)
    fresh, _ = picture(Tiles(Raster(plan, LIGHT)), camera)
    np.testing.assert_array_equal(mended, fresh)


def test_what_is_not_made_yet_is_shown_from_another_step(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    plan = large()
    tiles = Tiles(Raster(plan, LIGHT))
    camera = Camera(plan.spec, width=600, height=450)
    camera.show_whole()
    assert not picture(tiles, camera)[1]
    camera.zoom(6, 300, 225)
    monkeypatch.setattr("woven_locus.ui.sheet.tiles.BUDGET", -1)
    unfinished, missing = picture(tiles, camera, patient=False)
    assert missing
    # Nothing shows through: every pixel comes from some tile.
    assert not (unfinished == 0xFF010203).any()
    monkeypatch.setattr("woven_locus.ui.sheet.tiles.BUDGET", 10)
    finished, missing = picture(tiles, camera, patient=False)
    assert not missing
    assert (finished != unfinished).any()


def test_each_frame_makes_or_mends_a_tile_however_little_time_there_is(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("woven_locus.ui.sheet.tiles.BUDGET", -1)
    monkeypatch.setattr("woven_locus.ui.sheet.tiles.AT_ONCE_CELLS", 16)
    plan = large()
    history = History(plan)
    tiles = Tiles(Raster(plan, LIGHT))
    history.listen(tiles.forget)
    camera = Camera(plan.spec, width=600, height=450)
    camera.show_whole()
    camera.zoom(4, 300, 225)

    def frames() -> int:
        count = 1
        while picture(tiles, camera, patient=False)[1]:
            count += 1
            assert count < 100, "no tile is made"
        return count

    made = frames()
    assert made > 2
    history.do(ground.replace_all(plan, Cell(3, 3), ground.Coat("terrain", 1)))
    assert 2 < frames() <= made
    mended, _ = picture(tiles, camera)
    np.testing.assert_array_equal(mended, picture(Tiles(Raster(plan, LIGHT)), camera)[0])


def test_tiles_that_are_long_unseen_make_room(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("woven_locus.ui.sheet.tiles.ROOM", 2_000_000)
    plan = large()
    tiles = Tiles(Raster(plan, LIGHT))
    camera = Camera(plan.spec, width=400, height=300)
    camera.set_step(camera.step)
    for k in range(12):
        camera.left, camera.top = 120 * k, 60 * k
        picture(tiles, camera)
    assert tiles._held <= 2_000_000
    assert tiles._held == sum(tile.pixels.nbytes for tile in tiles._tiles.values())
