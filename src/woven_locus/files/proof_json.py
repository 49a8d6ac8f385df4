"""A proof as JSON and as text for people."""

from __future__ import annotations

from collections import Counter
from typing import Any

from woven_locus.core.proof.finding import Finding, Severity
from woven_locus.core.proof.table import Proof
from woven_locus.core.register import structure_id


def proof_json(proof: Proof) -> dict[str, Any]:
    """As `woven-locus proof` prints it."""
    return {
        "findings": [finding_json(item) for item in proof.findings],
        "counts": {severity.value: proof.count(severity) for severity in Severity},
        "accepted": [finding_json(item) | {"reason": item.reason} for item in proof.accepted],
        "more": proof.more,
    }


def finding_json(item: Finding) -> dict[str, Any]:
    """One finding."""
    return {
        "severity": item.severity.value,
        "code": item.code,
        "message": item.message,
        "cell": [item.cell.col, item.cell.row] if item.cell is not None else None,
        "structure": structure_id(item.structure) if item.structure else None,
        "mend": item.mend_words or None,
        "stage": item.part.value,
    }


def unreadable_json(message: str) -> dict[str, Any]:
    """For a plan that could not be read."""
    found = {"severity": "error", "code": "unreadable", "message": message}
    nothing = {"cell": None, "structure": None, "mend": None, "stage": None}
    counts = {severity.value: int(severity is Severity.ERROR) for severity in Severity}
    return {"findings": [found | nothing], "counts": counts, "accepted": [], "more": {}}


def proof_text(path: str, found: dict[str, Any]) -> str:
    """The same for people: a heading for the plan, and a line for each finding."""
    counts = found["counts"]
    words = [f"{counts[name]} {name}{'s' * (counts[name] != 1)}" for name in counts if counts[name]]
    lines = [f"{path}: {', '.join(words) or 'nothing to find fault with'}"]
    for item in found["findings"]:
        lines.append("  " + finding_text(item))
    more = Counter(found["more"])
    lines += [f"  … and {count} more: {code}" for code, count in more.items()]
    for item in found["accepted"]:
        lines.append(f"  accepted {finding_text(item)} ({item['reason']})")
    return "\n".join(lines)


def finding_text(item: dict[str, Any]) -> str:
    """One finding as a line."""
    where = ""
    if item["cell"] is not None:
        col, row = item["cell"]
        where = f" at {col}, {row}"
    return f"{item['severity']} {item['code']}{where}: {item['message']}"
