"""Pages of the documentation that are made from the program itself, and links that leave the documentation."""

from __future__ import annotations

import re
from importlib import import_module
from pathlib import Path
from typing import Any

import click
from mkdocs.structure.files import File, Files

from woven_locus.cli.main import VERBS, woven_locus
from woven_locus.ui.actions.table import ACTIONS

ROOT = Path(__file__).parents[1]
_LINK = re.compile(r"\[([^\]]*)\]\((?:\.\./)+(?:src|examples|README|CONTRIBUTING|tests)[^)]*\)")


def on_files(files: Files, config: Any) -> Files:
    """Add the pages."""
    for name, text in (
        ("reference/options.md", options_page()),
        ("reference/keys.md", keys_page()),
        ("decisions/index.md", decisions_page()),
    ):
        files.append(File.generated(config, name, content=text))
    return files


def on_page_markdown(markdown: str, **_more: Any) -> str:
    """A link to a file of the source is its name here: the file is not part of the site."""
    return _LINK.sub(r"\1", markdown)


def options_page() -> str:
    """The help of every verb, as the command line prints it."""
    parts = ["# Options of every verb\n"]
    for verb in VERBS:
        command = import_module(f"woven_locus.cli.{verb}_verb").command
        with click.Context(command, info_name=f"woven-locus {verb}") as context:
            context.max_content_width = 100
            parts.append(f"## {verb}\n\n```text\n{command.get_help(context)}\n```\n")
    with click.Context(woven_locus, info_name="woven-locus") as context:
        parts.insert(1, f"```text\n{woven_locus.get_help(context)}\n```\n")
    return "\n".join(parts)


def keys_page() -> str:
    """Every action with its key, by menu."""
    parts = ["# Keys\n", "All can be changed: *Help › Keys*.\n"]
    menu = ""
    for action in ACTIONS:
        if not action.key:
            continue
        if action.menu != menu:
            menu = action.menu
            parts.append(f"\n## {menu.replace('&', '')}\n\n| key | action |\n|---|---|")
        parts.append(f"| **{action.key}** | {action.text.replace('&', '').rstrip('…')} |")
    return "\n".join(parts) + "\n"


def decisions_page() -> str:
    """The list of decisions."""
    lines = ["# Decisions\n", "Why things that are hard to change are as they are.\n"]
    for page in sorted((ROOT / "docs" / "decisions").glob("[0-9]*.md")):
        title = page.read_text("utf-8").splitlines()[0].lstrip("# ")
        lines.append(f"* [{title}]({page.name})")
    return "\n".join(lines) + "\n"
