"""Keys and names that nothing else has yet, and text that is fit to be shown."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Collection

from woven_locus.core.phrase import phrase

# Characters that turn the direction of what follows: a name could show as another.
_TURNING = frozenset("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
_KEY = re.compile(r"[^\W_][\w.-]*")


_LONGEST_LINE = 2_000


def _hidden(ch: str) -> bool:
    """A line break or another control character, half a character, or one that turns the direction."""
    return unicodedata.category(ch) in ("Cc", "Cs", "Zl", "Zp") or ch in _TURNING


def one_line(text: str) -> str:
    """Text of which parts may come from a file, as one line of a length that can be read: what cannot be
    seen is written as an escape, so that neither a terminal nor a label does what it says."""
    if len(text) > _LONGEST_LINE:
        text = f"{text[: _LONGEST_LINE // 2]} … {text[-_LONGEST_LINE // 2 :]}"
    if text.isprintable():
        return text
    shown = (ch if not _hidden(ch) else " " if ch.isspace() else ascii(ch)[1:-1] for ch in text)
    return "".join(shown)


def name_problem(text: str) -> str:
    """What is wrong with a name, or nothing: a line break or another control character, half a character,
    or one that turns the direction of writing, none of which can be seen."""
    if text.isprintable():
        return ""
    for ch in text:
        if _hidden(ch):
            return phrase("the name holds a control character (U+{code:04X})", code=ord(ch))
    return ""


def key_problem(key: str) -> str:
    """What is wrong with a key, or nothing. A key is an identifier: a letter or digit, then letters, digits,
    "-", "." and "_"."""
    if _KEY.fullmatch(key):
        return ""
    return phrase(
        "a key is letters, digits, '-', '.' and '_', a letter or digit first, not {key!r}",
        key=key[:40],
    )


def fresh_key(name: str, taken: Collection[str], fallback: str, longest: int | None = None) -> str:
    """A key made of a name, of up to `longest` letters and a number, that is not taken."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:longest] or fallback
    key, at = base, 2
    while key in taken:
        key, at = f"{base}-{at}", at + 1
    return key


def change_label(before: str, after: str) -> str:
    """What is said of something that was changed, or given another name."""
    if before != after:
        return phrase("Renamed {before} to {after}", before=before, after=after)
    return phrase("Changed {after}", after=after)


def fresh_name(name: str, taken: Collection[str]) -> str:
    """The name as it is, or with a number behind it when it is taken."""
    if name not in taken:
        return name
    number = next(k for k in range(2, len(taken) + 3) if f"{name} {k}" not in taken)
    return f"{name} {number}"
