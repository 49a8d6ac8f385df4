"""What the program remembers from one start to the next. A settings file may hold anything: what cannot be
read is left out, and told once the window is there."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from PyQt6.QtCore import QByteArray, QSettings

# Names of settings that could not be read since the start.
_left_out: list[str] = []


def left_out() -> list[str]:
    """The settings that were not understood, each once; they are told of, and then forgotten."""
    names, _left_out[:] = list(dict.fromkeys(_left_out)), []
    return names


def _value(name: str) -> Any:
    try:
        return QSettings().value(name)
    except (TypeError, ValueError, SystemError):
        _left_out.append(name)
        return None


def switch(name: str, otherwise: bool) -> bool:
    """Something that is on or off."""
    found = _value(name)
    if isinstance(found, bool):
        return found
    if isinstance(found, str) and found.lower() in ("true", "false", "1", "0"):
        return found.lower() in ("true", "1")
    if found is not None:
        _left_out.append(name)
    return otherwise


def text(name: str, otherwise: str, among: Collection[str] = ()) -> str:
    """A text, of a few if those are given."""
    found = _value(name)
    if isinstance(found, str) and (not among or found in among):
        return found
    if found is not None:
        _left_out.append(name)
    return otherwise


def blob(name: str) -> QByteArray | None:
    """Bytes that Qt made."""
    found = _value(name)
    if isinstance(found, QByteArray):
        return found
    if found is not None:
        _left_out.append(name)
    return None


def keep(name: str, value: object) -> None:
    """For the next start."""
    QSettings().setValue(name, value)


def forget(name: str) -> None:
    """Back to what is built in; of a group all."""
    QSettings().remove(name)
