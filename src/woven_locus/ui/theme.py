"""The two themes as Qt sees them: palette, style sheet, fonts."""

from __future__ import annotations

import math
from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFont,
    QFontDatabase,
    QFontInfo,
    QFontMetricsF,
    QGuiApplication,
    QPalette,
)
from PyQt6.QtWidgets import QApplication

from woven_locus.core.render import DARK, LIGHT, Palette
from woven_locus.ui import kept

CHOICES = ("system", "light", "dark")


class Theme(QObject):
    """The palette in force. Follows the desktop unless the user chose."""

    changed = pyqtSignal()

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self._app = app
        self.choice = kept.text("theme", "system", CHOICES)
        self.palette: Palette = LIGHT
        hints = QGuiApplication.styleHints()
        assert hints is not None
        hints.colorSchemeChanged.connect(lambda _scheme: self._apply())
        self._apply()

    def choose(self, choice: str) -> None:
        """One of CHOICES; kept for the next start."""
        self.choice = choice
        kept.keep("theme", choice)
        self._apply()

    def _apply(self) -> None:
        hints = QGuiApplication.styleHints()
        assert hints is not None
        system_dark = hints.colorScheme() == Qt.ColorScheme.Dark
        dark = self.choice == "dark" or (self.choice == "system" and system_dark)
        self.palette = DARK if dark else LIGHT
        self._app.setPalette(_qt_palette(self.palette))
        self._app.setStyleSheet(_style_sheet(self.palette))
        self.changed.emit()


@lru_cache(maxsize=256)
def colour(text: str, alpha: int = 255) -> QColor:
    """A palette entry as a QColor; cached, never change it."""
    made = QColor(text)
    made.setAlpha(alpha)
    return made


# The size that all others are given for; the desktop's own makes everything larger or smaller.
_POINTS = 10.0


def font_scale() -> float:
    """How much larger than designed the desktop's font is."""
    font = QApplication.font()
    points = font.pointSizeF()
    if points <= 0:  # it is given in pixels
        points = QFontInfo(font).pointSizeF()
    return min(3.0, max(0.6, points / _POINTS))


def em(length: float) -> int:
    """A length that belongs to text, as it is where the font has the size designed for."""
    return math.ceil(length * font_scale())


def text_font(size: int = 10, bold: bool = False) -> QFont:
    font = QFont(QApplication.font())
    font.setPointSizeF(size * font_scale())
    font.setBold(bold)
    return font


def number_font(size: int = 9) -> QFont:
    """A face whose figures are equally wide. Shared: not to be changed."""
    return _number_font(size, font_scale(), _faces.get("fixed", ""))


@lru_cache(maxsize=64)
def _number_font(size: int, scale: float, family: str) -> QFont:
    font = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
    if family:
        font.setFamily(family)
    font.setPointSizeF(size * scale)
    return font


def row_height(font: QFont, room: int = 4, least: float = 0) -> int:
    """Pixels of a row of text: its face's own height, whatever face that is."""
    return max(math.ceil(QFontMetricsF(font).height()) + room, em(least))


_faces: dict[str, str] = {}


def use_faces(text: str, fixed: str, points: float) -> None:
    """Named faces in place of the desktop's: for pictures that are the same everywhere, and for tests."""
    _faces["fixed"] = fixed
    font = QFont(text)
    font.setPointSizeF(points)
    QApplication.setFont(font)


def _qt_palette(palette: Palette) -> QPalette:
    role = QPalette.ColorRole
    out = QPalette()
    pairs = {
        role.Window: palette.panel,
        role.WindowText: palette.ink,
        role.Base: palette.paper,
        role.AlternateBase: palette.panel,
        role.Text: palette.ink,
        role.Button: palette.raised,
        role.ButtonText: palette.ink,
        role.ToolTipBase: palette.raised,
        role.ToolTipText: palette.ink,
        role.Highlight: palette.indigo,
        role.HighlightedText: palette.paper,
        role.PlaceholderText: palette.muted,
        role.Light: palette.raised,
        role.Mid: palette.line,
        role.Dark: palette.line,
    }
    for name, value in pairs.items():
        out.setColor(name, QColor(value))
    for name in (role.Text, role.ButtonText, role.WindowText):
        out.setColor(QPalette.ColorGroup.Disabled, name, QColor(palette.muted))
    return out


def _style_sheet(p: Palette) -> str:
    # The style's own boxes are drawn in shades of the window, which vanish in the dark theme.
    line = row_height(text_font(10), 0, 16)
    icons = Path(__file__).with_name("icons").as_posix()
    tick, down, up = (f"{icons}/{name}-{p.name}.svg" for name in ("tick", "down", "up"))
    return f"""
QMainWindow, QDialog {{ background: {p.panel}; }}
QWidget#bench, QWidget#reading, QWidget#tray {{ background: {p.panel}; }}
QLabel#heading {{ color: {p.ink}; font-weight: bold; padding-top: 4px; }}
QLabel#muted {{ color: {p.muted}; }}
QLabel#bad {{ color: {p.madder}; }}
QMenuBar, QStatusBar {{ background: {p.panel}; color: {p.ink}; }}
QMenuBar::item {{ padding: 4px 8px; background: transparent; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {p.indigo}; color: {p.paper}; }}
QMenu {{ background: {p.panel}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
QMenu::item {{ padding: 4px 24px 4px 20px; }}
QMenu::item:disabled {{ color: {p.muted}; }}
QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px; }}
QPushButton, QToolButton {{
  background: {p.raised}; color: {p.ink}; border: 1px solid {p.edge}; border-radius: 3px;
  padding: 4px 10px; min-height: {line}px;
}}
QPushButton:hover, QToolButton:hover {{ border-color: {p.indigo}; }}
QPushButton:focus, QToolButton:focus {{ border: 2px solid {p.indigo}; padding: 3px 9px; }}
QPushButton:checked, QToolButton:checked {{
  background: {p.indigo}; color: {p.paper}; border-color: {p.indigo};
}}
QPushButton:disabled, QToolButton:disabled {{
  color: {p.muted}; background: {p.panel}; border-color: {p.line};
}}
QFileDialog QToolButton {{ padding: 2px; min-width: 0; min-height: 0; }}
QFileDialog QToolButton:focus {{ padding: 1px; }}
QToolButton#section {{
  background: transparent; border: none; font-weight: bold; padding: 4px 0;
}}
QToolButton#section:checked {{ background: transparent; color: {p.ink}; }}
QToolButton#section:hover {{ color: {p.indigo}; }}
QToolButton#section:focus {{ color: {p.indigo}; border: none; padding: 4px 0; }}
QLineEdit {{
  background: {p.paper}; color: {p.ink}; border: 1px solid {p.edge}; border-radius: 3px;
  padding: 3px 4px; min-height: {line}px; selection-background-color: {p.indigo};
}}
QLineEdit:focus {{
  border-color: {p.indigo};
}}
QComboBox {{
  background: {p.paper}; color: {p.ink}; border: 1px solid {p.edge}; border-radius: 3px;
  padding: 3px 4px 3px 6px; min-height: {line}px; selection-background-color: {p.indigo};
}}
QComboBox:hover, QComboBox:focus, QComboBox:on {{ border-color: {p.indigo}; }}
QComboBox:disabled {{ color: {p.muted}; background: {p.panel}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url("{down}"); width: 14px; height: 14px; }}
QComboBox QAbstractItemView {{
  background: {p.paper}; color: {p.ink}; border: 1px solid {p.line}; outline: none;
  selection-background-color: {p.indigo}; selection-color: {p.paper};
}}
QAbstractSpinBox {{
  background: {p.paper}; color: {p.ink}; border: 1px solid {p.edge}; border-radius: 3px;
  padding: 2px 0 2px 4px; min-height: {line}px; selection-background-color: {p.indigo};
}}
QAbstractSpinBox:focus {{ border-color: {p.indigo}; }}
QAbstractSpinBox:disabled {{ color: {p.muted}; background: {p.panel}; border-color: {p.line}; }}
QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{
  subcontrol-origin: border; width: 17px; border: none; background: transparent;
}}
QAbstractSpinBox::up-button {{ subcontrol-position: top right; margin: 2px 2px 0 0; }}
QAbstractSpinBox::down-button {{ subcontrol-position: bottom right; margin: 0 2px 2px 0; }}
QAbstractSpinBox::up-button:hover, QAbstractSpinBox::down-button:hover {{ background: {p.raised}; }}
QAbstractSpinBox::up-arrow {{ image: url("{up}"); width: 10px; height: 10px; }}
QAbstractSpinBox::down-arrow {{ image: url("{down}"); width: 10px; height: 10px; }}
QTableView, QListView, QTreeView {{
  background: {p.paper}; color: {p.ink}; border: none; gridline-color: {p.line};
  alternate-background-color: {p.panel}; selection-background-color: {p.indigo};
  selection-color: {p.paper};
}}
QListView::item {{ padding: 2px 4px; }}
QTreeView::item {{ padding: 3px 4px; }}
QTreeView::item:disabled {{ color: {p.muted}; }}
QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
QHeaderView::section {{
  background: {p.raised}; color: {p.ink}; border: none; border-right: 1px solid {p.line};
  border-bottom: 1px solid {p.line}; padding: 3px 6px;
}}
QTabWidget::pane {{ border: none; border-top: 1px solid {p.line}; }}
QTabBar::tab {{
  background: transparent; color: {p.muted}; padding: 4px 9px; border-bottom: 2px solid transparent;
}}
QTabBar::tab:selected {{ color: {p.ink}; border-bottom: 2px solid {p.madder}; }}
QTabBar QToolButton {{ padding: 0; min-height: 0; border-radius: 0; }}
QTabBar::tab:focus {{ color: {p.indigo}; }}
QScrollArea {{ border: none; background: {p.panel}; }}
QScrollBar:vertical {{ background: {p.panel}; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: {p.panel}; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {p.line}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QSplitter::handle {{ background: {p.line}; }}
QToolTip {{ background: {p.raised}; color: {p.ink}; border: 1px solid {p.line}; padding: 3px; }}
QFrame#bar {{ background: {p.raised}; border-bottom: 1px solid {p.line}; }}
QFrame#rule {{ background: {p.line}; max-height: 1px; border: none; }}
QProgressBar {{
  background: {p.paper}; border: 1px solid {p.line}; border-radius: 3px; text-align: center;
}}
QProgressBar::chunk {{ background: {p.woad}; }}
QRadioButton, QCheckBox {{ color: {p.ink}; spacing: 6px; padding: 2px; }}
QCheckBox::indicator, QRadioButton::indicator {{
  width: 13px; height: 13px; border: 1px solid {p.muted}; border-radius: 2px; background: {p.paper};
}}
QRadioButton::indicator {{ width: 12px; height: 12px; border-radius: 7px; }}
QCheckBox::indicator:checked {{
  background: {p.indigo}; border-color: {p.indigo}; image: url("{tick}");
}}
QRadioButton::indicator:checked {{
  border-color: {p.indigo};
  background: qradialgradient(cx: 0.5, cy: 0.5, radius: 0.5, fx: 0.5, fy: 0.5,
    stop: 0 {p.indigo}, stop: 0.55 {p.indigo}, stop: 0.62 {p.paper}, stop: 1 {p.paper});
}}
QCheckBox::indicator:disabled, QRadioButton::indicator:disabled {{ border-color: {p.line}; }}
QCheckBox::indicator:focus, QRadioButton::indicator:focus {{ border: 2px solid {p.indigo}; }}
QRadioButton:focus, QCheckBox:focus {{ color: {p.indigo}; }}
"""
