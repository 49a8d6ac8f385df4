"""Makes CHANGELOG.md from the fragments in changelog.d, newest issue first."""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SORTS = {"added": "Added", "changed": "Changed", "fixed": "Fixed"}
HEAD = "# Changelog\n\nMade by `make changelog` from the fragments in `changelog.d/`; `<issue>.<added|changed|fixed>.md`.\n"


def changelog(folder: Path, version: str) -> str:
    """The text of the whole file. Raises ValueError for a fragment of another name."""
    found: dict[str, list[tuple[int, str]]] = {sort: [] for sort in SORTS}
    for path in folder.glob("*.md"):
        issue, _, sort = path.stem.partition(".")
        if sort not in SORTS or not issue.isdecimal():
            raise ValueError(f"{path}: expected <issue>.<{'|'.join(SORTS)}>.md")
        text = path.read_text("utf-8").strip()
        found[sort].append((int(issue), text if text.startswith("- ") else f"- {text}"))
    parts = [HEAD, f"## {version}\n"]
    for sort, title in SORTS.items():
        texts = [text for _issue, text in sorted(found[sort], reverse=True)]
        if texts:
            parts.append(f"### {title}\n\n" + "\n".join(texts) + "\n")
    return "\n".join(parts)


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT / "src"))
    from woven_locus.version import __version__

    (ROOT / "CHANGELOG.md").write_text(changelog(ROOT / "changelog.d", __version__), "utf-8")
