"""A kind, made or changed by drawing it; what a change would do to what stands is said beforehand."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from woven_locus.core.editing import Edit
from woven_locus.core.edits import kinds
from woven_locus.core.edits.kinds import Impact
from woven_locus.core.errors import WovenError
from woven_locus.core.kinds import NO_DEMANDS, Kind
from woven_locus.core.kinds.kind import (
    LARGEST_MONEY,
    LONGEST_INTERVAL,
    LONGEST_NAME,
    fresh_kind_key,
)
from woven_locus.core.plan import Plan
from woven_locus.ui.bench.build.footprint_pad import FootprintPad
from woven_locus.ui.bench.build.kind_texts import art_text, impact_text
from woven_locus.ui.bench.build.rules_form import RulesForm
from woven_locus.ui.bench.build.shelf import draw_footprint
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.dyes import DyeButton, ask_dye, fresh_dye
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.sizes import open_as
from woven_locus.ui.parts.widgets import Label, muted, side_by_side, whole_box, world_box
from woven_locus.ui.reading.cell_words import size_words
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import Theme, colour, em, row_height, text_font

_SOON_MSEC = 150
# More structures than this are looked at in a worker.
FEW = 300
# Spin boxes hold 32 bits; larger sums can be brought in from a file.
LARGEST_SHOWN = 2**31 - 1


class TurnsPreview(Drawn):
    """The kind as it lies in each turn that it takes."""

    def __init__(self, plan: Plan, theme: Theme) -> None:
        super().__init__()
        self._spec, self._theme = plan.spec, theme
        self.kind: Kind | None = None
        self.setFixedHeight(42 + row_height(text_font(8), 2))

    def sizeHint(self) -> QSize:
        return QSize(300, self.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        if self.kind is None:
            return
        palette = self._theme.palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(text_font(8))
        turns = self.kind.all_turns
        wide = min(60.0, self.width() / len(turns))
        for at, turn in enumerate(turns):
            area = QRectF(at * wide + 4, 2, wide - 8, 38)
            draw_footprint(painter, self.kind, turn, area, palette, self._spec)
            painter.setPen(colour(palette.muted))
            words = f"{turn % 4 * 90}°" + (" m" if turn >= 4 else "")
            rect = QRectF(at * wide, 41, wide, self.height() - 41)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, words)


class KindSheet(FormSheet):
    """key : the kind to change, or None for a new one."""

    def __init__(
        self, session: Session, theme: Theme, key: str | None, parent: QWidget | None
    ) -> None:
        plan = session.plan
        self._old = plan.kinds[key] if key is not None else None
        title = tr("Change {old}", old=self._old.name) if self._old else tr("A new kind")
        super().__init__(title, tr("Change it") if self._old else tr("Put it on the shelf"), parent)
        open_as(self, 860, 640)
        self._session, self._plan, self._key = session, plan, key
        self.impact: Impact | None = None
        self.choose_dye: Callable[[str], str] = lambda now: ask_dye(self, now)
        old = self._old
        self._dye = old.dye if old else fresh_dye(kind.dye for kind in plan.kinds)
        self._fields(old)
        self.rules = RulesForm(plan, old.demands if old else NO_DEMANDS)
        self._lay_out(theme)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MSEC)
        self._soon.timeout.connect(self._look)
        self._listen()
        self._check()
        self.name.setFocus()

    def _fields(self, old: Kind | None) -> None:
        self.name = QLineEdit(old.name if old else "")
        self.name.setMaxLength(LONGEST_NAME)
        self.name.setPlaceholderText(tr("What it is called"))
        self.code = QLineEdit(old.code if old else "")
        self.code.setMaxLength(3)
        self.code.setPlaceholderText(tr("1 to 3 letters"))
        self.dye = DyeButton(self._dye)
        price = min(old.price, LARGEST_SHOWN) if old else 50
        self.price = whole_box(price, 0, LARGEST_SHOWN, tr("Price"))
        self.price.setSuffix(f" {self._plan.money}")
        pays = max(-LARGEST_SHOWN, min(old.pays, LARGEST_SHOWN)) if old else 0
        self.pays = whole_box(pays, -LARGEST_SHOWN, LARGEST_SHOWN, tr("It pays"))
        self.every = whole_box(
            old.every if old else 0, 0, LONGEST_INTERVAL, tr("every so many seconds")
        )
        self.every.setSuffix(" s")
        self.every.setSpecialValueText(tr("never"))
        self.turns = [QCheckBox(f"{turn * 90}°") for turn in range(4)]
        for turn, box in enumerate(self.turns):
            box.setChecked(old is None or turn in old.turns)
            box.setAccessibleName(tr("May be turned by {turn} degrees", turn=turn * 90))
        self.mirror = QCheckBox(tr("May be mirrored"))
        self.mirror.setChecked(old is not None and old.mirror)
        self.has_art = QCheckBox(tr("Its art is"))
        self.has_art.setChecked(old is not None and old.art is not None)
        art = old.art if old and old.art else (self._plan.spec.cell_w, self._plan.spec.cell_h)
        self.art = [
            world_box(size, 0.0001, 1e9, tr("{name} of its art, world units", name=name))
            for size, name in zip(art, (tr("Width"), tr("Height")), strict=True)
        ]
        self.art_says = muted()

    def _lay_out(self, theme: Theme) -> None:
        self.pad = FootprintPad(theme, self._old.footprint if self._old else None, self._dye)
        if self._old is None:
            self.pad.set_cell((1, 1), True)
        self.draw_cells, self.draw_doors = QRadioButton(tr("Cells")), QRadioButton(tr("Doors"))
        self.draw_cells.setChecked(True)
        group = QButtonGroup(self)
        group.addButton(self.draw_cells)
        group.addButton(self.draw_doors)
        self.wipe = QPushButton(tr("Clear"))
        self.wipe.setToolTip(tr("Take away all cells and doors"))
        self.wipe.setAutoDefault(False)
        self.size_says = Label()
        self.preview = TurnsPreview(self._plan, theme)
        bar = QHBoxLayout()
        bar.addWidget(Label(tr("Draw")))
        bar.addWidget(self.draw_cells)
        bar.addWidget(self.draw_doors)
        bar.addStretch(1)
        bar.addWidget(self.size_says)
        bar.addWidget(self.wipe)
        left = QVBoxLayout()
        left.addLayout(bar)
        left.addWidget(self.pad, 1)
        left.addWidget(self.preview)
        self.says = Label()
        self.says.setWordWrap(True)
        self.says.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.says.setMinimumHeight(em(72))
        left.addWidget(self.says)
        tabs = QTabWidget()
        tabs.setDocumentMode(True)
        look = QWidget()
        form = QFormLayout(look)
        form.addRow(tr("Name"), self.name)
        form.addRow(tr("Letter code"), self.code)
        form.addRow(tr("Dye"), self.dye)
        form.addRow(tr("Price"), self.price)
        form.addRow(tr("Pays"), side_by_side(self.pays, self.every))
        form.addRow(tr("Turns"), side_by_side(*self.turns))
        form.addRow("", self.mirror)
        form.addRow(self.has_art, side_by_side(*self.art))
        form.addRow("", self.art_says)
        tabs.addTab(look, tr("Kind"))
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.rules)
        tabs.addTab(scroll, tr("Rules"))
        tabs.setMinimumWidth(em(400))
        self.tabs = tabs
        self.top.removeItem(self.form)
        self.side.addLayout(left)
        self.top.addWidget(tabs, 1)
        self._show_dye()

    def _listen(self) -> None:
        self.pad.changed.connect(self._check)
        self.draw_doors.toggled.connect(lambda on: setattr(self.pad, "drawing_doors", on))
        self.wipe.clicked.connect(self.pad.clear)
        self.dye.clicked.connect(self._choose_dye)
        for line in (self.name, self.code):
            line.textChanged.connect(self._check)
        for spin in (self.price, self.pays, self.every):
            spin.valueChanged.connect(self._check)
        for box in (*self.turns, self.mirror, self.has_art):
            box.toggled.connect(self._check)
        for size in self.art:
            size.valueChanged.connect(self._check)
        self.rules.changed.connect(self._check)
        self.accepted.connect(self._keep)

    # --- dye ---------------------------------------------------------------------------------

    def _choose_dye(self) -> None:
        self._dye = self.choose_dye(self._dye)
        self._show_dye()
        self._check()

    def _show_dye(self) -> None:
        self.dye.set_dye(self._dye)
        self.dye.setAccessibleName(tr("Dye, {dye}", dye=self._dye))
        self.pad.dye = self._dye
        self.pad.update()

    # --- what it says ------------------------------------------------------------------------

    def made(self) -> Kind:
        """The kind as the sheet has it. Raises BadKind."""
        name, old = self.name.text().strip(), self._old
        footprint = self.pad.footprint
        key = self._key or fresh_kind_key(name, self._plan.kinds.keys())
        # What a spin box cannot hold stays as it was, unless it was changed by hand.
        price = self.price.value()
        if old is not None and price == min(old.price, LARGEST_SHOWN):
            price = old.price
        pays = self.pays.value()
        if old is not None and abs(old.pays) > LARGEST_SHOWN == abs(pays):
            pays = old.pays
        assert max(price, abs(pays)) <= LARGEST_MONEY
        return Kind(
            key,
            name,
            self.code.text().strip() or name[:2].upper() or "?",
            self._dye,
            price,
            footprint,
            tuple(turn for turn, box in enumerate(self.turns) if box.isChecked()),
            self.mirror.isChecked(),
            (self.art[0].value(), self.art[1].value()) if self.has_art.isChecked() else None,
            pays,
            self.every.value(),
            self.rules.demands,
        )

    def _check(self, *_value: object) -> None:
        for size in self.art:
            size.setEnabled(self.has_art.isChecked())
        try:
            kind = self.made()
        except WovenError as err:
            self.show_problem(tr(err).partition(": ")[2] or tr(err))
            self.preview.kind = None
            self.preview.update()
            return
        footprint = kind.footprint
        self.size_says.setText(size_words(footprint))
        self.preview.kind = kind
        self.preview.update()
        self.art_says.setText(art_text(kind, self._plan.spec))
        if not kind.name:
            self.show_problem(tr("Give it a name"))
            return
        self.show_problem("")
        if self._old is not None:
            self.impact = None
            self.says.setText(tr("Looking at what stands …"))
            self._soon.start()

    def _look(self) -> None:
        """What would become of those that stand?"""
        try:
            catalogue = self._plan.kinds.with_kind(self.made())
        except WovenError:
            return
        session, kind = self._session, self._key or ""

        def done(found: Impact) -> None:
            if not sip.isdeleted(self):
                self.impact = found
                self.says.setText(impact_text(session.plan, kind, found))
                self.make.setText(
                    tr("Change it, and demolish {count}", count=len(found.misfits))
                    if found.misfits
                    else tr("Change it")
                )

        register = session.plan.register
        mind = len(register) if catalogue.clearing else register.count(kind)
        session.asking.ask(
            tr("Looking at what stands"),
            lambda plan, _control: kinds.impact(plan, catalogue),
            done,
            at_once=mind <= FEW and session.asking.is_small(),
            dropped=self._look_again,
        )

    def _look_again(self) -> None:
        """The plan moved on while it was looked at: a clock runs, say."""
        if not sip.isdeleted(self):
            self._soon.start()

    def _keep(self) -> None:
        session, kind, key = self._session, self.made(), self._key
        if key is None:
            if session.attempt(kinds.add_kind, session.plan, kind):
                session.arm(kind.key)
                session.taken_up.emit()
            return

        def make(plan: Plan, _control: Control) -> Edit:
            return kinds.change_kind(plan, key, kind)

        session.work(tr("Changing {kind}", kind=kind.name), make)
