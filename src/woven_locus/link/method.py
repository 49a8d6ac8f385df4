"""What a method of the link is, and what it is called with."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from woven_locus.core.editing import Edit
from woven_locus.core.errors import Refused, WovenError
from woven_locus.core.plan import Plan
from woven_locus.core.value import Value, replace
from woven_locus.document import Document


class Params(msgspec.Struct, forbid_unknown_fields=True):
    """What a method takes by name; each has its own."""


class Nothing(Params):
    """No parameters."""


class NotAllowed(WovenError):
    """An edit that the link does not take now."""


class Method(Value):
    """name, summary : as the OpenRPC document has them.  params : what it takes.  result : in words.
    edits : whether it changes the plan.  long : whether it is worked out on a copy, beside the link.
    run(host, params) : gives the result; of one that takes long, run(plan, params). Raises WovenError for a refusal."""

    name: str
    summary: str
    params: type[Params]
    result: str
    run: Callable[[Any, Any], Any]
    edits: bool = False
    long: bool = False


class Host:
    """A document as the link sees it. All but methods that take long are run on the thread that owns it."""

    def __init__(self, document: Document, read_only: bool = False) -> None:
        self.document, self.read_only = document, read_only

    @property
    def plan(self) -> Plan:
        """The plan as it is now."""
        return self.document.plan

    def check_may_edit(self) -> None:
        """Raises NotAllowed for a link that only reads, and while somebody is in the middle of a stroke."""
        if self.read_only:
            raise NotAllowed("this link only reads; begin it without that to edit the plan")
        if self.document.history.in_gesture:
            raise NotAllowed("somebody is drawing on the plan; ask again in a moment")

    def save(self) -> str:
        """Save the plan to its file. Raises Refused, FileProblem."""
        if self.document.path is None:
            raise Refused("this plan was never saved, and has no file")
        return str(self.document.save())

    def do(self, edit: Edit) -> dict[str, Any]:
        """Do an edit as a step of its own. Raises NotAllowed."""
        self.check_may_edit()
        if edit.changes:
            self.document.history.do(replace(edit, label=f"{edit.label}, from the game"))
        return {
            "revision": self.document.revision,
            "label": edit.label,
            "changed": bool(edit.changes),
        }
