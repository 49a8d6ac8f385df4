"""What `import` does with kinds and with a register."""

from __future__ import annotations

from pathlib import Path

from woven_locus.cli.values import answer
from woven_locus.core.register import structure_id
from woven_locus.files.formats import TRIPS_CSV


def kinds(plan: Path, file: Path, over: bool, demolish: bool, out: Path | None) -> int:
    """Kinds out of a catalogue or another plan. What the change would do to what stands is told; where
    structures would find no room, nothing is written unless they may be demolished."""
    from woven_locus.core.edits import kinds as edits
    from woven_locus.document import Document
    from woven_locus.files import catalogue

    document = Document.open(plan)
    brought = list(catalogue.load(file))
    told = edits.impact(document.plan, edits.merged(document.plan, brought, over))
    value = {
        "plan": str(out or plan),
        "kinds": [kind.key for kind in brought],
        "misfits": _rows(told.misfits),
        "unsound": _rows(told.unsound),
    }
    if told.misfits and not demolish:
        return answer(value, ok=False)
    document.history.do(edits.bring_in(document.plan, brought, over))
    document.save(out)
    return answer(value)


def _rows(found: tuple[tuple[int, str], ...]) -> list[dict[str, str]]:
    return [{"id": structure_id(number), "why": why} for number, why in found]


def register(plan: Path, file: Path, partly: bool, out: Path | None) -> int:
    """Structures out of a table, each judged after those before it."""
    from woven_locus.core.edits.many import place_all
    from woven_locus.document import Document
    from woven_locus.files import register_csv

    document = Document.open(plan)
    wishes, strange = register_csv.load(file)
    edit, refused = place_all(document.plan, wishes, document.now())
    refused = [*strange, *refused]
    first = document.plan.register.next_number
    count = len(wishes) + len(strange) - len(refused)
    write = not refused or partly
    value = {
        "plan": str(out or plan),
        "placed": [structure_id(first + at) for at in range(count)] if write else [],
        "refused": refused,
    }
    if write:
        document.history.do(edit)
        document.save(out)
    return answer(value, ok=not refused)


def trips(plan: Path, file: Path, out: Path | None) -> int:
    """Trips out of a table, in place of those that the plan has."""
    from woven_locus.core.edits.traffic import set_trips
    from woven_locus.document import Document
    from woven_locus.files import traffic_rows

    document = Document.open(plan)
    brought = traffic_rows.load(file, document.plan)
    document.history.do(set_trips(document.plan, brought, f"Trips from {file.name}"))
    document.save(out)
    vehicles = sum(trip.count for trip in brought)
    return answer({"plan": str(out or plan), "trips": len(brought), "vehicles": vehicles})


def waves(plan: Path, file: Path, form: str, out: Path | None) -> int:
    """Entries and goals, attackers or waves out of a table, in place of those that the plan has."""
    from woven_locus.core.edits.waves import set_waves_plan
    from woven_locus.document import Document
    from woven_locus.files import wave_tables

    document = Document.open(plan)
    after = wave_tables.load(form, file, document.plan)
    document.history.do(set_waves_plan(document.plan, after, f"Waves from {file.name}"))
    document.save(out)
    value = {
        "plan": str(out or plan),
        "entries": len(after.entries),
        "goals": len(after.goals),
        "attackers": len(after.attackers),
        "waves": len(after.waves),
    }
    return answer(value)


def other(plan: Path, file: Path, form: str, out: Path | None) -> int:
    """Trips, or a part of the waves."""
    if form == TRIPS_CSV:
        return trips(plan, file, out)
    return waves(plan, file, form, out)
