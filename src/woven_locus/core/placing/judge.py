"""The one answer to "may I?"."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import repeat

import numpy as np

from woven_locus.core.derived.rules import ALL_BITS, BIT, CELL_RULES, REASONS_OF, Reason
from woven_locus.core.geometry import Cell, places_of
from woven_locus.core.kinds import Kind
from woven_locus.core.phrase import phrase
from woven_locus.core.placing.asking import Ask
from woven_locus.core.placing.kind_rules import rules_of
from woven_locus.core.placing.sealing import seal_remark
from woven_locus.core.placing.verdict import Blocker, CellVerdict, Remark, Verdict
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.value import Value

_OUTSIDE, _TERRAIN, _OCCUPIED = (
    BIT[Reason.OUTSIDE],
    BIT[Reason.TERRAIN],
    BIT[Reason.OCCUPIED],
)

# A third of the time of ``CellVerdict(...)``.
_as_verdict = partial(tuple.__new__, CellVerdict)

# Cells from which on they are asked in array passes.
MANY = 48

# Reasons that say nothing about where a structure is standing already: what it cost is paid, the actor
# goes where it likes, the window moves, and it is itself that occupies its cells and closes a way.
PASSING = frozenset({Reason.FUNDS, Reason.REACH, Reason.OUTSIDE, Reason.OCCUPIED, Reason.SEALS})


def judge(
    plan: Plan,
    kind: Kind,
    cell: Cell,
    turn: int = 0,
    lifted: int = 0,
    passing: frozenset[Reason] = frozenset(),
) -> Verdict:
    """May a structure of `kind` stand with its turned bounding box's lowest cell at `cell`?

    turn : 0 to 7, see `kinds.turns`.
    lifted : number of a structure that is taken as gone, or 0: it is being moved, or, if it is of
    another kind, replaced.  passing : reasons that are not asked.
    """
    footprint = plan.footprint(kind, turn)
    care = ALL_BITS
    if passing:
        for reason in passing & BIT.keys():
            care &= ~BIT[reason]
    verdict = _judge_cells(
        plan, footprint.at(cell), lifted, care, kind.demands.terrain, Reason.OUTSIDE in passing
    )
    ask = None
    remarks: list[Remark] = []
    for rule in rules_of(plan, kind):
        if rule.reason in passing:
            continue
        if ask is None:
            row, col = plan.spec.slot(cell)
            ask = Ask(plan, kind, cell, turn, footprint, row, col, lifted)
        remark = rule.check(ask)
        if remark is not None:
            remarks.append(remark)
    return _with_remarks(plan, verdict, remarks) if remarks else verdict


def _with_remarks(plan: Plan, verdict: Verdict, remarks: list[Remark]) -> Verdict:
    told = verdict.cells
    if any(remark.cells for remark in remarks):
        cells = list(told)
        for remark in remarks:
            for at in remark.cells:
                cell, reasons, doubtful = cells[at]
                if remark.doubt:
                    cells[at] = _as_verdict((cell, reasons, True))
                elif plan.spec.contains(cell):
                    # Outside the window only: it is as steep there.
                    cells[at] = _as_verdict((cell, (*reasons, remark.reason), doubtful))
        told = tuple(cells)
    reasons, blockers = verdict.reasons, verdict.blockers
    for remark in remarks:
        if not remark.doubt:
            reasons += (remark.reason,)
            blockers += remark.blockers
    return Verdict(told, reasons, blockers, tuple(remarks))


def judge_road(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May road be laid on these cells? Road that is there already is no objection, nor is terrain that
    a bridge may cross."""
    return _judge_cells(plan, cells, 0, ALL_BITS & ~BIT[Reason.ROAD], bridges=True)


def judge_barrier(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May a barrier run over these cells? One that is there already is no objection."""
    return _left_open(plan, _judge_cells(plan, cells, 0, ALL_BITS & ~BIT[Reason.BARRIER]))


def judge_ground(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May something that grew there stand on these cells, whatever the terrain and its reservation,
    inside the buildable window or not?"""
    ground = BIT[Reason.TERRAIN] | BIT[Reason.RESERVED] | BIT[Reason.OUTSIDE]
    return _left_open(plan, _judge_cells(plan, cells, 0, ALL_BITS & ~ground))


def _left_open(plan: Plan, verdict: Verdict) -> Verdict:
    """The verdict, and whether closing all its cells leaves every entry a way."""
    remark = seal_remark(plan, [item.cell for item in verdict.cells])
    return _with_remarks(plan, verdict, [remark]) if remark is not None else verdict


def judge_kind_cells(plan: Plan, kind: Kind, cells: Sequence[Cell]) -> Verdict:
    """May structures of a kind cover these cells, as far as the cells alone say?"""
    return _judge_cells(plan, cells, 0, ALL_BITS, kind.demands.terrain)


def judge_cells(plan: Plan, cells: Sequence[Cell]) -> Verdict:
    """May anything be built on these cells, whatever it is?"""
    return _judge_cells(plan, cells, 0, ALL_BITS)


def _judge_cells(
    plan: Plan,
    cells: Sequence[Cell],
    lifted: int,
    care: int,
    terrain: tuple[str, ...] | None = None,
    passing_outside: bool = False,
    bridges: bool = False,
) -> Verdict:
    """terrain : keys of the classes that are allowed, in place of those that may be built on.
    bridges : classes that a bridge may cross are allowed too."""
    if len(cells) >= MANY:
        return _judge_many(plan, cells, lifted, care, terrain, passing_outside, bridges)
    spec, blocks, occupant, ground = plan.spec, plan.blocks, plan.occupant, plan.terrain
    first_col, first_row, cols, rows = spec.first_col, spec.first_row, spec.cols, spec.rows
    verdicts = []
    seen = 0
    known: set[tuple[int, int, int]] = set()
    blockers: dict[tuple[str, str, Reason], Blocker] = {}
    for cell in cells:
        row, col = cell[1] - first_row, cell[0] - first_col
        if not (0 <= row < rows and 0 <= col < cols):
            if not passing_outside:
                seen |= _OUTSIDE
            verdicts.append(_as_verdict((cell, REASONS_OF[_OUTSIDE], False)))
            continue
        bits = blocks.item(row, col)
        if terrain is not None:
            allowed = plan.terrain_table[ground.item(row, col)].key in terrain
            bits = bits & ~_TERRAIN if allowed else bits | _TERRAIN
        elif bridges and bits & _TERRAIN and plan.terrain_table.bridge[ground[row, col]]:
            bits &= ~_TERRAIN
        bits &= care
        if lifted and bits & _OCCUPIED and occupant.item(row, col) == lifted:
            bits &= ~_OCCUPIED
        if bits:
            seen |= bits
            # Most cells of a footprint meet the same things: they are named once.
            met = bits, occupant.item(row, col), ground.item(row, col)
            if met not in known:
                known.add(met)
                for blocker in _blockers(plan, cell, row, col, bits):
                    blockers.setdefault((blocker.name, blocker.what, blocker.reason), blocker)
        verdicts.append(_as_verdict((cell, REASONS_OF[bits], False)))
    return Verdict(tuple(verdicts), REASONS_OF[seen], tuple(blockers.values()))


def _judge_many(
    plan: Plan,
    cells: Sequence[Cell],
    lifted: int,
    care: int,
    terrain: tuple[str, ...] | None,
    passing_outside: bool,
    bridges: bool,
) -> Verdict:
    """`_judge_cells` in a few array passes."""
    spec, classes = plan.spec, plan.terrain_table
    col, row = (places_of(cells) - spec.first).T
    inside = (row >= 0) & (row < spec.rows) & (col >= 0) & (col < spec.cols)
    here = row[inside], col[inside]
    bits, who, ground = plan.blocks[here].astype(np.int64), plan.occupant[here], plan.terrain[here]
    if terrain is not None:
        allowed = np.array([item.key in terrain for item in classes], bool)[ground]
        bits = np.where(allowed, bits & ~_TERRAIN, bits | _TERRAIN)
    elif bridges:
        bits[classes.bridge[ground]] &= ~_TERRAIN
    bits &= care
    if lifted:
        bits[who == lifted] &= ~_OCCUPIED
    seen = int(np.bitwise_or.reduce(bits))
    every = np.full(len(cells), _OUTSIDE)
    every[inside] = bits
    if not passing_outside and not inside.all():
        seen |= _OUTSIDE
    # Each sort of thing that is met, where it is met first.
    met = bits << 40 | ground.astype(np.int64) << 32 | who.astype(np.int64) & 0xFFFFFFFF
    places, refused = np.flatnonzero(inside), np.flatnonzero(bits)
    blockers: dict[tuple[str, str, Reason], Blocker] = {}
    for at in sorted(np.unique(met[refused], return_index=True)[1].tolist()):
        first = int(refused[at])
        cell, r, c = cells[places[first]], int(here[0][first]), int(here[1][first])
        for blocker in _blockers(plan, cell, r, c, int(bits[first])):
            blockers.setdefault((blocker.name, blocker.what, blocker.reason), blocker)
    reasons = map(REASONS_OF.__getitem__, every.tolist())
    verdicts = tuple(map(_as_verdict, zip(cells, reasons, repeat(False))))
    return Verdict(verdicts, REASONS_OF[seen], tuple(blockers.values()))


def _blockers(plan: Plan, cell: Cell, row: int, col: int, bits: int) -> list[Blocker]:
    found = []
    who = int(plan.occupant[row, col])
    for reason in REASONS_OF[bits]:
        if reason is Reason.OUTSIDE:
            found.append(Blocker("window", phrase("the buildable window"), None, cell, reason))
        elif reason is Reason.TERRAIN:
            name = plan.terrain_table[int(plan.terrain[row, col])].name
            found.append(Blocker("terrain", name, None, cell, reason))
        elif reason is Reason.RESERVED:
            found.append(Blocker("reserved", phrase("reserved ground"), None, cell, reason))
        elif reason is Reason.OBSTACLE:
            found.append(Blocker("obstacle", plan.obstacles[-who].name, f"O{-who}", cell, reason))
        elif reason is Reason.OCCUPIED:
            name, id_ = plan.title_of(who), structure_id(who)
            found.append(Blocker("structure", name, id_, cell, reason))
        else:
            found.append(Blocker(str(reason), phrase(str(reason)), None, cell, reason))
    return found


class RuleRow(Value):
    """One line of a verdict in writing.

    ok : None for one that is allowed but doubtful.  words : why not, or the doubt.
    blockers : the things behind it.
    """

    reason: Reason
    title: str
    ok: bool | None
    words: str
    blockers: tuple[Blocker, ...]


def rule_rows(
    verdict: Verdict, plan: Plan | None = None, kind: Kind | None = None
) -> list[RuleRow]:
    """Every rule that was asked, in order: those of the cells, then those of the kind."""
    doubts = {remark.reason: remark.words for remark in verdict.remarks if remark.doubt}
    titles = [(rule.reason, rule.title) for rule in CELL_RULES]
    if plan is not None and kind is not None:
        titles += [
            (rule.reason, rule.title(plan, kind))
            for rule in rules_of(plan, kind)
            if rule.reason is not Reason.TURN
        ]
    if Reason.TURN in verdict.reasons:
        titles.append((Reason.TURN, phrase("A turn that it takes")))
    rows = []
    for reason, title in titles:
        ok = None if reason in doubts else reason not in verdict.reasons
        words = doubts.get(reason, "") or verdict.words_for(reason)
        mine = tuple(item for item in verdict.blockers if item.reason is reason)
        rows.append(RuleRow(reason, title, ok, words, mine))
    return rows
