"""Keys and names that nothing else has yet."""

from __future__ import annotations

import re
from collections.abc import Collection


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
        return f"Renamed {before.lower()} to {after.lower()}"
    return f"Changed {after.lower()}"


def fresh_name(name: str, taken: Collection[str]) -> str:
    """The name as it is, or with a number behind it when it is taken."""
    if name not in taken:
        return name
    number = next(k for k in range(2, len(taken) + 3) if f"{name} {k}" not in taken)
    return f"{name} {number}"
