"""Structures that stand where they could not be placed now, kept current from edited boxes."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from woven_locus.core.derived.rules import ALL_BITS, BIT, Reason
from woven_locus.core.editing import Notice
from woven_locus.core.kinds import Kind
from woven_locus.core.placing import judge
from woven_locus.core.placing.at_once import breakers
from woven_locus.core.placing.feasibility import margin
from woven_locus.core.placing.judge import PASSING
from woven_locus.core.placing.kind_rules import rules_of
from woven_locus.core.placing.things import numbers_in
from woven_locus.core.plan import Plan
from woven_locus.core.register import Alike, Structure
from woven_locus.core.ways.doors import slots_alike

_TERRAIN = np.uint8(BIT[Reason.TERRAIN])
_CARE = np.uint8(ALL_BITS & ~sum(BIT[reason] for reason in PASSING & BIT.keys()))
# Rules that need no look at the map.
_ELSEWHERE = PASSING | {Reason.TURN}
# Structures that are judged between two questions whether it is enough.
_AT_A_TIME = 50
# Structures that are asked a rule at once between two such questions.
_ASKED_AT_A_TIME = 2000
# Edits of more cells than this are looked at as a whole.
MANY_CELLS = 1 << 16


class Soundness:
    """Which structures the judge would refuse where they stand. See `judge.PASSING` for what is no fault.

    What an edit touched waits until somebody asks: `unsound` looks at all of it then, `known` at a little at a time. After
    an edit of very many cells that is all structures.
    """

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._unsound: frozenset[int] = frozenset()  # given out as it is: every frame asks
        self._all = True  # all of it has to be looked at again
        # What is left to look at: groups to be asked some rules all at once, and structures to be judged.
        self._groups: list[tuple[Alike, set[Reason]]] = []
        self._todo: set[int] = set()
        self._over: set[str] = set()  # kinds of which there are too many

    @property
    def unsound(self) -> frozenset[int]:
        """All of them."""
        self._work()
        return self._unsound

    def known(self, enough: Callable[[], bool]) -> tuple[frozenset[int], bool]:
        """Those that are known after working on it until it is enough, and whether that is all."""
        self._work(enough)
        return self._unsound, not (self._groups or self._todo)

    def _work(self, enough: Callable[[], bool] = lambda: False) -> None:
        if self._all:
            self._begin()
            self._all = False
        register, bad = self._plan.register, set[int]()
        while self._groups or self._todo:
            if self._groups:
                bad.update(self._ask(*self._groups.pop()))
            else:
                some = [self._todo.pop() for _ in range(min(_AT_A_TIME, len(self._todo)))]
                bad.update(row.number for row in register.those_of(some) if not self._is_sound(row))
            if enough():
                break
        if bad:
            self._unsound |= bad

    def _begin(self) -> None:
        """What the blocks layer says at once, and the structures that have to be looked at further."""
        plan = self._plan
        self._todo, self._groups, bad = set(), [], set[int]()
        rules = {kind.key: self._look_at(kind) for kind in plan.kinds}
        for group in plan.register.alike():
            asked, slots = rules[group.kind], slots_alike(plan, group)
            care = _CARE & ~_TERRAIN if Reason.TERRAIN in asked else _CARE
            wrong = (plan.blocks.ravel()[slots] & care != 0).any(axis=1)
            wrong |= not plan.kinds[group.kind].may_turn(group.turn)
            bad.update(group.numbers[wrong].tolist())
            if asked:
                self._groups += ((part, asked) for part in group.parts(_ASKED_AT_A_TIME))
        self._unsound = frozenset(bad)
        self._over = {kind.key for kind in plan.kinds if kind.demands.most is not None}

    def _ask(self, group: Alike, rules: set[Reason]) -> set[int]:
        """Ask a group some rules; returns those that break one. It may have been made before later edits: who has moved since is
        judged as it stands now."""
        breaks = breakers(self._plan, group, rules)
        get = self._plan.register.get
        sure = {
            number
            for number, low in zip(
                group.numbers[breaks].tolist(), group.lows[breaks].tolist(), strict=True
            )
            if (row := get(number)) is not None
            and (row.kind, row.turn, *row.cell) == (group.kind, group.turn, *low)
        }
        self._todo.update(group.numbers[breaks].tolist())
        self._todo -= sure
        return sure

    def _look_at(self, kind: Kind) -> set[Reason]:
        """The rules of a kind for which one has to look beyond the blocks layer."""
        asked = {rule.reason for rule in rules_of(self._plan, kind)} - _ELSEWHERE
        return asked | ({Reason.TERRAIN} if kind.demands.terrain is not None else set())

    def _is_sound(self, row: Structure) -> bool:
        kind = self._plan.kinds[row.kind]
        return bool(judge(self._plan, kind, row.cell, row.turn, row.number, PASSING))

    def update(self, notice: Notice) -> None:
        """What an edit touched, and what stands near enough to mind, is to be judged again."""
        if self._all:
            return
        plan = self._plan
        numbers = set(notice.structures)
        if sum(box.shape[0] * box.shape[1] for box in notice.boxes) > MANY_CELLS:
            self._all = True
            return
        more = max((margin(plan, kind) for kind in plan.kinds), default=1)
        for box in notice.boxes:
            around = box.grown(more).clipped(plan.spec.shape)
            numbers.update(numbers_in(plan, around).tolist())
        if notice.structures:
            numbers.update(self._counted())
        if not self._unsound.isdisjoint(numbers):
            self._unsound -= numbers
        # An edit of hundreds would hold everybody up. Whoever many edits touch is judged once, as it stands then.
        self._todo |= numbers

    def _counted(self) -> Iterable[int]:
        """The structures of kinds of which there are more than there may be, or were until now."""
        register = self._plan.register
        over = {
            kind.key
            for kind in self._plan.kinds
            if kind.demands.most is not None and register.count(kind.key) > kind.demands.most
        }
        look, self._over = over | self._over, over
        return [row.number for row in register if row.kind in look] if look else ()
