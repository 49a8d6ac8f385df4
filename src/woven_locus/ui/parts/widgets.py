"""Small things that several panels are made of."""

from __future__ import annotations

import math
from collections.abc import Callable
from html import escape

from PyQt6.QtCore import QEvent, QObject, QPointF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QAction,
    QFontMetricsF,
    QGuiApplication,
    QPaintEvent,
    QPalette,
    QResizeEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from woven_locus.ui.language import tr
from woven_locus.ui.parts.drawing import painting
from woven_locus.ui.parts.number_boxes import NumberBox, WholeBox
from woven_locus.ui.theme import number_font


class Label(QLabel):
    """Plain text: what a plan, a file or a journal says is shown as it stands, and nothing is loaded
    because it looks like markup."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class List(QListWidget):
    """Rows as high as the style wants them: Qt lays them out when they are added, and keeps that when the style comes later."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.scheduleDelayedItemsLayout()


class Elided(Label):
    """One line of muted words, cut where there is no room; all of it is in its tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("muted")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._whole = ""

    def text(self) -> str:
        return self._whole

    def setText(self, text: str | None) -> None:
        self._whole = text or ""
        self.setToolTip(tip(self._whole))
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        cut = self.fontMetrics().elidedText(
            self._whole, Qt.TextElideMode.ElideRight, max(40, self.width())
        )
        super().setText(cut)


def tip(text: str) -> str:
    """A tooltip that says just this. Qt guesses whether one is markup; here it never is."""
    return f"<qt>{escape(text)}</qt>" if "<" in text or "&" in text else text


def heading(text: str) -> QLabel:
    label = Label(text)
    label.setObjectName("heading")
    label.setIndent(0)
    return label


def muted(text: str = "") -> QLabel:
    label = Label(text)
    label.setObjectName("muted")
    label.setIndent(0)
    label.setWordWrap(True)
    return label


# Characters of a line of figures that always have room; a longer one is cut off at the panel's edge rather
# than that the whole panel is laid out anew under the pointer.
_LINE = 34


class Figures(Label):
    """Lines of figures."""

    def minimumSizeHint(self) -> QSize:
        hint = super().minimumSizeHint()
        return QSize(
            min(hint.width(), _LINE * self.fontMetrics().averageCharWidth()), hint.height()
        )


class FigureLines(QLabel):
    """Lines of figures that are others with every move of the pointer. A label would have its whole panel laid
    out anew each time; this one keeps its size as long as it has as many lines."""

    def __init__(self) -> None:
        super().__init__()
        self._lines: list[str] = []
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setFont(number_font(9))
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        _may_be_copied(self, self.text)

    def text(self) -> str:
        return "\n".join(self._lines)

    def setText(self, text: str | None) -> None:
        lines = (text or "").split("\n")
        if lines == self._lines:
            return
        grows = len(lines) != len(self._lines)
        self._lines = lines
        self.setAccessibleName(self.text().strip())
        if grows:
            self.updateGeometry()
        self.update()

    def _line(self) -> float:
        return max(QFontMetricsF(self.font()).lineSpacing(), self.fontMetrics().height())

    def sizeHint(self) -> QSize:
        wide = round(_LINE * QFontMetricsF(self.font()).averageCharWidth())
        return QSize(wide, math.ceil(len(self._lines) * self._line()))

    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.setPen(self.palette().color(QPalette.ColorRole.WindowText))
            metrics = QFontMetricsF(self.font())
            step, y, room = self._line(), metrics.ascent(), self.width()
            most = room / max(1.0, metrics.averageCharWidth())
            for at, line in enumerate(self._lines):
                if len(line) > most:
                    # The face has one width for all characters.
                    line = metrics.elidedText(line, Qt.TextElideMode.ElideRight, room)
                if line:
                    painter.drawText(QPointF(0, y + at * step), line)


def figures(text: str = "", wraps: bool = False) -> QLabel:
    """Numbers in a face of equal widths, with a menu to copy them.  wraps : long lines go on below.

    Not selectable: a label that is lays its text out as a document at every change, and these
    change with every move of the pointer.
    """
    label: Label = Label(text) if wraps else Figures(text)
    label.setWordWrap(wraps)
    label.setFont(number_font(9))
    _may_be_copied(label, label.text)
    return label


def _may_be_copied(widget: QWidget, text: Callable[[], str]) -> None:
    """A menu with Copy in it."""
    copy = QAction(tr("Copy"), widget)
    copy.triggered.connect(lambda: copy_text(text()))
    widget.addAction(copy)
    widget.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)


def copy_text(text: str) -> None:
    """Put a text on the clipboard."""
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)


def rule() -> QFrame:
    line = QFrame()
    line.setObjectName("rule")
    line.setFixedHeight(1)
    return line


class WorldBox(NumberBox):
    """A world coordinate or size."""


def whole_box(value: int, low: int, high: int, name: str) -> WholeBox:
    """A whole number with its accessible name."""
    box = WholeBox(value, low, high)
    box.setAccessibleName(name)
    return box


def world_box(value: float, low: float, high: float, name: str) -> WorldBox:
    """A world value with its accessible name."""
    box = WorldBox(value, low, high)
    box.setAccessibleName(name)
    return box


def side_by_side(*widgets: QWidget) -> QWidget:
    """Widgets in a row that share its width, for one line of a form."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(6)
    for widget in widgets:
        if isinstance(widget, QAbstractSpinBox):
            # It asks for room for its largest number; here it gets its share.
            widget.setMinimumWidth(40)
        widget.setSizePolicy(QSizePolicy.Policy.Expanding, widget.sizePolicy().verticalPolicy())
        row.addWidget(widget, 1)
    return holder


class Strip(QScrollArea):
    """A row of controls that scrolls sideways where there is no room for all of them. `row` takes them."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        inner = QWidget()
        inner.setObjectName("strip")
        self.row = QHBoxLayout(inner)
        self.row.setContentsMargins(6, 3, 6, 0)
        self.row.setSpacing(6)
        self.setWidget(inner)
        bar = self.horizontalScrollBar()
        assert bar is not None
        self._bar = bar
        # Not at once: a layout that is being worked out takes no other size.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._fit)
        bar.rangeChanged.connect(lambda _low, _high: self._soon.start())
        inner.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self._soon.start()
        return super().eventFilter(watched, event)

    def _fit(self) -> None:
        self.setFixedHeight(self._tall())

    def sizeHint(self) -> QSize:
        return QSize(120, self._tall())

    def minimumSizeHint(self) -> QSize:
        return QSize(60, self._tall())

    def _tall(self) -> int:
        """The row, and the bar below it where it has to be scrolled."""
        scrolls = self._bar.maximum() > 0
        return self.row.sizeHint().height() + scrolls * self._bar.sizeHint().height()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._soon.start()


class Section(QWidget):
    """A part of a page under a heading that folds it. `body` takes its widgets."""

    def __init__(self, title: str, unfolded: bool = True) -> None:
        super().__init__()
        self.title = QToolButton()
        self.title.setObjectName("section")
        self.title.setText(title)
        self.title.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.title.setCheckable(True)
        self.title.setAccessibleName(tr("{title}: fold or unfold", title=title))
        inner = QWidget()
        self.body = QVBoxLayout(inner)
        self.body.setContentsMargins(0, 0, 0, 4)
        self.body.setSpacing(6)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.title)
        column.addWidget(inner)
        self._inner = inner
        self.title.toggled.connect(self._fold)
        self.title.setChecked(unfolded)
        self._fold(unfolded)

    def _fold(self, unfolded: bool) -> None:
        arrow = Qt.ArrowType.DownArrow if unfolded else Qt.ArrowType.RightArrow
        self.title.setArrowType(arrow)
        self._inner.setVisible(unfolded)


def quietly(widget: QWidget, change: Callable[[], object]) -> None:
    """Change a widget without its telling anybody."""
    blocked = widget.blockSignals(True)
    change()
    widget.blockSignals(blocked)


def set_quietly(box: QSpinBox | QDoubleSpinBox, value: float) -> None:
    """A number into a box without its telling anybody."""
    if isinstance(box, QSpinBox):
        quietly(box, lambda: box.setValue(int(value)))
    else:
        quietly(box, lambda: box.setValue(value))


class ComboBox(QComboBox):
    """One that says what it is for: a screen reader calls it by its value."""

    def setAccessibleName(self, name: str | None) -> None:
        super().setAccessibleName(name)
        self.setAccessibleDescription(name)


# In a window of fewer pixels, or of less than so many panels, these may be cut and are scrolled sideways.
NARROW, PANELS = 940, 3.2


def has_room(panel: QWidget, width: int) -> bool:
    """Whether a panel of so many pixels leaves the sheet enough of its window."""
    window = panel.window()
    assert window is not None
    return window.width() >= max(NARROW, PANELS * width)


class Page(QScrollArea):
    """A column of a panel that scrolls when the window is low."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        # It takes the focus, so that keys can scroll it.
        self.setAccessibleName(tr("Bench") if name == "bench" else tr("Reading"))
        inner = QWidget()
        inner.setObjectName(name)
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(12, 8, 12, 12)
        self.column.setSpacing(8)
        self.setWidget(inner)

    def prepare(self) -> bool:
        """Make one more thing ahead of the first look at it; False when all are there."""
        return False

    def needed_width(self) -> int:
        """Pixels in which nothing in it is cut off at the side."""
        inner, bar = self.widget(), self.verticalScrollBar()
        assert inner is not None
        assert bar is not None
        return inner.minimumSizeHint().width() + bar.sizeHint().width()
