"""The theme in force: tokens, fonts, and the style sheet made from them."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from importlib.resources import files

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from sketchloom.app.theme.tokens import DARK, LIGHT, SIZES, Tokens

__all__ = ["Theme", "font", "theme"]

_FAMILY = "Inter"


class Theme(QObject):
    """Follows the system, or what the maker chose; tells when it changes."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._choice: str | None = None
        self._fonts_loaded = False
        self._dressed: Tokens | None = None
        self._put_off = False

    @property
    def is_dark(self) -> bool:
        """Whether the dark tokens are in force."""
        if self._choice:
            return self._choice == "dark"
        hints = QApplication.styleHints()
        return hints.colorScheme() == Qt.ColorScheme.Dark

    @property
    def tokens(self) -> Tokens:
        """The tokens in force."""
        return DARK if self.is_dark else LIGHT

    @property
    def choice(self) -> str | None:
        """What was chosen: 'light', 'dark', or None to follow the system."""
        return self._choice

    def choose(self, choice: str | None) -> None:
        """Take 'light' or 'dark', or None to follow the system."""
        self._choice = choice
        self.apply()

    @contextmanager
    def put_off(self) -> Iterator[None]:
        """Dress the application at the end: a widget that is made into a dressed one is dressed several times."""
        self._put_off = True
        try:
            yield
        finally:
            self._put_off = False
            self._dressed = None
            self._dress_all()

    def _dress_all(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication) and self._dressed is not self.tokens and not self._put_off:
            self._dressed = self.tokens
            app.setStyleSheet(_sheet(self.tokens))

    def apply(self) -> None:
        """Dress the application."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        if not self._fonts_loaded:
            for face in sorted((files("sketchloom") / "resources" / "fonts").iterdir(), key=str):
                QFontDatabase.addApplicationFontFromData(face.read_bytes())
            app.styleHints().colorSchemeChanged.connect(lambda: self._choice or self.apply())
            self._fonts_loaded = True
            app.setStyle("Fusion")
            app.setFont(font(1))
        if self._dressed is not self.tokens:  # dressing every widget anew takes a third of a second
            app.setPalette(_palette(self.tokens))
            self._dress_all()
        self.changed.emit()


@cache
def font(size: int, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Give the shipped font with tabular figures; `size` is 0 (small) to 3 (figure)."""
    made = QFont(_FAMILY)
    made.setPixelSize(SIZES[size])
    made.setWeight(weight)
    made.setFeature(QFont.Tag("tnum"), 1)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return made


def _palette(t: Tokens) -> QPalette:
    made = QPalette()
    roles = QPalette.ColorRole
    for role, code in (
        (roles.Window, t.linen),
        (roles.WindowText, t.ink),
        (roles.Base, t.paper),
        (roles.AlternateBase, t.linen),
        (roles.Text, t.ink),
        (roles.Button, t.paper),
        (roles.ButtonText, t.ink),
        (roles.Highlight, t.indigo),
        (roles.HighlightedText, t.on_indigo),
        (roles.PlaceholderText, t.faded),
        (roles.ToolTipBase, t.paper),
        (roles.ToolTipText, t.ink),
        (roles.Link, t.indigo),
    ):
        made.setColor(role, QColor(code))
    for role in (roles.Text, roles.ButtonText, roles.WindowText):
        made.setColor(QPalette.ColorGroup.Disabled, role, QColor(t.faded))
    return made


def _sheet(t: Tokens) -> str:
    small, text, heading, _ = SIZES
    look = "dark" if t is DARK else "light"
    down = (files("sketchloom.app") / "resources" / "icons" / f"down-{look}.svg").as_posix()
    tick = (files("sketchloom.app") / "resources" / "icons" / f"check-{look}.svg").as_posix()
    return f"""
    QMainWindow, QWidget#panel {{ background: {t.linen}; }}
    QFrame#bar {{ background: {t.linen}; border: none; border-bottom: 1px solid {t.line}; }}
    QFrame#side {{ background: {t.linen}; border: none; border-left: 1px solid {t.line}; }}
    QFrame#warp {{ background: {t.linen}; border: none; border-right: 1px solid {t.line}; }}
    QFrame#card {{ background: {t.paper}; border: 1px solid {t.line}; border-radius: 10px; }}
    QFrame#floating {{ background: {t.linen}; border: 1px solid {t.line}; border-radius: 9px; }}
    QFrame#rule {{ background: {t.line}; border: none; }}
    QLabel {{ background: transparent; }}
    QLabel[role="faded"] {{ color: {t.faded}; font-size: {small}px; }}
    QLabel[role="title"] {{ font-size: {text}px; font-weight: 600; }}
    QLabel[role="job"] {{ font-size: {heading}px; font-weight: 600; }}
    QLabel[role="madder"] {{ color: {t.madder}; }}
    QLabel[role="moss"] {{ color: {t.moss}; }}
    QLabel[role="ochre"] {{ color: {t.ochre}; }}
    QPushButton {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 7px;
        padding: 6px 12px; }}
    QPushButton:hover {{ border-color: {t.faded}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.indigo}; }}
    QPushButton:focus {{ padding: 5px 11px; }}
    QPushButton:checked {{ border: 2px solid {t.indigo}; padding: 5px 11px; color: {t.indigo}; font-weight: 600; }}
    QPushButton:disabled {{ color: {t.faded}; }}
    QPushButton[primary="true"] {{ background: {t.indigo}; color: {t.on_indigo}; border-color: {t.indigo};
        font-weight: 600; }}
    QPushButton[primary="true"]:disabled {{ background: {t.linen}; color: {t.faded}; border-color: {t.line}; }}
    QPushButton[primary="true"]:focus {{ border: 2px solid {t.ink}; }}
    QPushButton[choice="true"] {{ text-align: left; padding: 8px 10px; }}
    QPushButton[choice="true"]:checked {{ border: 2px solid {t.indigo}; padding: 7px 9px; }}
    QPushButton[small="true"] {{ padding: 5px 4px; }}
    QPushButton[small="true"]:checked {{ border: 2px solid {t.indigo}; padding: 4px 3px; }}
    QToolButton[choice="true"] {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line};
        border-radius: 8px; padding: 5px; font-size: {small}px; }}
    QToolButton[choice="true"]:hover {{ border-color: {t.faded}; }}
    QToolButton[choice="true"]:checked {{ border: 2px solid {t.indigo}; padding: 4px; color: {t.indigo};
        font-weight: 600; }}
    QListWidget[framed="true"] {{ border: 1px solid {t.line}; border-radius: 7px; padding: 2px; }}
    QListWidget[framed="true"]:focus {{ border: 2px solid {t.indigo}; padding: 1px; }}
    QListWidget[framed="true"]::item {{ padding: 3px 5px; }}
    QFrame#row {{ border: 1px solid transparent; border-radius: 8px; }}
    QFrame#row[chosen="true"] {{ border-color: {t.line}; background: {t.linen}; }}
    QPushButton[row="true"] {{ background: transparent; border: 1px solid transparent; text-align: left;
        padding: 5px 4px; }}
    QPushButton[row="true"]:hover {{ color: {t.indigo}; }}
    QPushButton[row="true"]:checked {{ font-weight: 600; }}
    QPushButton[row="true"]:focus {{ border: 2px solid {t.indigo}; padding: 4px 3px; }}
    QSpinBox {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 7px;
        padding: 5px 6px; selection-background-color: {t.indigo}; selection-color: {t.on_indigo}; }}
    QSpinBox:focus {{ border: 2px solid {t.indigo}; padding: 4px 5px; }}
    QComboBox {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 7px;
        padding: 4px 8px; }}
    QComboBox:hover {{ border-color: {t.faded}; }}
    QComboBox:focus {{ border: 2px solid {t.indigo}; padding: 3px 7px; }}
    QComboBox::drop-down {{ border: none; width: 22px; }}
    QComboBox::down-arrow {{ image: url("{down}"); width: 14px; height: 14px; }}
    QComboBox QAbstractItemView, QMenu {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line};
        selection-background-color: {t.wash}; selection-color: {t.ink}; outline: none; }}
    QMenu {{ padding: 5px; }}
    QMenu::item {{ padding: 6px 24px 6px 10px; border-radius: 6px; }}
    QMenu::item:selected {{ background: {t.wash}; }}
    QMenu::item:disabled {{ color: {t.faded}; }}
    QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 7px; padding: 5px; }}
    QToolButton:hover {{ background: {t.paper}; border-color: {t.line}; }}
    QToolButton[fold="true"] {{ padding: 1px; border-radius: 5px; }}
    QToolButton[tab="true"] {{ padding: 5px 11px; color: {t.faded}; font-size: {text}px; }}
    QToolButton[tab="true"]:checked {{ background: {t.paper}; color: {t.ink}; border-color: {t.line};
        font-weight: 600; }}
    QLineEdit {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; border-radius: 7px;
        padding: 5px 9px; selection-background-color: {t.indigo}; selection-color: {t.on_indigo}; }}
    QLineEdit:focus {{ border: 2px solid {t.indigo}; padding: 4px 8px; }}
    QLineEdit[flat="true"] {{ background: transparent; border: 1px solid transparent; padding: 2px 5px; }}
    QLineEdit[flat="true"]:hover {{ border: 1px solid {t.line}; }}
    QLineEdit[flat="true"]:focus {{ background: {t.paper}; border: 2px solid {t.indigo}; padding: 1px 4px; }}
    QLineEdit[wrong="true"] {{ border: 2px solid {t.madder}; padding: 4px 8px; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QTableView {{ background: {t.linen}; border: none; border-top: 1px solid {t.line}; gridline-color: {t.line};
        outline: none; selection-background-color: {t.wash}; selection-color: {t.ink}; }}
    QTableView:focus {{ border-top: 2px solid {t.indigo}; }}
    QHeaderView {{ background: {t.linen}; border: none; }}
    QHeaderView::section {{ background: {t.linen}; color: {t.faded}; border: none; font-size: {small}px;
        border-bottom: 1px solid {t.line}; padding: 4px 8px; }}
    QListWidget, QTreeWidget {{ background: {t.paper}; border: none; outline: none; color: {t.ink}; }}
    QTreeWidget::item {{ padding: 4px 6px; border-radius: 6px; }}
    QTreeWidget::item:selected {{ background: {t.wash}; color: {t.ink}; }}
    QTreeWidget::item:disabled {{ color: {t.faded}; }}
    QListWidget::item {{ padding: 7px 10px; border-radius: 6px; color: {t.ink}; }}
    QListWidget::item:selected {{ background: {t.wash}; color: {t.ink}; }}
    QSlider {{ min-height: 24px; }}
    QSlider::groove:horizontal {{ height: 4px; border-radius: 2px; background: {t.line}; }}
    QSlider::sub-page:horizontal {{ height: 4px; border-radius: 2px; background: {t.indigo}; }}
    QSlider::handle:horizontal {{ width: 12px; height: 12px; margin: -6px 0; border-radius: 8px;
        border: 2px solid {t.indigo}; background: {t.paper}; }}
    QSlider::handle:horizontal:focus {{ background: {t.indigo}; }}
    QSlider::sub-page:horizontal:disabled {{ background: {t.line}; }}
    QSlider::handle:horizontal:disabled {{ border-color: {t.faded}; }}
    QToolTip {{ background: {t.paper}; color: {t.ink}; border: 1px solid {t.line}; padding: 5px; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar::handle:vertical {{ background: {t.line}; border-radius: 5px; min-height: 30px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QCheckBox::indicator {{ width: 16px; height: 16px; border: 1px solid {t.faded}; border-radius: 4px;
        background: {t.paper}; }}
    QCheckBox::indicator:checked {{ background: {t.indigo}; border-color: {t.indigo}; image: url("{tick}"); }}
    QCheckBox::indicator:focus {{ border: 2px solid {t.indigo}; }}
    """


theme = Theme()
