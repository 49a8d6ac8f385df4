"""The rules that make trips, as a table."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QComboBox, QWidget

from woven_locus.core.edits.traffic import set_trip_rules
from woven_locus.core.traffic.trips import made_trips
from woven_locus.core.value import replace
from woven_locus.core.vehicles import MOST_BY_RULE, Spacing, TripRule
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, muted, quietly, whole_box
from woven_locus.ui.session.session import Session

COLUMNS = (
    tr("Each"),
    tr("sends"),
    tr("to the nearest"),
    tr("First at, s"),
    tr("One every, s"),
    tr("How many"),
    tr("Spaced"),
)


class RulesSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        widths = (140, 140, 140, 92, 112, 100, 110)
        super().__init__(tr("Rules that make trips"), COLUMNS, widths, session, parent)
        self.add.setText(tr("Add a rule"))
        self.remove.setText(tr("Remove it"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        self.made = muted()
        session.replaced.connect(self.reject)
        self._lay_out(
            300,
            tr(
                "Every structure of a kind sends vehicles, or people, to the nearest of another kind, by the lanes. By chance "
                "departures follow one another as they like, one every so many seconds on average."
            ),
            self.made,
        )

    @property
    def _rules(self) -> tuple[TripRule, ...]:
        return self._session.plan.traffic.rules

    def _fill(self) -> None:
        self._fill_all(self._rules, self._fill_row)
        self.remove.setEnabled(bool(self._rules))
        self.add.setEnabled(bool(len(self._session.plan.kinds)))
        self.made.setText(self._about())

    def _about(self) -> str:
        session = self._session
        if not self._rules or not session.asking.is_small():
            return ""
        trips = made_trips(session.plan)
        vehicles = sum(trip.count for trip in trips)
        starts = len({trip.start for trip in trips})
        made = counted(
            vehicles,
            "They make {n:,} departure from {starts}.",
            "They make {n:,} departures from {starts}.",
            starts=counted(starts, "{n:,} structure", "{n:,} structures"),
        )
        return tr(made)

    def _fill_row(self, at: int, rule: TripRule) -> None:
        plan = self._session.plan
        kinds = [(kind.key, kind.name) for kind in plan.kinds]
        who = [("", tr("the first vehicle"))]
        who += [(kind.key, kind.name) for kind in plan.traffic.vehicles]
        who += [(kind.key, kind.name) for kind in plan.traffic.people]
        spacing = [
            (item.value, tr("evenly") if item is Spacing.EVENLY else tr("by chance"))
            for item in Spacing
        ]
        depart = WorldBox(rule.depart, 0, 1e6)
        every = WorldBox(rule.every, 0.1, 1e6)
        count = whole_box(rule.count, 1, MOST_BY_RULE, "")
        depart.editingFinished.connect(lambda: self._change(at, depart=depart.value()))
        every.editingFinished.connect(lambda: self._change(at, every=every.value()))
        count.editingFinished.connect(lambda: self._change(at, count=count.value()))
        widgets: list[tuple[QWidget, str]] = [
            (self._choice(at, "start", kinds, rule.start), tr("Kind that sends, of")),
            (self._choice(at, "kind", who, rule.kind), tr("What is sent, of")),
            (self._choice(at, "goal", kinds, rule.goal), tr("Kind that is gone to, of")),
            (depart, tr("First departure of")),
            (every, tr("Seconds between two of")),
            (count, tr("How many of")),
            (self._choice(at, "spacing", spacing, rule.spacing.value), tr("Spacing of")),
        ]
        self._put_row(at, tr("rule {at}", at=at + 1), widgets)

    def _choice(self, at: int, what: str, entries: list[tuple[str, str]], now: str) -> QComboBox:
        box = ComboBox()
        if now not in [key for key, _ in entries]:
            entries = [*entries, (now, tr("{now}, gone", now=now))]
        for key, words in entries:
            box.addItem(words, key)
        quietly(box, lambda: box.setCurrentIndex(box.findData(now)))

        def chosen(_at: int) -> None:
            value: Any = box.currentData()
            self._change(at, **{what: Spacing(value) if what == "spacing" else value})

        box.activated.connect(chosen)
        return box

    def _change(self, at: int, **changes: Any) -> None:
        plan, rules = self._session.plan, self._rules
        if self._filling or at >= len(rules):
            return
        changed = replace(rules[at], **changes)
        if changed != rules[at]:
            others = (*rules[:at], changed, *rules[at + 1 :])
            self._do(
                lambda: set_trip_rules(plan, others, tr("Changed rule {at} of trips", at=at + 1))
            )

    def _add(self) -> None:
        plan, rules = self._session.plan, self._rules
        keys = plan.kinds.keys()
        made = rules[self.code] if rules else TripRule(keys[0], keys[-1])
        self._do(lambda: set_trip_rules(plan, (*rules, made), tr("Added a rule of trips")))
        self.table.selectRow(len(rules))

    def _remove(self) -> None:
        plan, rules, at = self._session.plan, self._rules, self.code
        left = (*rules[:at], *rules[at + 1 :])
        self._do(lambda: set_trip_rules(plan, left, tr("Removed rule {at} of trips", at=at + 1)))
