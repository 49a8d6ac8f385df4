"""Proofs as JUnit's XML, which build servers read: a suite for each plan, a case for each check."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from xml.etree import ElementTree as ET

from woven_locus.core.proof.table import CHECKS
from woven_locus.files.proof_json import finding_text

# What XML 1.0 has no place for.
_UNFIT = dict.fromkeys((*range(9), 11, 12, *range(14, 32), 65534, 65535))


def junit_xml(proofs: Sequence[tuple[str, dict[str, Any]]], strict: bool) -> bytes:
    """proofs : path and `proof_json` of each plan.  strict : warnings fail too. What does not fail is in the case's output."""
    root = ET.Element("testsuites", name="woven-locus proof")
    total = failed = 0
    for path, found in proofs:
        suite = ET.SubElement(root, "testsuite", name=_fit(path))
        cases = failures = 0
        for code, title in _cases(found):
            mine = [item for item in found["findings"] if item["code"] == code]
            case = ET.SubElement(suite, "testcase", classname=_fit(path), name=f"{code}: {title}")
            cases += 1
            bad = [
                item
                for item in mine
                if item["severity"] == "error" or (strict and item["severity"] == "warning")
            ]
            if bad:
                failures += 1
                message = f"{len(bad) + found['more'].get(code, 0)} found"
                failure = ET.SubElement(case, "failure", type=bad[0]["severity"], message=message)
                failure.text = _fit("\n".join(map(finding_text, bad)))
            other = [finding_text(item) for item in mine if item not in bad]
            taken = [item for item in found["accepted"] if item["code"] == code]
            other += [f"accepted {finding_text(item)} ({item['reason']})" for item in taken]
            if other:
                ET.SubElement(case, "system-out").text = _fit("\n".join(other))
        suite.set("tests", str(cases))
        suite.set("failures", str(failures))
        suite.set("errors", "0")
        total, failed = total + cases, failed + failures
    root.set("tests", str(total))
    root.set("failures", str(failed))
    ET.indent(root)
    return bytes(ET.tostring(root, encoding="utf-8", xml_declaration=True)) + b"\n"


def _cases(found: dict[str, Any]) -> list[tuple[str, str]]:
    """Code and title of each check, and of what else was found."""
    known = {check.code: check.title for check in CHECKS}
    for item in found["findings"]:
        known.setdefault(item["code"], item["code"])
    return list(known.items())


def _fit(text: str) -> str:
    return text.translate(_UNFIT)
