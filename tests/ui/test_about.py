"""About: version, licences, parts and places."""

from pathlib import Path

from PyQt6.QtWidgets import QApplication

from tests.ui.conftest import Driver
from woven_locus import __version__
from woven_locus.ui.about import AboutSheet, places


def test_it_says_what_it_is_and_where_its_data_lie(vale: Driver) -> None:
    vale.window.actions_.by_name["help.about"].trigger()
    sheet = vale.sheet_of(AboutSheet)
    vale.push(sheet.copy)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    text = clipboard.text()
    assert text.startswith(f"Woven Locus {__version__}\n")
    assert "PyQt6" in text
    for what, where in places():
        assert Path(where).is_absolute()
        assert f"{what:18} {where}" in text
    sheet.reject()
