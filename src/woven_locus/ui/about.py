"""What this is: version, licences, the versions of its parts, and where its data lie."""

from __future__ import annotations

import platform
from importlib.metadata import PackageNotFoundError, version

from PyQt6.QtCore import QT_VERSION_STR, QSettings, Qt
from PyQt6.QtWidgets import QDialogButtonBox, QVBoxLayout, QWidget

from woven_locus import kernel_cache
from woven_locus.document.journals import journal_folder
from woven_locus.reports import report_folder
from woven_locus.ui.language import tr
from woven_locus.ui.parts.sizes import Dialog
from woven_locus.ui.parts.widgets import Label, copy_text, figures, heading
from woven_locus.ui.theme import em
from woven_locus.version import __version__

_PARTS = ("PyQt6", "numpy", "numba", "scipy", "msgspec", "pillow", "pyqtgraph", "websockets")
LICENCES = tr(
    "Our source is under the MIT licence. PyQt6, on which the window is built, is under the GPL version 3 or a commercial "
    "licence: who passes both on together does so under the GPL, or with a commercial licence of PyQt6. "
    "Source that is handed over to a game is yours."
)


def parts() -> list[tuple[str, str]]:
    """(name, version) of what the program is built on; those that are not there are left out."""
    found = [("Python", platform.python_version()), ("Qt", QT_VERSION_STR)]
    for name in _PARTS:
        try:
            found.append((name, version(name)))
        except PackageNotFoundError:
            continue
    return found


def places() -> list[tuple[str, str]]:
    """(what, where) of everything that the program keeps beside the plans."""
    return [
        (tr("Settings"), QSettings().fileName()),
        (tr("Recovery journals"), str(journal_folder())),
        (tr("Failure reports"), str(report_folder())),
        (tr("Compiled kernels"), str(kernel_cache.cache_folder())),
    ]


class AboutSheet(Dialog):
    """All of it can be copied."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("About Woven Locus"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.text = "\n".join(
            [
                *(f"{name:18} {number}" for name, number in parts()),
                "",
                *(f"{what:18} {where}" for what, where in places()),
            ]
        )
        words = Label(LICENCES)
        words.setWordWrap(True)
        words.setMinimumWidth(em(480))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        copy = buttons.addButton(tr("Copy"), QDialogButtonBox.ButtonRole.ActionRole)
        assert copy is not None
        self.copy = copy
        self.copy.clicked.connect(self._copy)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(heading(tr("Woven Locus {version}", version=__version__)))
        column.addWidget(words)
        column.addWidget(figures(self.text))
        column.addWidget(buttons)

    def _copy(self) -> None:
        copy_text(tr("Woven Locus {version}\n{text}", version=__version__, text=self.text))
