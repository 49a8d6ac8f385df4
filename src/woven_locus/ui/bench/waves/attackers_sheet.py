"""The kinds of attacker as a table."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QLineEdit, QWidget

from woven_locus.core.edits import waves as edits
from woven_locus.core.names import fresh_key
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import AttackerKind, Moves
from woven_locus.ui.language import tr
from woven_locus.ui.parts.class_sheet import ClassSheet
from woven_locus.ui.parts.dyes import fresh_dye
from woven_locus.ui.parts.widgets import ComboBox, WorldBox, whole_box
from woven_locus.ui.session.session import Session

_NUMBERS = (
    ("size", tr("Size"), 0.01),
    ("speed", tr("Speed"), 0.01),
    ("health", tr("Health"), 0.01),
    ("armour", tr("Armour"), 0.0),
)
_WHOLE = (("reward", tr("Reward")), ("lives", tr("Lives")))
COLUMNS = (
    tr("Name"),
    *(words for _what, words, _least in _NUMBERS),
    *(words for _what, words in _WHOLE),
    tr("Over"),
    tr("Queues"),
    tr("Dye"),
    tr("Sent"),
)


class AttackersSheet(ClassSheet):
    """Every change is a step of the history at once."""

    def __init__(self, session: Session, parent: QWidget | None) -> None:
        widths = (150, 80, 80, 90, 84, 84, 76, 96, 72, 118, 60)
        super().__init__(tr("Kinds of attacker"), COLUMNS, widths, session, parent)
        self.add.setText(tr("Add a kind"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        session.replaced.connect(self.reject)
        unit = session.plan.spec.unit or "units"
        self._lay_out(
            320,
            tr(
                "In {unit} and seconds. Armour is taken off every hit; the reward is paid when it is stopped, its lives are lost when it comes through. Those that queue stay behind one another, the others share their place.",
                unit=unit,
            ),
        )

    @property
    def _kinds(self) -> tuple[AttackerKind, ...]:
        return self._session.plan.waves.attackers

    def _fill(self) -> None:
        self._fill_all(self._kinds, self._fill_row)
        self.remove.setEnabled(bool(self._kinds))

    def _fill_row(self, at: int, kind: AttackerKind) -> None:
        name = QLineEdit(kind.name)
        name.editingFinished.connect(lambda: self._change(at, name=name.text().strip()))
        widgets: list[tuple[QWidget, str]] = [(name, tr("Name of"))]
        for what, words, least in _NUMBERS:
            box = WorldBox(getattr(kind, what), least, 1e9)
            box.editingFinished.connect(
                lambda what=what, box=box: self._change(at, **{what: box.value()})
            )
            widgets.append((box, tr("{what} of", what=words)))
        for what, words in _WHOLE:
            whole = whole_box(getattr(kind, what), 0, 1_000_000, "")
            whole.editingFinished.connect(
                lambda what=what, box=whole: self._change(at, **{what: box.value()})
            )
            widgets.append((whole, tr("{what} of", what=words)))
        over = ComboBox()
        for moves in Moves:
            over.addItem(tr(moves.value), moves)
        over.setCurrentIndex(list(Moves).index(kind.moves))
        over.activated.connect(lambda k: self._change(at, moves=list(Moves)[k]))
        widgets.append((over, tr("What it moves over:")))
        queues = QCheckBox()
        queues.setChecked(kind.queues)
        queues.clicked.connect(lambda on: self._change(at, queues=on))
        widgets.append((queues, tr("Queues:")))
        widgets.append(
            (self._dye_button(kind.dye, lambda dye: self._change(at, dye=dye)), tr("Dye of"))
        )
        self._put_row(at, kind.name, widgets)
        groups = (group for wave in self._session.plan.waves.waves for group in wave.groups)
        self._put_count(at, sum(group.count for group in groups if group.kind == kind.key))

    def _change(self, at: int, **changes: object) -> None:
        if self._filling or at >= len(self._kinds):
            return
        kind = self._kinds[at]
        changed = replace(kind, **changes)
        if changed != kind:
            self._do(lambda: edits.change_attacker(self._session.plan, kind.key, changed))

    def _add(self) -> None:
        plan, kinds = self._session.plan, self._kinds
        cell = min(plan.spec.cell_w, plan.spec.cell_h)
        key = fresh_key("attacker", {kind.key for kind in kinds}, "attacker", 40)
        fresh = AttackerKind(key, "", "#A5383F", 0.4 * cell, cell, 20.0, 0.0, 5, 1)
        names = {kind.name for kind in kinds}
        name = next(
            tr("Attacker {number}", number=n)
            for n in range(1, len(kinds) + 2)
            if tr("Attacker {number}", number=n) not in names
        )
        like = kinds[self.code] if kinds else fresh
        dye = fresh_dye((kind.dye for kind in kinds), like.dye)
        made = replace(like, key=key, name=name, dye=dye)
        self._do(lambda: edits.set_attackers(plan, (*kinds, made), tr("Added {name}", name=name)))
        self._name_last()

    def _remove(self) -> None:
        if self._kinds:
            self._do(lambda: edits.remove_attacker(self._session.plan, self._kinds[self.code].key))
