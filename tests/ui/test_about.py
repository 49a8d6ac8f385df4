"""About: version, licences, parts and places."""

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.ui.conftest import Driver
from woven_locus.ui.about import AboutSheet, places
from woven_locus.ui.guide import GuideSheet
from woven_locus.ui.session.stages import Stage
from woven_locus.version import __version__


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


def test_the_guide_opens_at_the_stage_with_its_pictures(vale: Driver) -> None:
    vale.session.set_stage(Stage.WAYS)
    vale.key("Ctrl+F1")
    sheet = vale.sheet_of(GuideSheet)
    assert sheet.page.toPlainText().startswith("Ways")
    picture = sheet.page.loadResource(2, QUrl("../screenshots/ways-route.png"))
    assert isinstance(picture, QImage)
    assert 0 < picture.width() <= sheet.page.width()
    sheet.list.setFocus()
    QTest.keyClick(sheet.list, Qt.Key.Key_Home)
    assert sheet.page.toPlainText().startswith("Survey")
    vale.back()
    vale.session.set_stage(Stage.PROOF)
    vale.window.actions_.by_name["help.guide"].trigger()
    assert vale.sheet_of(GuideSheet) is sheet
    assert sheet.page.toPlainText().startswith("Proof")
    sheet.close()


def test_the_theme_in_force_is_ticked(vale: Driver) -> None:
    actions = vale.window.actions_.by_name

    def ticked() -> list[str]:
        return [name for name in ("system", "light", "dark") if actions[f"view.{name}"].isChecked()]

    assert ticked() == ["light"]
    actions["view.dark"].trigger()
    assert ticked() == ["dark"]
    # Chosen again it stays so.
    actions["view.dark"].trigger()
    assert ticked() == ["dark"]
    vale.window.theme.choose("light")
    assert ticked() == ["light"]
