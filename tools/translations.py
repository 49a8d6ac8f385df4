"""Collects the texts of the program for its translations, and compiles them.

`make translations` brings `languages/<code>/LC_MESSAGES/woven-locus.po` up to date with the code, keeping what is
translated, and writes the `.mo` beside it. Texts are found by the functions that they are given to:
`tr`, `phrase`, `mark` and `counted`.
"""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path

from babel.messages import Catalog, Message
from babel.messages.extract import extract_from_dir
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "woven_locus"
LANGUAGES = SOURCE / "ui" / "languages"
NAME = "woven-locus"
# The kernels have a `mark` of their own, and say nothing.
_METHODS = [("core/kernels/**.py", "ignore"), ("**.py", "python")]
# Which arguments of which function are texts.
KEYWORDS = {"tr": None, "phrase": None, "mark": None, "counted": (2, 3)}


def texts() -> Catalog:
    """All texts of the code, in the order of the files."""
    found = Catalog(project=NAME, charset="utf-8", fuzzy=False)
    for name, _line, message, _comments, _context in extract_from_dir(
        SOURCE, _METHODS, keywords=KEYWORDS
    ):
        if message:
            found.add(message, locations=[(Path(name).as_posix(), None)])
    return found


def read(code: str) -> Catalog:
    """A translation as it is kept. Raises OSError."""
    with po_of(code).open("rb") as file:
        return read_po(file, locale=code)


def po_of(code: str) -> Path:
    """Where a translation is kept."""
    return LANGUAGES / code / "LC_MESSAGES" / f"{NAME}.po"


def codes() -> list[str]:
    """The languages that there are."""
    return sorted(path.name for path in LANGUAGES.iterdir() if path.is_dir())


def updated(known: Catalog, found: Catalog) -> Catalog:
    """The texts of the code with the translations that are known; what nobody says any more is dropped."""
    made = Catalog(locale=known.locale, project=NAME, charset="utf-8", fuzzy=False)
    for message in found:
        if not message.id:
            continue
        old = known.get(message.id) if isinstance(message.id, str) else known.get(message.id[0])
        string = old.string if old is not None and _alike(old, message) else ""
        made.add(message.id, string or None, locations=message.locations)
    return made


_HEAD = "# Brought up to date by `make translations`; translate the lines that begin with msgstr."


def _alike(a: Message, b: Message) -> bool:
    return isinstance(a.id, str) == isinstance(b.id, str)


def po_text(catalogue: Catalog) -> bytes:
    """The file of a translation; without dates, so that it changes only with its texts."""
    out = BytesIO()
    write_po(out, catalogue, width=100, omit_header=True, include_lineno=False)
    locale = catalogue.locale
    assert locale is not None
    head = (
        f"{_HEAD}\n"
        'msgid ""\nmsgstr ""\n'
        f'"Project-Id-Version: {NAME}\\n"\n'
        f'"Language: {locale}\\n"\n'
        f'"Plural-Forms: {catalogue.plural_forms}\\n"\n'
        '"MIME-Version: 1.0\\n"\n'
        '"Content-Type: text/plain; charset=utf-8\\n"\n'
        '"Content-Transfer-Encoding: 8bit\\n"\n\n'
    )
    return head.encode() + out.getvalue().rstrip(b"\n") + b"\n"


def mo_bytes(catalogue: Catalog) -> bytes:
    """The compiled file, of the same bytes for the same translation."""
    out = BytesIO()
    catalogue.creation_date = catalogue.revision_date = datetime(2026, 1, 1, tzinfo=UTC)
    write_mo(out, catalogue)
    return out.getvalue()


def main() -> int:
    found = texts()
    for code in codes():
        known = read(code) if po_of(code).exists() else Catalog(locale=code)
        made = updated(known, found)
        po_of(code).write_bytes(po_text(made))
        po_of(code).with_suffix(".mo").write_bytes(mo_bytes(read(code)))
        missing = [message.id for message in read(code) if message.id and not all_of(message)]
        print(f"{code}: {len(found):,} texts, {len(missing):,} not translated")
    return 0


def all_of(message: Message) -> bool:
    """Whether each form of a text is translated."""
    return all(message.string) if isinstance(message.string, tuple) else bool(message.string)


if __name__ == "__main__":
    sys.exit(main())
