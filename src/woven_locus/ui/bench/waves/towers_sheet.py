"""What each kind of structure does to attackers, as a table."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QTableWidgetItem, QWidget

from woven_locus.core.edits.kinds import change_kind
from woven_locus.core.errors import BadKind
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.tower import Hits, Takes, Tower
from woven_locus.core.value import replace
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.widgets import ComboBox, WorldBox
from woven_locus.ui.session.session import Session

# Field, heading, least, most.
_NUMBERS = (
    ("least", tr("Least"), 0.0, 1e6),
    ("most", tr("Range"), 0.0, 1e6),
    ("damage", tr("Damage"), 0.0, 1e9),
    ("interval", tr("Every, s"), 0.01, 3600.0),
    ("splash", tr("Splash"), 0.0, 1e6),
    ("slowing", tr("Slowing"), 0.0, 0.99),
    ("slow_for", tr("For, s"), 0.0, 1e6),
)
_CHOICES = (("hits", tr("Hits"), Hits), ("takes", tr("Takes"), Takes))
COLUMNS = (
    tr("Kind"),
    tr("Tower"),
    *(row[1] for row in _NUMBERS),
    *(words for _what, words, _choices in _CHOICES),
    tr("Placed"),
)


class TowersSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        widths = (150, 66, 78, 84, 84, 84, 78, 84, 78, 96, 104, 66)
        super().__init__(tr("Towers"), COLUMNS, widths, session, parent)
        self.add.hide()
        self.remove.hide()
        session.replaced.connect(self.reject)
        unit = session.plan.spec.unit or "units"
        self._lay_out(
            360,
            tr(
                "Range in {unit} from the middle of the structure, between the least and the greatest. Splash hits all around who is hit; slowing is the share of its speed that it loses, for so many seconds.",
                unit=unit,
            ),
        )

    def _fill(self) -> None:
        self._fill_all(list(self._session.plan.kinds), self._fill_row)

    def _fill_row(self, at: int, kind: Kind) -> None:
        name = QTableWidgetItem(kind.name)
        self.table.setItem(at, 0, name)
        tower = kind.tower
        on = QCheckBox()
        on.setChecked(tower is not None)
        on.setAccessibleName(tr("{kind} is a tower", kind=kind.name))
        on.clicked.connect(lambda wanted: self._set(kind.key, self._new() if wanted else None))
        self.table.setCellWidget(at, 1, on)
        for column in range(2, len(COLUMNS) - 1):
            self.table.removeCellWidget(at, column)
        self._put_count(at, self._session.plan.register.count(kind.key))
        if tower is None:
            return
        for column, (what, words, low, high) in enumerate(_NUMBERS, 2):
            box = WorldBox(getattr(tower, what), low, high)
            box.setAccessibleName(tr("{words} of {kind}", words=words, kind=kind.name))
            box.editingFinished.connect(
                lambda what=what, box=box: self._change(kind.key, **{what: box.value()})
            )
            self.table.setCellWidget(at, column, box)
        for column, (what, words, choices) in enumerate(_CHOICES, 9):
            choice = ComboBox()
            choice.addItems([tr(item.value) for item in choices])
            choice.setCurrentIndex(list(choices).index(getattr(tower, what)))
            choice.setAccessibleName(tr("{words} of {kind}", words=words, kind=kind.name))
            choice.activated.connect(
                lambda k, what=what, choices=choices: self._change(
                    kind.key, **{what: list(choices)[k]}
                )
            )
            self.table.setCellWidget(at, column, choice)

    def _new(self) -> Tower:
        """To the measure of the plan's cells."""
        spec = self._session.plan.spec
        return Tower(0.0, 4 * min(spec.cell_w, spec.cell_h), 5.0, 1.0)

    def _change(self, key: str, **changes: object) -> None:
        plan = self._session.plan
        tower = plan.kinds[key].tower if key in plan.kinds else None
        if self._filling or tower is None:
            return
        try:
            self._set(key, replace(tower, **changes))
        except BadKind as err:
            self.problem.setText(tr(err))

    def _set(self, key: str, tower: Tower | None) -> None:
        plan = self._session.plan
        if not self._filling and plan.kinds[key].tower != tower:
            changed = replace(plan.kinds[key], tower=tower)
            self._do(lambda: change_kind(plan, key, changed))
