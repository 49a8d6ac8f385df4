"""When each attacker comes."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.wave_plan import WavePlan
from woven_locus.core.waves.attackers import Due
from woven_locus.core.waves.tracks import Lines

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


def due_list(waves: WavePlan, lines: Lines, seed: int, only: int | None) -> Due:
    """Everybody who comes. only : of one wave, counted from its own beginning."""
    rng = np.random.default_rng([seed, 7])
    places = {kind.key: at for at, kind in enumerate(waves.attackers)}
    parts: list[tuple[Floats, int, int, int]] = []
    no_way = 0
    for nth, wave in enumerate(waves.waves):
        begins = 0.0 if only is not None else wave.begins
        for group in wave.groups:
            # Drawn for all waves, so that one by itself comes as it does among the others.
            late = rng.random(group.count) * group.spread
            if only is not None and nth != only:
                continue
            kind = places[group.kind]
            line = lines.number(group.entry, waves.attackers[kind].moves)
            if line < 0:
                no_way += group.count
                continue
            times = begins + group.after + group.every * np.arange(group.count) + late
            parts.append((times, nth, kind, line))
    time = np.concatenate([part[0] for part in parts]) if parts else np.zeros(0)
    columns: tuple[Ints, ...] = tuple(
        np.concatenate([np.full(len(part[0]), part[k], np.int64) for part in parts])
        if parts
        else np.zeros(0, np.int64)
        for k in (1, 2, 3)
    )
    order = np.argsort(time, kind="stable")
    waves_, kinds, lines_ = (column[order] for column in columns)
    return Due(time[order], waves_, kinds, lines_, no_way)
