"""Fills in the templates of a language for a plan."""

from __future__ import annotations

from collections.abc import Callable

from jinja2 import DictLoader, Environment, StrictUndefined

from woven_locus.core.handover.languages import PARTS, Language
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value


class Facts(Value):
    """What the templates say of a plan.

    plan : its name.  kind, cell : one of its kinds, and a cell, for examples; a kind may lack.  start, goal : two ends.
    program : name and version.  document_version : the newest that is read.
    """

    plan: str
    kind: str
    cell: tuple[int, int]
    start: str
    goal: str
    program: str
    document_version: int


def facts_of(plan: Plan, program: str, document_version: int) -> Facts:
    """Of one plan."""
    kinds, numbers, spec = list(plan.kinds), plan.register.numbers(), plan.spec
    ends = [f"S{number}" for number in numbers[:2]]
    ends += [f"{cell.col},{cell.row}" for cell in (spec.first, spec.last)]
    middle = spec.first_col + spec.cols // 2, spec.first_row + spec.rows // 2
    kind = kinds[0].key if kinds else "kind"
    return Facts(plan.name, kind, middle, ends[0], ends[1], program, document_version)


def made_of(
    language: Language, facts: Facts, template: Callable[[str], str], file: str
) -> dict[str, str]:
    """The text of every file, by its place in the folder. template : the text of a template, by its place beside this
    module.  file : the name of the plan's file, for examples."""
    texts = {name: template(path) for name, path in language.templates.items()}
    environment = Environment(
        loader=DictLoader(texts),
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        trim_blocks=True,
        lstrip_blocks=True,
        autoescape=False,  # source code, not a page
        # Braces mean something in every one of the languages, so that what is filled in is marked otherwise.
        variable_start_string="{=",
        variable_end_string="=}",
        comment_start_string="{##",
        comment_end_string="##}",
    )
    notice = f"Made by {facts.program}. It is yours: use it and change it as you like."
    known = {
        "notice": notice,
        "facts": facts,
        "document_version": facts.document_version,
        "language": language,
        "parts": PARTS,
        "file": file,
    }
    return {name: environment.get_template(name).render(known) for name in texts}
