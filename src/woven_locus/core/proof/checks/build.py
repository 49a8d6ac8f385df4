"""What can be wrong with what is built."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from woven_locus.core.books.forecast import curve
from woven_locus.core.clock import clock_text
from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.grid.snapping import number as in_words
from woven_locus.core.kinds import Clear, Kind, Thing, Touch
from woven_locus.core.phrase import joined, phrase
from woven_locus.core.placing import Reason, judge
from woven_locus.core.placing.judge import PASSING
from woven_locus.core.proof.finding import Fault
from woven_locus.core.proof.subject import Subject
from woven_locus.core.ways.doors import approaches_alike


def unsound(subject: Subject) -> Iterator[Fault]:
    """Structures that could not be placed where they stand."""
    plan, numbers = subject.plan, list(subject.unsound)
    for number in numbers:
        if number in plan.register:
            row = plan.register[number]
            if subject.is_brief(len(numbers)):
                words = phrase(
                    "{title_of} could not be placed where it stands", title_of=plan.title_of(number)
                )
                yield Fault(words, row.cell, number)
                continue
            verdict = judge(plan, plan.kinds[row.kind], row.cell, row.turn, number, PASSING)
            if verdict.reasons == (Reason.LIMIT,):
                continue  # that there are too many is said once
            why = joined(": ", ["", verdict.sentence()]) if not verdict else ""
            words = phrase(
                "{title_of} could not be placed where it stands{why}",
                title_of=plan.title_of(number),
                why=why,
            )
            yield Fault(words, row.cell, number)


def count_unsound(subject: Subject) -> int | None:
    """How many there are, where each is not judged again."""
    count = len(list(subject.unsound))
    return count if subject.is_brief(count) else None


def occupancy(subject: Subject) -> Iterator[Fault]:
    """Cells that the register and the map do not agree on."""
    plan = subject.plan
    expected = np.where(plan.occupant < 0, plan.occupant, 0)
    for row in plan.register:
        for cell in plan.cells_of(row):
            if plan.spec.contains(cell):
                expected[plan.spec.slot(cell)] = row.number
    for slot in np.argwhere(expected != plan.occupant):
        cell = plan.spec.cell_of_slot(slot.tolist())
        yield Fault(phrase("The register and the map do not agree on who is here"), cell)


def too_few(subject: Subject) -> Iterator[Fault]:
    """Kinds of which there are fewer than a finished plan needs."""
    for kind in subject.plan.kinds:
        there = subject.plan.register.count(kind.key)
        if there < kind.demands.least:
            yield Fault(
                phrase(
                    "{kind}: {there} of at least {least} are there",
                    kind=kind.name,
                    there=there,
                    least=kind.demands.least,
                )
            )


def too_many(subject: Subject) -> Iterator[Fault]:
    """Kinds of which there are more than there may be."""
    for kind in subject.plan.kinds:
        there, most = subject.plan.register.count(kind.key), kind.demands.most
        if most is not None and there > most:
            yield Fault(
                phrase(
                    "{kind}: {there} of at most {most} are there",
                    kind=kind.name,
                    there=there,
                    most=most,
                )
            )


def unknown_names(subject: Subject) -> Iterator[Fault]:
    """Rules that are about a terrain class or a kind that the plan does not have."""
    plan = subject.plan
    terrain, kinds = {item.key for item in plan.terrain_table}, set(plan.kinds.keys())
    for kind in plan.kinds:
        for thing, key in _named(kind):
            known = terrain if thing is Thing.TERRAIN else kinds
            if key and key not in known:
                words = phrase("terrain class") if thing is Thing.TERRAIN else "kind"
                yield Fault(
                    phrase(
                        "A rule of {kind} is about the {words} {key!r}, which is not there",
                        kind=kind.name,
                        words=words,
                        key=key,
                    )
                )


def _named(kind: Kind) -> Iterator[tuple[Thing, str]]:
    demands = kind.demands
    stand = demands.stand.terrain if demands.stand is not None else ()
    for key in (*(demands.terrain or ()), *stand):
        yield Thing.TERRAIN, key
    rules: list[Touch | Clear] = [*demands.touch, *demands.clear]
    for rule in rules:
        if rule.thing in (Thing.TERRAIN, Thing.KIND):
            yield rule.thing, rule.key


def blocked_doors(subject: Subject) -> Iterator[Fault]:
    """Structures of which a door opens onto nothing that can be walked or driven on."""
    plan = subject.plan
    free = (np.isfinite(movement_costs(plan))[plan.movement] | (plan.road != 0)).ravel()
    found = []
    for group in plan.register.alike():
        doors = plan.kinds[group.kind].footprint.doors
        if not doors:
            continue
        slots = approaches_alike(plan, group)
        shut = ~((slots >= 0) & free[np.maximum(slots, 0)])
        for at in np.flatnonzero(shut.any(axis=1)).tolist():
            found.append((int(group.numbers[at]), int(shut[at].sum()), slots.shape[1]))
    for number, count, of in sorted(found):
        which = (
            phrase("{count} of {of} doors open", count=count, of=of)
            if of > 1
            else phrase("its door opens")
        )
        cell = plan.register[number].cell
        yield Fault(
            phrase("{title_of}: {which} onto nothing", title_of=plan.title_of(number), which=which),
            cell,
            number,
        )


def art_gaps(subject: Subject) -> Iterator[Fault]:
    """Kinds whose picture is smaller than the cells that they cover, so that ground shows between two side by side."""
    spec = subject.plan.spec
    for kind in subject.plan.kinds:
        if kind.art is None:
            continue
        shape = kind.footprint
        spans = (shape.cols * spec.cell_w, "wide"), (shape.rows * spec.cell_h, "tall")
        gaps = [
            phrase(
                "{in_words} {unit} less {way} than its cells",
                in_words=in_words(span - size),
                unit=spec.unit,
                way=way,
            )
            for size, (span, way) in zip(kind.art, spans, strict=True)
            if size < span and not math.isclose(size, span, rel_tol=1e-9)
        ]
        if gaps:
            yield Fault(
                phrase("{kind}: its art is {names}", kind=kind.name, names=" and ".join(gaps))
            )


def debt(subject: Subject) -> Iterator[Fault]:
    """An opening that cannot be paid: at some time less than nothing was there."""
    plan = subject.plan
    if plan.funds is None:
        return
    points = curve(plan.register, plan.kinds, plan.funds, plan.funds.clock, most=10**6)
    least = min(points, key=lambda point: point[1])
    if least[1] < 0:
        first = next(point for point in points if point[1] < 0)
        yield Fault(
            phrase(
                "What was built cannot be paid: at {clock_text} funds fall below 0, and at {clock_text2} to {least:,} {money}",
                clock_text=clock_text(first[0]),
                clock_text2=clock_text(least[0]),
                least=least[1],
                money=plan.money,
            )
        )
