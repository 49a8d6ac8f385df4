"""What plans say of their waves, drawn by chance."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st

from woven_locus.core.editing import Edit
from woven_locus.core.edits import waves as wave_edits
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds.tower import Hits, Takes, Tower
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import AttackerKind, Entry, Goal, Group, Moves, Wave, WavePlan

_above = st.floats(0.01, 1e6)
_times = st.floats(0, 1e5)


@st.composite
def towers(draw: st.DrawFn) -> Tower:
    least = draw(st.floats(0, 50))
    return Tower(
        least,
        least + draw(st.floats(0.5, 100)),
        draw(st.floats(0, 1e4)),
        draw(st.floats(0.01, 100)),
        draw(st.floats(0, 50)),
        draw(st.floats(0, 0.99)),
        draw(st.floats(0, 100)),
        draw(st.sampled_from(Hits)),
        draw(st.sampled_from(Takes)),
    )


@st.composite
def wave_plans(draw: st.DrawFn, spec: GridSpec) -> WavePlan:
    """Entries and goals on cells of a grid, or none; kinds of attacker, waves."""
    last = spec.last
    cells = st.builds(
        Cell, st.integers(spec.first_col, last.col), st.integers(spec.first_row, last.row)
    )
    some = draw(st.lists(cells, unique=True, max_size=5))
    split = draw(st.integers(0, len(some)))
    goals = tuple(Goal(f"G{k}", f"Goal {k}", (cell,)) for k, cell in enumerate(some[split:], 1))
    ids = [goal.id for goal in goals]
    leads = st.lists(st.sampled_from(ids), unique=True) if ids else st.just([])
    entries: tuple[Entry, ...] = ()
    if split:
        first = Entry("E1", "Hollow", tuple(some[: max(1, split - 1)]), tuple(draw(leads)))
        entries = (
            first,
            *(
                Entry(f"E{k + 2}", f"Way {k}", (cell,))
                for k, cell in enumerate(some[max(1, split - 1) : split])
            ),
        )
    kinds = tuple(
        AttackerKind(
            f"a{k}",
            f"Kind {k}",
            "#405060",
            draw(_above),
            draw(_above),
            draw(_above),
            draw(st.floats(0, 99)),
            draw(st.integers(0, 99)),
            draw(st.integers(0, 9)),
            draw(st.sampled_from(Moves)),
            draw(st.booleans()),
        )
        for k in range(draw(st.integers(0, 2)))
    )
    waves: list[Wave] = []
    if entries and kinds:
        group = st.builds(
            Group,
            st.sampled_from([entry.id for entry in entries]),
            st.sampled_from([kind.key for kind in kinds]),
            st.integers(1, 99),
            _times,
            _times,
            _times,
        )
        groups = st.lists(group, max_size=2).map(tuple)
        waves = draw(st.lists(st.builds(Wave, st.just("Flight"), _times, groups), max_size=2))
    return WavePlan(
        entries,
        goals,
        kinds,
        tuple(waves),
        draw(st.integers(1, 99)),
        draw(st.sampled_from([4, 8])),
        draw(st.booleans()),
        draw(st.floats(0, 5)),
    )


def wave_step(plan: Plan, at: Cell, rng: np.random.Generator) -> Edit:
    """An entry or a goal more or less, or another name."""
    waves = plan.waves
    what = rng.integers(5)
    if what <= 1:
        places = (waves.goals if what else waves.entries) if rng.integers(2) else ()
        id_ = places[0].id if places else ""
        return wave_edits.mark_place(plan, [at, at.moved(1, 0)], bool(what), id_)
    if what == 2:
        return wave_edits.clear_places(plan, [at, at.moved(1, 0), at.moved(0, 1)])
    if what == 3 and waves.entries:
        return wave_edits.rename_place(plan, waves.entries[0].id, f"Gate {rng.integers(1 << 30)}")
    kind = AttackerKind(f"b{rng.integers(1 << 30)}", "Beetle", "#112233", 1.0, 1.0, 1.0)
    return (
        wave_edits.set_attackers(plan, (*waves.attackers[:3], kind))
        if len(waves.attackers) < 4
        else Edit("", ())
    )
