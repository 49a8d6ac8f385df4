"""What an action is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from woven_locus.ui.window import Window


@dataclass(frozen=True)
class Action:
    """key : the shortcut, portable text.  enabled : asked whenever the plan or selection changes.
    on_sheet : the key works only while the sheet has the focus (plain letters, Del, Home),
    since it means something else in a text field or on a slider."""

    name: str
    menu: str
    text: str
    key: str
    run: Callable[[Window], object]
    enabled: Callable[[Window], bool] = lambda _window: True
    gap_before: bool = False
    on_sheet: bool = False
