"""Names of files that are proposed to the user."""

from __future__ import annotations

import unicodedata

# Bytes of a name that every file system takes, with room for a long ending.
_LONGEST = 120


def file_name(name: str, suffix: str) -> str:
    """A file's name made of a plan's name: never a path, never hidden, without what a file system or a
    terminal could take for something else."""
    kept = "".join(
        " " if ch in '/\\:*?"<>|' or unicodedata.category(ch)[0] in "CZ" else ch for ch in name
    )
    base = " ".join(kept.split()).lstrip(".-~ ")
    short = base.encode("utf-8", "ignore")[:_LONGEST].decode("utf-8", "ignore").strip()
    return f"{short or 'plan'}{suffix}"
