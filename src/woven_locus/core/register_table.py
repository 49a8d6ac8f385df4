"""The register as a table is read: its columns, which structures a filter lets through, in what order, and
under which headings."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from enum import Enum, IntEnum
from typing import Any

from woven_locus.core.geometry import cell_text
from woven_locus.core.grid.snapping import number
from woven_locus.core.kinds.turns import turn_words
from woven_locus.core.phrase import mark, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, structure_id
from woven_locus.core.value import Value


class Column(IntEnum):
    """The columns, in order."""

    NO = 0
    KIND = 1
    CELL = 2
    TURN = 3
    CELLS = 4
    CENTRE = 5
    PRICE = 6
    PLACED = 7
    ROAD = 8


TITLES = (
    phrase("No."),
    phrase("Kind"),
    phrase("Cell"),
    phrase("Turn"),
    phrase("Cells"),
    phrase("Centre"),
    phrase("Price"),
    phrase("Placed"),
    phrase("By road"),
)


class State(Enum):
    """Which structures are shown."""

    ALL = mark("All")
    SOUND = mark("As they should be")
    UNSOUND = mark("On bad ground")
    JOINED = mark("Joined by road")
    CUT_OFF = mark("Cut off")
    CHOSEN = mark("Selected")


class Filter(Value):
    """text : must be in the number, kind or cell.  kind : a key, or "".  grouped : by kind, under
    headings.  folded : keys of the kinds whose group is shut."""

    text: str = ""
    kind: str = ""
    state: State = State.ALL
    grouped: bool = False
    folded: frozenset[str] = frozenset()

    @property
    def plain(self) -> bool:
        """Whether all structures are shown, one after the other."""
        return not self.text and not self.kind and self.state is State.ALL and not self.grouped


class Heading(Value):
    """The heading of a group."""

    kind: str
    count: int


class Known(Value):
    """What a filter or a column may ask of structures; asked only when it has to be.

    unsound : numbers of those that the judge would refuse where they stand.  is_linked : by number, whether
    one reaches another by road.  chosen : numbers of those that are selected.
    """

    unsound: Callable[[], Collection[int]]
    is_linked: Callable[[int], bool]
    chosen: Callable[[], Collection[int]]


def value(plan: Plan, row: Structure, column: int, known: Known) -> tuple[str, Any]:
    """What a column says of a structure, and what it is sorted by."""
    kind = plan.kinds[row.kind]
    match column:
        case Column.NO:
            return structure_id(row.number), row.number
        case Column.KIND:
            return kind.name, kind.name
        case Column.CELL:
            return cell_text(row.cell), (row.cell.row, row.cell.col)
        case Column.TURN:
            return turn_words(row.turn), row.turn
        case Column.CELLS:
            return str(len(kind.footprint.cells)), len(kind.footprint.cells)
        case Column.CENTRE:
            middle = plan.middle_of(row)
            return f"{number(middle.x)}, {number(middle.y)}", (middle.y, middle.x)
        case Column.PRICE:
            return f"{row.price:,}", row.price
        case Column.PLACED:
            return row.placed[:16].replace("T", " "), row.placed
        case _:
            linked = known.is_linked(row.number)
            return (phrase("joined") if linked else phrase("cut off")), int(linked)


def passing(
    plan: Plan, wanted: Filter, known: Known, by: int = Column.NO, down: bool = False
) -> list[int]:
    """Numbers of the structures that a filter lets through, sorted by a column. O(structures)."""
    rows: Iterable[Structure] = plan.register
    if wanted.kind:
        rows = [row for row in rows if row.kind == wanted.kind]
    if wanted.state in (State.SOUND, State.UNSOUND):
        bad, asked = known.unsound(), wanted.state is State.UNSOUND
        rows = [row for row in rows if (row.number in bad) is asked]
    elif wanted.state in (State.JOINED, State.CUT_OFF):
        joined = wanted.state is State.JOINED
        rows = [row for row in rows if known.is_linked(row.number) is joined]
    elif wanted.state is State.CHOSEN:
        chosen = set(known.chosen())
        rows = [row for row in rows if row.number in chosen]
    if wanted.text:
        text = wanted.text.casefold()
        rows = [row for row in rows if _holds(plan, row, text)]
    found = list(rows)
    if by != Column.NO:
        found.sort(key=lambda row: value(plan, row, by, known)[1], reverse=down)
    elif down:
        found.reverse()
    return [row.number for row in found]


def _holds(plan: Plan, row: Structure, text: str) -> bool:
    return (
        text in structure_id(row.number).casefold()
        or text in plan.kinds[row.kind].name.casefold()
        or text in cell_text(row.cell)
    )


def under_headings(
    plan: Plan, numbers: Iterable[int], folded: Collection[str]
) -> list[int | Heading]:
    """Structures by kind, in the order of the catalogue, each group under its heading; of one that is
    folded the heading alone."""
    groups: dict[str, list[int]] = {kind.key: [] for kind in plan.kinds}
    for each in numbers:
        groups[plan.register[each].kind].append(each)
    rows: list[int | Heading] = []
    for key, members in groups.items():
        if members:
            rows.append(Heading(key, len(members)))
            if key not in folded:
                rows += members
    return rows
