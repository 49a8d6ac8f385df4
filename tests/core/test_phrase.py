"""Texts that remember what they were made of."""

import json
import pickle
from collections.abc import Callable

from hypothesis import given
from hypothesis import strategies as st

from woven_locus.core.errors import BadPlan, FileProblem, Refused
from woven_locus.core.phrase import (
    Phrase,
    capital,
    counted,
    joined,
    mark,
    phrase,
    said,
    translated,
)

GERMAN = {
    "{name} is full": "{name} ist voll",
    "{n} cell": "{n} Zelle",
    "{n} cells": "{n} Zellen",
    "a road": "eine Straße",
    "{what} of {cells}": "{cells}: {what}",
}


def _german(one: str, many: str, number: int | None) -> str:
    form = one if number is None or number == 1 else many
    return GERMAN.get(form, form)


def test_a_phrase_is_its_english_text() -> None:
    full = phrase("{name} is full", name="The shed")
    assert full == "The shed is full"
    assert isinstance(full, str)
    assert json.dumps({full: [full]}) == '{"The shed is full": ["The shed is full"]}'
    assert str(full) == full
    assert {full: 1}["The shed is full"] == 1


def test_it_is_translated_with_the_phrases_in_it_and_names_stay_as_they_are() -> None:
    what = phrase(
        "{what} of {cells}", what=phrase("a road"), cells=counted(2, "{n} cell", "{n} cells")
    )
    assert what == "a road of 2 cells"
    assert what.translated(_german) == "2 Zellen: eine Straße"
    # A shed that somebody named so.
    assert phrase("{name} is full", name="a road").translated(_german) == "a road ist voll"


def test_a_number_chooses_the_form() -> None:
    one, many, none = (counted(n, "{n} cell", "{n} cells") for n in (1, 12, 0))
    assert [one, many, none] == ["1 cell", "12 cells", "0 cells"]
    assert [text.translated(_german) for text in (one, many, none)] == [
        "1 Zelle",
        "12 Zellen",
        "0 Zellen",
    ]


def test_a_format_holds_in_every_language() -> None:
    assert counted(12_345, "{n:,} row", "{n:,} rows").translated(lambda *_: "{n:,} Zeilen") == (
        "12,345 Zeilen"
    )


def test_parts_are_translated_each_by_itself() -> None:
    text = joined("; ", [phrase("a road"), "S12", counted(1, "{n} cell", "{n} cells")])
    assert text == "a road; S12; 1 cell"
    assert translated(text, _german) == "eine Straße; S12; 1 Zelle"
    assert joined("; ", []) == ""
    assert joined(" {} ", ["a", "b"]) == "a {} b"


def test_a_capital_letter_is_that_of_the_language() -> None:
    assert capital(phrase("a road")) == "A road"
    assert translated(capital(phrase("a road")), _german) == "Eine Straße"
    assert capital("gate") == "Gate"


def test_what_an_error_says_is_kept() -> None:
    full = phrase("{name} is full", name="S1")
    for error in (Refused(full), ValueError(full)):
        assert str(error) == "S1 is full"
        assert translated(error, _german) == "S1 ist voll"
    assert translated(BadPlan("kinds", full), _german) == "kinds: S1 ist voll"
    assert translated(FileProblem("a.json", "", full), _german) == "a.json: S1 ist voll"
    assert said(OSError(2, "no such file")) == "[Errno 2] no such file"


def test_what_is_only_marked_is_the_text_itself() -> None:
    assert mark("{count} left as it is") == "{count} left as it is"


@given(
    st.dictionaries(st.sampled_from("abc"), st.text() | st.integers(), min_size=1),
    st.none() | st.integers(0, 3),
)
def test_it_comes_back_from_another_process_whole(
    values: dict[str, str | int], number: int | None
) -> None:
    template = " ".join(f"{{{name}}}" for name in values)
    before = Phrase(template, f"many {template}", number, values)
    after = pickle.loads(pickle.dumps(before))
    assert type(after) is Phrase
    assert after == before

    def shout(one: str, many: str, n: int | None) -> str:
        return (one if n in (None, 1) else many) + "!"

    asked: Callable[[Phrase], str] = lambda text: text.translated(shout)  # noqa: E731
    assert asked(after) == asked(before) == before + "!"
