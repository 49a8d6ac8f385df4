"""What the window says: messages over the sheet, a question before work is lost, the status line."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRect, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QStatusBar,
    QToolButton,
    QWidget,
)

from woven_locus.core.geometry import cell_text
from woven_locus.core.grid.snapping import number
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.drawn import Drawn
from woven_locus.ui.parts.floating import Floating
from woven_locus.ui.parts.focus import focus_of, give_focus, has_focus
from woven_locus.ui.parts.widgets import Elided, Label
from woven_locus.ui.session.stages import Stage, SurveyTool, WaveTool
from woven_locus.ui.sheet.overlays import marks, scales
from woven_locus.ui.theme import Theme, em, number_font

# A note goes by itself; a refusal or an error stays until the next thing happens.
NOTE_MSEC = 5000
# How often the progress of a job is looked at.
_LOOK_MSEC = 250
# Pixels between a message and the place that is worked on.
ROOM = 16


class _Mark(Drawn):
    """The verdict's mark for a message's level."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.ok = True
        self.setFixedSize(18, 18)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(1, 1, 16, 16)
        (marks.free if self.ok else marks.blocked)(painter, self._theme.palette, area)


class MessageBar(Floating):
    """One line at the foot of the sheet, or at its head where the foot is worked on. It floats, so that the map never jumps."""

    rank = 2

    said = pyqtSignal()  # something new is shown

    def __init__(self, over: QWidget, theme: Theme) -> None:
        super().__init__(over, theme, "ink")
        self.level = ""
        self._above = self._gave = False
        self._mark = _Mark(theme)
        self.label = Label()
        self.label.setWordWrap(True)
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.label.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.offer = QPushButton()
        self.offer.hide()
        self.offer.clicked.connect(self._take_offer)
        self._offered: Callable[[], object] | None = None
        close = QToolButton()
        close.setAutoRaise(True)
        close.setStyleSheet("padding: 2px 6px; border: none;")
        close.setText("×")
        close.setAccessibleName(tr("Close this message"))
        close.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        close.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 6, 6, 6)
        row.addWidget(self._mark)
        row.addWidget(self.label, 1)
        row.addWidget(self.offer)
        row.addWidget(close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)

    def say(
        self,
        text: str,
        level: str,
        offer: str = "",
        offered: Callable[[], object] | None = None,
    ) -> None:
        """offer : the words of a button that does what is offered."""
        self.level = level
        self.offer.setText(offer)
        self.offer.setVisible(bool(offer))
        self._offered = offered
        self._mark.ok = level == "note"
        self._mark.update()
        self.label.setText(text)
        self.label.setAccessibleName(text)
        self._above = self._gave = False
        self.come_up()
        self.said.emit()
        self._timer.stop()
        if level == "note":
            self._timer.start(NOTE_MSEC)

    def _take_offer(self) -> None:
        offered = self._offered
        self.hide()
        if offered is not None:
            offered()

    def done_with(self) -> None:
        """The user goes on: a refusal has been read."""
        if self.level == "no":
            self.hide()

    def place(self) -> None:
        wide = min(em(640), self._over.width() - 80)
        button = self.offer.sizeHint().width() + 8 if self.offer.text() else 0
        tall = self.label.heightForWidth(wide - 96 - button)
        self.setFixedSize(wide, max(36, tall + 16))
        foot = self._over.height() - self.height() - 12
        self.move((self._over.width() + 56 - wide) // 2, scales.top() + 12 if self._above else foot)

    def give_way(self, worked_on: QRect, in_hand: bool) -> None:
        """To the other end of the sheet, from the place that is worked on. in_hand : something is about to be put there;
        else it goes once, so that whoever wants to close it or to copy its words can reach it."""
        near = worked_on.adjusted(-ROOM, -ROOM, ROOM, ROOM)
        if self.isVisible() and near.intersects(self.geometry()) and (in_hand or not self._gave):
            self._above, self._gave = not self._above, True
            self.place()


SAVE_LABELS = (tr("Save"), tr("Discard the changes"), tr("Keep working"))


class AskBar(QFrame):
    """A question in the window, under the Thread: save, discard, or keep working."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.label = Label()
        self.save, self.discard, self.keep = QPushButton(), QPushButton(), QPushButton()
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self.label, 1)
        for button in (self.save, self.discard, self.keep):
            row.addWidget(button)
        self._answer: Callable[[str], None] | None = None
        # What had the focus then, and gets it back.
        self._asked_at: QWidget | None = None
        for button, word in ((self.save, "save"), (self.discard, "discard"), (self.keep, "keep")):
            button.clicked.connect(lambda _on, word=word: self._answered(word))
        self.hide()

    def ask(
        self,
        text: str,
        answer: Callable[[str], None],
        labels: tuple[str, str, str] = SAVE_LABELS,
        *,
        overwrites: bool = False,
    ) -> None:
        """answer : called with "save", "discard" or "keep".  labels : of those three buttons.  overwrites :
        the first writes over something, so that Enter is the second's. A question that was not answered
        yet is given up, as by "keep"."""
        before, self._answer = self._answer, None
        if before is not None:
            before("keep")
        self.label.setText(text)
        for button, label in zip((self.save, self.discard, self.keep), labels, strict=True):
            button.setText(label)
        self.label.setAccessibleName(text)
        self._answer = answer
        if not has_focus(self):
            self._asked_at = focus_of(self)
        self.show()
        (self.discard if overwrites else self.save).setFocus()

    def _answered(self, word: str) -> None:
        answer, self._answer = self._answer, None
        if has_focus(self):
            give_focus(self._asked_at)
        self.hide()
        if answer is not None:
            answer(word)

    def give_up(self) -> bool:
        """Esc: the same as keeping on. False when nothing was asked."""
        if not self.isVisible():
            return False
        self._answered("keep")
        return True


class StatusLine(QStatusBar):
    """Pointer, cell, the stage's hint, and long work with a Stop button."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self._session = session
        self.setSizeGripEnabled(False)
        self.pointer, self.cell, self.hint = Label(), Label(), Elided()
        self.pointer.setFont(number_font(9))
        self.cell.setFont(number_font(9))
        self.pointer.setMinimumWidth(em(190))
        self.cell.setMinimumWidth(em(150))
        self.work = Label()
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.setFixedWidth(90)
        self.progress.setTextVisible(False)
        self.stop = QPushButton(tr("Stop"))
        self.stop.clicked.connect(session.jobs.stop_all)
        self.stop.clicked.connect(self._show_work)
        self.setContentsMargins(10, 0, 10, 0)
        self.addWidget(self.pointer)
        self.addWidget(self.cell)
        self.addWidget(self.hint, 1)
        for widget in (self.work, self.progress, self.stop):
            self.addPermanentWidget(widget)
        session.pointer.moved.connect(self._show_pointer)
        for signal in (
            session.choices.changed,
            session.hand.changed,
            session.reformed,
            desk.tools.stroked,
        ):
            signal.connect(self._show_hint)
        session.choices.stage_changed.connect(self._show_hint)
        session.selection.changed.connect(self._show_hint)
        session.replaced.connect(self._show_hint)
        session.jobs.changed.connect(self._show_work)
        self._background = ""
        # How far a job has come is told by nobody: it is looked at.
        self._again = QTimer(self)
        self._again.setInterval(_LOOK_MSEC)
        self._again.timeout.connect(self._show_work)
        self._show_pointer()
        self._show_hint()
        self._show_work()

    def _show_pointer(self) -> None:
        hover = self._session.pointer.hover
        if hover is None:
            self.pointer.setText(tr("pointer –"))
            self.cell.setText(tr("cell –"))
            return
        unit = self._session.plan.spec.unit
        self.pointer.setText(f"{number(hover.point.x)}, {number(hover.point.y)} {unit}")
        self.cell.setText(
            tr("cell {cell}", cell=cell_text(hover.cell))
            if hover.inside
            else tr("cell {cell} outside", cell=cell_text(hover.cell))
        )

    def _show_hint(self) -> None:
        hint = self._desk.tools.current.hint
        idle = (
            self._session.hand.kind is None
            and self._session.choices.survey.tool is SurveyTool.SELECT
        )
        if self._session.choices.stage is Stage.SURVEY and idle:
            hint = tr("Point at the sheet: the Reading shows where the rule snaps to, and why")
        elif self._session.choices.stage is Stage.TRAFFIC and self._session.hand.kind is None:
            hint = tr(
                "Add trips, let them run; click a vehicle to see where it goes and why it stands"
            )
        elif self._session.choices.stage is Stage.WAVES and self._idle_in_waves():
            hint = tr(
                "Take a tower or a maze piece in hand: the ways are shown as they would be; run the waves, click an attacker"
            )
        elif self._session.choices.stage is Stage.PROOF and self._session.hand.empty:
            hint = tr("Choose a finding to go there; mend it, or accept it with a reason")
        self.hint.setText(hint)

    def _idle_in_waves(self) -> bool:
        tool = self._session.choices.waves.tool
        return self._session.hand.kind is None and tool is WaveTool.SELECT

    def set_background(self, words: str) -> None:
        """Something that goes on by itself and needs no Stop."""
        self._background = words
        self._show_work()

    def _show_work(self) -> None:
        running = [job for job in self._session.jobs.running if not job.stopped]
        words = running[-1].label if running else self._background
        share = running[-1].control.share if running else 0.0
        left = running[-1].seconds_left() if running else None
        # Without a share the bar only says that something goes on.
        self.progress.setRange(0, 100 if share else 0)
        self.progress.setValue(round(100 * share))
        self.work.setText(words + (f", {left_words(left)}" if left is not None else ""))
        self.work.setVisible(bool(words))
        self.progress.setVisible(bool(words))
        self.stop.setVisible(bool(running))
        if running and not self._again.isActive():
            self._again.start()
        elif not running:
            self._again.stop()


def left_words(seconds: float) -> str:
    """How long something goes on, no more exactly than that is known."""
    if seconds < 2:
        return tr("a moment left")
    if seconds < 90:
        return tr(
            "about {seconds:.0f} s left",
            seconds=round(seconds, -1) if seconds > 20 else round(seconds),
        )
    return tr("about {seconds:.0f} min left", seconds=round(seconds / 60))
