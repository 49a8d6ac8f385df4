"""Bringing terrain and heights in from files, and taking them out. The sheets that ask are imported when
they open."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from woven_locus.core.editing import Edit
from woven_locus.core.edits import many
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.edits.waves import set_waves_plan
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Box
from woven_locus.core.kinds import Catalogue
from woven_locus.core.plan import Plan
from woven_locus.core.vehicles import Trip
from woven_locus.core.wave_plan import WavePlan
from woven_locus.document.saving import settled_snapshot
from woven_locus.files import (
    catalogue,
    formats,
    pictures,
    rasters,
    register_csv,
    sniff,
    traffic_rows,
    wave_tables,
)
from woven_locus.files.atomic import write_bytes
from woven_locus.ui.desk import Desk
from woven_locus.ui.inout.files import Files
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.file_names import file_name
from woven_locus.ui.theme import Theme

_HEIGHTS = tr("Heights (*.asc *.png *.txt);;All files (*)")
_KINDS = tr("Kinds or plans (*.kinds.json *.csv *.plan.json);;All files (*)")
_TABLES = tr("Tables (*.csv);;All files (*)")
_TERRAIN = tr("Pictures (*.png);;All files (*)")


class Exchange:
    """`choose_in` and `choose_out` may be replaced."""

    def __init__(self, window: QWidget, desk: Desk, theme: Theme, files: Files) -> None:
        self.window, self._desk, self._theme, self.files = window, desk, theme, files
        self._session = desk.session
        self.choose_in: Callable[[str, str], str] = self._ask_in
        self.choose_out: Callable[[str, str], str] = self._ask_out

    def _ask_in(self, title: str, kinds: str) -> str:
        return QFileDialog.getOpenFileName(self.window, title, "", kinds)[0]

    def _ask_out(self, title: str, start: str) -> str:
        return QFileDialog.getSaveFileName(self.window, title, start)[0]

    def _chosen(self, title: str, kinds: str) -> Path | None:
        chosen = self.choose_in(title, kinds)
        return Path(chosen) if chosen else None

    def open_or_bring(self, path: Path) -> None:
        """Open a plan, or bring in what another file holds; see `files.sniff`. What is neither is said."""

        def done(what: str) -> None:
            if what == sniff.PLAN:
                self.files.open_path(path)
            elif what in formats.WAVE_IMPORTS:
                self.waves_in(what, path)
            else:
                bring = {
                    sniff.HEIGHTS: self.heights_in,
                    formats.TERRAIN_PNG: self.terrain_in,
                    sniff.KINDS: self.kinds_in,
                    formats.REGISTER_CSV: self.register_in,
                    formats.TRIPS_CSV: self.trips_in,
                }
                bring[what](path)

        self._session.jobs.start(
            tr("Looking at {path}", path=path.name),
            lambda _control: sniff.what_is(path),
            done,
            self._failed,
        )

    def heights_in(self, given: Path | None = None) -> None:
        """Ask for a file of heights and show how it would lie."""
        chosen = given or self._chosen(tr("Import heights"), _HEIGHTS)
        if chosen is None:
            return
        path = chosen

        def read(_control: Control) -> tuple[rasters.Source, rasters.Spread, str]:
            source, what = rasters.heights_source(path)
            return source, rasters.Spread(source), what

        def done(answer: tuple[rasters.Source, rasters.Spread, str]) -> None:
            from woven_locus.ui.bench.ground.import_sheets import HeightsSheet

            HeightsSheet(self._session, *answer, path.name, self.window).open()

        self._session.jobs.start(_reading(path), read, done, self._failed)

    def terrain_in(self, given: Path | None = None) -> None:
        """Ask for a picture and show which colour becomes which class."""
        chosen = given or self._chosen(tr("Import terrain"), _TERRAIN)
        if chosen is None:
            return
        path = chosen

        def done(picture: pictures.Picture) -> None:
            from woven_locus.ui.bench.ground.import_sheets import TerrainSheet

            TerrainSheet(self._session, picture, path.name, self.window).open()

        self._session.jobs.start(
            _reading(path),
            lambda control: pictures.load_picture(path, control),
            done,
            self._failed,
        )

    def kinds_in(self, given: Path | None = None) -> None:
        """Ask for a catalogue, or another plan, and show what its kinds would do here."""
        chosen = given or self._chosen(tr("Import kinds"), _KINDS)
        if chosen is None:
            return
        path, window = chosen, self.window

        def done(found: Catalogue) -> None:
            from woven_locus.ui.bench.build.in_sheets import KindsInSheet

            KindsInSheet(self._session, self._theme, found, path.name, window).open()

        self._session.jobs.start(
            _reading(path),
            lambda _stopped: catalogue.load(path),
            done,
            self._failed,
        )

    def register_in(self, given: Path | None = None) -> None:
        """Ask for a table of structures and show which of them could be placed."""
        chosen = given or self._chosen(tr("Import structures"), _TABLES)
        if chosen is None:
            return
        path, session = chosen, self._session
        when = session.document.now()

        def read(plan: Plan, control: Control) -> tuple[Edit, list[str], int]:
            wishes, strange = register_csv.load(path)
            edit, refused = many.place_all(plan, wishes, when, control)
            return edit, [*strange, *refused], len(wishes) + len(strange)

        def done(found: tuple[Edit, list[str], int]) -> None:
            from woven_locus.ui.bench.build.in_sheets import RegisterInSheet

            RegisterInSheet(session, *found, path.name, self.window).open()

        session.asking.ask(_reading(path), read, done, at_once=False, refused=self._failed)

    def trips_in(self, given: Path | None = None) -> None:
        """Ask for a table of trips, which take the place of those that there are."""
        chosen = given or self._chosen(tr("Import trips"), _TABLES)
        if chosen is None:
            return
        path, session = chosen, self._session

        def done(trips: tuple[Trip, ...]) -> None:
            label = tr("Trips from {path}", path=path.name)
            if session.attempt(set_trips, session.plan, trips, label):
                session.say(_trips_words(trips, path))

        session.asking.ask(
            _reading(path),
            lambda plan, _control: traffic_rows.load(path, plan),
            done,
            at_once=False,
            of=Plan.snapshot,
            refused=self._failed,
        )

    def waves_in(self, form: str, given: Path | None = None) -> None:
        """Ask for a table of entries and goals, attackers or waves, which take the place of those that there are.
        form : one of formats.WAVE_IMPORTS."""
        chosen = given or self._chosen(
            tr("Import: {words}", words=formats.FORMATS[form].words), _TABLES
        )
        if chosen is None:
            return
        path, session = chosen, self._session

        def done(after: WavePlan) -> None:
            label = tr("{words} from {path}", words=formats.FORMATS[form].words, path=path.name)
            if session.attempt(set_waves_plan, session.plan, after, label):
                session.say(label)

        session.asking.ask(
            _reading(path),
            lambda plan, _control: wave_tables.load(form, path, plan),
            done,
            at_once=False,
            of=Plan.snapshot,
            refused=self._failed,
        )

    def picture(self, form: str, in_sight: Box) -> None:
        """Ask how the map is to be shown, and write or print it. in_sight : rows and columns of the screen."""
        from woven_locus.ui.inout.picture_sheet import PictureSheet

        PictureSheet(
            self._session, self._theme, in_sight, self.files, self.choose_out, form, self.window
        ).open()

    def take_out(self, name: str) -> None:
        """Ask where to, and write. name : one of formats.FORMATS."""
        session, form = self._session, formats.FORMATS[name]
        if form.heights and session.plan.heights is None:
            session.say(tr("This plan has no heights to export"), "no")
            return
        if not form.depth:
            self._write(name)
            return
        from woven_locus.ui.bench.ground.export_sheet import GreySheet

        sheet = GreySheet(session.plan, form.depth, self.window)
        sheet.accepted.connect(lambda: self._write(name, *sheet.chosen))
        sheet.open()

    def text_out(self, words: str, text: str) -> None:
        """Ask where to, and write a table. words : what it holds."""
        session = self._session
        chosen = self.choose_out(
            tr("{words} as CSV", words=words), file_name(f"{session.plan.name} {words}", ".csv")
        )

        def write(path: Path) -> None:
            session.jobs.start(
                tr("Writing {path}", path=path.name),
                lambda _control: write_bytes(path, text.encode()),
                lambda _nothing: session.say(tr("Wrote {path}", path=path)),
                self._failed,
            )

        if chosen:
            self.files.write_to(chosen, ".csv", write, lambda: self.text_out(words, text))

    def _write(self, name: str, scale: float | None = None, base: float | None = None) -> None:
        session, form = self._session, formats.FORMATS[name]
        start = file_name(f"{session.plan.name} {form.holds}", form.suffix)
        chosen = self.choose_out(form.words, start)
        if chosen:
            self.files.write_to(
                chosen,
                form.suffix,
                lambda path: self._write_to(path, name, scale, base),
                lambda: self._write(name, scale, base),
            )

    def _write_to(
        self, path: Path, name: str, scale: float | None = None, base: float | None = None
    ) -> None:
        session, form = self._session, formats.FORMATS[name]
        plan = session.plan
        source = str(session.document.path or "")
        # Of routes, those that were asked for; without any, all between structures that are joined.
        pins = [(pin.start, pin.goal, pin.manner) for pin in self._desk.routes.pins]

        def write(control: Control) -> None:
            twin = settled_snapshot(plan, control)
            how = formats.Out(scale, base, control, control.tell, source)
            if pins and name in (formats.ROUTES_CSV, formats.ROUTES_LINES):
                formats.write_routes(twin, path, name, pins, how)
            else:
                form.write(twin, path, how)

        session.jobs.start(
            tr("Writing {path}", path=path.name),
            write,
            lambda _nothing: session.say(tr("Wrote {path}", path=path)),
            self._failed,
            lambda: session.say(tr("Stopped: {path} may have been written", path=path.name)),
        )

    def _failed(self, error: WovenError) -> None:
        self._session.say(tr("{error}. The plan is as it was.", error=error), "error")


def _reading(path: Path) -> str:
    return tr("Reading {path}", path=path.name)


def _trips_words(trips: tuple[Trip, ...], path: Path) -> str:
    return tr(
        "{trips} of {vehicles} from {path}",
        trips=counted(len(trips), "{n:,} trip", "{n:,} trips"),
        vehicles=counted(sum(trip.count for trip in trips), "{n:,} vehicle", "{n:,} vehicles"),
        path=path.name,
    )
