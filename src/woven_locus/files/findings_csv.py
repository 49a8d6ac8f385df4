"""The findings of a plan as a table."""

from __future__ import annotations

from collections.abc import Iterator

from woven_locus.core.proof.table import Proof
from woven_locus.core.register import structure_id
from woven_locus.files.tables import table

FINDINGS_CSV = "findings-csv"
_HEADS = ("severity", "code", "stage", "col", "row", "structure", "message", "mend", "accepted")


def findings_csv(proof: Proof) -> str:
    """A finding on a line, as `proof` lists them, accepted ones last with their reason."""

    def rows() -> Iterator[list[object]]:
        for item in (*proof.findings, *proof.accepted):
            col, row = item.cell if item.cell is not None else ("", "")
            yield [
                *(item.severity.value, item.code, item.part.value, col, row),
                structure_id(item.structure) if item.structure else "",
                *(item.message, item.mend_words, item.reason),
            ]

    return table(_HEADS, rows())
