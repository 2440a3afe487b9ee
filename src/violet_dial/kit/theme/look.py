"""How everything looks now: theme, text size, fonts; one object all widgets ask."""

import re
from functools import lru_cache
from pathlib import Path
from string import Template

from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from violet_dial.kit.theme.colours import COLOURS, Role, Theme

ASSETS = Path(__file__).parent.parent.parent / "assets"
TEXT_PERCENTS = (90, 100, 110, 125, 150, 175, 200)
BASE_PX = 14
FAMILY = "B612"


def icon_path(name: str) -> str:
    """Path of an icon drawn for this product, with forward slashes, as style sheets want it."""
    return (ASSETS / "icons" / f"{name}.svg").as_posix()


@lru_cache(maxsize=1)
def _sheet() -> Template:
    return Template((ASSETS / "style.qss").read_text(encoding="utf-8"))


@lru_cache(maxsize=1)
def _load_fonts() -> None:
    """The type that ships with the application, loaded once a process."""
    for weight in ("Regular", "Bold"):
        QFontDatabase.addApplicationFont(str(ASSETS / "fonts" / f"B612-{weight}.ttf"))


class Look(QObject):
    """Theme and text size, remembered between starts; emits ``changed`` after the application was restyled."""

    changed = Signal()

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        self.settings = settings
        self.theme: Theme = "day"
        self.percent = 100
        if settings is not None:
            self.theme = "night" if settings.value("theme") == "night" else "day"
            stored = str(settings.value("text_percent", "100"))
            self.percent = int(stored) if stored.isdigit() and int(stored) in TEXT_PERCENTS else 100
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.apply)
        _load_fonts()

    def colour(self, role: str) -> QColor:
        """A colour by its role in the theme."""
        return QColor(COLOURS[self.theme][role])  # type: ignore[index]

    def px(self, size: float) -> int:
        """A length in pixels, scaled with the text."""
        return max(1, round(size * self.percent / 100))

    def font(self, size: float = BASE_PX, bold: bool = False) -> QFont:
        font = QFont(FAMILY)
        font.setPixelSize(self.px(size))
        font.setBold(bold)
        return font

    def apply(self) -> None:
        """Restyle the whole application."""
        app = QApplication.instance()
        if not isinstance(app, QApplication):
            return
        self._soon.stop()
        app.setStyleSheet("")  # from one sheet to the next Qt works everything out again and again: ten times the time
        if app.font() != self.font():
            app.setFont(self.font())
        if app.palette() != self._palette():
            app.setPalette(self._palette())
        app.setStyleSheet(self._style_sheet())
        self.changed.emit()

    def _style_sheet(self) -> str:
        sheet = _sheet()
        night = "-night" if self.theme == "night" else ""
        pictures = {name: icon_path(f"{icon}{night}") for name, icon in (("arrow", "arrow-down"), ("tick", "tick"))}
        lengths = {f"px{size}": str(self.px(int(size))) for size in re.findall(r"\$\{px(\d+)\}", sheet.template)}
        return sheet.substitute({str(role): colour for role, colour in COLOURS[self.theme].items()}, **pictures, **lengths)

    def _palette(self) -> QPalette:
        palette = QPalette()
        pairs: tuple[tuple[QPalette.ColorRole, Role], ...] = (
            (QPalette.ColorRole.Window, "ground"),
            (QPalette.ColorRole.Base, "card"),
            (QPalette.ColorRole.AlternateBase, "ground"),
            (QPalette.ColorRole.Button, "card"),
            (QPalette.ColorRole.Text, "ink"),
            (QPalette.ColorRole.WindowText, "ink"),
            (QPalette.ColorRole.ButtonText, "ink"),
            (QPalette.ColorRole.PlaceholderText, "quiet"),
            (QPalette.ColorRole.Highlight, "violet"),
            (QPalette.ColorRole.HighlightedText, "on_violet"),
            (QPalette.ColorRole.ToolTipBase, "card"),
            (QPalette.ColorRole.ToolTipText, "ink"),
        )
        for target, role in pairs:
            palette.setColor(target, self.colour(role))
        return palette

    def toggle_theme(self) -> None:
        """Day or night, when the keys pressed meanwhile are read: of many, one restyling."""
        self._keep("day" if self.theme == "night" else "night", self.percent)
        self._soon.start()

    def step_text(self, step: int) -> None:
        """Text larger (+1) or smaller (-1), within `TEXT_PERCENTS`; as soon as `toggle_theme`."""
        at = TEXT_PERCENTS.index(self.percent) + step
        self._keep(self.theme, TEXT_PERCENTS[min(max(at, 0), len(TEXT_PERCENTS) - 1)])
        self._soon.start()

    def set_look(self, theme: Theme, percent: int) -> None:
        """Theme and text size, at once."""
        self._keep(theme, percent)
        self.apply()

    def _keep(self, theme: Theme, percent: int) -> None:
        self.theme, self.percent = theme, percent
        if self.settings is not None:
            self.settings.setValue("theme", theme)
            self.settings.setValue("text_percent", str(percent))
