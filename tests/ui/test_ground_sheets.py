"""Obstacles, classes of terrain, made ground and imports, in the real window."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from PyQt6.QtWidgets import QCheckBox, QLineEdit

from tests.helpers.state import assert_derived_is_current, recorded
from tests.ui.conftest import Driver
from tests.ui.test_ground import on_ground
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import judge
from woven_locus.files.formats import FORMATS, MAP_PNG, MAP_SVG
from woven_locus.files.rasters import heights_source, scaled
from woven_locus.ui.bench.ground.classes_sheet import ClassesSheet
from woven_locus.ui.bench.ground.export_sheet import GreySheet
from woven_locus.ui.bench.ground.import_sheets import HeightsSheet, TerrainSheet
from woven_locus.ui.bench.ground.make_sheet import MakeSheet
from woven_locus.ui.bench.ground.scatter_sheet import ScatterSheet

# --- obstacles ------------------------------------------------------------------------------------------


def test_obstacles_are_put_down_named_and_cleared(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window)
    panel = user.window.bench.ground.obstacle
    user.key("O")
    user.type(panel.name, "Thorn")
    user.choose(panel.look, "Rowan")
    user.type(panel.cols, "2")
    user.click((5, 5))
    (item,) = user.plan.obstacles.values()
    assert (item.name, item.look) == ("Thorn", "rowan")
    assert len(item.cells) == 2
    user.point(tuple(item.cells[0]))
    assert "on it     Thorn" in user.window.reading.where.text()
    user.click(tuple(item.cells[0]))
    assert "Thorn 2 cannot stand at" in user.said
    assert "Thorn in the way" in user.said
    user.click((10, 8))
    user.key("X")
    user.drag((0, 0), (15, 11))
    assert not user.plan.obstacles
    user.click((3, 3))
    assert "no obstacle to clear" in user.said
    user.key("Ctrl+Z")
    assert len(user.plan.obstacles) == 2


def test_obstacles_are_scattered_by_seed_and_density(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window, "\n".join(["...b" * 6] * 12))
    user.key("O")
    user.push(user.window.bench.ground.obstacle.scatter)
    sheet = user.sheet_of(ScatterSheet)
    assert [box.isChecked() for box in sheet.classes] == [True] + [False] * 5
    user.type(sheet.density, "10")
    said = sheet.gives.text()
    user.tick(sheet.classes[0])
    assert "at least one terrain class" in sheet.problem.text()
    assert not sheet.make.isEnabled()
    user.tick(sheet.classes[2])
    assert sheet.gives.text() != said
    count = int(sheet.gives.text().split()[2])
    user.push(sheet.make)
    assert len(user.plan.obstacles) == count > 0
    for item in user.plan.obstacles.values():
        assert all(user.plan.terrain[user.plan.spec.slot(c)] == 2 for c in item.cells)
    assert user.session.document.history.entries == [f"Scattered {count} of Boulder"]


# --- classes --------------------------------------------------------------------------------------------


def test_classes_are_edited_in_the_window(make_window: Callable[..., Driver]) -> None:
    user = on_ground(make_window, "..b.\n....")
    user.push(user.window.bench.ground.classes)
    sheet = user.sheet_of(ClassesSheet)
    assert [sheet.table.item(k, 7).text() for k in range(3)] == ["7", "0", "1"]  # type: ignore[union-attr]
    name = sheet.table.cellWidget(2, 0)
    assert isinstance(name, QLineEdit)
    user.type(name, "Fen")
    assert user.plan.terrain_table[2].name == "Fen"
    build = sheet.table.cellWidget(2, 1)
    assert isinstance(build, QCheckBox)
    user.tick(build)
    assert judge(user.plan, user.plan.kinds["hut"], Cell(2, 0))
    bridge = sheet.table.cellWidget(2, 3)
    assert isinstance(bridge, QCheckBox)
    user.tick(bridge)
    assert user.plan.terrain_table[2].bridge
    sheet.choose_dye = lambda _now: "#123456"
    user.push(sheet.table.cellWidget(2, 5))  # type: ignore[arg-type]
    assert user.plan.terrain_table[2].dye == "#123456"
    assert user.window.bench.ground.buttons[2].text() == "Fen"
    sheet.table.selectRow(2)
    user.push(sheet.remove)
    assert "1 cells are Fen; merge it" in sheet.problem.text()
    user.push(sheet.add)
    assert user.plan.terrain_table[6].name == "New ground"
    assert len(user.window.bench.ground.buttons) == 9
    sheet.table.selectRow(2)
    user.choose(sheet.into, "Cliff")
    user.push(sheet.merge)
    assert [c.name for c in user.plan.terrain_table] == [
        *("Meadow", "Terrace", "Stream", "Scree", "Cliff", "New ground")
    ]
    assert user.plan.terrain[0].tolist() == [0, 0, 4, 0]
    cost = sheet.table.cellWidget(0, 4)
    user.type(cost, "2.5")  # type: ignore[arg-type]
    assert user.plan.terrain_table[0].cost == 2.5
    user.push(sheet.shut)
    user.back()
    for _ in range(7):
        user.key("Ctrl+Z")
    assert [c.name for c in user.plan.terrain_table][2] == "Bog"
    assert len(user.window.bench.ground.buttons) == 8
    assert_derived_is_current(user.plan)


# --- made ground, files ---------------------------------------------------------------------------------


def test_ground_is_made_from_a_seed_in_one_step(vale: Driver) -> None:
    before = recorded(vale.plan)
    vale.key("F3")
    vale.push(vale.window.bench.ground.make)
    sheet = vale.sheet_of(MakeSheet)
    first = sheet.picture.pixmap().toImage()
    vale.type(sheet.seed, "77")
    assert sheet.picture.pixmap().toImage() != first
    vale.tick(sheet.with_river)
    assert not sheet.river.isEnabled()
    vale.push(sheet.make)
    vale.back()
    assert recorded(vale.plan) != before
    assert vale.session.document.history.entries == ["Made ground from seed 77"]
    assert len(vale.plan.register) == 15
    assert_derived_is_current(vale.plan)
    vale.key("Ctrl+Z")
    assert recorded(vale.plan) == before


def test_heights_come_in_from_a_file_of_another_size(vale: Driver, tmp_path: Path) -> None:
    path = tmp_path / "hills.asc"
    path.write_text("ncols 2\nnrows 2\n0 10\n20 30\n")
    exchange = vale.window.exchange
    exchange.choose_in = lambda _title, _kinds: str(path)
    vale.window.actions_.by_name["file.heights_in"].trigger()
    vale.idle()
    sheet = vale.sheet_of(HeightsSheet)
    assert "The file is 2 × 2, the map 64 × 48: resampled." in sheet.says.text()
    assert "Heights: 0 to 30." in sheet.says.text()
    vale.choose(sheet.fit, "Cell for cell, low corner on low corner")
    assert "3,068 cells of the map stay as they are" in sheet.says.text()
    vale.type(sheet.scale, "2")
    assert "Heights: 0 to 60." in sheet.says.text()
    old = vale.plan.heights
    assert old is not None
    vale.push(sheet.make)
    vale.back()
    heights = vale.plan.heights
    assert heights is not None
    assert heights[:2, :2].tolist() == [[0, 20], [40, 60]]
    assert (heights[2:] == old[2:]).all()
    assert vale.session.document.history.entries == ["Heights from hills.asc"]
    vale.key("Ctrl+Z")
    assert vale.plan.heights is old


def test_terrain_comes_in_from_a_picture_by_its_colours(vale: Driver, tmp_path: Path) -> None:
    path = tmp_path / "map.png"
    pixels = np.full((48, 64, 3), (0xA9, 0xB0, 0x7A), np.uint8)
    pixels[:10] = (255, 0, 255)
    pixels[20:22] = (0x7F, 0xA3, 0xBD)
    Image.fromarray(pixels).save(path)
    vale.window.exchange.choose_in = lambda _title, _kinds: str(path)
    vale.window.actions_.by_name["file.terrain_in"].trigger()
    vale.idle()
    sheet = vale.sheet_of(TerrainSheet)
    rows = [sheet.table.item(k, 0).text() for k in range(3)]  # type: ignore[union-attr]
    assert rows == ["#A9B07A", "#FF00FF", "#7FA3BD"]
    assert [box.currentText() for box in sheet.classes] == ["Meadow", "leave as it is", "Stream"]
    assert "1 colour with 640 cells has no class" in sheet.says.text()
    vale.choose(sheet.classes[1], "Cliff")
    assert "have no class" not in sheet.says.text()
    vale.push(sheet.make)
    assert (vale.plan.terrain[:10] == 5).all()
    assert (vale.plan.terrain[20:22] == 3).all()
    assert (vale.plan.terrain[30] == 0).all()
    assert len(vale.session.document.history.entries) == 1


def test_a_broken_file_is_said_and_changes_nothing(vale: Driver, tmp_path: Path) -> None:
    before = recorded(vale.plan)
    path = tmp_path / "bad.asc"
    path.write_bytes(b"ncols 60000\r\nnrows 60000\r\n1 2")
    vale.window.exchange.choose_in = lambda _title, _kinds: str(path)
    vale.window.exchange.heights_in()
    vale.idle()
    assert "60,000 × 60,000 cells are too many" in vale.said
    assert "The plan is as it was" in vale.said
    vale.window.exchange.terrain_in()
    vale.idle()
    assert "is no PNG picture" in vale.said
    assert not vale.window.findChildren(HeightsSheet)
    assert recorded(vale.plan) == before


def test_everything_goes_out_from_the_menu(vale: Driver, tmp_path: Path) -> None:
    for name, form in FORMATS.items():
        if name in (MAP_PNG, MAP_SVG):
            continue  # by the picture sheet
        vale.window.exchange.choose_out = lambda _title, _start, name=name: str(tmp_path / name)
        vale.window.actions_.by_name[f"file.out_{name.replace('-', '_')}"].trigger()
        if form.depth:
            sheet = vale.sheet_of(GreySheet)
            assert "Heights of the plan: 0 to 109 ells" in sheet.says.text()
            vale.type(sheet.scale, "0.1")
            assert ("cut off" in sheet.says.text()) is (form.depth == 8)
            vale.push(sheet.make)
        vale.idle()
        path = (tmp_path / name).with_suffix(form.suffix)
        assert f"Wrote {path}" in vale.said
    source, _what = heights_source(tmp_path / "heights-asc.asc")
    assert (scaled(source) == vale.plan.heights).all()
    source, _what = heights_source(tmp_path / "heights-png16.png")
    np.testing.assert_allclose(scaled(source), vale.plan.heights, atol=0.051)
    source, _what = heights_source(tmp_path / "heights-png8.png")
    assert scaled(source).max() == np.float32(25.5)
    vale.window.exchange.choose_out = lambda _title, _start: str(tmp_path / "no" / "where.png")
    vale.window.exchange.take_out("terrain-png")
    vale.idle()
    assert "where.png" in vale.said
    assert "The plan is as it was" in vale.said
