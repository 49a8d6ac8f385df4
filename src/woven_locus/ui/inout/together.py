"""What goes beyond the open plan: another one to compare with, one to merge, and trials of many runs."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QFileDialog, QWidget

from woven_locus.ui.desk import Desk
from woven_locus.ui.inout.exchange import Exchange
from woven_locus.ui.inout.files import PLANS, Files
from woven_locus.ui.language import tr
from woven_locus.ui.theme import Theme

_TRIALS = tr("Trials (*.toml);;All files (*)")


class Together:
    """turn : the action that shows the other plan on the sheet. `choose_folder` may be replaced."""

    turn: QAction

    def __init__(
        self, window: QWidget, desk: Desk, theme: Theme, files: Files, exchange: Exchange
    ) -> None:
        self._window, self._desk, self._exchange = window, desk, exchange
        self._theme, self._files = theme, files
        self._compare_sheet: QWidget | None = None
        self.choose_folder: Callable[[str], str] = self._ask_folder

    def _ask_folder(self, title: str) -> str:
        return QFileDialog.getExistingDirectory(self._window, title)

    def choose(self, title: str) -> Path | None:
        """Ask for a plan; None for none."""
        chosen = self._exchange.choose_in(title, PLANS)
        return Path(chosen) if chosen else None

    def compare(self) -> None:
        """Ask for another plan, and list what is another in this one."""
        path = self.choose(tr("The plan to compare with"))
        if path is not None:
            self.compare_with(path)

    def compare_with(self, path: Path) -> None:
        """List what is another in the open plan than in a file."""
        from woven_locus.ui.inout.compare_sheet import CompareSheet

        self._desk.compared.hold_against(path)
        sheet = self._compare_sheet
        if sheet is None or sip.isdeleted(sheet) or not sheet.isVisible():
            desk = self._desk
            sheet = CompareSheet(desk.session, desk.compared, self.turn, self._window)
            self._compare_sheet = sheet
        sheet.show()
        sheet.activateWindow()

    def trial(self) -> None:
        """Ask for a trial, and show its table."""
        chosen = self._exchange.choose_in(tr("A trial"), _TRIALS)
        if chosen:
            from woven_locus.ui.inout.trial_sheet import TrialSheet

            TrialSheet(self._desk, self._theme, self._files, Path(chosen), self._window).show()

    def hand_over(self) -> None:
        """Ask for a language and a folder, and write what a game needs."""
        from woven_locus.ui.inout.handover_sheet import HandoverSheet

        HandoverSheet(self._desk.session, self.choose_folder, self._window).open()

    def merge(self) -> None:
        """Ask for what somebody else made of this plan, and show what would come of both."""
        if self._desk.session.document.history.in_gesture:
            self._desk.session.say(tr("Not now: end the stroke in hand first"), "no")
            return
        path = self.choose(tr("What somebody else made of this plan"))
        if path is not None:
            from woven_locus.ui.inout.merge_sheet import MergeSheet

            MergeSheet(self._desk, path, self.choose, self._window).open()
