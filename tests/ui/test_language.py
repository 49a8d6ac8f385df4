"""The window in another language; files, the command line and what is not ours stay as they are."""

import json
import os
import re
import subprocess
import sys
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication

from tests.helpers.shown_words import OPEN, SHUT
from tests.ui.conftest import Driver
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.ui import language
from woven_locus.ui.session.stages import Stage

ROOT = Path(__file__).parents[2]


def _python(*words: str, home: Path, **more: str) -> str:
    """What another process writes, with settings of its own."""
    env = os.environ | {"QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(home)} | more
    env["PYTHONPATH"] = str(ROOT)
    command = [sys.executable, *words]
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    return done.stdout


def test_nothing_is_said_before_the_language_is_known(tmp_path: Path) -> None:
    """The words of a module are those of the language in which it was loaded."""
    code = (
        "from woven_locus.ui import language\n"
        "def early(*asked): raise AssertionError(asked)\n"
        "language._look_up = early\n"
        "import woven_locus.ui.start\n"
        "print('quiet')"
    )
    assert _python("-c", code, home=tmp_path) == "quiet\n"


def _names(plan: Plan) -> set[str]:
    """What somebody named: it is nobody's to translate."""
    traffic, waves = plan.traffic, plan.waves
    tables = (plan.kinds, plan.terrain_table, plan.road_table, plan.obstacles.values())
    more = (traffic.vehicles, traffic.people, waves.attackers, waves.entries, waves.goals)
    named = {item.name for table in (*tables, *more, waves.waves) for item in table}
    return named | {plan.name, plan.money, plan.spec.unit, "units", *language.NAMES.values()}


# Keys, formats and languages by their names, the arithmetic of the Reading, what comes from Qt, and what a plan is made of
# where nobody has named it yet.
_NOT_OURS = re.compile(
    r"^(Ctrl|Shift|Alt|Del|Esc|Home|End|PgUp|PgDown|Return|F\d+)(\+\w+)*$"
    r"|^(PNG|SVG|PDF|CSV…|Python|JavaScript|Lua|C#|C\+\+|Boulder)$"
    r"|^(Cancel|Close|Scroll Left|Scroll Right|Export\.\.\.|Press shortcut)$"
    r"|^#[0-9A-F]{6}$|floor\(|^Python +3"
)


def _outside(text: str) -> str:
    """What is not between the brackets of the texts that can be translated."""
    out, depth = [], 0
    for ch in text:
        depth += (ch == OPEN) - (ch == SHUT)
        if depth == 0 and ch != SHUT:
            out.append(ch)
    return "".join(out)


def test_all_that_is_shown_can_be_translated(tmp_path: Path) -> None:
    seen = json.loads(_python("-m", "tests.helpers.shown_words", "marked", home=tmp_path))
    assert len(seen) > 1000
    names = sorted(_names(open_demo()), key=len, reverse=True)
    left = []
    for text in seen:
        if _NOT_OURS.search(text):
            continue
        rest = re.sub(r"<[^>]+>|\([^()]*\+\w+\)|\b[SOAVEG]\d+\b", "", _outside(text))
        for name in names:
            rest = rest.replace(name, "")
        # A letter code stands beside its kind.
        if re.search(r"[A-Za-z]{3,}", rest):
            left.append(text)
    assert left == []


GERMAN_WINDOW = """
import json, sys
from woven_locus.ui import language
from woven_locus.ui.start import make_app, open_window
app = make_app([])
language.install(language.wished(), app)
from woven_locus.core import edits
from woven_locus.core.geometry import Cell
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.files import register_csv
_app, window = open_window(Document(open_demo()))
for _ in range(20): app.processEvents()
session = window.session
menus = [action.text() for action in window.menuBar().actions()]
session.set_stage(window.session.choices.stage.__class__.BUILD)
session.arm("watch-lantern")
session.pointer.to(session.plan.spec.centre(Cell(20, 15)))
for _ in range(20): app.processEvents()
verdict = session.hand.ghost.verdict
session.attempt(edits.place, session.plan, "loom-hall", Cell(0, 0), 0, "")
said = window.messages.label.text()
head = register_csv.dump(session.plan, lambda _n: True).splitlines()[0]
from PyQt6.QtCore import QCoreApplication
qt = QCoreApplication.translate("QPlatformTheme", "Cancel")
window.show_keys()
from woven_locus.ui.actions.key_sheet import KeySheet
from woven_locus.ui.actions.table import ACTIONS
sheet = window.findChild(KeySheet)
missing = sorted({action.name for action in ACTIONS} - sheet.edits.keys())
print(json.dumps([language.in_force(), missing, menus, window.reading.verdict.words(), verdict.sentence(), said, head, qt]))
sys.stdout.flush()
import os
os._exit(0)
"""


def test_a_german_window_speaks_german_and_its_files_english(tmp_path: Path) -> None:
    shown = json.loads(
        _python("-c", GERMAN_WINDOW, home=tmp_path, LANG="de_DE.UTF-8", LANGUAGE="", LC_ALL="")
    )
    code, missing, menus, verdict, sentence, said, head, qt = shown
    assert code == "de"
    # Its columns are made by the names of menus.
    assert missing == []
    assert menus[:4] == ["&Plan", "&Bearbeiten", "&Ansicht", "&Stufe"]
    assert "Innerhalb des Rasters" in verdict
    assert "Watch lantern bei 20, 15: nein" in verdict
    assert "S15 Watch lantern is nearer than 7 cells" in sentence
    assert "kann nicht bei 0, 0 stehen" in said
    assert head.startswith("number,kind,col,row")
    assert qt == "Abbrechen"


@pytest.mark.parametrize(
    ("lang", "code"), [("de_AT.UTF-8", "de"), ("fr_FR.UTF-8", "en"), ("C", "en")]
)
def test_the_language_is_the_systems_where_we_have_it(tmp_path: Path, lang: str, code: str) -> None:
    asked = "from woven_locus.ui import language; print(language.wished())"
    env = {"LANG": lang, "LANGUAGE": "", "LC_ALL": ""}
    assert _python("-c", asked, home=tmp_path, **env).strip() == code


def test_a_language_that_is_chosen_is_that_of_the_next_start(
    make_window: Callable[..., Driver],
) -> None:
    user = make_window()
    assert language.in_force() == "en"
    user.window.actions_.by_name["view.language_de"].trigger()
    assert language.wished() == "de"
    assert user.window.actions_.by_name["view.language_de"].isChecked()
    assert "next start" in user.window.messages.label.text()
    # What is there keeps the words that it was made with.
    assert user.window.actions_.by_name["file.save"].text() == "&Save"
    user.window.actions_.by_name["view.language_system"].trigger()
    assert language.chosen() == ""


def test_a_language_that_there_is_not_is_left_out(make_window: Callable[..., Driver]) -> None:
    language.choose("tlh")
    assert language.chosen() == ""
    language.choose("")


MNEMONICS = """
import json, sys
from woven_locus.ui import language
from woven_locus.ui.start import make_app
app = make_app([])
language.install(sys.argv[1], app)
from woven_locus.ui.actions.table import ACTIONS
print(json.dumps([[action.menu, action.group, action.text] for action in ACTIONS]))
"""


@pytest.mark.parametrize("code", list(language.NAMES))
def test_a_letter_of_a_menu_belongs_to_one_line(tmp_path: Path, code: str) -> None:
    found: dict[tuple[str, str], set[str]] = defaultdict(set)
    for menu, group, text in json.loads(_python("-c", MNEMONICS, code, home=tmp_path)):
        for where, line in (("", menu), (menu, group or text), (f"{menu}/{group}", text)):
            letter = re.search(r"&(\w)", line)
            if letter is not None and where.rstrip("/") == where:
                found[where, letter[1].lower()].add(line)
    assert {key: lines for key, lines in found.items() if len(lines) > 1} == {}


def test_right_to_left_nothing_breaks(make_window: Callable[..., Driver]) -> None:
    """The parts change sides; the map, its figures and the order of a pair of numbers do not."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    app.setLayoutDirection(Qt.LayoutDirection.RightToLeft)
    try:
        user = make_window(open_demo())
        zero = QPoint(0, 0)
        bench = user.window.bench.mapTo(user.window, zero).x()
        assert user.window.reading.mapTo(user.window, zero).x() < bench
        for stage in Stage:
            user.session.set_stage(stage)
            user.point((14, 9))
            for at in range(user.window.tray.count()):
                user.window.tray.setCurrentIndex(at)
                user.settle()
            assert not user.window.grab().isNull()
        # The map is as it was: columns grow to the right, and a click finds its cell.
        assert user.at((20, 9)).x() > user.at((14, 9)).x()
        user.session.set_stage(Stage.BUILD)
        user.session.arm("loom-hall")
        before = len(user.plan.register)
        user.click((30, 12))
        assert len(user.plan.register) == before + 1
    finally:
        app.setLayoutDirection(Qt.LayoutDirection.LeftToRight)


def test_words_are_listed_as_in_a_sentence() -> None:
    assert language.listed([]) == ""
    assert language.listed(["roads"]) == "roads"
    assert language.listed(["roads", "{funds}"]) == "roads and {funds}"
    assert language.listed(["the edge", "roads", "funds"]) == "the edge, roads and funds"
