"""Files that ship inside the package. `importlib.resources` would do, but takes longer to import than all of
them take to read."""

from __future__ import annotations

import pkgutil


def package_data(package: str, name: str) -> bytes:
    """The bytes of a file, by its place within the package. Raises OSError when there is none."""
    data = pkgutil.get_data(package, name)
    if data is None:
        raise FileNotFoundError(f"{package} holds no {name}")
    return data
