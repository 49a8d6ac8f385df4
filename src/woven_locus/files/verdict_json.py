"""A verdict as JSON, in the fixed form of the command line."""

from __future__ import annotations

from woven_locus.core.placing import Verdict


def verdict_json(verdict: Verdict) -> dict[str, object]:
    """See docs/command-line.md. Cells are [col, row]."""
    return {
        "ok": bool(verdict),
        "cells": [
            {"cell": [*c.cell], "ok": c.ok, "reasons": [str(r) for r in c.reasons]}
            for c in verdict.cells
        ],
        "reasons": [str(reason) for reason in verdict.reasons],
        "blockers": [
            {"what": what, "name": name, "id": id_}
            for what, name, id_ in dict.fromkeys(b.thing for b in verdict.blockers)
        ],
        "words": verdict.sentence(),
        "doubts": list(verdict.doubts),
    }
