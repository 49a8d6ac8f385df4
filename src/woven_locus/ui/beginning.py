"""What to do first on an empty stage: two lines on the sheet, with the keys that are in force."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QVBoxLayout

from woven_locus.core.plan import Plan
from woven_locus.core.value import Value
from woven_locus.ui.language import tr
from woven_locus.ui.parts.floating import Floating
from woven_locus.ui.parts.widgets import Label, heading
from woven_locus.ui.session.session import Session
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.sheet.overlays import scales
from woven_locus.ui.sheet.view import Sheet
from woven_locus.ui.theme import Theme, em

# Rows that are looked at together; how long after an edit one looks.
_ROWS, SOON_MSEC = 64, 200


class Beginning(Value):
    """is_empty(plan) : whether nothing of a stage is there.  title, words : what is said then; {name} is an action's key."""

    is_empty: Callable[[Plan], bool]
    title: str
    words: str


def _any(layer: npt.NDArray[np.uint8]) -> bool:
    """Whether a layer holds anything; of one that does only the first rows are looked at, as a rule."""
    return any(layer[row : row + _ROWS].any() for row in range(0, len(layer), _ROWS))


BEGINNINGS = {
    Stage.GROUND: Beginning(
        lambda plan: plan.heights is None and not _any(plan.terrain),
        tr("The ground is all of one class."),
        tr(
            "Choose a class on the left and paint: {ground.brush} is the brush, {ground.fill} fills. Or drop a heightmap here."
        ),
    ),
    Stage.BUILD: Beginning(
        lambda plan: not len(plan.register),
        tr("Nothing stands yet."),
        tr(
            "Take a kind off the shelf and click where it goes; {build.where} shows where it could, {build.near} the nearest spot."
        ),
    ),
    Stage.WAYS: Beginning(
        lambda plan: not _any(plan.road),
        tr("No road runs yet."),
        tr("{ways.road} draws one, from one structure to the next; {ways.route} then finds a way."),
    ),
    Stage.TRAFFIC: Beginning(
        lambda plan: not (plan.traffic.trips or plan.traffic.rules),
        tr("Nobody is under way."),
        tr(
            "Find a route in Ways ({ways.route}) and add it here as a trip; {traffic.run} lets it run."
        ),
    ),
    Stage.WAVES: Beginning(
        lambda plan: not (plan.waves.entries and plan.waves.goals),
        tr("Nobody comes yet."),
        tr(
            "{waves.entry} sets where attackers come from, {waves.goal} where they go to; waves are made on the left."
        ),
    ),
}


class BeginningCard(Floating):
    """At the head of the sheet, as long as its stage is empty and nothing is in hand. The pointer goes through it."""

    def __init__(
        self, session: Session, sheet: Sheet, theme: Theme, key_of: Callable[[str], str]
    ) -> None:
        """key_of(name) : the key of an action, portable text; empty for none."""
        super().__init__(sheet, theme, "line")
        self._session, self._key_of = session, key_of
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.title, self.words = heading(""), Label()
        self.words.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 8)
        column.addWidget(self.title)
        column.addWidget(self.words)
        for signal in (
            session.choices.stage_changed,
            session.hand.changed,
            session.replaced,
        ):
            signal.connect(self.look)
        # Not in the frame of an edit.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self.look)
        session.changed.connect(lambda _notice: self._soon.start())
        self.look()

    def look(self) -> None:
        """Whether the stage is empty, and what is said then."""
        beginning = BEGINNINGS.get(self._session.choices.stage)
        plan = self._session.plan
        if beginning is None or not self._session.hand.empty or not beginning.is_empty(plan):
            self.hide()
            return
        self.title.setText(beginning.title)
        self.words.setText(self._worded(beginning.words))
        self.come_up()

    def _worded(self, words: str) -> str:
        found = words
        while "{" in found:
            start, end = found.index("{"), found.index("}")
            key = QKeySequence(self._key_of(found[start + 1 : end]))
            shown = key.toString(QKeySequence.SequenceFormat.NativeText) or tr("the menu")
            found = found[:start] + shown + found[end + 1 :]
        return found

    def place(self) -> None:
        wide = min(em(430), self._over.width() - scales.left() - 40)
        layout = self.layout()
        assert layout is not None
        # The edge of the card is drawn within its size.
        self.setFixedSize(wide, layout.totalHeightForWidth(wide - 4) + 6)
        self.move(scales.left() + 12, scales.top() + 12)
