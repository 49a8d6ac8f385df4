"""The plans that were open, newest first, and what was looked at in each."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from woven_locus.core.geometry import Point
from woven_locus.core.render.scale import STEPS
from woven_locus.core.value import Value
from woven_locus.ui import kept
from woven_locus.ui.session.stages import Stage

MOST = 10
_NAME, LAST = "recent", "last"


class Look(Value):
    """stage : of the Thread.  step : of the zoom.  middle : the world point in the middle of the sheet; None
    where the whole plan was shown, in whatever size the sheet had."""

    stage: Stage
    step: int
    middle: Point | None


def _rows() -> list[dict[str, Any]]:
    try:
        found = json.loads(kept.text(_NAME, "[]"))
    except ValueError:
        return []
    rows = found if isinstance(found, list) else []
    return [row for row in rows if isinstance(row, dict) and isinstance(row.get("path"), str)]


def recent() -> list[Path]:
    """Whether or not they are still there."""
    return [Path(row["path"]) for row in _rows()][:MOST]


def look_of(path: Path) -> Look | None:
    """What was looked at when a plan was last open; None where that is not known, or is nonsense."""
    row = next((row for row in _rows() if row["path"] == str(path)), {})
    try:
        step, middle = row["step"], row["middle"]
        if isinstance(step, int) and 0 <= step < len(STEPS):
            place = None if middle is None else Point(*map(float, middle))
            return Look(Stage(row["stage"]), step, place)
    except (KeyError, TypeError, ValueError):
        pass
    return None


def remember(path: Path, look: Look | None = None) -> None:
    """It was open just now."""
    row: dict[str, Any] = {"path": str(path)}
    if look is not None:
        middle = None if look.middle is None else [*look.middle]
        row |= {"stage": look.stage.value, "step": look.step, "middle": middle}
    else:
        row |= next((known for known in _rows() if known["path"] == str(path)), {})
    others = [known for known in _rows() if known["path"] != str(path)]
    kept.keep(_NAME, json.dumps([row, *others][:MOST]))


def forget_all() -> None:
    """No plan was ever open."""
    kept.forget(_NAME)


def last_plan() -> Path | None:
    """The plan that was open when the window was last closed, if it is still there."""
    path = Path(kept.text(LAST, ""))
    return path if path.name and path.is_file() else None
