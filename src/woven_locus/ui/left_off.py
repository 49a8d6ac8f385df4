"""The window opens where its user left off: sizes, folded parts, and what was looked at in each plan."""

from __future__ import annotations

import json
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QSplitter, QWidget

from woven_locus.core.geometry import Point
from woven_locus.ui import kept, recent
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.view import Sheet

_LAYOUT = "layout"


class LeftOff(QObject):
    """Keeps what is to be there the next time."""

    def __init__(
        self,
        session: Session,
        sheet: Sheet,
        splitters: dict[str, QSplitter],
        parts: dict[str, QWidget],
    ) -> None:
        """splitters, parts : of the window, by the names under which they are kept."""
        super().__init__(session)
        self._session, self._sheet = session, sheet
        self._splitters, self._parts = splitters, parts
        self._seen: tuple[Path, recent.Look] | None = None
        self._lay_out()
        self._look()
        session.replaced.connect(self._replaced)
        session.saved.connect(self._saved)
        sheet.painted.connect(self._painted)

    # --- the window's parts -----------------------------------------------------------------------

    def _lay_out(self) -> None:
        try:
            found = json.loads(kept.text(_LAYOUT, "{}"))
        except ValueError:
            return
        if not isinstance(found, dict):
            return
        for name, splitter in self._splitters.items():
            sizes = found.get(name)
            if (
                isinstance(sizes, list)
                and len(sizes) == splitter.count()
                and all(isinstance(size, int) and 0 <= size < 1 << 15 for size in sizes)
                and sum(sizes)
            ):
                splitter.setSizes(sizes)
        for name, part in self._parts.items():
            if found.get(name) is False:
                part.hide()

    def keep(self) -> None:
        """The window is closed."""
        found: dict[str, object] = {k: s.sizes() for k, s in self._splitters.items()}
        found |= {name: not part.isHidden() for name, part in self._parts.items()}
        kept.keep(_LAYOUT, json.dumps(found))
        path = self._session.document.path
        kept.keep(recent.LAST, str(path) if path is not None else "")
        self._put_by()

    # --- what was looked at -----------------------------------------------------------------------

    def _put_by(self) -> None:
        if self._seen is not None:
            recent.remember(*self._seen)
            self._seen = None

    def _painted(self) -> None:
        path, camera = self._session.document.path, self._sheet.camera
        if path is not None:
            middle = None
            if not camera.whole:
                middle = Point(*camera.point_at(camera.width / 2, camera.height / 2))
            stage = self._session.choices.stage
            self._seen = path, recent.Look(stage, camera.step, middle)

    def _replaced(self) -> None:
        self._put_by()
        self._look()

    def _saved(self) -> None:
        path = self._session.document.path
        if path is not None:
            recent.remember(path)

    def _look(self) -> None:
        """At what was looked at in this plan."""
        path = self._session.document.path
        if path is None:
            return
        look = recent.look_of(path)
        recent.remember(path)
        if look is not None:
            self._session.set_stage(look.stage)
            if look.middle is not None:
                self._sheet.look(look.step, look.middle)
