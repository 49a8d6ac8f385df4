"""Heights and terrain that have been read from a file, and how they are to come onto the map."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QComboBox,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from woven_locus.core.ground.relief import Fit, fitted, placed
from woven_locus.core.plan import Plan
from woven_locus.files import pictures, rasters
from woven_locus.files.pictures import Grey, Picture
from woven_locus.ui.bench.ground.preview import SIDE, Preview
from woven_locus.ui.language import counted, listed, tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.sizes import open_as
from woven_locus.ui.parts.tables import set_widths
from woven_locus.ui.parts.widgets import ComboBox, Label, WorldBox, heading, muted, whole_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import row_height, text_font

_FITS = {
    Fit.STRETCH: tr("Resample it to the whole map"),
    Fit.LOW: tr("Cell for cell, low corner on low corner"),
    Fit.MIDDLE: tr("Cell for cell, middle on middle"),
    Fit.HIGH: tr("Cell for cell, high corner on high corner"),
}
# Colours of a picture that are listed; a photograph has thousands.
MOST_COLOURS = 200


class _RasterSheet(FormSheet):
    """What both have: how the raster lies on the map, in words and as a picture."""

    def __init__(
        self, title: str, session: Session, shape: tuple[int, int], parent: QWidget | None
    ) -> None:
        super().__init__(title, tr("Import"), parent)
        self._session, self._shape = session, shape
        self.fit = ComboBox()
        self.fit.setAccessibleName(tr("How it lies on the map"))
        for fit, words in _FITS.items():
            self.fit.addItem(words, fit)
        spec = session.plan.spec
        self.fit.setCurrentIndex(1 if shape == spec.shape else 0)
        self.says = muted()
        self.preview = Preview(tr("Preview of the map with it"))
        self.side.addWidget(heading(tr("The map with it")))
        self.side.addWidget(self.preview)
        self.side.addStretch(1)
        self.fit.currentIndexChanged.connect(self._work_out)

    @property
    def chosen(self) -> Fit:
        fit = self.fit.currentData()
        assert isinstance(fit, Fit)
        return fit

    def _coverage(self) -> str:
        """What the raster covers, leaves and loses."""
        spec, shape, fit = self._session.plan.spec, self._shape, self.chosen
        size = tr(
            "The file is {shape} × {shape2}, the map {cols} × {rows}",
            shape=shape[1],
            shape2=shape[0],
            cols=spec.cols,
            rows=spec.rows,
        )
        if shape == spec.shape:
            return tr("{size}: cell for cell.", size=size)
        if fit is Fit.STRETCH:
            return tr("{size}: resampled.", size=size)
        on_map, of_raster = placed(shape, spec.shape, fit)
        bare = spec.cols * spec.rows - on_map.shape[0] * on_map.shape[1]
        lost = shape[0] * shape[1] - of_raster.shape[0] * of_raster.shape[1]
        stays = counted(
            bare,
            "{n:,} cell of the map stays as it is",
            "{n:,} cells of the map stay as they are",
        )
        parts = [tr(stays)] if bare else []
        parts += [tr("{lost:,} of the file are cut off", lost=lost)] if lost else []
        return f"{size}: {listed(parts)}." if parts else f"{size}."

    def _work_out(self) -> None:
        raise NotImplementedError

    @staticmethod
    def _thin(count: int) -> int:
        return max(1, count // SIDE)


class HeightsSheet(_RasterSheet):
    """Heights, top row first, from an ASCII grid (an array) or a grey picture."""

    def __init__(
        self,
        session: Session,
        source: rasters.Source,
        spread: rasters.Spread,
        what: str,
        name: str,
        parent: QWidget | None,
    ) -> None:
        shape = source.values.shape if isinstance(source, Grey) else source.shape
        super().__init__(
            tr("Heights from {name}", name=name), session, (shape[0], shape[1]), parent
        )
        self._source, self._spread, self._name = source, spread, name
        self.form.addRow(tr("File"), Label(what))
        self.form.addRow(tr("Lies"), self.fit)
        self.scale = WorldBox(1, -1e6, 1e6)
        self.base = WorldBox(0, -1e6, 1e6)
        self.scale.setDecimals(8)
        self.scale.setAccessibleName(tr("Units for one step of the file"))
        self.base.setAccessibleName(tr("Units at 0"))
        self.nodata = whole_box(-1, -1, 65535, tr("Grey of unknown cells"))
        self.nodata.setSpecialValueText(tr("none"))
        if isinstance(source, Grey):
            self.scale.setValue(1.0 if source.scale is None else source.scale)
            self.base.setValue(source.base or 0.0)
            self.nodata.setValue(-1 if source.nodata is None else source.nodata)
            self.form.addRow(tr("Units a grey"), self.scale)
            self.form.addRow(tr("Units at grey 0"), self.base)
            self.form.addRow(tr("Grey of unknown"), self.nodata)
        else:
            self.form.addRow(tr("Multiply by"), self.scale)
            self.form.addRow(tr("Then add"), self.base)
        self.form.addRow(self.says)
        for box in (self.scale, self.base, self.nodata):
            box.valueChanged.connect(self._work_out)
        self.accepted.connect(self._bring_in)
        self._work_out()

    def scaling(self) -> tuple[float, float, int | None]:
        """(scale, base, grey of unknown cells) as chosen."""
        source, scale, base = self._source, self.scale.value(), self.base.value()
        if not isinstance(source, Grey):
            return scale, base, None
        # What the file says itself is kept to the last digit, which the boxes do not show.
        if source.scale is not None and _same(scale, source.scale):
            scale = source.scale
        if source.base is not None and _same(base, source.base):
            base = source.base
        nodata = self.nodata.value()
        # A grey that no picture has stands for no unknown cells at all.
        return scale, base, -1 if nodata < 0 else nodata

    def _work_out(self) -> None:
        if self.scale.value() == 0:
            self.show_problem(tr("A scale of 0 would make everything flat"))
            return
        plan, scaling = self._session.plan, self.scaling()
        spread = self._spread.scaled(*scaling)
        self.says.setText(
            tr(
                "{coverage} Heights: {described}.",
                coverage=self._coverage(),
                described=rasters.described(*spread),
            )
        )
        self.show_problem(tr("The file holds no known height") if np.isnan(spread[0]) else "")
        # A picture does not need every cell of a large map.
        skip = self._thin(max(*plan.spec.shape, *self._shape))
        if plan.heights is not None:
            under = plan.heights[::skip, ::skip]
        else:
            under = np.full(plan.terrain[::skip, ::skip].shape, np.nan, np.float32)
        values = rasters.scaled(rasters.thinned(self._source, skip), *scaling)
        laid = values[::-1] if plan.spec.y_up else values
        small = fitted(laid, under, self.chosen)
        cell = (plan.spec.cell_w * skip, plan.spec.cell_h * skip)
        self.preview.show_map([], None, small, cell, plan.spec.y_up)  # type: ignore[arg-type]

    def _bring_in(self) -> None:
        source, scaling, fit, name = self._source, self.scaling(), self.chosen, self._name
        self._session.work(
            tr("Importing {name}", name=name),
            lambda plan, _stopped: rasters.heights_edit(
                plan, rasters.scaled(source, *scaling), fit, name
            ),
        )


def _same(shown: float, exact: float) -> bool:
    return abs(shown - exact) <= 1e-8


class TerrainSheet(_RasterSheet):
    """Terrain from the colours of a picture."""

    def __init__(
        self, session: Session, picture: Picture, name: str, parent: QWidget | None
    ) -> None:
        tall, wide = picture.codes.shape
        super().__init__(tr("Terrain from {name}", name=name), session, (tall, wide), parent)
        open_as(self, 760, 460)
        self._picture, self._name = picture, name
        plan = session.plan
        self.form.addRow(tr("Lies"), self.fit)
        dyes = [item.dye for item in plan.terrain_table]
        self._proposed = pictures.proposed(picture.colours[:MOST_COLOURS], dyes)
        self.table = QTableWidget(len(self._proposed), 3)
        self.table.setHorizontalHeaderLabels([tr("Colour"), tr("Cells"), tr("Class")])
        self.table.setAccessibleName(tr("Colours of the picture and the class of each"))
        self.table.setMinimumSize(380, 240)
        self.table.setShowGrid(False)
        rows = self.table.verticalHeader()
        assert rows is not None
        rows.hide()
        rows.setDefaultSectionSize(row_height(text_font(10), 14, 32))
        set_widths(self.table, enumerate((110, 90, 160)))
        head = self.table.horizontalHeader()
        assert head is not None
        head.setStretchLastSection(True)
        self.classes: list[QComboBox] = []
        for row, code in enumerate(self._proposed):
            self._fill_row(row, code, plan)
        self.form.addRow(self.table)
        self.form.addRow(self.says)
        self.accepted.connect(self._bring_in)
        self._work_out()

    def _fill_row(self, row: int, code: int | None, plan: Plan) -> None:
        colour, count = self._picture.colours[row], self._picture.counts[row]
        swatch = QTableWidgetItem(pictures.hex_of(colour))
        swatch.setBackground(QColor(*colour))
        dark = sum(colour) < 380
        swatch.setForeground(QColor("#FFFFFF" if dark else "#000000"))
        cells = QTableWidgetItem(f"{count:,}")
        cells.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        for column, item in enumerate((swatch, cells)):
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self.table.setItem(row, column, item)
        box = ComboBox()
        box.setAccessibleName(tr("Class of {hex_of}", hex_of=pictures.hex_of(colour)))
        box.addItem(tr("leave as it is"), None)
        for at, item_ in enumerate(plan.terrain_table):
            box.addItem(item_.name, at)
        box.setCurrentIndex(0 if code is None else code + 1)
        box.currentIndexChanged.connect(self._work_out)
        self.classes.append(box)
        self.table.setCellWidget(row, 2, box)

    def chosen_classes(self) -> list[int | None]:
        """A code, or None, for every colour of the picture."""
        listed: list[int | None] = [box.currentData() for box in self.classes]
        return listed + [None] * (len(self._picture.colours) - len(listed))

    def _work_out(self) -> None:
        plan, picture = self._session.plan, self._picture
        classes = self.chosen_classes()
        left = [count for code, count in zip(classes, picture.counts, strict=True) if code is None]
        more = len(picture.colours) - len(self.classes)
        words = self._coverage()
        if left:
            cells = counted(sum(left), "{n:,} cell", "{n:,} cells")
            none = counted(
                len(left),
                "{n:,} colour with {cells} has no class: there the map stays.",
                "{n:,} colours with {cells} have no class: there the map stays.",
                cells=cells,
            )
            words += f" {tr(none)}"
        if more:
            rarer = counted(
                more, "{n:,} rarer colour is not listed.", "{n:,} rarer colours are not listed."
            )
            words += f" {tr(rarer)}"
        self.says.setText(words)
        self.show_problem(
            "" if any(c is not None for c in classes) else tr("No colour has a class yet")
        )
        table = np.array([255 if code is None else code for code in classes], np.uint8)
        skip = self._thin(max(*plan.spec.shape, *self._shape))
        codes = table[(picture.codes[::-1] if plan.spec.y_up else picture.codes)[::skip, ::skip]]
        under = np.full(plan.terrain[::skip, ::skip].shape, 255, np.uint8)
        small = fitted(codes, under, self.chosen).astype(np.uint8)
        small = np.where(small == 255, plan.terrain[::skip, ::skip], small)
        dyes = [item.dye for item in plan.terrain_table]
        self.preview.show_map(
            dyes, small, None, (plan.spec.cell_w, plan.spec.cell_h), plan.spec.y_up
        )

    def _bring_in(self) -> None:
        classes, fit, picture, name = self.chosen_classes(), self.chosen, self._picture, self._name
        self._session.work(
            tr("Importing {name}", name=name),
            lambda plan, _stopped: rasters.terrain_edit(plan, picture, classes, fit, name),
        )
