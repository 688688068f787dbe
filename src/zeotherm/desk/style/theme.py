"""Colours, type and sizes: the tokens every widget paints with."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cache
from importlib.resources import files
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette, QPen

FAMILY = "Atkinson Hyperlegible Next"
FALLBACKS = ("DejaVu Sans", "sans-serif")


@dataclass(frozen=True, slots=True)
class Tokens:
    """One theme's colours, by what they are for."""

    name: str
    sheet: str
    panel: str
    well: str
    line: str
    rule: str
    ink: str
    soft: str
    accent: str
    accentbg: str
    onaccent: str
    close: str
    closebg: str
    over: str
    overbg: str
    onover: str
    meas: str
    b: str
    sel: str
    flag: str
    ribbon: str

    def __getitem__(self, token: str) -> QColor:
        return _colour(getattr(self, token))


@cache  # asked for at every stroke that is painted
def _colour(name: str) -> QColor:
    return QColor(name)


LIGHT = Tokens(
    name="light", sheet="#F1F1EB", panel="#FBFBF8", well="#E6E7DF", line="#CBCDC3", rule="#858C85", ink="#182124",
    soft="#4C585B", accent="#026B72", accentbg="#D3E8E8", onaccent="#FFFFFF", close="#8A5D00", closebg="#FAEDCB",
    over="#8E0A2E", overbg="#F8DDE0", onover="#FFFFFF", meas="#1F4FBF", b="#7B3FA0", sel="#DCE5F7", flag="#FFFFFF",
    ribbon="#FFFFFF",
)  # fmt: skip
DARK = Tokens(
    name="dark", sheet="#12181A", panel="#1A2225", well="#0C1113", line="#344044", rule="#6A797D", ink="#EDF0EA",
    soft="#AEBABA", accent="#7CE0CC", accentbg="#16403D", onaccent="#06201E", close="#F2C45F", closebg="#43340F",
    over="#FF6F9F", overbg="#47142A", onover="#2A0610", meas="#9DB9FF", b="#C79BFF", sel="#22345C", flag="#0F1517",
    ribbon="#12181A",
)  # fmt: skip
THEMES = {"light": LIGHT, "dark": DARK}


class FontMissingError(RuntimeError):
    """The shipped font could not be loaded."""


@cache
def load_fonts() -> None:
    """Register the shipped font; raises FontMissingError, since without a font Qt draws no text at all."""
    folder = Path(str(files("zeotherm") / "desk" / "fonts"))
    loaded = [QFontDatabase.addApplicationFont(str(path)) for path in sorted(folder.glob("*.ttf"))]
    if not loaded or min(loaded) < 0 or FAMILY not in QFontDatabase.families():
        raise FontMissingError(f"The shipped font could not be loaded from {folder}. Install Zeotherm again.")


@dataclass
class _Look:
    tokens: Tokens = LIGHT
    scale: float = 1.0


_look = _Look()


def tokens() -> Tokens:
    """The tokens of the theme in force."""
    return _look.tokens


def choose(name: str, scale: float = 1.0) -> None:
    """Put a theme in force; scale: text size, 0.9 to 1.5."""
    _look.tokens = THEMES[name]
    _look.scale = min(max(scale, 0.9), 1.5)


def scaled(pixels: float) -> int:
    """A row height or width that grows with the text."""
    return round(pixels * _look.scale)


def font(pixels: int, weight: int = 400) -> QFont:
    """The shipped font at a pixel size, with tabular figures."""
    return _font(scaled(pixels), weight)


@cache  # asked for at every line that is painted
def _font(pixels: int, weight: int) -> QFont:
    made = QFont([FAMILY, *FALLBACKS])
    made.setPixelSize(pixels)
    made.setWeight(QFont.Weight(weight))
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def pen(colour: QColor, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen that many strokes share: not to be changed."""
    return _pen(colour.rgba(), width, style)


@cache  # asked for at every stroke that is painted
def _pen(rgba: int, width: float, style: Qt.PenStyle) -> QPen:
    return QPen(QColor.fromRgba(rgba), width, style)


def palette() -> QPalette:
    """Qt's palette from the tokens, for the ordinary widgets."""
    t = tokens()
    made = QPalette()
    role = QPalette.ColorRole
    for target, token in {
        role.Window: "sheet", role.WindowText: "ink", role.Base: "flag", role.AlternateBase: "panel",
        role.Text: "ink", role.Button: "panel", role.ButtonText: "ink", role.Highlight: "meas",
        role.HighlightedText: "sheet", role.ToolTipBase: "panel", role.ToolTipText: "ink", role.PlaceholderText: "soft",
        role.Link: "accent", role.Mid: "rule", role.Dark: "rule", role.Light: "line",
    }.items():  # fmt: skip
        made.setColor(target, t[token])
    return made


SHEET = """
* {{ color: {ink}; }}
QMainWindow, QWidget#page {{ background: {sheet}; }}
QLineEdit, QComboBox, QDoubleSpinBox {{
    background: {flag}; border: 1px solid {rule}; border-radius: 3px; padding: 2px 6px; }}
QLineEdit:focus, QComboBox:focus, QDoubleSpinBox:focus {{ border: 2px solid {meas}; padding: 1px 5px; }}
QLineEdit[wrong="true"] {{ border: 2px solid {close}; background: {closebg}; padding: 1px 5px; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: none; }}
QComboBox QAbstractItemView {{
    background: {panel}; border: 1px solid {rule}; selection-background-color: {sel}; selection-color: {ink};
}}
QPushButton {{
    background: {panel}; border: 1px solid {rule}; border-radius: 3px; padding: 3px 10px; min-height: 20px;
}}
QPushButton:hover {{ border-color: {ink}; }}
QPushButton:focus {{ border: 2px solid {meas}; padding: 2px 9px; }}
QPushButton:checked {{ background: {accentbg}; border-color: {accent}; color: {accent}; }}
QPushButton:disabled {{ color: {rule}; }}
QCheckBox::indicator {{
    width: 15px; height: 15px; border: 1px solid {rule}; border-radius: 3px; background: {flag};
}}
QCheckBox::indicator:checked {{ background: {accent}; border-color: {accent}; image: url("{tick}"); }}
QCheckBox:focus {{ color: {meas}; }}
QMenu {{ background: {panel}; border: 1px solid {rule}; padding: 4px; }}
QMenu::item {{ padding: 5px 24px 5px 14px; }}
QMenu::item:selected {{ background: {sel}; }}
QMenu::separator {{ height: 1px; background: {line}; margin: 4px 8px; }}
QToolTip {{ background: {panel}; color: {ink}; border: 1px solid {rule}; padding: 4px; }}
QScrollArea, QTextBrowser {{ background: transparent; border: none; }}
QScrollBar:vertical {{ background: {well}; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {rule}; min-height: 24px; border-radius: 3px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QDialog, QMessageBox {{ background: {sheet}; }}
"""


def style_sheet() -> str:
    """The style sheet of the ordinary widgets."""
    t = tokens()
    tick = Path(str(files("zeotherm") / "desk" / f"tick-{t.name}.svg")).as_posix()
    return SHEET.format(tick=tick, **{slot.name: getattr(t, slot.name) for slot in fields(t)})
