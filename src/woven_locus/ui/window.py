"""The main window: puts the parts together, and nothing else."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PyQt6.QtWidgets import QMainWindow, QSplitter, QVBoxLayout, QWidget

from woven_locus.document import Document
from woven_locus.ui import kept
from woven_locus.ui.actions.key_sheet import KeySheet
from woven_locus.ui.actions.menus import Actions
from woven_locus.ui.actions.table import STAGE_KEYS
from woven_locus.ui.ahead import Ahead
from woven_locus.ui.bars import AskBar, MessageBar, StatusLine
from woven_locus.ui.beginning import BeginningCard
from woven_locus.ui.bench import bench
from woven_locus.ui.bench.bench import Bench
from woven_locus.ui.collector import Collector
from woven_locus.ui.desk import Desk
from woven_locus.ui.engine import Engine
from woven_locus.ui.inout.exchange import Exchange
from woven_locus.ui.inout.file_watch import FileWatch
from woven_locus.ui.inout.files import Files
from woven_locus.ui.inout.live_link import LiveLink
from woven_locus.ui.inout.recovery import Recovery
from woven_locus.ui.inout.together import Together
from woven_locus.ui.language import tr
from woven_locus.ui.left_off import LeftOff
from woven_locus.ui.reading.reading import Reading
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.overlays import scales
from woven_locus.ui.sheet.view import Sheet
from woven_locus.ui.spoken import SpokenSheet
from woven_locus.ui.theme import Theme, em
from woven_locus.ui.thread.strip import Thread
from woven_locus.ui.tour import Tour
from woven_locus.ui.tray.tray import Tray

if TYPE_CHECKING:
    from woven_locus.ui.one_window import OneWindow

READING, TRAY = 286, 208
JOBS_MSEC = 3000

if TYPE_CHECKING:
    from woven_locus.ui.guide import GuideSheet


class Window(QMainWindow):
    theme: Theme
    desk: Desk
    session: Session
    files: Files
    exchange: Exchange
    together: Together
    recovery: Recovery
    bench: Bench
    sheet: Sheet
    messages: MessageBar
    tour: Tour
    reading: Reading
    tray: Tray

    one_window: OneWindow | None = None  # once the map has been drawn

    drawn = pyqtSignal()  # once: the map has been drawn for the first time

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._let_go = False
        self._guide: GuideSheet | None = None
        self.desk = Desk(document, self)
        self.session = self.desk.session
        self.session.choices.set_build(stay=kept.switch("build/stay", True))
        self.engine = Engine(self.session)
        self.collector = Collector(self.session)
        self.ask_bar = AskBar()
        self.files = Files(self, self.session, theme, self.ask_bar)
        self.exchange = Exchange(self, self.desk, theme, self.files)
        self.together = Together(self, self.desk, theme, self.files, self.exchange)
        self.recovery = Recovery(self.session, self.files, self.ask_bar)
        self.file_watch = FileWatch(self.session, self.ask_bar, self.together.compare_with)
        self.live_link = LiveLink(self.session, self.desk.reported)
        self.thread_ = Thread(self.desk, theme, STAGE_KEYS)
        self.bench = Bench(self.desk, theme)
        self.sheet = Sheet(self.desk, theme)
        self.messages = MessageBar(self.sheet, theme)
        self.tour = Tour(self.session, self.sheet, theme)
        self.reading = Reading(self.desk, theme)
        self.tray = Tray(self.desk, theme)
        self.ahead = Ahead(self.desk, self.bench, self.sheet, self.tray)
        self.status = StatusLine(self.desk)
        self._lay_out()
        self.setStatusBar(self.status)
        self.actions_ = Actions(self, self)
        self.together.turn = self.actions_.by_name["file.turn"]
        self.beginning = BeginningCard(self.session, self.sheet, theme, self.actions_.key_of)
        self.spoken = SpokenSheet(self.session, self.sheet, self.reading)
        self.setAcceptDrops(True)
        self.setMinimumSize(800, 560)
        self.session.said.connect(lambda text, level: self.messages.say(text, level))
        self.sheet.acted.connect(self.messages.done_with)
        for signal in (self.session.pointer.moved, self.session.hand.changed, self.messages.said):
            signal.connect(self._give_way)
        self.session.taken_up.connect(self.sheet.setFocus)
        self.tray.bring_in = self.exchange.register_in
        self.tray.take_out = lambda: self.exchange.take_out("register-csv")
        self.tray.save = self.exchange.text_out
        self.bench.pulled.connect(self.sheet.pull)
        self.bench.let_go.connect(self.sheet.let_go)
        for signal in (self.session.replaced, self.session.saved, self.session.settled):
            signal.connect(self.show_title)
        self.session.changed.connect(lambda _notice: self.show_title())
        self.engine.told.connect(self.status.set_background)
        self.bench.new_plan_wanted.connect(self.files.new)
        self.bench.other_grid_wanted.connect(self.files.change_grid)
        self.show_title()
        self.left_off = LeftOff(
            self.session,
            self.sheet,
            {"across": self.across, "middle": self.middle},
            {"bench": self.bench, "reading": self.reading, "tray": self.tray},
        )
        self.sheet.setFocus()
        self.sheet.painted.connect(self._first_painted)

    def _first_painted(self) -> None:
        """What can wait until something is to be seen has waited."""
        self.sheet.painted.disconnect(self._first_painted)
        self.drawn.emit()
        self.thread_.start()
        self.collector.start()
        self.reading.lens.start()
        self.ahead.start()
        # Late: it takes a network's package to import.
        from woven_locus.ui.one_window import OneWindow

        self.one_window = OneWindow(self.session, self._come_up)

    def _lay_out(self) -> None:
        middle = self.middle = QSplitter(Qt.Orientation.Vertical)
        middle.addWidget(self.sheet)
        middle.addWidget(self.tray)
        middle.setStretchFactor(0, 1)
        middle.setSizes([560, TRAY])
        across = self.across = QSplitter(Qt.Orientation.Horizontal)
        for widget in (self.bench, middle, self.reading):
            across.addWidget(widget)
        across.setStretchFactor(1, 1)
        across.setSizes([em(bench.WIDTH), 740, em(READING)])
        for splitter in (middle, across):
            splitter.setHandleWidth(3)
            splitter.setChildrenCollapsible(True)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.thread_)
        column.addWidget(self.ask_bar)
        column.addWidget(across, 1)
        self.setCentralWidget(body)
        self.resize(1280, 800)

    def show_title(self) -> None:
        document = self.session.document
        where = f" — {document.path.name}" if document.path else ""
        self.setWindowTitle(
            tr("{title}{where}[*] — Woven Locus", title=document.title, where=where)
        )
        self.setWindowModified(not document.history.saved)

    def _come_up(self) -> None:
        """Somebody opened the plan that is open here."""
        self.setWindowState(self.windowState() & ~Qt.WindowState.WindowMinimized)
        self.raise_()
        self.activateWindow()

    def _give_way(self) -> None:
        """No message covers the place that is worked on."""
        if not self.messages.isVisible():
            return
        place = scales.worked_on(self.desk, self.sheet.camera)
        if place is not None:
            self.messages.give_way(place, not self.session.hand.empty or self.sheet.busy)

    def fold(self, part: QWidget) -> None:
        part.setVisible(not part.isVisible())

    def back_out(self) -> None:
        """Esc: one step back, from the nearest thing outwards."""
        if not self.ask_bar.give_up():
            if self.messages.isVisible() and not self.sheet.busy:
                self.messages.hide()
            self.sheet.back_out()

    def offer_tour(self) -> None:
        """Unless something more urgent is asked."""
        if not self.ask_bar.isVisible():
            self.tour.offer()

    def show_link(self) -> None:
        from woven_locus.ui.inout.link_sheet import LinkSheet

        LinkSheet(self.live_link, self).show()

    def find_anything(self) -> None:
        from woven_locus.ui.actions.finder import Finder, Search

        Finder(Search(self, self.actions_), self).open()

    def tell_report(self, words: str, path: Path | None) -> None:
        """Say that the program failed, and offer what was written down about it."""
        if path is None:
            self.messages.say(words, "error")
            return
        report = path
        self.messages.say(words, "error", tr("Show the report"), lambda: self._show_report(report))

    def _show_report(self, path: Path) -> None:
        from woven_locus.ui.report_sheet import ReportSheet

        ReportSheet(path, self).open()

    def show_guide(self) -> None:
        """The page of the guide for the stage, beside the window."""
        from woven_locus.ui.guide import GuideSheet, guide_folder

        folder, stage = guide_folder(), self.session.choices.stage
        if folder is None:
            self.session.say(tr("The guide was not installed with the program"), "no")
            return
        if self._guide is None:
            self._guide = GuideSheet(folder, stage, self)
        self._guide.show_stage(stage)
        self._guide.show()
        self._guide.activateWindow()

    def show_about(self) -> None:
        from woven_locus.ui.about import AboutSheet

        AboutSheet(self).open()

    def show_keys(self) -> None:
        KeySheet(self.actions_, self).open()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None and len(data.urls()) == 1 and data.urls()[0].isLocalFile():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None:
            self.exchange.open_or_bring(Path(data.urls()[0].toLocalFile()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.bench.fit()
        self.reading.fit()
        super().resizeEvent(event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if self.session.jobs.acting:
            # A file is being written: its end decides whether anything would be lost.
            event.ignore()
            self.session.jobs.after_acting(self.close)
            return
        if not self.session.document.history.saved and not self._let_go:
            event.ignore()
            self.files.when_safe(self._close_anyway)
            return
        self._end()
        event.accept()

    def _close_anyway(self) -> None:
        """Nothing is lost, or the user lets it go."""
        self._let_go = True
        self.close()
        self._let_go = False

    def _end(self) -> None:
        kept.keep("window", self.saveGeometry())
        self.left_off.keep()
        self.desk.traffic.set_running(False)
        self.desk.waves.set_running(False)
        if self.tray.has("funds"):
            self.tray.funds.clock.set_running(False)
        self.ahead.stop()
        self.engine.stop()
        self.live_link.stop()
        if self.one_window is not None:
            self.one_window.end()
        self.recovery.end()
        if self.session.jobs.shut(JOBS_MSEC):
            self.collector.stop()
