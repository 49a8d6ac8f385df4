"""A picture of the map: pixels, vectors and paper, of the whole map or of what shows."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PyQt6.QtPrintSupport import QPrinter

from tests.ui.conftest import Driver
from woven_locus.ui.inout.picture_sheet import PictureSheet


def _sheet(user: Driver, keys: str = "") -> PictureSheet:
    user.back()
    if keys:
        user.key(keys)
    else:
        user.window.actions_.by_name["file.picture"].trigger()
        user.settle()
    return user.sheet_of(PictureSheet)


def _size(path: Path) -> tuple[int, int]:
    with Image.open(path) as picture:
        return picture.size


@pytest.fixture
def out(vale: Driver, tmp_path: Path) -> Path:
    """Where the next picture goes."""
    path = tmp_path / "picture"
    vale.window.exchange.choose_out = lambda _title, _start: str(path)
    return path


def test_pixels_are_as_many_as_were_asked_for(vale: Driver, out: Path) -> None:
    sheet = _sheet(vale)
    vale.type(sheet.pixels, "7")
    assert "448 × 336 pixels" in sheet.facts.text()
    vale.push(sheet.make)
    vale.idle()
    assert _size(out.with_suffix(".png")) == (448, 336)
    sheet = _sheet(vale)
    vale.tick(sheet.scales)
    vale.tick(sheet.legend)
    said = sheet.facts.text()
    vale.push(sheet.make)
    vale.idle()
    # It is there already, and asks.
    vale.push(vale.window.ask_bar.save)
    vale.idle()
    wide, tall = _size(out.with_suffix(".png"))
    assert f"{wide:,} × {tall:,} with what is around" in said


def test_what_shows_is_cut_out(vale: Driver, out: Path) -> None:
    vale.session.select(1)
    vale.key("Ctrl+Home")
    box = vale.sheet.camera.sight()
    sheet = _sheet(vale)
    vale.tick(sheet.view)
    vale.type(sheet.pixels, "5")
    vale.push(sheet.make)
    vale.idle()
    rows, cols = box.shape
    assert (rows, cols) < (48, 64)
    assert _size(out.with_suffix(".png")) == (5 * cols, 5 * rows)


def test_a_pdf_is_vectors_on_one_page(vale: Driver, out: Path) -> None:
    sheet = _sheet(vale)
    vale.choose(sheet.form_box, "PDF")
    vale.push(sheet.make)
    vale.idle()
    data = out.with_suffix(".pdf").read_bytes()
    assert data.startswith(b"%PDF-")
    assert data.count(b"/Type /Page\n") == 1
    assert b"/Subtype /Image" not in data
    assert str(out) in vale.said


def test_too_many_pixels_are_refused_while_they_are_typed(vale: Driver) -> None:
    sheet = _sheet(vale)
    vale.type(sheet.pixels, "512")
    assert "fewer pixels a cell" in sheet.problem.text()
    assert not sheet.make.isEnabled()
    vale.choose(sheet.form_box, "SVG")
    assert sheet.make.isEnabled()
    sheet.reject()


def _printer_to(path: Path) -> Callable[[QPrinter], bool]:
    def choose(printer: QPrinter) -> bool:
        printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        printer.setOutputFileName(str(path))
        return True

    return choose


def test_the_map_is_printed_and_a_printer_that_cannot_is_said(vale: Driver, tmp_path: Path) -> None:
    sheet = _sheet(vale, "Ctrl+P")
    sheet.choose_printer = _printer_to(tmp_path / "paper.pdf")
    vale.push(sheet.make)
    vale.idle()
    assert (tmp_path / "paper.pdf").read_bytes().startswith(b"%PDF-")
    assert "went to the printer" in vale.said
    sheet = _sheet(vale, "Ctrl+P")
    sheet.choose_printer = _printer_to(tmp_path / "no-folder" / "paper.pdf")
    vale.push(sheet.make)
    vale.idle()
    assert "there is no such folder" in vale.said
    sheet = _sheet(vale, "Ctrl+P")
    sheet.choose_printer = lambda _printer: False
    vale.push(sheet.make)
    assert not vale.session.jobs.running
