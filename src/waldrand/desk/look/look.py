"""How Waldrand looks: spruce, bark, lichen, parchment and one amber accent, light and dark."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPalette

from .typeface import FAMILY


@dataclass(frozen=True)
class Look:
    """Colours as #rrggbb: desk (round the sheet), panel, card, line, ink, faint (ink), field, accent, on_accent, warn, link."""

    name: str
    desk: str
    panel: str
    card: str
    line: str
    ink: str
    faint: str
    field: str
    accent: str
    on_accent: str
    warn: str
    link: str


PARCHMENT = Look(
    "parchment", "#c9c7b4", "#ece5d5", "#f6f1e5", "#cfc5ae", "#2f2a24", "#776d5e", "#fffcf4", "#c98512", "#241a06", "#8a3b12", "#1f6657"
)
SPRUCE = Look(
    "spruce", "#161d1a", "#202924", "#2a352f", "#3d4a42", "#e6e2d3", "#a0a793", "#18201c", "#e0a12e", "#1d1503", "#f0a36c", "#9fd0b4"
)

#: Elements are told apart by colour and by hatch; both repeat after eight.
ELEMENT_COLOURS = ("#2f7d6b", "#b3562e", "#6b5fb0", "#9a8a1f", "#a8436f", "#3b78ad", "#5f8c34", "#7d5a3f")
HATCHES = (
    Qt.BrushStyle.BDiagPattern,
    Qt.BrushStyle.FDiagPattern,
    Qt.BrushStyle.HorPattern,
    Qt.BrushStyle.VerPattern,
    Qt.BrushStyle.DiagCrossPattern,
    Qt.BrushStyle.CrossPattern,
    Qt.BrushStyle.Dense6Pattern,
    Qt.BrushStyle.Dense7Pattern,
)


def element_colour(index: int) -> QColor:
    return QColor(ELEMENT_COLOURS[index % len(ELEMENT_COLOURS)])


def palette(look: Look) -> QPalette:
    p = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, look.panel),
        (QPalette.ColorRole.WindowText, look.ink),
        (QPalette.ColorRole.Base, look.field),
        (QPalette.ColorRole.AlternateBase, look.card),
        (QPalette.ColorRole.Text, look.ink),
        (QPalette.ColorRole.Button, look.card),
        (QPalette.ColorRole.ButtonText, look.ink),
        (QPalette.ColorRole.Highlight, look.accent),
        (QPalette.ColorRole.HighlightedText, look.on_accent),
        (QPalette.ColorRole.ToolTipBase, look.card),
        (QPalette.ColorRole.ToolTipText, look.ink),
        (QPalette.ColorRole.PlaceholderText, look.faint),
        (QPalette.ColorRole.Link, look.link),
        (QPalette.ColorRole.LinkVisited, look.link),
    ):
        p.setColor(role, QColor(colour))
    p.setColor(QPalette.ColorGroup.Disabled, QPalette.ColorRole.ButtonText, QColor(look.faint))
    p.setColor(QPalette.ColorGroup.Disabled, QPalette.ColorRole.Text, QColor(look.faint))
    return p


def style(look: Look, text: int = 14) -> str:
    """The style sheet of the whole window. text: pixels of its usual text."""
    return _grounds(look, text) + _controls(look, text)


def _grounds(look: Look, text: int) -> str:
    """Text, panels and fields."""
    return f"""
QWidget {{ color: {look.ink}; font-family: "{FAMILY}"; font-size: {text}px; }}
QMainWindow, QDialog, QMenuBar, QMenu, QStatusBar, #panel {{ background: {look.panel}; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {look.accent}; color: {look.on_accent}; }}
QMenu {{ border: 1px solid {look.line}; }}
QScrollArea {{ border: none; background: {look.panel}; }}
#card {{ background: {look.card}; border: 1px solid {look.line}; border-radius: 7px; }}
#card[chosen="true"] {{ border: 2px solid {look.accent}; }}
#floating {{ background: {look.card}; border: 1px solid {look.line}; border-radius: 8px; }}
#live {{ background: {look.card}; border: 1px solid {look.accent}; border-radius: 8px; padding: 1px 8px; color: {look.ink}; }}
#start {{ background: rgba(250, 246, 236, 225); border-radius: 10px; }}
#start QLabel {{ color: {PARCHMENT.ink}; }}
#grip {{ background: {look.accent}; border-radius: 3px; }}
#line {{ background: {look.line}; }}
#title {{ font-size: {text + 1}px; }}
QToolButton#rail {{ padding: 0; border-color: transparent; background: transparent; border-radius: 8px; }}
QToolButton#rail:hover {{ border-color: {look.line}; background: {look.card}; }}
QToolButton#rail:checked {{ background: {look.accent}; border-color: {look.accent}; }}
QToolButton#fold {{ border: none; background: transparent; padding: 2px 0; color: {look.faint}; }}
QToolButton#fold:checked {{ background: transparent; color: {look.ink}; }}
#heading {{ font-size: {text - 2}px; font-weight: 600; color: {look.faint}; letter-spacing: 1px; }}
#faint, #hint {{ color: {look.faint}; }}
#warning {{ color: {look.warn}; }}
QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox, QTextBrowser, QPlainTextEdit {{ background: {look.field}; border: 1px solid {look.line}; 
  border-radius: 5px; padding: 3px 6px; selection-background-color: {look.accent}; selection-color: {look.on_accent}; }}
QPlainTextEdit {{ padding: 2px 3px; }}
QLineEdit:focus, QPlainTextEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus, QComboBox:focus {{ border-color: {look.accent}; }}
QComboBox QAbstractItemView {{ background: {look.card}; }}
"""


def _controls(look: Look, text: int) -> str:
    """Buttons, ticks, bars and lists."""
    return f"""
QPushButton, QToolButton {{ background: {look.card}; border: 1px solid {look.line}; border-radius: 6px; padding: 4px 9px; }}
QPushButton:hover, QToolButton:hover {{ border-color: {look.accent}; }}
QPushButton:checked, QToolButton:checked {{ background: {look.accent}; color: {look.on_accent}; border-color: {look.accent}; }}
QPushButton:disabled, QToolButton:disabled {{ color: {look.faint}; }}
QPushButton#run {{ background: {look.accent}; color: {look.on_accent}; font-weight: 600; font-size: {text + 2}px;
  padding: 9px; border-radius: 8px; }}
QPushButton#run:disabled {{ background: {look.line}; color: {look.faint}; }}
QToolButton#tool {{ padding: 4px 4px; font-size: {text - 1}px; }}
QToolButton#tiny {{ padding: 1px 1px; }}
QToolButton#small {{ padding: 1px 5px; }}
QToolButton#small, QToolButton#tiny {{ border-color: transparent; background: transparent; }}
QToolButton#small:hover, QToolButton#tiny:hover {{ border-color: {look.accent}; }}
QCheckBox::indicator, QListWidget::indicator {{ width: 13px; height: 13px; }}
QCheckBox::indicator, QListWidget::indicator {{ border: 1px solid {look.faint}; border-radius: 3px; background: {look.field}; }}
QCheckBox::indicator:checked, QListWidget::indicator:checked {{ background: {look.accent}; border-color: {look.accent}; }}
QListWidget::indicator:checked:selected {{ border-color: {look.on_accent}; }}
QCheckBox::indicator:indeterminate, QListWidget::indicator:indeterminate {{ background: {look.line}; border-color: {look.accent}; }}
QCheckBox::indicator:focus {{ border-color: {look.ink}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({files("waldrand") / "data" / "look" / f"arrow-{look.name}.svg"}); width: 12px; height: 12px; }}
QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
QScrollBar::handle {{ background: {look.line}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QSlider::groove:horizontal {{ height: 4px; background: {look.line}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {look.accent}; border-radius: 2px; }}
QSlider::handle:horizontal {{ width: 14px; margin: -6px 0; border-radius: 7px; background: {look.accent}; border: 1px solid {look.panel}; }}
QProgressBar {{ border: none; background: {look.line}; border-radius: 3px; max-height: 6px; }}
QProgressBar::chunk {{ background: {look.accent}; border-radius: 3px; }}
QListWidget {{ background: {look.panel}; border: none; }}
QListWidget::item {{ border-radius: 6px; padding: 3px; }}
QListWidget::item:selected {{ background: {look.accent}; color: {look.on_accent}; }}
QListWidget#order::item {{ border: 1px solid {look.line}; background: {look.field}; padding: 1px 3px; margin: 1px; }}
QListWidget#order::item:selected {{ background: {look.accent}; color: {look.on_accent}; }}
#offers {{ background: {look.field}; border: 1px solid {look.accent}; border-radius: 5px; }}
QToolTip {{ background: {look.card}; color: {look.ink}; border: 1px solid {look.line}; padding: 4px; }}
QSplitter::handle {{ background: {look.line}; }}
QGraphicsView {{ border: none; }}
"""
