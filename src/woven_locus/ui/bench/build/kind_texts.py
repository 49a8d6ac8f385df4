"""What is said of a kind that is being changed."""

from __future__ import annotations

from woven_locus.core.edits.kinds import Impact
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.ui.language import counted, shown, tr


def art_text(kind: Kind, spec: GridSpec) -> str:
    """Whether its art covers its cells; nothing for a kind without any."""
    if kind.art is None:
        return ""
    spans = (kind.footprint.cols * spec.cell_w, kind.footprint.rows * spec.cell_h)
    forms = (
        (
            tr("{art} wide is {by} more than its {span} of cells"),
            tr("{art} wide is {by} less than its {span} of cells"),
        ),
        (
            tr("{art} high is {by} more than its {span} of cells"),
            tr("{art} high is {by} less than its {span} of cells"),
        ),
    )
    words = [
        (more if art > span else less).format(
            art=f"{art:g}", by=f"{abs(art - span):g}", span=f"{span:g}"
        )
        for (more, less), art, span in zip(forms, kind.art, spans, strict=True)
        if art != span
    ]
    return "; ".join(words) or tr("The art covers its cells exactly.")


def impact_text(plan: Plan, key: str, found: Impact) -> str:
    """What a change does to what stands."""
    count = plan.register.count(key)
    if not count and not found:
        return tr("None of it stands yet.")
    misfits = counted(
        len(found.misfits),
        "{n:,} finds no room and is demolished with the change:",
        "{n:,} find no room and are demolished with the change:",
    )
    unsound = counted(
        len(found.unsound),
        "{n:,} stays, but could not be placed like that any more:",
        "{n:,} stay, but could not be placed like that any more:",
    )
    lines = []
    for words, rows in ((misfits, found.misfits), (unsound, found.unsound)):
        if rows:
            lines.append(tr(words))
            lines += [f"   {structure_id(number)}: {shown(why)}" for number, why in rows[:4]]
        if len(rows) > 4:
            lines.append(tr("   and {count:,} more", count=len(rows) - 4))
    return "\n".join(lines) or tr("All {count:,} that stand may stay as they are.", count=count)
