"""Boxes to type numbers into. A decimal point and a decimal comma are both read, whatever the desktop's
language, and nothing is passed over in silence as a separator of thousands."""

from __future__ import annotations

import re

from PyQt6.QtCore import QLocale
from PyQt6.QtGui import QValidator
from PyQt6.QtWidgets import QAbstractSpinBox, QDoubleSpinBox, QSpinBox

from woven_locus.core.numbers import MINUS, parse_number, parse_whole

_PART = re.compile(r"[+-]?[0-9]*(?:[.,]([0-9]*))?", re.ASCII)
_WHOLE_PART = re.compile(r"[+-]?[0-9]*", re.ASCII)


def _plain_locale() -> QLocale:
    locale = QLocale.c()
    locale.setNumberOptions(
        QLocale.NumberOption.OmitGroupSeparator | QLocale.NumberOption.RejectGroupSeparator
    )
    return locale


def _typed(box: QAbstractSpinBox, text: str, prefix: str, suffix: str) -> str:
    """What was typed, without what the box puts around it."""
    if prefix:
        text = text.removeprefix(prefix)
    if suffix:
        text = text.removesuffix(suffix)
    return text.strip().replace(MINUS, "-")


def _state(value: float, low: float, high: float) -> QValidator.State:
    """Whether a value may stand, may become one by more digits, or never can."""
    if low <= value <= high:
        return QValidator.State.Acceptable
    beyond = value > high if value >= 0 else value < low
    return QValidator.State.Invalid if beyond else QValidator.State.Intermediate


class NumberBox(QDoubleSpinBox):
    """A number with up to `decimals` places, of which only those needed are shown."""

    def __init__(self, value: float, low: float, high: float, decimals: int = 4) -> None:
        super().__init__()
        self.setLocale(_plain_locale())
        self.setRange(low, high)
        self.setDecimals(decimals)
        self.setValue(value)

    def textFromValue(self, value: float) -> str:
        text = super().textFromValue(value)
        return text.rstrip("0").rstrip(".") if "." in text else text

    def valueFromText(self, text: str | None) -> float:
        try:
            return parse_number(_typed(self, text or "", self.prefix(), self.suffix()), comma=True)
        except ValueError:
            return self.value()

    def validate(self, input: str | None, pos: int) -> tuple[QValidator.State, str, int]:
        text = input or ""
        special = self.specialValueText()
        if special and text == special:
            return QValidator.State.Acceptable, text, pos
        typed = _typed(self, text, self.prefix(), self.suffix())
        part = _PART.fullmatch(typed)
        if part is None or len(part[1] or "") > self.decimals():
            return QValidator.State.Invalid, text, pos
        try:
            value = parse_number(typed, comma=True)
        except ValueError:
            return QValidator.State.Intermediate, text, pos
        return _state(value, self.minimum(), self.maximum()), text, pos


class WholeBox(QSpinBox):
    """A whole number."""

    def __init__(self, value: int, low: int, high: int) -> None:
        super().__init__()
        self.setLocale(_plain_locale())
        self.setRange(low, high)
        self.setValue(value)

    def valueFromText(self, text: str | None) -> int:
        try:
            return parse_whole(_typed(self, text or "", self.prefix(), self.suffix()))
        except ValueError:
            return self.value()

    def validate(self, input: str | None, pos: int) -> tuple[QValidator.State, str, int]:
        text = input or ""
        special = self.specialValueText()
        if special and text == special:
            return QValidator.State.Acceptable, text, pos
        typed = _typed(self, text, self.prefix(), self.suffix())
        if not _WHOLE_PART.fullmatch(typed):
            return QValidator.State.Invalid, text, pos
        try:
            value = parse_whole(typed)
        except ValueError:
            return QValidator.State.Intermediate, text, pos
        return _state(value, self.minimum(), self.maximum()), text, pos
