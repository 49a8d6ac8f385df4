"""Source for a game, written to a folder."""

from __future__ import annotations

from pathlib import Path

from woven_locus.core.errors import FileProblem
from woven_locus.core.handover import Language, facts_of, made_of
from woven_locus.core.names import one_line
from woven_locus.core.plan import Plan
from woven_locus.files.atomic import read_bytes, write_bytes
from woven_locus.files.plan_json import VERSION
from woven_locus.package_data import package_data
from woven_locus.version import __version__


def source_texts(plan: Plan, language: Language, file: str) -> dict[str, str]:
    """The text of every file, by its place in the folder. file : the name of the plan's file, for examples."""

    def template(path: str) -> str:
        return package_data("woven_locus.core.handover", path).decode("utf-8")

    facts = facts_of(plan, f"Woven Locus {__version__}", VERSION)
    return made_of(language, facts, template, one_line(file))


def write_folder(folder: Path, texts: dict[str, str], replace: bool = False) -> None:
    """Write files into a folder, which is made if it is not there. What somebody may have changed is not written over
    unless `replace`: then nothing is written. Raises FileProblem."""
    new = {folder / name: text.encode("utf-8") for name, text in texts.items()}
    for path, data in new.items():
        if not replace and path.exists() and read_bytes(path) != data:
            why = "is there already and is not what would be written; name another folder, or have it replaced (--force)"
            raise FileProblem(path, "", why)
    for path, data in new.items():
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as err:
            raise FileProblem(path.parent, "", f"cannot be made: {err.strerror}") from err
        write_bytes(path, data)
