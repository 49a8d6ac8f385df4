"""Each text of the program has its translation, and it fits where it is shown."""

import ast
import re
import string

import pytest
from babel.messages import Message

from tests.helpers.tools import tool

translations = tool("translations")
CODES = translations.codes()


def test_there_is_german() -> None:
    assert "de" in CODES


@pytest.mark.parametrize("code", CODES)
def test_every_text_is_translated_and_no_other(code: str) -> None:
    wanted = {message.id for message in translations.texts() if message.id}
    known = {message.id: message for message in translations.read(code) if message.id}
    assert known.keys() - wanted == set(), "run make translations"
    assert wanted - known.keys() == set(), "run make translations"
    missing = [id_ for id_, message in known.items() if not translations.all_of(message)]
    assert missing == []


def test_no_text_is_passed_over() -> None:
    """A text that is given to a function within another text's call is found by nobody but this."""
    found = {
        message.id if isinstance(message.id, str) else message.id[0]
        for message in translations.texts()
    }
    passed = set()
    for file in sorted(translations.SOURCE.rglob("*.py")):
        if "kernels" in file.parts:
            continue
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                places = translations.KEYWORDS.get(node.func.id, ())
                at = 0 if places is None else places[0] - 1 if places else -1
                if 0 <= at < len(node.args) and isinstance(node.args[at], ast.Constant):
                    passed.add(node.args[at].value)
    assert passed - found - {""} == set()
    assert len(passed) > 2_000


# Words that are looked up, not shown: sorts of messages, icons.
_KEYS = {"error", "no", "note", "pause", "run"}
_SHOWN_BY = {"Label", "heading", "muted", "setText", "setToolTip", "say", "addItem", "addRow", "append", "QPushButton"}  # fmt: skip


def test_no_word_of_the_window_is_left_in_english() -> None:
    """A word that is returned, chosen, put into a line or given to a part of the window, and not to be translated."""
    left = []
    for file in sorted((translations.SOURCE / "ui").rglob("*.py")):
        above: dict[ast.AST, ast.AST] = {}
        for node in ast.walk(ast.parse(file.read_text())):
            above |= dict.fromkeys(ast.iter_child_nodes(node), node)
        left += [
            (file.name, node.lineno, node.value)
            for node in above
            if isinstance(node, ast.Constant)
            and isinstance(node.value, str)
            and re.fullmatch(r" ?[A-Za-z]{3,}[ :]?", node.value)
            and node.value not in _KEYS
            and _is_shown(above[node])
            and not _is_translated(node, above)
        ]
    assert left == []


def _is_shown(holder: ast.AST) -> bool:
    return (
        isinstance(holder, ast.Return | ast.IfExp | ast.JoinedStr) or _called(holder) in _SHOWN_BY
    )


def _is_translated(node: ast.AST, above: dict[ast.AST, ast.AST]) -> bool:
    while node in above:
        node = above[node]
        if _called(node) in translations.KEYWORDS:
            return True
    return False


def _called(node: ast.AST) -> str:
    """The name of what a call calls."""
    if not isinstance(node, ast.Call):
        return ""
    return getattr(node.func, "attr", "") or getattr(node.func, "id", "")


@pytest.mark.parametrize("code", CODES)
def test_what_is_compiled_is_what_is_written(code: str) -> None:
    compiled = translations.po_of(code).with_suffix(".mo").read_bytes()
    assert compiled == translations.mo_bytes(translations.read(code)), "run make translations"


@pytest.mark.parametrize("code", CODES)
def test_a_translation_says_the_same_values_and_keeps_its_edges(code: str) -> None:
    wrong = []
    for message in translations.read(code):
        for there, here in _pairs(message):
            if _fields(there) != _fields(here):
                wrong.append((there, here))
            # Lines of figures, and what is put before or behind another text.
            if (
                there[:1].isspace() != here[:1].isspace()
                or there[-1:].isspace() != here[-1:].isspace()
            ):
                wrong.append((there, here))
            if there.count("\n") != here.count("\n"):
                wrong.append((there, here))
    assert wrong == []


@pytest.mark.parametrize("code", CODES)
def test_figures_stay_in_their_column(code: str) -> None:
    """A label and its figure are one text: what is aligned in English is in every language."""
    wrong = []
    for message in translations.read(code):
        for there, here in _pairs(message):
            if "  {" not in there or there.startswith(" "):
                continue
            for a, b in zip(there.split("\n"), here.split("\n"), strict=True):
                if "{" in a and a.find("{") != b.find("{"):
                    wrong.append((a, b))
    assert wrong == []


def _pairs(message: Message) -> list[tuple[str, str]]:
    """Each form and its translation."""
    if not message.id:
        return []
    if isinstance(message.id, str):
        return [(message.id, message.string)]
    return list(zip(message.id, message.string, strict=True))


def _fields(text: str) -> list[tuple[str, str | None, str | None]]:
    """The fields of a text and how they are shown; none for one that holds braces of another sort."""
    try:
        parts = list(string.Formatter().parse(text))
    except ValueError:
        return []
    return sorted((name, form or "", how or "") for _, name, form, how in parts if name is not None)
