"""Where the journals of open plans are kept."""

from __future__ import annotations

from pathlib import Path

import platformdirs


def journal_folder() -> Path:
    """In the XDG state folder."""
    return Path(platformdirs.user_state_dir("woven-locus")) / "journals"
