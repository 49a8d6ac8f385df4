"""The plans that ship. They are opened as fresh copies, never in place."""

from __future__ import annotations

from woven_locus.core.errors import Unknown
from woven_locus.core.plan import Plan
from woven_locus.files import plan_json
from woven_locus.package_data import package_data

NAMES = ("selvedge-vale", "thornmoth-pass")


def open_demo(name: str = NAMES[0]) -> Plan:
    """A fresh plan; the first part of its name will do. Raises Unknown, naming the demos that there are."""
    name = next((known for known in NAMES if known.split("-")[0] == name), name)
    if name not in NAMES:
        raise Unknown(f"no demo {name!r}; there is {', '.join(NAMES)}")
    data = package_data("woven_locus.demo", f"{name}.plan.json")
    return plan_json.parse(data, f"demo {name}")
