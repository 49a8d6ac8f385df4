"""Five steps through the window, on a first start and from the Help menu."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from woven_locus.core.geometry import Cell
from woven_locus.ui import kept
from woven_locus.ui.language import tr
from woven_locus.ui.parts.floating import Floating
from woven_locus.ui.parts.widgets import Label, heading
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage, WayTool
from woven_locus.ui.sheet.view import Sheet
from woven_locus.ui.theme import Theme, em

WIDTH = 330


class Step(NamedTuple):
    """stage : the one that the step is about."""

    title: str
    words: str
    stage: Stage


STEPS = (
    Step(
        tr("Where am I?"),
        tr(
            "Move over the sheet. The Reading on the right shows the pointer in world units, its cell, "
            "where the snapping rule puts it, and the arithmetic in between. Try the three rules on the "
            "left; the dashed lines in the lens are where the rule would switch."
        ),
        Stage.SURVEY,
    ),
    Step(
        tr("What is it on?"),
        tr(
            "Choose a terrain class and drag to paint it. Each stroke is one step of the history; "
            "Ctrl+Z takes it back."
        ),
        Stage.GROUND,
    ),
    Step(
        tr("May I build here, and why not?"),
        tr(
            "Take a loom hall off the shelf and move it about: a dot is a free cell, a cross-stitch a "
            "blocked one, and the Reading names what is in the way. Click to place it, drag for many, "
            "T turns it, Esc puts it back."
        ),
        Stage.BUILD,
    ),
    Step(
        tr("Is it joined?"),
        tr(
            "Four structures carry a broken thread. With the tool “Route”, click the loom hall S1 and then "
            "the dye works S11 in the south-west: the break is shown. Draw one cell of road across it."
        ),
        Stage.WAYS,
    ),
    Step(
        tr("Does it move?"),
        tr(
            "Add the route as a trip and let it run; click a vehicle to ask why it stands. Then save the plan with Ctrl+S: it is "
            "a JSON file that your game can read. F1 shows every key."
        ),
        Stage.TRAFFIC,
    ),
)


class Tour(Floating):
    """A card in the corner of the sheet. It changes the stage and nothing else."""

    rank = 1

    def __init__(self, session: Session, sheet: Sheet, theme: Theme) -> None:
        super().__init__(sheet, theme, "madder")
        self._session = session
        self.at = 0
        self.title = heading("")
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setIndent(0)
        self.count = Label()
        self.count.setObjectName("muted")
        self.back, self.on = QPushButton(tr("Back")), QPushButton(tr("Next"))
        self.end = QPushButton(tr("End the tour"))
        self.back.clicked.connect(lambda: self.go(self.at - 1))
        self.on.clicked.connect(lambda: self.go(self.at + 1))
        self.end.clicked.connect(self.finish)
        row = QHBoxLayout()
        row.addWidget(self.count)
        row.addStretch(1)
        for button in (self.end, self.back, self.on):
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 10)
        column.addWidget(self.title)
        column.addWidget(self.words)
        column.addLayout(row)

    def offer(self) -> None:
        """Begin, unless it was seen or ended before."""
        if not kept.switch("toured", False):
            self.begin()

    def begin(self) -> None:
        self.go(0)
        self.come_up()

    def go(self, at: int) -> None:
        """Show a step; beyond the last one the tour is over."""
        if at >= len(STEPS):
            self.finish()
            return
        self.at = max(0, at)
        step = STEPS[self.at]
        self.title.setText(step.title)
        self.words.setText(step.words)
        self.setAccessibleName(
            tr(
                "Tour, step {at}: {title} {words}",
                at=self.at + 1,
                title=step.title,
                words=step.words,
            )
        )
        self.count.setText(tr("{at} of {count}", at=self.at + 1, count=len(STEPS)))
        self.back.setEnabled(self.at > 0)
        self.on.setText(tr("Next") if self.at < len(STEPS) - 1 else tr("Done"))
        self._session.set_stage(step.stage)
        if step.stage is Stage.WAYS:
            self._session.choices.set_way_tool(WayTool.ROUTE)
            self._session.reveal.emit(Cell(16, 28))
        self.place()

    def finish(self) -> None:
        kept.keep("toured", True)
        self.hide()

    def place(self) -> None:
        wide = em(WIDTH)
        self.setFixedSize(wide, self.words.heightForWidth(wide - 28) + em(92))
        self.move(self._over.width() - wide - 14, 50)
