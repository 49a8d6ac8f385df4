"""What an action is, and what it may use."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtWidgets import QWidget

from woven_locus.core.value import Value
from woven_locus.reports import reporter
from woven_locus.ui.bench.bench import Bench
from woven_locus.ui.desk import Desk
from woven_locus.ui.inout.exchange import Exchange
from woven_locus.ui.inout.file_watch import FileWatch
from woven_locus.ui.inout.files import Files
from woven_locus.ui.inout.together import Together
from woven_locus.ui.language import inside
from woven_locus.ui.reading.reading import Reading
from woven_locus.ui.session.session import Session
from woven_locus.ui.sheet.view import Sheet
from woven_locus.ui.theme import Theme
from woven_locus.ui.tour import Tour
from woven_locus.ui.tray.tray import Tray


class Host(Protocol):
    """What an action may use of the window that it runs in."""

    desk: Desk
    session: Session
    theme: Theme
    files: Files
    exchange: Exchange
    together: Together
    file_watch: FileWatch
    bench: Bench
    sheet: Sheet
    reading: Reading
    tray: Tray
    tour: Tour

    def fold(self, part: QWidget) -> None: ...
    def back_out(self) -> None: ...
    def show_keys(self) -> None: ...
    def show_about(self) -> None: ...
    def show_guide(self) -> None: ...
    def find_anything(self) -> None: ...
    def show_link(self) -> None: ...
    def close(self) -> bool: ...


class Action(Value):
    """key : the shortcut, portable text.  enabled : asked whenever the plan or selection changes.
    on_sheet : the key works only while the sheet has the focus (plain letters, Del, Home),
    since it means something else in a text field or on a slider.  group : the menu within the menu, empty for none.  ticked : whether it is the one in force, for one of several."""

    name: str
    menu: str
    text: str
    key: str
    run: Callable[[Host], object]
    enabled: Callable[[Host], bool] = lambda _window: True
    gap_before: bool = False
    on_sheet: bool = False
    group: str = ""
    ticked: Callable[[Host], bool] | None = None

    def do(self, window: Host) -> None:
        """Run it, with its name noted for a report."""
        reporter.note(self.name)
        self.run(window)

    @property
    def words(self) -> str:
        """What it does, out of its menu."""
        text = self.text.replace("&", "").rstrip("…")
        return (
            f"{self.group.replace('&', '')} {inside(text) if ' ' in text else text}"
            if self.group
            else text
        )
