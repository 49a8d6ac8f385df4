"""The guide, without a network: the page of a stage, with its pictures, in a window of its own."""

from __future__ import annotations

import sysconfig
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.language import tr
from woven_locus.ui.parts.widgets import List
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import em

PAGES = {stage: f"{stage.name.lower()}.md" for stage in Stage}
_TITLES = {
    **{name: tr(stage.value) for stage, name in PAGES.items()},
    "vectors-and-source.md": tr("Vectors and source"),
    "together.md": tr("Two people on one plan"),
    "link.md": tr("The live link"),
    "trials.md": tr("Many runs"),
}


def guide_folder() -> Path | None:
    """Where the pages are: installed beside the package, or in a checkout. None where they were left out."""
    for folder in (
        Path(sysconfig.get_path("data")) / "share" / "woven-locus" / "guide",
        Path(__file__).parents[3] / "docs" / "guide",
    ):
        if (folder / "survey.md").is_file():
            return folder
    return None


class _Page(QTextBrowser):
    """A page of the guide, whose pictures are no wider than it is."""

    def loadResource(self, kind: int, name: QUrl) -> object:
        folder = self.source()
        path = Path(folder.resolved(name).toLocalFile())
        viewport = self.viewport()
        if path.suffix != ".png" or viewport is None:
            return super().loadResource(kind, name)
        picture, width = QImage(str(path)), viewport.width() - 24
        if picture.width() <= width:
            return picture
        return picture.scaledToWidth(width, Qt.TransformationMode.SmoothTransformation)


class GuideSheet(QDialog):
    """The list of pages, and one of them."""

    def __init__(self, folder: Path, stage: Stage, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Guide"))
        self._folder = folder
        self.list, self.page = List(), _Page()
        self.list.setAccessibleName(tr("Pages of the guide"))
        self.page.setAccessibleName(tr("The page"))
        self.page.setOpenExternalLinks(True)
        self.page.setSearchPaths([str(folder)])
        self.list.setFixedWidth(em(180))
        self._names = [name for name in _TITLES if (folder / name).is_file()]
        for name in self._names:
            self.list.addItem(_TITLES[name])
        self.list.currentRowChanged.connect(self._turn)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.close)
        row = QHBoxLayout()
        row.addWidget(self.list)
        row.addWidget(self.page, 1)
        column = QVBoxLayout(self)
        column.addLayout(row, 1)
        column.addWidget(buttons)
        self.resize(em(900), em(620))
        self.show_stage(stage)

    def show_stage(self, stage: Stage) -> None:
        """Turn to the page of a stage."""
        self.list.setCurrentRow(self._names.index(PAGES[stage]))

    def _turn(self, at: int) -> None:
        if 0 <= at < len(self._names):
            self.page.setSource(QUrl.fromLocalFile(str(self._folder / self._names[at])))
