"""Where keys go when a part of the window is put away: Qt hands the focus on to whatever comes next, which is seldom what
the user was at."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtWidgets import QWidget


def focus_of(part: QWidget) -> QWidget | None:
    """What takes the keys in its window, or will once that is active again."""
    window = part.window()
    return window.focusWidget() if window is not None else None


def has_focus(part: QWidget) -> bool:
    """Whether it or something in it takes the keys."""
    focus = focus_of(part)
    return focus is not None and (focus is part or part.isAncestorOf(focus))


def give_focus(to: QWidget | None) -> None:
    """To a widget that is still there and can be seen; else it stays where it is."""
    if to is not None and not sip.isdeleted(to) and to.isVisible():
        to.setFocus()
