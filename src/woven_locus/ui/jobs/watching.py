"""Files that other programs may write, watched."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, pyqtSignal


class PathWatch(QObject):
    """written : one of the files, or something in a folder of theirs, may be another now."""

    written = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(lambda _path: self.written.emit())
        self._watcher.directoryChanged.connect(lambda _path: self.written.emit())

    @property
    def held(self) -> list[str]:
        """Every file and folder that is watched."""
        return [*self._watcher.files(), *self._watcher.directories()]

    def hold(self, *paths: Path) -> None:
        """Watch these, and nothing else. Again after each write: a file that is put in the place of another is watched no
        longer, so that its folder is watched, too."""
        if old := self.held:
            self._watcher.removePaths(old)
        places = dict.fromkeys(place for path in paths for place in (path, path.parent))
        if new := [str(place) for place in places if place.exists()]:
            self._watcher.addPaths(new)
