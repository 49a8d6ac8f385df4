"""The Thread: the stages in working order on a stitched line, each with what is unresolved there."""

from __future__ import annotations

import time
from itertools import pairwise

from PyQt6.QtCore import QLineF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from woven_locus.core.proof.finding import Part, Severity
from woven_locus.ui.desk import Desk
from woven_locus.ui.language import counted, tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.session.stages import Stage
from woven_locus.ui.theme import Theme, colour, row_height, text_font

# Time for judging what stands, in one turn of the event loop.
WORK_SECONDS = 0.006
SOON_MSEC = 60
# As long as it goes on, what is found is counted once in so many seconds.
WHILE_LOOKING = 0.3
_BEAD = 7


def thread_height() -> int:
    """Of the strip: a line of text with some room."""
    return row_height(text_font(10, bold=True), 16, 40)


class StageButton(QAbstractButton):
    """A bead on the thread with the stage's name, and a small count when something is open."""

    def __init__(self, stage: Stage, key: str, theme: Theme) -> None:
        super().__init__()
        self.stage, self._theme = stage, theme
        self.count, self._of_what = -1, ""
        self.setText(tr(stage.value))
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._key = key
        self.set_count(0, "")

    def set_count(self, count: int, of_what: str) -> None:
        if (count, of_what) == (self.count, self._of_what):
            return
        self.count, self._of_what = count, of_what
        open_words = f": {count} {of_what}" if count else ""
        self.setAccessibleName(
            tr("Stage {text}{open_words}", text=self.text(), open_words=open_words)
        )
        self.setToolTip(f"{self.text()} ({self._key}){open_words}")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        metrics = QFontMetricsF(text_font(10, bold=True))
        badge = int(self._badge_width()) + 10 if self.count else 0
        return QSize(int(metrics.horizontalAdvance(self.text())) + 44 + badge, thread_height())

    @property
    def _badge_text(self) -> str:
        return str(self.count) if self.count < 1000 else "999+"

    def _badge_width(self) -> float:
        metrics = QFontMetricsF(text_font(8, bold=True))
        return max(16.0, metrics.horizontalAdvance(self._badge_text) + 8)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        bead = QRectF(8, middle - _BEAD, 2 * _BEAD, 2 * _BEAD)
        ink = colour(palette.madder if self.isChecked() else palette.muted)
        painter.setPen(QPen(ink, 2))
        painter.setBrush(ink if self.isChecked() else colour(palette.panel))
        painter.drawEllipse(bead)
        if self.isChecked():
            painter.setBrush(colour(palette.panel))
            painter.drawEllipse(bead.center(), 1.5, 1.5)
        font = text_font(10, bold=self.isChecked())
        painter.setFont(font)
        painter.setPen(colour(palette.ink if self.isChecked() else palette.muted))
        if self.underMouse():
            painter.setPen(colour(palette.ink))
        wide = QFontMetricsF(font).horizontalAdvance(self.text())
        left = bead.right() + 7
        align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(left, 0, wide + 4, self.height()), align, self.text())
        if self.count:
            self._badge(painter, left + wide + 7, middle)
        if self.hasFocus():
            painter.setPen(QPen(colour(palette.indigo), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1.5, 5.5, self.width() - 3, self.height() - 11))

    def _badge(self, painter: QPainter, x: float, middle: float) -> None:
        palette = self._theme.palette
        painter.setFont(text_font(8, bold=True))
        tall = row_height(painter.font(), 2)
        rect = QRectF(x, middle - tall / 2, self._badge_width(), tall)
        painter.setPen(QPen(colour(palette.madder), 1.2))
        painter.setBrush(colour(palette.paper))
        painter.drawRoundedRect(rect, 3, 3)
        painter.setPen(colour(palette.madder))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, self._badge_text)


class Thread(QWidget):
    """All stages. Choosing one changes tools, overlay and tray, never the plan or the view."""

    def __init__(self, desk: Desk, theme: Theme, keys: dict[Stage, str]) -> None:
        super().__init__()
        self._desk, session = desk, desk.session
        self.setObjectName("thread")
        self.setFixedHeight(thread_height())
        self._session, self._theme = session, theme
        self.buttons: dict[Stage, StageButton] = {}
        group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 8, 0)
        row.setSpacing(28)
        self._row = row
        # Structures when they were counted last, and whether those were all.
        self._unsound: tuple[frozenset[int], bool] = (frozenset(), True)
        self._begun = False
        self._next = 0.0
        for stage in Stage:
            button = StageButton(stage, keys[stage], theme)
            button.clicked.connect(lambda _on, stage=stage: session.set_stage(stage))
            group.addButton(button)
            row.addWidget(button)
            self.buttons[stage] = button
        row.addStretch(1)
        # Counts may lag a little behind a drag; they must not slow it down.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MSEC)
        self._soon.timeout.connect(self.count)
        session.changed.connect(lambda _notice: self._count_soon())
        session.settled.connect(self._count_soon)
        desk.routes.changed.connect(self._count_soon)
        desk.proof.changed.connect(self._count_soon)
        session.replaced.connect(self._count_soon)
        session.choices.stage_changed.connect(self._show_stage)
        theme.changed.connect(self.update)
        self._show_stage()

    def start(self) -> None:
        """Count for the first time, once the window has been drawn."""
        self._begun = True
        self._soon.start()
        self._desk.proof.begin()

    def _count_soon(self) -> None:
        if self._begun:
            self._soon.start(SOON_MSEC)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._space()

    def _space(self) -> None:
        """Closer together where the window is narrow or the font large."""
        buttons = self.buttons.values()
        free = self.width() - 16 - sum(button.sizeHint().width() for button in buttons)
        spacing = min(28, max(2, free // (len(buttons) - 1)))
        if spacing != self._row.spacing():
            self._row.setSpacing(spacing)

    def minimumSizeHint(self) -> QSize:
        wide = sum(button.sizeHint().width() + 2 for button in self.buttons.values())
        return QSize(16 + wide, thread_height())

    def _show_stage(self) -> None:
        self.buttons[self._session.choices.stage].setChecked(True)
        self.update()

    def count(self) -> None:
        """Work out what is unresolved in each stage."""
        document, proof = self._desk.session.document, self._desk.proof
        bad, done = document.known_unsound(WORK_SECONDS)
        if not done:
            self._soon.start(1)
            # To put thousands of findings into words takes longer than one step of looking for them.
            if time.monotonic() < self._next:
                return
        self._next = time.monotonic() + WHILE_LOOKING
        if (bad, done) != self._unsound:
            self._unsound = bad, done
            proof.renew()
        broken = sum(pin.answer is not None and not pin.answer for pin in document.routes.pins)
        for part in Part:
            found = proof.proof.open_in(part)
            words = tr(counted(found, "finding", "findings"))
            if part is Part.WAYS and broken:
                words += tr(", {routes} broken", routes=counted(broken, "{n} route", "{n} routes"))
                found += broken
            self.buttons[Stage(part.value)].set_count(found, words)
        errors = proof.proof.count(Severity.ERROR)
        self.buttons[Stage.PROOF].set_count(errors, tr(counted(errors, "error", "errors")))
        self._space()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        palette = self._theme.palette
        painter.fillRect(self.rect(), colour(palette.panel))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pen = QPen(colour(palette.madder), 2)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        buttons = list(self.buttons.values())
        for a, b in pairwise(buttons):
            y = self.height() / 2
            first, then = a.geometry(), b.geometry()
            if first.left() > then.left():  # right to left
                first, then = then, first
            painter.drawLine(QLineF(first.right() + 2, y, then.left() + 4, y))
        painter.setPen(QPen(colour(palette.line), 1))
        painter.drawLine(QLineF(0, self.height() - 0.5, self.width(), self.height() - 0.5))
