"""The look at hand: which theme, which fonts, and the style sheet of plain controls."""

from __future__ import annotations

import html
from functools import cache, lru_cache
from pathlib import Path

from PyQt6.QtCore import QObject, QRect, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontMetrics, QPainter, QPalette
from PyQt6.QtWidgets import QApplication, QProxyStyle, QStyle, QStyleOption, QWidget

from loam.core.words.plain import plain
from loam.ui.theme.tokens import BENCH, LIGHTS_OUT, PAPER, Tokens

FONTS = Path(__file__).resolve().parent.parent / "fonts"
WORDS, FIGURES = "Source Sans 3", "B612"
SMALL, BODY, LEAD, TITLE = 13, 14, 17, 24
FAR_SMALL, FAR, FAR_BIG = 38, 64, 150


@cache
def _colour(text: str) -> QColor:
    return QColor(text)


def unjoined(font: QFont) -> QFont:
    """Return a face whose letters are never joined: a PDF's "soft" and "left" can be searched."""
    for tag in ("liga", "clig", "dlig"):
        font.setFeature(QFont.Tag(tag), 0)
    return font


@lru_cache(8192)
def _width(family: str, pixels: int, bold: bool, text: str) -> int:
    font = unjoined(QFont(family))
    font.setPixelSize(pixels)
    if bold:
        font.setWeight(QFont.Weight.Bold if family == FIGURES else QFont.Weight.DemiBold)
    return QFontMetrics(font).horizontalAdvance(text)


class Look(QObject):
    """Theme and fonts; widgets repaint on ``changed``."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.tokens: Tokens = BENCH
        self.scale = 1.0

    def __getattr__(self, name: str) -> QColor:
        tokens = self.__dict__.get("tokens")
        if tokens is None or not hasattr(tokens, name):
            raise AttributeError(name)
        return _colour(getattr(tokens, name))

    @property
    def lights_out(self) -> bool:
        """Whether the room lights are off."""
        return self.tokens is LIGHTS_OUT

    @property
    def on_paper(self) -> bool:
        """Whether it is drawn for paper, on which a panel is light and needs an edge."""
        return self.tokens is PAPER

    def px(self, pixels: float) -> int:
        """Return a size in pixels at the size of text that was chosen."""
        return round(pixels * self.scale)

    def wide(self, pixels: float) -> int:
        """Return a width for text of the chosen size; it grows half as fast, and words wrap."""
        return round(pixels * (1 + 0.5 * (self.scale - 1)))

    def apply(self, application: QApplication, tokens: Tokens, scale: float | None = None) -> None:
        """Turn to a theme, and to a size of text (1 is the usual one); windows dress themselves."""
        self.tokens = tokens
        self.scale = self.scale if scale is None else scale
        palette = QPalette()
        for role, colour in (
            (QPalette.ColorRole.Window, tokens.ground),
            (QPalette.ColorRole.Base, tokens.sheet),
            (QPalette.ColorRole.AlternateBase, tokens.ground),
            (QPalette.ColorRole.Text, tokens.ink),
            (QPalette.ColorRole.WindowText, tokens.ink),
            (QPalette.ColorRole.Button, tokens.sheet),
            (QPalette.ColorRole.ButtonText, tokens.ink),
            (QPalette.ColorRole.Highlight, tokens.strong),
            (QPalette.ColorRole.HighlightedText, tokens.on_strong),
            (QPalette.ColorRole.PlaceholderText, tokens.quiet),
            (QPalette.ColorRole.ToolTipBase, tokens.sheet),
            (QPalette.ColorRole.ToolTipText, tokens.ink),
        ):
            palette.setColor(role, QColor(colour))
        application.setPalette(palette)
        application.setFont(self.words(BODY))
        self.changed.emit()

    def words(self, pixels: int, *, bold: bool = False, italic: bool = False) -> QFont:
        """Return the face for words, at the size of text that was chosen."""
        font = unjoined(QFont(WORDS))
        font.setPixelSize(max(1, self.px(pixels)))
        if bold:
            font.setWeight(QFont.Weight.DemiBold)
        font.setItalic(italic)
        return font

    def width(self, text: str, pixels: int, *, bold: bool = False, figures: bool = False) -> int:
        """Return how wide a text stands, remembered: layouts ask again and again."""
        return _width(FIGURES if figures else WORDS, max(1, self.px(pixels)), bold, text)

    def figures(self, pixels: int, *, bold: bool = False, exact: bool = False) -> QFont:
        """Return the face for figures and codes; its digits are all equally wide.

        ``exact`` keeps the size as it is, for figures that were fitted to a place.
        """
        font = QFont(FIGURES)
        font.setPixelSize(max(1, pixels if exact else self.px(pixels)))
        if bold:
            font.setWeight(QFont.Weight.Bold)
        return font


def tip(*lines: str, most: int = 300) -> str:
    """Return lines as a tooltip that shows them letter by letter, whatever they look like."""
    return "<br>".join(f"<span>{html.escape(plain(line)[:most])}</span>" for line in lines if line)


class QuietCaret(QProxyStyle):
    """Hides Qt's own caret, which inverts its ground and so shines white in the dark."""

    def pixelMetric(
        self,
        metric: QStyle.PixelMetric,
        option: QStyleOption | None = None,
        widget: QWidget | None = None,
    ) -> int:
        if metric == QStyle.PixelMetric.PM_TextCursorWidth:
            return 0
        return super().pixelMetric(metric, option, widget)


def paint_caret(widget: QWidget, rect: QRect) -> None:
    """Draw the caret of a line or page of text in the theme's ink."""
    painter = QPainter(widget)
    width = 2 if rect.height() < 60 else 4
    painter.fillRect(rect.center().x() - width // 2, rect.top(), width, rect.height(), look.ink)
    painter.end()


def load_fonts() -> list[str]:
    """Load the shipped fonts and return their families."""
    families: list[str] = []
    for path in sorted([*FONTS.glob("*.ttf"), *FONTS.glob("*.otf")]):
        number = QFontDatabase.addApplicationFont(str(path))
        families += QFontDatabase.applicationFontFamilies(number)
    return families


@lru_cache(8)
def style_sheet(t: Tokens, scale: float = 1.0) -> str:
    """Return the style of the plain controls: square, flat, hairlines."""
    small, body, lead, title = (round(size * scale) for size in (SMALL, BODY, LEAD, TITLE))
    return f"""
    QWidget {{ color: {t.ink}; }}
    QStackedWidget, QWidget#ground {{ background: {t.ground}; }}
    QWidget#sheet {{ background: {t.sheet}; }}
    QToolTip {{ background: {t.sheet}; color: {t.ink}; border: 1px solid {t.line}; padding: 4px; }}
    QLineEdit, QPlainTextEdit {{
        background: {t.sheet}; border: none; border-bottom: 2px solid {t.line};
        padding: 5px 6px; selection-background-color: {t.strong};
        selection-color: {t.on_strong};
    }}
    QLineEdit#trial_name {{
        font-size: {title}px; font-weight: 600; background: transparent; padding: 0 0 2px 0;
        border-bottom: 2px solid transparent;
    }}
    QLineEdit:focus, QPlainTextEdit:focus {{ border-bottom: 2px solid {t.strong}; }}
    QLineEdit#trial_name:focus {{ border-bottom: 2px solid {t.strong}; }}
    QLineEdit[wrong="true"] {{ border-bottom: 2px solid {t.care}; }}
    QLineEdit:read-only {{ color: {t.quiet}; }}
    QPushButton#chip {{
        background: transparent; border: 1px solid {t.line}; padding: 4px 10px; color: {t.ink};
    }}
    QPushButton#chip:checked {{
        background: {t.chip}; color: {t.on_chip}; border: 1px solid {t.ink};
    }}
    QPushButton#chip:disabled {{ color: {t.faint}; }}
    QPushButton#bare {{
        background: transparent; border: none; border-bottom: 1px solid {t.line};
        padding: 4px 2px; text-align: left; color: {t.ink};
    }}
    QPushButton#bare:focus {{ border-bottom: 2px solid {t.strong}; }}
    QPushButton#link {{
        background: transparent; border: none; border-bottom: 1px solid transparent;
        padding: 2px 0; text-align: left; color: {t.strong};
    }}
    QPushButton#link[enough="true"] {{ font-weight: 600; }}
    QPushButton#link[care="true"] {{ color: {t.care}; font-weight: 600; }}
    QPushButton#link:hover, QPushButton#link:focus {{ border-bottom: 1px solid {t.strong}; }}
    QListView, QTableView, QScrollArea {{
        background: transparent; border: none; outline: none;
        selection-background-color: {t.band}; selection-color: {t.ink};
        gridline-color: {t.line};
    }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QHeaderView {{ background: transparent; border: none; }}
    QHeaderView::section {{
        background: transparent; color: {t.quiet}; border: none;
        border-bottom: 1px solid {t.line}; padding: 4px 3px;
    }}
    QTableView QTableCornerButton::section {{ background: transparent; border: none; }}
    QComboBox {{
        background: {t.sheet}; border: none; border-bottom: 2px solid {t.line}; padding: 4px 6px;
    }}
    QComboBox:focus {{ border-bottom: 2px solid {t.strong}; }}
    QComboBox::drop-down {{ border: none; width: 14px; }}
    QComboBox QAbstractItemView {{
        background: {t.sheet}; color: {t.ink}; border: 1px solid {t.line};
        selection-background-color: {t.tape}; selection-color: {t.on_tape};
    }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.line}; min-height: 24px; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {t.line}; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QPushButton[role="figure"] {{
        font-family: "{FIGURES}"; font-size: {lead}px; background: transparent; border: none;
        border-bottom: 1px solid {t.line}; text-align: right; padding: 0;
    }}
    QPushButton[role="figure"]:hover, QPushButton[role="figure"]:focus {{
        border-bottom: 1px solid {t.strong}; color: {t.strong};
    }}
    QLabel[role="title"] {{ font-family: "{WORDS}"; font-size: {title}px; font-weight: 600; }}
    QLabel[role="lead"] {{ font-family: "{WORDS}"; font-size: {lead}px; }}
    QLabel[role="head"] {{ font-family: "{WORDS}"; font-size: {lead}px; font-weight: 600; }}
    QLabel[role="quiet"] {{ font-size: {body}px; color: {t.quiet}; }}
    QLabel[role="small"] {{ font-size: {small}px; color: {t.quiet}; }}
    QLabel[role="figure"] {{ font-family: "{FIGURES}"; font-size: {lead}px; }}
    QLabel[role="care"] {{ font-size: {body}px; color: {t.care}; }}
    """


look = Look()


def dress(widget: QWidget) -> None:
    """Give a widget, and all that is in it, the style of the look at hand."""
    sheet = style_sheet(look.tokens, look.scale)
    if widget.styleSheet() != sheet:
        widget.setStyleSheet(sheet)
