"""The plans that ship. They are opened as fresh copies, never in place."""

from __future__ import annotations

from importlib import resources

from woven_locus.core.errors import Unknown
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json

NAMES = ("selvedge-vale",)


def open_demo(name: str = NAMES[0]) -> Plan:
    """A fresh plan. Raises Unknown, naming the demos that there are."""
    if name not in NAMES:
        raise Unknown(f"no demo {name!r}; there is {', '.join(NAMES)}")
    file = resources.files("woven_locus.demo").joinpath(f"{name}.plan.json")
    return plan_json.parse(file.read_bytes(), f"demo {name}")
