"""The language of the window, by gettext: chosen once, before anything is shown.

Files and the command line stay English; see decision 28.
"""

from __future__ import annotations

import gettext
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QLibraryInfo, QLocale, QTranslator
from PyQt6.QtWidgets import QApplication

from woven_locus.core.phrase import Phrase, counted, mark, phrase, translated
from woven_locus.ui import kept

__all__ = [
    "NAMES",
    "choose",
    "chosen",
    "counted",
    "in_force",
    "inside",
    "install",
    "listed",
    "mark",
    "phrase",
    "shown",
    "tr",
    "wished",
]

DOMAIN = "woven-locus"
FOLDER = Path(__file__).parent / "languages"
# By code, in their own words.
NAMES = {"en": "English", "de": "Deutsch"}
_KEEPS_CAPITALS = ("de",)

# Words of the formats that are shown too: values of enumerations, which are typed as literals there.
_WORDS = (
    mark("corner"),
    mark("centre"),
    mark("intersection"),
    mark("roads"),
    mark("ground"),
    mark("air"),
    mark("preferred"),
    mark("furthest"),
    mark("nearest"),
    mark("strongest"),
    mark("weakest"),
    mark("all"),
    mark("walkers"),
    mark("fliers"),
    mark("right"),
    mark("left"),
    mark("index"),
    mark("place"),
    mark("north"),
    mark("east"),
    mark("south"),
    mark("west"),
    mark("plain"),
    mark("tufts"),
    mark("steps"),
    mark("reeds"),
    mark("waves"),
    mark("stipple"),
    mark("cracks"),
    mark("Boulder"),
    mark("Rowan"),
    mark("road"),
    mark("barrier"),
    mark("column"),
    mark("row"),
)

_catalogue: gettext.NullTranslations = gettext.NullTranslations()
_in_force = "en"


def _look_up(one: str, many: str, number: int | None) -> str:
    if not one:
        # The empty text is a catalogue's own heading.
        return one
    if number is None:
        return _catalogue.gettext(one)
    return _catalogue.ngettext(one, many, number)


def tr(text: object, /, **values: Any) -> str:
    """A text in the language of the window.

    text : a text, a template for `values`, a `Phrase` of the core, or an error that carries one.
    """
    if isinstance(text, str) and not isinstance(text, Phrase):
        if not values:
            return _plain(text)
        text = phrase(text, **values)
    return str(translated(text, _look_up))


@lru_cache(maxsize=4096)
def _plain(text: str) -> str:
    """A text without values: asked for dozens of times in a frame."""
    return _look_up(text, "", None)


def shown(text: str) -> str:
    """A value that may be a phrase of ours or somebody's name, which stays as it is."""
    return tr(text) if isinstance(text, Phrase) else text


def listed(parts: Sequence[str]) -> str:
    """Words one after the other in a sentence: a, b and c. They are shown as they are."""
    if len(parts) < 2:
        return "".join(parts)
    return tr("{first} and {last}", first=", ".join(parts[:-1]), last=parts[-1])


def inside(text: str) -> str:
    """A title within a sentence: English gives up its capital, German keeps it."""
    return text if _in_force in _KEEPS_CAPITALS else text[:1].lower() + text[1:]


def chosen() -> str:
    """The code that the user set, or nothing for the one of the system."""
    return kept.text("language", "", ("", *NAMES))


def choose(code: str) -> None:
    """One of NAMES, or nothing for the system's; kept for the next start."""
    kept.keep("language", code)


def wished() -> str:
    """The code to be used: the one that is set, else the first of the system's that there is."""
    if code := chosen():
        return code
    for name in QLocale.system().uiLanguages():
        code = name.replace("_", "-").split("-")[0]
        if code in NAMES:
            return code
    return "en"


def in_force() -> str:
    """The code of the language that is shown."""
    return _in_force


def install(code: str, app: QApplication | None = None) -> None:
    """Show everything that is made from now on in a language. app : to translate Qt's own dialogs too."""
    global _catalogue, _in_force
    _catalogue = gettext.translation(DOMAIN, FOLDER, [code], fallback=True)
    _in_force = code
    _plain.cache_clear()
    if app is not None and code != "en":
        translator = QTranslator(app)
        folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
        if translator.load(f"qtbase_{code}", folder):
            app.installTranslator(translator)
