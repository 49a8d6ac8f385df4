"""Boxes to type numbers into. A decimal point and a decimal comma are both read, whatever the desktop's
language, and nothing is passed over in silence as a separator of thousands."""

from __future__ import annotations

import re
from collections.abc import Callable

from PyQt6.QtGui import QValidator
from PyQt6.QtWidgets import QDoubleSpinBox, QSpinBox

from woven_locus.core.numbers import MINUS, parse_number, parse_whole

_PART = re.compile(r"[+-]?[0-9]*(?:[.,]([0-9]*))?", re.ASCII)
_WHOLE_PART = re.compile(r"[+-]?[0-9]*", re.ASCII)


def _typed(box: QSpinBox | QDoubleSpinBox, text: str | None) -> str:
    """What was typed, without what the box puts around it."""
    text = (text or "").removeprefix(box.prefix()).removesuffix(box.suffix())
    return text.strip().replace(MINUS, "-")


def _state(
    box: QSpinBox | QDoubleSpinBox,
    text: str,
    may_become: Callable[[str], bool],
    parse: Callable[[str], float],
) -> QValidator.State:
    """Whether a text may stand, may become a number of the box by more digits, or never can."""
    if text and text == box.specialValueText():
        return QValidator.State.Acceptable
    typed = _typed(box, text)
    if not may_become(typed):
        return QValidator.State.Invalid
    try:
        value = parse(typed)
    except ValueError:
        return QValidator.State.Intermediate
    low, high = box.minimum(), box.maximum()
    if low <= value <= high:
        return QValidator.State.Acceptable
    beyond = value > high if value >= 0 else value < low
    return QValidator.State.Invalid if beyond else QValidator.State.Intermediate


def _number(text: str) -> float:
    return parse_number(text, comma=True)


class NumberBox(QDoubleSpinBox):
    """A number with up to `decimals` places, of which only those needed are shown. What it was given stays exact as long as
    nobody writes another number: to look at a value must not round it."""

    def __init__(self, value: float, low: float, high: float, decimals: int = 4) -> None:
        super().__init__()
        self._exact = value
        self.setRange(low, high)
        self.setDecimals(decimals)
        self.setValue(value)

    def setValue(self, value: float) -> None:
        self._exact = value
        super().setValue(value)

    def value(self) -> float:
        shown = super().value()
        half = 0.5000001 * 10.0 ** -self.decimals()
        return self._exact if abs(self._exact - shown) <= half else shown

    def textFromValue(self, value: float) -> str:
        # The same everywhere, whatever the desktop's language.
        text = f"{value:.{self.decimals()}f}"
        text = text.rstrip("0").rstrip(".") if "." in text else text
        return "0" if text == "-0" else text

    def valueFromText(self, text: str | None) -> float:
        try:
            return _number(_typed(self, text))
        except ValueError:
            return self.value()

    def validate(self, input: str | None, pos: int) -> tuple[QValidator.State, str, int]:
        text = input or ""
        return _state(self, text, self._may_become, _number), text, pos

    def _may_become(self, typed: str) -> bool:
        part = _PART.fullmatch(typed)
        return part is not None and len(part[1] or "") <= self.decimals()


class WholeBox(QSpinBox):
    """A whole number."""

    def __init__(self, value: int, low: int, high: int) -> None:
        super().__init__()
        self.setRange(low, high)
        self.setValue(value)

    def textFromValue(self, value: int) -> str:
        return str(value)

    def valueFromText(self, text: str | None) -> int:
        try:
            return parse_whole(_typed(self, text))
        except ValueError:
            return self.value()

    def validate(self, input: str | None, pos: int) -> tuple[QValidator.State, str, int]:
        text = input or ""
        return _state(self, text, self._may_become, parse_whole), text, pos

    def _may_become(self, typed: str) -> bool:
        return _WHOLE_PART.fullmatch(typed) is not None
