"""Texts that are put together here, in English, and may be translated where they are shown.

What the core says goes two ways: to files and to the command line, which are English whatever the locale, since other
programs read them; and to the window, which shows it in the user's language. A `Phrase` therefore is its English text,
and remembers the template and the values that it was made of.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

# Looks a text up in a catalogue: one form, the other, and the number that chooses between them, if any.
Lookup = Callable[[str, str, int | None], str]


class Phrase(str):
    """English text that knows its template, its values and, where a number chooses the form, that number and the plural."""

    template: str
    plural: str
    number: int | None
    values: dict[str, Any]
    capital: bool

    def __new__(
        cls,
        template: str,
        plural: str,
        number: int | None,
        values: dict[str, Any],
        capital: bool = False,
    ) -> Phrase:
        """template, plural : with fields as `str.format` has them.  capital : the first letter is made one."""
        form = template if number is None or number == 1 else plural
        text = form.format_map(values)
        made = super().__new__(cls, with_capital(text) if capital else text)
        made.template, made.plural, made.number = template, plural, number
        made.values, made.capital = values, capital
        return made

    def __reduce__(self) -> tuple[Any, ...]:
        return Phrase, (self.template, self.plural, self.number, self.values, self.capital)

    def translated(self, look_up: Lookup) -> str:
        """In the language of a catalogue, the phrases among its values too."""
        form = look_up(self.template, self.plural, self.number)
        text = form.format_map({k: translated(v, look_up) for k, v in self.values.items()})
        return with_capital(text) if self.capital else text


def translated(value: Any, look_up: Lookup) -> Any:
    """A phrase, or what an error says; anything else as it is, names above all."""
    if isinstance(value, BaseException):
        value = said(value)
    return value.translated(look_up) if isinstance(value, Phrase) else value


def with_capital(text: str) -> str:
    """A text as it is, its first letter a capital one; of a phrase that is still to be translated see `capital`."""
    return text[:1].upper() + text[1:]


def phrase(template: str, /, **values: Any) -> Phrase:
    """A text with values in it: ``phrase("{name} is full", name=…)``."""
    return Phrase(template, "", None, values)


def counted(number: int, one: str, many: str, /, **values: Any) -> Phrase:
    """A text whose form a number chooses, ``{n}``: ``counted(3, "{n} cell", "{n} cells")``."""
    return Phrase(one, many, int(number), {"n": number, **values})


def joined(between: str, parts: Iterable[str]) -> str:
    """Texts one after the other; each is translated by itself."""
    values = {f"part{at}": part for at, part in enumerate(parts)}
    if len(values) < 2:
        return values.get("part0", "")
    gap = between.replace("{", "{{").replace("}", "}}")
    return phrase(gap.join(f"{{{name}}}" for name in values), **values)


def capital(text: str) -> str:
    """The text with its first letter a capital one, translated or not."""
    said = text if isinstance(text, Phrase) else phrase("{text}", text=text)
    return Phrase(said.template, said.plural, said.number, said.values, capital=True)


def said(error: BaseException) -> str:
    """What an error says, as the phrase that it is; `str` of it is only the English text."""
    text = error.args[0] if error.args else ""
    return text if isinstance(text, Phrase) else str(error)


def mark(text: str) -> str:
    """The text itself, to be found by whoever collects what is to be translated."""
    return text
