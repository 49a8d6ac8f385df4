"""Where Numba keeps what it compiles of our kernels, and for which processor it compiles.

Left to itself, Numba names a cache's files after the place of the sources, and compiles for the very processor that it
runs on. Compiled kernels could then not be handed on: neither in a package, nor to another checkout, nor from one
machine of a build farm to the next.
"""

from __future__ import annotations

import os
import platform
import shutil
import sys
import tempfile
from collections.abc import Callable
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any, ClassVar

# What a processor of the third level of the x86-64 architecture can do (System V ABI, AMD64 supplement, "Micro-architecture
# levels"), as Linux names it. Machines of the last ten years have it.
_LEVEL, _LEVEL_FLAGS = (
    "x86-64-v3",
    {"avx", "avx2", "bmi1", "bmi2", "f16c", "fma", "abm", "movbe", "xsave"},
)
# Numba's own, for functions that are not ours.
_OTHER_LOCATORS = "UserProvidedCacheLocator,InTreeCacheLocator,UserWideCacheLocator,IPythonCacheLocator,ZipCacheLocator"


class Locator:
    """Tells Numba (``NUMBA_CACHE_LOCATOR_CLASSES``) to keep our kernels in `folder`, whatever the place of their
    sources. The folder's name stands for all that they depend on, so that nothing in it is ever out of date."""

    folder: ClassVar[Path]

    def __init__(self, source: Path, line: int) -> None:
        self._which = f"{source.stem}-{line}"

    @classmethod
    def from_function(cls, function: Callable[..., Any], source: str) -> Locator | None:
        """A locator for a function of the file `source`; None if that is not a kernel of ours."""
        if Path(source).parent != Path(__file__).parent / "core" / "kernels":
            return None
        return cls(Path(source), function.__code__.co_firstlineno)

    def get_cache_path(self) -> str:
        """The folder."""
        return str(self.folder)

    def ensure_cache_path(self) -> None:
        """Make the folder, should somebody have removed it."""
        self.folder.mkdir(parents=True, exist_ok=True)

    def get_source_stamp(self) -> str:
        """What tells an old source from a new one: nothing, since the folder is another one then."""
        return ""

    def get_disambiguator(self) -> str:
        """What tells functions of one name apart."""
        return self._which


@cache
def processor() -> str:
    """What is compiled for: a level that many machines share, or "" for just the processor of this machine."""
    if os.environ.get("NUMBA_CPU_NAME") or platform.machine() != "x86_64":
        return ""
    return _LEVEL if _LEVEL_FLAGS.issubset(_flags()) else ""


def _flags() -> set[str]:
    """What the processor can do, as Linux names it."""
    try:
        lines = Path("/proc/cpuinfo").read_text().splitlines()
    except OSError:
        # In a bare root. The compiler asks the processor itself, but takes a while to import.
        binding: Any = import_module("llvmlite.binding")
        found = {name for name, has in binding.get_host_cpu_features().items() if has}
        return found | {{"bmi": "bmi1", "lzcnt": "abm"}.get(name, name) for name in found}
    return {word for line in lines if line.startswith("flags") for word in line.split()}


def hand_to_numba(folder: Path) -> None:
    """Have Numba keep the kernels in a folder. To be called before `compiled` is first imported; later it changes nothing."""
    config: Any = import_module("numba.core.config")  # late: it takes half a second
    Locator.folder = folder
    if "woven_locus.core.kernels.compiled" in sys.modules:
        return
    if processor():
        config.CPU_NAME, config.CPU_FEATURES = processor(), ""
    before = config.CACHE_LOCATOR_CLASSES
    config.CACHE_LOCATOR_CLASSES = f"{__name__}.{Locator.__name__},{before or _OTHER_LOCATORS}"
    try:
        # Numba asks for the place when it meets the decorator.
        import_module("woven_locus.core.kernels.compiled")
    finally:
        config.CACHE_LOCATOR_CLASSES = before


def copy_missing(source: Path, folder: Path) -> None:
    """Copy the files of a folder that another one lacks; whoever reads there meanwhile sees whole files, and stamps
    (``ready-…``) after what they stand for."""
    for file in sorted(source.iterdir(), key=lambda file: file.name.startswith("ready-")):
        if (folder / file.name).exists():
            continue
        handle, name = tempfile.mkstemp(dir=folder)
        os.close(handle)
        shutil.copyfile(file, name)
        Path(name).replace(folder / file.name)
