"""The guide, without a network: the page of a stage, with its pictures, in a window of its own."""

from __future__ import annotations

import sysconfig
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt, QTimer, QUrl
from PyQt6.QtGui import QImage, QResizeEvent, QTextDocument
from PyQt6.QtWidgets import (
    QDialogButtonBox,
    QHBoxLayout,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog, open_as
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


# After which a page is laid out for another width.
_SOON_MSEC = 80


class _Page(QTextBrowser):
    """A page of the guide, whose pictures are no wider than it is."""

    def __init__(self) -> None:
        super().__init__()
        # Else the bar comes and goes with the height of the pictures, and they with the room that it leaves.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        # The first character that is seen.
        self._top = 0
        # Not with every pixel while the window is drawn larger.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MSEC)
        self._soon.timeout.connect(self._fit)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if event is not None and event.size().width() != event.oldSize().width():
            if not self._soon.isActive():
                # Before the text is laid out anew.
                self._top = self.cursorForPosition(QPoint(4, 4)).position()
            self._soon.start()
        super().resizeEvent(event)

    def doSetSource(
        self,
        name: QUrl,
        type: QTextDocument.ResourceType = QTextDocument.ResourceType.UnknownResource,
    ) -> None:
        # Loaded now, in the width that there is now; the place was one of another page.
        self._soon.stop()
        super().doSetSource(name, type)

    def _fit(self) -> None:
        """Load the pictures in another size; what stands at the top stays there."""
        bar = self.verticalScrollBar()
        assert bar is not None
        self.reload()
        cursor = self.textCursor()
        cursor.setPosition(self._top)
        bar.setValue(bar.value() + self.cursorRect(cursor).top())

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


class GuideSheet(Dialog):
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
        self._names = [name for name in _TITLES if (folder / name).is_file()]
        for name in self._names:
            self.list.addItem(_TITLES[name])
        self.list.setFixedWidth(max(em(180), self.list.sizeHintForColumn(0) + em(24)))
        self.list.currentRowChanged.connect(self._turn)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.close)
        row = QHBoxLayout()
        row.addWidget(self.list)
        row.addWidget(self.page, 1)
        column = QVBoxLayout(self)
        column.addLayout(row, 1)
        column.addWidget(buttons)
        open_as(self, 900, 620)
        self.show_stage(stage)

    def show_stage(self, stage: Stage) -> None:
        """Turn to the page of a stage."""
        self.list.setCurrentRow(self._names.index(PAGES[stage]))

    def _turn(self, at: int) -> None:
        if 0 <= at < len(self._names):
            self.page.setSource(QUrl.fromLocalFile(str(self._folder / self._names[at])))
