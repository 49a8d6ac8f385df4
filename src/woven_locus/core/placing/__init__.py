"""May I build here? One table of rules, one judge."""

from woven_locus.core.placing.feasibility import feasible_map
from woven_locus.core.placing.judge import (
    Blocker,
    CellVerdict,
    Verdict,
    judge,
    judge_cells,
    judge_ground,
    judge_road,
)
from woven_locus.core.placing.rules import RULES, Reason

__all__ = [
    "RULES",
    "Blocker",
    "CellVerdict",
    "Reason",
    "Verdict",
    "feasible_map",
    "judge",
    "judge_cells",
    "judge_ground",
    "judge_road",
]
