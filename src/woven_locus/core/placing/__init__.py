"""May I build here? Two tables of rules, one judge."""

from woven_locus.core.derived.rules import CELL_RULES, Reason
from woven_locus.core.placing.feasibility import (
    Feasibility,
    always_refused,
    feasible_map,
    feasible_maps,
    nearest_spot,
    why_not,
)
from woven_locus.core.placing.judge import (
    RuleRow,
    judge,
    judge_barrier,
    judge_cells,
    judge_ground,
    judge_kind_cells,
    judge_road,
    rule_rows,
)
from woven_locus.core.placing.kind_rules import KIND_RULES
from woven_locus.core.placing.verdict import Blocker, CellVerdict, Remark, Verdict

__all__ = [
    "CELL_RULES",
    "KIND_RULES",
    "Blocker",
    "CellVerdict",
    "Feasibility",
    "Reason",
    "Remark",
    "RuleRow",
    "Verdict",
    "always_refused",
    "feasible_map",
    "feasible_maps",
    "judge",
    "judge_barrier",
    "judge_cells",
    "judge_ground",
    "judge_kind_cells",
    "judge_road",
    "nearest_spot",
    "rule_rows",
    "why_not",
]
