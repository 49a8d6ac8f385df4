"""Proofs as SARIF 2.1.0 (OASIS, 2020), which code hosts and editors read."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import PurePath
from typing import Any
from urllib.parse import quote

from woven_locus.core.proof.table import CHECKS, OUTDATED
from woven_locus.version import __version__


def sarif_json(proofs: Sequence[tuple[str, dict[str, Any]]]) -> dict[str, Any]:
    """proofs : path and `proof_json` of each plan. What is accepted is a suppressed result with its reason."""
    rules: list[dict[str, Any]] = [
        {
            "id": check.code,
            "name": "".join(part.capitalize() for part in check.code.split("-")),
            "shortDescription": {"text": check.title},
            "fullDescription": {"text": _about(check.find.__doc__, check.title)},
            "defaultConfiguration": {"level": check.severity.value},
            "properties": {"stage": check.part.value},
        }
        for check in (*CHECKS, OUTDATED)
    ]
    places = {rule["id"]: at for at, rule in enumerate(rules)}
    results = []
    for path, found in proofs:
        results += [_result(path, item, places) for item in found["findings"]]
        for item in found["accepted"]:
            accepted = {"kind": "external", "status": "accepted", "justification": item["reason"]}
            results.append(_result(path, item, places) | {"suppressions": [accepted]})
    driver = {"name": "woven-locus", "version": __version__, "rules": rules}
    run = {
        "tool": {"driver": driver},
        "columnKind": "unicodeCodePoints",
        "artifacts": [{"location": {"uri": _uri(path)}} for path, _found in proofs],
        "results": results,
    }
    return {"version": "2.1.0", "runs": [run]}


def sarif_bytes(proofs: Sequence[tuple[str, dict[str, Any]]]) -> bytes:
    """The bytes of a file of it."""
    return (json.dumps(sarif_json(proofs), ensure_ascii=False, indent=1) + "\n").encode()


def _about(text: str | None, title: str) -> str:
    return " ".join(text.split()) if text else title


def _result(path: str, item: dict[str, Any], places: dict[str, int]) -> dict[str, Any]:
    location: dict[str, Any] = {"physicalLocation": {"artifactLocation": {"uri": _uri(path)}}}
    logical = []
    if item["cell"] is not None:
        col, row = item["cell"]
        logical.append({"name": f"{col}, {row}", "kind": "cell"})
    if item["structure"] is not None:
        logical.append({"name": item["structure"], "kind": "structure"})
    if logical:
        location["logicalLocations"] = logical
    result = {
        "ruleId": item["code"],
        "level": item["severity"],
        "message": {"text": item["message"]},
        "locations": [location],
    }
    if item["code"] in places:
        result["ruleIndex"] = places[item["code"]]
    return result


def _uri(path: str) -> str:
    return quote(PurePath(path).as_posix())
