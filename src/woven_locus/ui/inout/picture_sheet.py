"""The sheet that makes a picture of the map: pixels, vectors, or paper."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, Qt
from PyQt6.QtGui import (
    QImage,
    QPagedPaintDevice,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPixmap,
)
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QButtonGroup, QCheckBox, QRadioButton, QVBoxLayout, QWidget

from woven_locus.core.errors import FileProblem, WovenError
from woven_locus.core.geometry import Box
from woven_locus.core.plan import Plan
from woven_locus.document.saving import settled_snapshot
from woven_locus.files.atomic import write_bytes
from woven_locus.files.map_frame import HIDEABLE, MapLook
from woven_locus.files.map_png import (
    PIXELS,
    TooLarge,
    frame_in,
    map_pixels,
    map_png,
    size_of,
)
from woven_locus.files.map_svg import map_svg
from woven_locus.ui.inout.files import Files
from woven_locus.ui.jobs.pool import AT_ONCE, Control
from woven_locus.ui.language import tr
from woven_locus.ui.parts.file_names import file_name
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import ComboBox, Label, figures, heading, muted, whole_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, em
from woven_locus.version import __version__

PNG, SVG, PDF, PAPER = "PNG", "SVG", "PDF", tr("Paper")
_SUFFIX = {PNG: ".png", SVG: ".svg", PDF: ".pdf"}
# The longer side of a PDF's page, mm; its points an inch.
_PAGE, _RESOLUTION = 297, 300
# Pixels of the small picture on the sheet.
_PREVIEW = 240
_EXACT = QPageSize.SizeMatchPolicy.ExactMatch
_WORDS = {
    "reserved": tr("Reserved ground"),
    "obstacles": tr("Obstacles"),
    "barriers": tr("Barriers"),
    "roads": tr("Roads"),
    "structures": tr("Structures"),
}


class PictureSheet(FormSheet):
    """`choose_printer` may be replaced."""

    def __init__(
        self,
        session: Session,
        theme: Theme,
        in_sight: Box,
        files: Files,
        choose_out: Callable[[str, str], str],
        form: str,
        parent: QWidget,
    ) -> None:
        """in_sight : rows and columns of the screen that the sheet shows.  choose_out : asks for a file, by title and proposed
        name.  form : what is proposed."""
        super().__init__(tr("Picture of the map"), tr("Write…"), parent)
        self._session, self._files, self._choose_out, self._window = (
            session,
            files,
            choose_out,
            parent,
        )
        self._in_sight = in_sight.clipped(session.plan.spec.shape)
        self.choose_printer: Callable[[QPrinter], bool] = self._ask_printer
        self.form_box = ComboBox()
        self.form_box.setAccessibleName(tr("Picture as"))
        self.form_box.addItems((PNG, SVG, PDF, PAPER))
        self.form_box.setCurrentText(form)
        self.whole, self.view = (
            QRadioButton(tr("The whole map")),
            QRadioButton(tr("What the sheet shows")),
        )
        self.whole.setChecked(True)
        group = QButtonGroup(self)
        group.addButton(self.whole)
        group.addButton(self.view)
        self.pixels = whole_box(PIXELS, 1, 512, tr("Pixels a cell"))
        self.layers = {name: QCheckBox(words) for name, words in _WORDS.items()}
        for box in self.layers.values():
            box.setChecked(True)
        self.scales, self.legend = QCheckBox(tr("Scales along the edges")), QCheckBox(tr("Legend"))
        framed = form in (PDF, PAPER)
        self.scales.setChecked(framed)
        self.legend.setChecked(framed)
        self.dark = QCheckBox(tr("Dark colours"))
        self.dark.setChecked(theme.palette.dark and form != PAPER)
        self.preview, self.facts = Label(), figures()
        self.preview.setFixedSize(em(_PREVIEW), em(_PREVIEW))
        self.preview.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.preview.setAccessibleName(tr("Small picture of it"))
        self._lay_out()
        self._connect()
        self._look()

    def _lay_out(self) -> None:
        self.form.addRow(tr("As"), self.form_box)
        for label, boxes in (
            (tr("Of"), (self.whole, self.view)),
            (tr("With"), (*self.layers.values(), self.scales, self.legend)),
        ):
            column = QVBoxLayout()
            for box in boxes:
                column.addWidget(box)
            self.form.addRow(label, column)
        self.form.addRow("", self.dark)
        self.form.addRow(tr("Pixels a cell"), self.pixels)
        self.side.addWidget(heading(tr("That gives")))
        self.side.addWidget(self.preview)
        self.side.addWidget(self.facts)
        self.side.addWidget(muted(tr("Scales and legend are not in the small picture.")))
        self.side.addStretch(1)

    def _connect(self) -> None:
        boxes = (self.whole, self.scales, self.legend, self.dark, *self.layers.values())
        for box in boxes:
            box.toggled.connect(self._look)
        self.form_box.currentIndexChanged.connect(self._look)
        self.pixels.valueChanged.connect(self._look)
        self.accepted.connect(self._make)

    @property
    def look(self) -> MapLook:
        hidden = tuple(name for name in HIDEABLE if not self.layers[name].isChecked())
        area = self._in_sight if self.view.isChecked() else None
        return MapLook(
            self.dark.isChecked(), hidden, area, self.scales.isChecked(), self.legend.isChecked()
        )

    def _look(self) -> None:
        """What it gives, and whether it can be made."""
        form, look, plan = self.form_box.currentText(), self.look, self._session.plan
        self.pixels.setEnabled(form == PNG)
        self.make.setText(tr("Print…") if form == PAPER else tr("Write…"))
        rows, cols = look.box(plan).shape
        small = rows * cols <= AT_ONCE
        lines = [tr("{cols:,} × {rows:,} cells", cols=cols, rows=rows)]
        why = ""
        if form == PNG:
            try:
                tall, wide = size_of(plan, self.pixels.value(), look)
            except TooLarge as err:
                why = tr(err)
            else:
                lines.append(tr("{wide:,} × {tall:,} pixels", wide=wide, tall=tall))
                if small and (look.scales or look.legend):
                    wide, tall = frame_in(plan, self.pixels.value(), look).around(wide, tall)
                    lines.append(
                        tr("{wide:,} × {tall:,} with what is around", wide=wide, tall=tall)
                    )
        self.facts.setText("\n".join(lines))
        self.show_problem(why)
        if small:
            self._show_preview(look)
        else:
            self.preview.setText(tr("Too large for a small picture"))

    def _show_preview(self, look: MapLook) -> None:
        plan, side = self._session.plan, self.preview.width()
        pixels = max(1, min(24, 2 * side // max(look.box(plan).shape)))
        found = map_pixels(plan, pixels, look)
        tall, wide = found.shape[:2]
        image = QImage(found.tobytes(), wide, tall, 3 * wide, QImage.Format.Format_RGB888)
        if max(tall, wide) > side:
            image = image.scaled(
                side,
                side,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        self.preview.setPixmap(QPixmap.fromImage(image))

    # --- making it ---------------------------------------------------------------------------

    def _make(self) -> None:
        form, look, pixels = self.form_box.currentText(), self.look, self.pixels.value()
        if form == PAPER:
            self._print(look)
            return
        name = self._session.plan.name

        def write(path: Path) -> None:
            self._work(
                tr("Writing {path}", path=path.name),
                lambda plan, control: _write(form, plan, path, look, pixels, control),
                tr("Wrote {path}", path=path),
            )

        def ask() -> None:
            start = file_name(tr("{name} map", name=name), _SUFFIX[form])
            if chosen := self._choose_out(tr("Picture of the map"), start):
                self._files.write_to(chosen, _SUFFIX[form], write, ask)

        ask()

    def _print(self, look: MapLook) -> None:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(self._session.plan.name)
        rows, cols = look.box(self._session.plan).shape
        sides = QPageLayout.Orientation
        printer.setPageOrientation(sides.Landscape if cols > rows else sides.Portrait)
        if self.choose_printer(printer):
            self._work(
                tr("Printing the map"),
                lambda plan, _control: _draw(map_svg(plan, look), printer),
                tr("The map went to the printer"),
            )

    def _work(self, label: str, make: Callable[[Plan, Control], object], words: str) -> None:
        """Of the plan as it is now, on another thread."""
        session, plan = self._session, self._session.plan
        session.jobs.start(
            label,
            lambda control: make(settled_snapshot(plan, control), control),
            lambda _nothing: session.say(words),
            lambda error: session.say(tr("{error}. The plan is as it was.", error=error), "error"),
            lambda: session.say(tr("{label} was stopped", label=label)),
        )

    def _ask_printer(self, printer: QPrinter) -> bool:
        return bool(QPrintDialog(printer, self._window).exec())


def _write(form: str, plan: Plan, path: Path, look: MapLook, pixels: int, control: Control) -> None:
    if form == PNG:
        write_bytes(path, map_png(plan, pixels, look, control))
    elif form == SVG:
        write_bytes(path, map_svg(plan, look).encode("utf-8"))
    else:
        write_bytes(path, _pdf(map_svg(plan, look), plan.name))


def _pdf(svg: str, title: str) -> bytes:
    """One page, cut to the picture."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(_RESOLUTION)
    writer.setTitle(title)
    writer.setCreator(tr("Woven Locus {version}", version=__version__))
    size = QSvgRenderer(QByteArray(svg.encode())).defaultSize().toSizeF()
    size *= _PAGE / max(size.width(), size.height(), 1.0)
    writer.setPageSize(QPageSize(size, QPageSize.Unit.Millimeter, "", _EXACT))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    _draw(svg, writer)
    return bytes(buffer.data().data())


def _draw(svg: str, on: QPagedPaintDevice) -> None:
    """As large as the page has room for. Raises WovenError where nothing can be drawn on it."""
    name = on.outputFileName() if isinstance(on, QPrinter) else ""
    if name and not Path(name).parent.is_dir():
        # Qt itself says nothing of use.
        raise FileProblem(name, "", tr("there is no such folder"))
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    painter = QPainter()
    if not painter.begin(on):
        raise WovenError(tr("nothing could be drawn: look whether the printer is ready"))
    page = QRectF(painter.viewport())
    size = renderer.defaultSize().toSizeF()
    size.scale(page.size(), Qt.AspectRatioMode.KeepAspectRatio)
    left = (page.width() - size.width()) / 2
    renderer.render(painter, QRectF(left, 0, size.width(), size.height()))
    painter.end()
