"""Edits of entries, goals, kinds of attacker and waves. Each returns an `Edit` (perhaps empty); none touches the plan."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from woven_locus.core.editing import Edit, WavesChange
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.phrase import counted, mark, phrase
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Wave, WavePlan

Place = Entry | Goal


def set_waves_plan(plan: Plan, after: WavePlan, label: str) -> Edit:
    """All that a plan says of its waves, anew. Raises Refused for a cell outside the grid."""
    for cell in sorted(after.cells()):
        if not plan.spec.contains(cell):
            raise Refused(
                phrase(
                    "{cell} is outside the grid ({describe_range}): nobody enters or arrives there",
                    cell=cell_text(cell),
                    describe_range=plan.spec.describe_range(),
                )
            )
    if after == plan.waves:
        return Edit("", ())
    return Edit(label, (WavesChange(plan.waves, after),))


def mark_place(plan: Plan, cells: Sequence[Cell], is_goal: bool, id_: str = "") -> Edit:
    """Cells more for an entry or a goal, or a new one of its own where no id is given; a cell is taken from whatever had it.
    Raises Refused for an id that there is not, or a cell outside."""
    waves = plan.waves
    places = waves.goals if is_goal else waves.entries
    if id_ and id_ not in [place.id for place in places]:
        raise Refused(
            phrase("there is no goal {id}", id=id_)
            if is_goal
            else phrase("there is no entry {id}", id=id_)
        )
    gone = set(cells)
    entries = _without(waves.entries, gone, id_)
    goals = _without(waves.goals, gone, id_)
    mine: list[Place] = list(goals if is_goal else entries)
    if id_:
        mine = [
            replace(place, cells=tuple(dict.fromkeys((*place.cells, *cells))))
            if place.id == id_
            else place
            for place in mine
        ]
        name = next(place.name for place in mine if place.id == id_)
        label = phrase(
            "{name}: {cells} more", name=name, cells=counted(len(cells), "{n} cell", "{n} cells")
        )
    else:
        made = new_place(waves, cells, is_goal)
        mine.append(made)
        form = mark("Set goal {name} at {cell}") if is_goal else mark("Set entry {name} at {cell}")
        label = phrase(form, name=made.name, cell=cell_text(cells[0]))
    if is_goal:
        goals = tuple(place for place in mine if isinstance(place, Goal))
    else:
        entries = tuple(place for place in mine if isinstance(place, Entry))
    return set_waves_plan(plan, waves.with_places(entries, goals), label)


def new_place(waves: WavePlan, cells: Sequence[Cell], is_goal: bool) -> Place:
    """An entry or a goal with an id and a name that none has."""
    places: Sequence[Place] = waves.goals if is_goal else waves.entries
    letter, word = ("G", "Goal") if is_goal else ("E", "Entry")
    number = max((int(place.id[1:]) for place in places), default=0) + 1
    names = {place.name for place in places}
    name, more = f"{word} {number}", number
    while name in names:
        more += 1
        name = f"{word} {more}"
    some = tuple(dict.fromkeys(cells))
    return (
        Goal(f"{letter}{number}", name, some) if is_goal else Entry(f"{letter}{number}", name, some)
    )


PlaceT = TypeVar("PlaceT", Entry, Goal)


def _without(places: Sequence[PlaceT], cells: set[Cell], keep: str) -> tuple[PlaceT, ...]:
    """The places without some cells, but for the one that is to have them; one without any is gone."""
    found = []
    for place in places:
        left = tuple(cell for cell in place.cells if cell not in cells)
        if place.id == keep:
            found.append(place)
        elif left:
            found.append(replace(place, cells=left))
    return tuple(found)


def clear_places(plan: Plan, cells: Sequence[Cell]) -> Edit:
    """Take cells from entries and goals; one that has no other goes."""
    gone = set(cells)
    entries = _without(plan.waves.entries, gone, "")
    goals = _without(plan.waves.goals, gone, "")
    after = plan.waves.with_places(entries, goals)
    left = {entry.id for entry in entries} | {goal.id for goal in goals}
    there: tuple[Place, ...] = (*plan.waves.entries, *plan.waves.goals)
    names = [place.name for place in there if place.id not in left]
    return set_waves_plan(
        plan,
        after,
        phrase("Cleared {names}", names=", ".join(names) or phrase("cells of entries and goals")),
    )


def rename_place(plan: Plan, id_: str, name: str) -> Edit:
    """Another name for an entry or a goal. Raises BadPlan for one that cannot be, or that another has."""
    waves = plan.waves
    entries = tuple(replace(p, name=name) if p.id == id_ else p for p in waves.entries)
    goals = tuple(replace(p, name=name) if p.id == id_ else p for p in waves.goals)
    return set_waves_plan(
        plan,
        replace(waves, entries=entries, goals=goals),
        phrase("Named {id} {name}", id=id_, name=name),
    )


def set_goals_of(plan: Plan, id_: str, goals: Sequence[str]) -> Edit:
    """Which goals an entry leads to; none for all. Raises BadPlan for one that there is not."""
    waves = plan.waves
    entries = tuple(replace(p, goals=tuple(goals)) if p.id == id_ else p for p in waves.entries)
    return set_waves_plan(
        plan, replace(waves, entries=entries), phrase("Other goals for {id}", id=id_)
    )


def set_attackers(
    plan: Plan, kinds: Sequence[AttackerKind], label: str = phrase("Changed the attackers")
) -> Edit:
    """These kinds of attacker in place of those that there are. Raises BadPlan, as for one that a wave needs."""
    return set_waves_plan(plan, replace(plan.waves, attackers=tuple(kinds)), label)


def change_attacker(plan: Plan, key: str, kind: AttackerKind) -> Edit:
    """Another look or other numbers for a kind; waves follow a new key. Raises BadPlan, Refused."""
    if plan.waves.kind(key) is None:
        raise Refused(phrase("there is no kind of attacker {key!r}", key=key))
    kinds = tuple(kind if old.key == key else old for old in plan.waves.attackers)
    waves = tuple(
        replace(
            wave,
            groups=tuple(
                replace(group, kind=kind.key) if group.kind == key else group
                for group in wave.groups
            ),
        )
        for wave in plan.waves.waves
    )
    after = replace(plan.waves, attackers=kinds, waves=waves)
    return set_waves_plan(plan, after, phrase("Changed {kind}", kind=kind.name))


def remove_attacker(plan: Plan, key: str) -> Edit:
    """Take away a kind that no wave sends. Raises Refused, saying how many groups do."""
    kind = plan.waves.kind(key)
    if kind is None:
        raise Refused(phrase("there is no kind of attacker {key!r}", key=key))
    used = sum(group.kind == key for wave in plan.waves.waves for group in wave.groups)
    if used:
        raise Refused(
            counted(
                used,
                "{kind} cannot be removed: {n:,} group sends it",
                "{kind} cannot be removed: {n:,} groups send it",
                kind=kind.name,
            )
        )
    kinds = tuple(old for old in plan.waves.attackers if old.key != key)
    return set_attackers(plan, kinds, phrase("Removed {kind}", kind=kind.name))


def set_wave_list(
    plan: Plan, waves: Sequence[Wave], label: str = phrase("Changed the waves")
) -> Edit:
    """These waves in place of those that there are. Raises BadPlan."""
    return set_waves_plan(plan, replace(plan.waves, waves=tuple(waves)), label)
