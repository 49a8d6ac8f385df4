"""Bringing terrain and heights in from files, and taking them out."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from woven_locus.core.errors import WovenError
from woven_locus.files import formats, pictures
from woven_locus.ui.bench.ground.export_sheet import GreySheet
from woven_locus.ui.bench.ground.import_sheets import HeightsSheet, TerrainSheet

if TYPE_CHECKING:
    from woven_locus.ui.window import Window

_HEIGHTS = "Heights (*.asc *.png *.txt);;All files (*)"
_TERRAIN = "Pictures (*.png);;All files (*)"


class Exchange:
    """`choose_in` and `choose_out` may be replaced."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.choose_in: Callable[[str, str], str] = self._ask_in
        self.choose_out: Callable[[str, str], str] = self._ask_out

    def _ask_in(self, title: str, kinds: str) -> str:
        return QFileDialog.getOpenFileName(self._window, title, "", kinds)[0]

    def _ask_out(self, title: str, start: str) -> str:
        return QFileDialog.getSaveFileName(self._window, title, start)[0]

    def heights_in(self) -> None:
        """Ask for a file of heights and show how it would lie."""
        chosen = self.choose_in("Heights to bring in", _HEIGHTS)
        if not chosen:
            return
        path = Path(chosen)

        def read(_stopped: Callable[[], bool]) -> tuple[formats.Source, formats.Spread, str]:
            source, what = formats.heights_source(path)
            return source, formats.Spread(source), what

        def done(answer: tuple[formats.Source, formats.Spread, str]) -> None:
            HeightsSheet(self._window.session, *answer, path.name, self._window).open()

        self._window.session.jobs.start(f"Reading {path.name}", read, done, self._failed)

    def terrain_in(self) -> None:
        """Ask for a picture and show which colour becomes which class."""
        chosen = self.choose_in("Terrain to bring in", _TERRAIN)
        if not chosen:
            return
        path = Path(chosen)

        def done(picture: pictures.Picture) -> None:
            TerrainSheet(self._window.session, picture, path.name, self._window).open()

        self._window.session.jobs.start(
            f"Reading {path.name}", lambda _stopped: pictures.load_picture(path), done, self._failed
        )

    def take_out(self, name: str) -> None:
        """Ask where to, and write. name : one of formats.FORMATS."""
        session, form = self._window.session, formats.FORMATS[name]
        if form.heights and session.plan.heights is None:
            session.say("This plan has no heights to take out", "no")
            return
        if not form.depth:
            self._write(name)
            return
        sheet = GreySheet(session.plan, form.depth, self._window)
        sheet.accepted.connect(lambda: self._write(name, *sheet.chosen))
        sheet.open()

    def _write(self, name: str, scale: float | None = None, base: float | None = None) -> None:
        session, form = self._window.session, formats.FORMATS[name]
        start = f"{session.plan.name} {form.holds}{form.suffix}"
        chosen = self.choose_out(form.words, start)
        if not chosen:
            return
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(form.suffix)
        plan = session.plan
        session.jobs.start(
            f"Writing {path.name}",
            lambda _stopped: form.write(plan.snapshot(), path, scale, base),
            lambda _nothing: session.say(f"Wrote {path}"),
            self._failed,
        )

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, WovenError):
            raise error
        self._window.session.say(f"{error}. The plan is as it was.", "error")
