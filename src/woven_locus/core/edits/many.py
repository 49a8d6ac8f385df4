"""Edits of several structures at once: all of them, or none."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence

from woven_locus.core.derived.rules import BIT
from woven_locus.core.editing import Edit, StructuresChange
from woven_locus.core.editing.trial import tried
from woven_locus.core.edits.structures import new_row, place
from woven_locus.core.errors import Refused, WovenError
from woven_locus.core.geometry import Box, Cell, cell_text
from woven_locus.core.kinds import Footprint, Kind, Thing
from woven_locus.core.phrase import counted, joined, phrase
from woven_locus.core.placing import (
    CellVerdict,
    Reason,
    Verdict,
    always_refused,
    judge,
    judge_kind_cells,
    why_not,
)
from woven_locus.core.placing.at_once import breakers
from woven_locus.core.placing.kind_rules import rules_of
from woven_locus.core.placing.kind_words import too_dear
from woven_locus.core.placing.sealing import seal_words
from woven_locus.core.placing.verdict import Blocker, Remark
from woven_locus.core.plan import Plan
from woven_locus.core.register import Rows, Structure, alike
from woven_locus.core.value import Value, replace
from woven_locus.core.wave_plan import Entry
from woven_locus.core.waves.seals import seals_of

# Structures up to which each is judged by itself.
FEW = 16
# Spots of a rectangle that are proposed at most.
MOST_SPOTS = 1024
# Cells of a block that are looked at in the time of one judgement.
ASKED_APART = 200


def within(plan: Plan, box: Box) -> list[int]:
    """The structures that lie wholly in a block of slots, in order of number."""
    inside = box.clipped(plan.spec.shape)
    if inside.empty:
        return []
    there = {int(who) for who in plan.occupant[inside.slices].ravel().tolist() if who > 0}
    return sorted(
        number for number in there if inside.union(plan.box_of(plan.register[number])) == inside
    )


def move_by(plan: Plan, numbers: Sequence[int], cols: int, rows: int) -> Edit:
    """Move structures together, all of them taken as lifted. Raises Refused: then none moves."""
    before = [plan.register[number] for number in numbers]
    after = moved(before, cols, rows)
    verdict = judge_all(plan, after, gone=before)
    if not verdict:
        who = (
            plan.title_of(numbers[0])
            if len(numbers) == 1
            else phrase("{count} structures", count=len(numbers))
        )
        raise Refused(
            phrase("{who} cannot move there: {sentence}", who=who, sentence=verdict.sentence())
        )
    if not (cols or rows):
        return Edit("", ())
    who = (
        plan.title_of(numbers[0])
        if len(numbers) == 1
        else phrase("{count:,} structures", count=len(numbers))
    )
    way = joined(", ", _way(cols, rows))
    return Edit(
        phrase("Moved {who} by {way}", who=who, way=way),
        (StructuresChange(Rows(before), Rows(after)),),
    )


def _way(cols: int, rows: int) -> Iterator[str]:
    if cols > 0:
        yield counted(cols, "{n} column on", "{n} columns on")
    elif cols:
        yield counted(-cols, "{n} column back", "{n} columns back")
    if rows > 0:
        yield counted(rows, "{n} row on", "{n} rows on")
    elif rows:
        yield counted(-rows, "{n} row back", "{n} rows back")


def moved(rows: Sequence[Structure], cols: int, down: int) -> list[Structure]:
    """The rows with all their cells further by so many columns and rows."""
    return [replace(row, cell=row.cell.moved(cols, down)) for row in rows]


def judge_all(
    plan: Plan,
    rows: Sequence[Structure],
    *,
    gone: Sequence[Structure] = (),
    ways: Sequence[Verdict] = (),
    extra: Callable[[], Edit] = lambda: Edit("", ()),
) -> Verdict:
    """One verdict for structures that are to stand together.

    gone : rows that are lifted for it.  ways : verdicts of roads and barriers that come with them;
    `extra` makes the edit that lays them. First every cell is asked; when all are free, the whole is tried and
    each structure judged where it then stands, so that they may lean on each other.
    """
    lifted = {row.number for row in gone}
    cells, reasons, blockers = _judge_cells_of(plan, rows, lifted)
    remarks: dict[Remark, None] = {}
    _check_apart([*cells, *(item for way in ways for item in way.cells)], len(cells))
    cells += [item for way in ways for item in way.cells]
    for way in ways:
        reasons.update(dict.fromkeys(way.reasons))
        blockers.update(dict.fromkeys(way.blockers))
        remarks.update(dict.fromkeys(way.remarks))
    if not reasons:
        had = seals_of(plan).entries if plan.waves.entries else ()
        change = StructuresChange(Rows(gone), Rows(rows))
        with tried(plan, Edit("", (change, *extra().changes))):
            _judge_tried(plan, rows, cells, reasons, blockers, remarks)
            if lost := _lost(plan, had):
                remarks[Remark(Reason.SEALS, seal_words(lost))] = None
                reasons[Reason.SEALS] = None
            if plan.funds is not None and plan.account.there < 0 and not gone:
                price = sum(row.price for row in rows)
                words = too_dear(plan, price, -plan.account.there)
                remarks[Remark(Reason.FUNDS, words)] = None
                reasons[Reason.FUNDS] = None
    return Verdict(
        tuple(cells),
        tuple(reason for reason in _ORDER if reason in reasons),
        tuple(blockers),
        tuple(remarks),
    )


def _judge_cells_of(
    plan: Plan, rows: Sequence[Structure], lifted: set[int]
) -> tuple[list[CellVerdict], dict[Reason, None], dict[Blocker, None]]:
    """What their cells say, those of one structure after the other: whoever is lifted is not in the way."""
    of_rows: list[Sequence[CellVerdict]] = [()] * len(rows)
    blockers: dict[Blocker, None] = {}
    reasons: dict[Reason, None] = {}
    by_kind: dict[str, list[int]] = {}
    for at, row in enumerate(rows):
        by_kind.setdefault(row.kind, []).append(at)
    for key, places in by_kind.items():
        mine = [plan.cells_of(rows[at]) for at in places]
        verdict = judge_kind_cells(plan, plan.kinds[key], [cell for each in mine for cell in each])
        found: Sequence[CellVerdict] = verdict.cells
        if lifted and Reason.OCCUPIED in verdict.reasons:
            found = [_without(plan, item, lifted) for item in found]
        begin = 0
        for at, each in zip(places, mine, strict=True):
            of_rows[at] = found[begin : begin + len(each)]
            begin += len(each)
        if found is verdict.cells:
            reasons.update(dict.fromkeys(verdict.reasons))
        else:
            reasons.update((reason, None) for item in found for reason in item.reasons)
        for blocker in verdict.blockers:
            if (
                plan.occupant_at(blocker.cell) not in lifted
                or blocker.reason is not Reason.OCCUPIED
            ):
                blockers[blocker] = None
    return [item for each in of_rows for item in each], reasons, blockers


def _without(plan: Plan, item: CellVerdict, lifted: set[int]) -> CellVerdict:
    """The same cell, were some structures gone."""
    if Reason.OCCUPIED not in item.reasons or plan.occupant_at(item.cell) not in lifted:
        return item
    return CellVerdict(item.cell, tuple(r for r in item.reasons if r is not Reason.OCCUPIED))


def _check_apart(cells: Sequence[CellVerdict], structures: int) -> None:
    """That no cell of a structure is taken twice. structures : how many cells are theirs; those of ways come after them."""
    took = {item.cell for item in cells[structures:]}
    if len(took.union(item.cell for item in cells[:structures])) == len(took) + structures:
        return
    for item in cells[:structures]:
        if item.cell in took:
            raise Refused(
                phrase("two parts of it would lie on cell {cell}", cell=cell_text(item.cell))
            )
        took.add(item.cell)


def _lost(plan: Plan, had: Sequence[Entry]) -> list[str]:
    """The names of entries that have no way any more."""
    left = {entry.id for entry in seals_of(plan).entries} if had else ()
    return [entry.name for entry in had if entry.id not in left]


# Those of the cells first.
_ORDER = (*BIT, *(reason for reason in Reason if reason not in BIT))


# What is said of all of them together.
_TOGETHER = frozenset({Reason.FUNDS, Reason.SEALS})


def _judge_tried(
    plan: Plan,
    rows: Sequence[Structure],
    cells: list[CellVerdict],
    reasons: dict[Reason, None],
    blockers: dict[Blocker, None],
    remarks: dict[Remark, None],
) -> None:
    at, sound = 0, _sound(plan, rows) if len(rows) > FEW else frozenset()
    for row in rows:
        kind = plan.kinds[row.kind]
        if row.number in sound:
            at += len(kind.footprint.cells)
            continue
        verdict = judge(plan, kind, row.cell, row.turn, row.number, _TOGETHER)
        for k, item in enumerate(verdict.cells):
            cells[at + k] = item
        at += len(verdict.cells)
        reasons.update(dict.fromkeys(verdict.reasons))
        blockers.update(dict.fromkeys(verdict.blockers))
        remarks.update(dict.fromkeys(verdict.remarks))


def _sound(plan: Plan, rows: Sequence[Structure]) -> frozenset[int]:
    """The numbers of those that stand, on free cells, of which array passes say that they keep every rule."""
    found: list[int] = []
    for group in alike(rows):
        kind = plan.kinds[group.kind]
        asked = {rule.reason for rule in rules_of(plan, kind)} - _TOGETHER - {Reason.TURN}
        if kind.may_turn(group.turn):
            found += group.numbers[~breakers(plan, group, asked)].tolist()
    return frozenset(found)


class Wish(Value):
    """A structure that is asked for. where : what to call the question in a refusal, ``line 7``."""

    where: str
    kind: str
    cell: Cell
    turn: int


def place_all(
    plan: Plan, wishes: Iterable[Wish], when: str, stopped: Callable[[], bool] = lambda: False
) -> tuple[Edit, list[str]]:
    """Place what can be placed, each judged after those before it: the edit, and each refusal in words.

    The plan is used to try them on and is then as it was: on another thread, hand over a `Plan.twin`.
    """
    done: list[Edit] = []
    refused: list[str] = []
    try:
        for wish in wishes:
            if stopped():
                break
            try:
                edit = place(plan, wish.kind, wish.cell, wish.turn, when)
            except WovenError as err:
                refused.append(f"{wish.where}: {err}")
                continue
            edit.apply(plan)
            done.append(edit)
    finally:
        for edit in reversed(done):
            edit.apply(plan, undo=True)
    rows = [
        row
        for edit in done
        for change in edit.changes
        if isinstance(change, StructuresChange)
        for row in change.come
    ]
    if not rows:
        return Edit("", ()), refused
    label = (
        phrase("Placed {count:,} structures", count=len(rows)) if len(rows) > 1 else done[0].label
    )
    return Edit(label, (StructuresChange(Rows(), Rows(rows)),)), refused


def free_spots(plan: Plan, kind: Kind, turn: int, spots: Sequence[Cell]) -> list[bool]:
    """Which of some spots are free as things stand, each asked by itself."""
    if always_refused(plan, kind, turn):
        return [False] * len(spots)
    slots = [plan.spec.slot(spot) for spot in spots]
    box = Box.around(slots).clipped(plan.spec.shape)
    if box.empty or len(spots) * ASKED_APART < box.shape[0] * box.shape[1]:
        return [bool(judge(plan, kind, spot, turn)) for spot in spots]
    why = why_not(plan, kind, turn, box)
    return [
        box.r0 <= row < box.r1 and box.c0 <= col < box.c1 and not why[row - box.r0, col - box.c0]
        for row, col in slots
    ]


def place_apart(
    plan: Plan, kind: Kind, wishes: Sequence[Wish], when: str
) -> tuple[Edit, list[str]]:
    """`place_all` for spots of one kind that are free and do not overlap: where its rules do not look at
    other structures, they need not be tried one after the other."""
    if not wishes or mind_each_other(kind) or plan.waves.entries:
        return place_all(plan, wishes, when)
    room = len(wishes)
    if kind.demands.most is not None:
        room = min(room, kind.demands.most - plan.register.count(kind.key))
    if plan.funds is not None and kind.price:
        room = min(room, plan.account.there // kind.price)
    rows = [
        new_row(plan, kind, wish.cell, wish.turn, when, at) for at, wish in enumerate(wishes[:room])
    ]
    why = (
        phrase("there may be no more of it")
        if kind.demands.most is not None
        else phrase("the funds are spent")
    )
    refused = [f"{wish.where}: {why}" for wish in wishes[room:]]
    return Edit(
        phrase("Placed {count} {kind}", count=len(rows), kind=kind.name),
        (StructuresChange(Rows(), Rows(rows)),),
    ), refused


def mind_each_other(kind: Kind) -> bool:
    """Whether one of a kind may change the answer for another of it."""
    rules = [(rule.thing, rule.key) for rule in kind.demands.touch]
    rules += [(rule.thing, rule.key) for rule in kind.demands.clear]
    return any(thing is Thing.KIND and key in ("", kind.key) for thing, key in rules)


def row_spots(footprint: Footprint, a: Cell, b: Cell, gap_cols: int, gap_rows: int) -> list[Cell]:
    """Low cells of footprints in rows that fill the block between two cells, the first in the corner at
    `a`, as many as lie wholly in it; at most MOST_SPOTS."""
    step_c, step_r = footprint.cols + gap_cols, footprint.rows + gap_rows
    low, high = (Cell(f(a.col, b.col), f(a.row, b.row)) for f in (min, max))
    count_c = (high.col - low.col + 1 + gap_cols) // step_c
    count_r = (high.row - low.row + 1 + gap_rows) // step_r
    cells = []
    for r in range(min(count_r, MOST_SPOTS)):
        for c in range(min(count_c, MOST_SPOTS // max(1, min(count_r, MOST_SPOTS)))):
            col = (
                low.col + c * step_c
                if a.col <= b.col
                else high.col + 1 - footprint.cols - c * step_c
            )
            row = (
                low.row + r * step_r
                if a.row <= b.row
                else high.row + 1 - footprint.rows - r * step_r
            )
            cells.append(Cell(col, row))
    return cells


def of_kind(plan: Plan, keys: Iterable[str]) -> list[int]:
    """All structures of some kinds."""
    wanted = set(keys)
    return [row.number for row in plan.register if row.kind in wanted]


def best_turn(kind: Kind, turn: int) -> int:
    """The turn itself if the kind takes it, else the first that it takes."""
    return turn if kind.may_turn(turn) else kind.all_turns[0]
