"""The waves as a table, a row for each group of attackers."""

from __future__ import annotations

from PyQt6.QtWidgets import QLineEdit, QPushButton, QWidget

from woven_locus.core.edits import waves as edits
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Group, Wave
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, whole_box
from woven_locus.ui.session.session import Session

COLUMNS = (
    tr("Wave"),
    tr("Begins, s"),
    tr("Entry"),
    tr("Attacker"),
    tr("How many"),
    tr("Every, s"),
    tr("After, s"),
    tr("Spread, s"),
    tr("Health"),
)
_TIMES = {"every": tr("Every"), "after": tr("After"), "spread": tr("Spread")}
# A row: which wave, and which of its groups; none for a wave without any.
Row = tuple[int, int | None]


class WavesSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        widths = (150, 88, 130, 150, 88, 84, 84, 88, 90)
        super().__init__(tr("Waves"), COLUMNS, widths, session, parent)
        self.add.setText(tr("Add a wave"))
        self.add.clicked.connect(self._add_wave)
        self.group = QPushButton(tr("Add a group to it"))
        self.group.clicked.connect(self._add_group)
        self.remove.setText(tr("Remove the group"))
        self.remove.clicked.connect(self._remove)
        session.replaced.connect(self.reject)
        self._lay_out(
            380,
            tr(
                "A wave begins so many seconds after the run; each of its groups comes from an entry, one attacker every so many "
                "seconds, the first after so many, each perhaps a little later by chance (spread)."
            ),
            beside=(self.group,),
        )

    @property
    def _waves(self) -> tuple[Wave, ...]:
        return self._session.plan.waves.waves

    def _rows(self) -> list[Row]:
        found: list[Row] = []
        for at, wave in enumerate(self._waves):
            found += [(at, k) for k in range(len(wave.groups))] or [(at, None)]
        return found

    def _fill(self) -> None:
        rows, waves = self._rows(), self._session.plan.waves
        self._fill_all(rows, self._fill_row)
        self.remove.setEnabled(bool(rows))
        self.group.setEnabled(bool(rows and waves.entries and waves.attackers))

    def _fill_row(self, at: int, row: Row) -> None:
        nth, k = row
        wave, plan = self._waves[nth], self._session.plan.waves
        called = wave.name or tr("wave {at}", at=nth + 1)
        widgets: list[tuple[QWidget, str]] = []
        name = QLineEdit(wave.name)
        name.editingFinished.connect(lambda: self._change_wave(nth, name=name.text().strip()))
        begins = WorldBox(wave.begins, 0, 1e6)
        begins.editingFinished.connect(lambda: self._change_wave(nth, begins=begins.value()))
        widgets += [(name, tr("Name of")), (begins, tr("Begin of"))]
        if k not in (0, None):
            name.setEnabled(False)
            begins.setEnabled(False)
        if k is None:
            self._put_row(at, called, widgets)
            for column in range(2, len(COLUMNS)):
                self.table.removeCellWidget(at, column)
            self._put_count(at, 0)
            return
        group = wave.groups[k]
        entry = ComboBox()
        for place in plan.entries:
            entry.addItem(f"{place.id} {place.name}", place.id)
        entry.setCurrentIndex(max(0, entry.findData(group.entry)))
        entry.activated.connect(lambda _k: self._change(nth, k, entry=entry.currentData()))
        kind = ComboBox()
        for attacker in plan.attackers:
            kind.addItem(attacker.name, attacker.key)
        kind.setCurrentIndex(max(0, kind.findData(group.kind)))
        kind.activated.connect(lambda _k: self._change(nth, k, kind=kind.currentData()))
        count = whole_box(group.count, 1, 100_000, "")
        count.editingFinished.connect(lambda: self._change(nth, k, count=count.value()))
        widgets += [(entry, tr("Entry of")), (kind, tr("Attacker of")), (count, tr("How many of"))]
        for what, words in _TIMES.items():
            box = WorldBox(getattr(group, what), 0, 1e6)
            box.editingFinished.connect(
                lambda what=what, box=box: self._change(nth, k, **{what: box.value()})
            )
            widgets.append((box, tr("{what} of", what=words)))
        self._put_row(at, called, widgets)
        attacker_kind = plan.kind(group.kind)
        self._put_count(at, round(attacker_kind.health * group.count) if attacker_kind else 0)

    def _do_waves(self, waves: list[Wave], label: str) -> None:
        self._do(lambda: edits.set_wave_list(self._session.plan, waves, label))

    def _change_wave(self, nth: int, **changes: object) -> None:
        if self._filling or nth >= len(self._waves):
            return
        waves = list(self._waves)
        waves[nth] = replace(waves[nth], **changes)
        if waves[nth] != self._waves[nth]:
            self._do_waves(waves, tr("Changed wave {nth}", nth=nth + 1))

    def _change(self, nth: int, k: int, **changes: object) -> None:
        if self._filling or nth >= len(self._waves) or k >= len(self._waves[nth].groups):
            return
        groups = list(self._waves[nth].groups)
        groups[k] = replace(groups[k], **changes)
        self._change_wave(nth, groups=tuple(groups))

    def _new_group(self) -> Group | None:
        plan = self._session.plan.waves
        if not plan.entries or not plan.attackers:
            return None
        return Group(plan.entries[0].id, plan.attackers[0].key, 10)

    def _add_wave(self) -> None:
        waves, group = list(self._waves), self._new_group()
        begins = waves[-1].begins + 30.0 if waves else 5.0
        waves.append(
            Wave(tr("Wave {count}", count=len(waves) + 1), begins, (group,) if group else ())
        )
        self._do_waves(waves, tr("Added wave {count}", count=len(waves)))
        if group is None and not self.problem.text():
            self.problem.setText(
                tr("It is empty: set an entry, and add a kind of attacker, then add a group to it")
            )
        self._name_last()

    def _add_group(self) -> None:
        rows, group = self._rows(), self._new_group()
        if not rows or group is None:
            return
        waves, nth = list(self._waves), rows[min(self.code, len(rows) - 1)][0]
        waves[nth] = replace(waves[nth], groups=(*waves[nth].groups, group))
        self._do_waves(waves, tr("One more group for wave {nth}", nth=nth + 1))

    def _remove(self) -> None:
        rows = self._rows()
        if not rows:
            return
        nth, k = rows[min(self.code, len(rows) - 1)]
        waves = list(self._waves)
        groups = [group for at, group in enumerate(waves[nth].groups) if at != k]
        if groups:
            waves[nth] = replace(waves[nth], groups=tuple(groups))
        else:
            del waves[nth]
        self._do_waves(
            waves,
            tr("Removed a group of wave {nth}", nth=nth + 1)
            if groups
            else tr("Removed wave {nth}", nth=nth + 1),
        )
