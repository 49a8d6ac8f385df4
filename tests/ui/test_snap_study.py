"""The study of snapping rules side by side, in the window."""

import csv

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.ui.conftest import Driver
from woven_locus.ui.tray.snap_study_tab import SnapStudyTab


def study_of(user: Driver) -> SnapStudyTab:
    tab = user.window.tray.study
    user.window.tray.setCurrentWidget(tab)
    user.qtbot.waitUntil(lambda: tab.chart.plot is not None)
    user.settle()
    return tab


def test_the_study_shows_rules_and_wrong_variants_side_by_side(vale: Driver) -> None:
    tab = study_of(vale)
    vale.point((40, 3))
    vale.point((1, 3))
    assert tab.shown == ["corner", "centre", "truncated"]
    assert "Truncated ≠ corner on 50%" in tab.drawn.flag.text()
    curves = len(tab.chart.plot.getPlotItem().listDataItems())
    vale.push(tab.switch("half-even"))
    assert len(tab.chart.plot.getPlotItem().listDataItems()) > curves
    assert "Half to even ≠ intersection at" in tab.drawn.flag.text()
    assert "exact places" in tab.drawn.flag.text()
    vale.push(tab.switch("truncated"))
    vale.push(tab.switch("half-even"))
    assert "Corner ≠ centre on 100%" in tab.drawn.flag.text()
    vale.push(tab.switch("corner"))
    vale.push(tab.switch("centre"))
    assert tab.drawn.flag.text() == "Switch two curves on to compare them"


def test_cases_can_be_added_and_are_copied_as_csv(vale: Driver) -> None:
    tab = study_of(vale)
    vale.type(tab.entry, "-36.5")
    QTest.keyClick(tab.entry, Qt.Key.Key_Return)
    assert tab.table.item(0, 0).text() == "\N{MINUS SIGN}36.5"  # type: ignore[union-attr]
    assert [tab.table.item(0, k).text() for k in (1, 2, 3)] == [  # type: ignore[union-attr]
        "\N{MINUS SIGN}48",
        "\N{MINUS SIGN}36",
        "✗ \N{MINUS SIGN}24",
    ]
    vale.type(tab.entry, "a lot")
    vale.push(tab.add)
    assert "“a lot” is no place" in vale.said
    vale.push(tab.copy)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    rows = list(csv.DictReader(clipboard.text().splitlines()))
    assert rows[0]["raw"] == "-36.5"
    assert rows[0]["corner"] == "-48.0"
    assert rows[0]["wrong variants that differ"] == "truncated not-scaled"
    assert len(rows) == len(tab.cases) == tab.table.rowCount()


def test_the_pointer_is_a_moving_mark_on_the_chart(vale: Driver) -> None:
    tab = study_of(vale)
    vale.point((2, 30))
    vale.settle()
    line, dots = tab.drawn._pointer_line
    assert 48 < line.value() < 72
    assert sorted(dots.getData()[1].tolist()) == [48, 48, 60]
    vale.choose(tab.axis, "Along (y)")
    vale.point((2, 3))
    vale.settle()
    assert 72 < tab.drawn._pointer_line[0].value() < 96
    vale.point((2, 40))
    vale.settle()
    low, high = tab.drawn._drawn_range
    assert low < 40.5 * 24 < high


def test_the_study_follows_the_rule_in_force(vale: Driver) -> None:
    tab = study_of(vale)
    assert tab.study is not None
    vale.type(vale.window.bench.survey.rule.step_x, "10")
    assert tab.study.step == 10
    vale.key("J")
    assert [c.key for c in tab.study.curves][3] == "force"
    vale.window.theme.choose("dark")
    vale.settle()
    assert tab.chart.plot.backgroundBrush().color().lightness() < 80
    vale.window.theme.choose("light")
