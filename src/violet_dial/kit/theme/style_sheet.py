"""The style sheet of the application, from the colours and the text size."""

from collections.abc import Callable
from string import Template

from violet_dial.kit.theme.colours import Role

_SHEET = Template("""
QWidget { color: $ink; font-family: B612; font-size: ${px14}px; }
QMainWindow, QDialog, QWidget#ground { background: $ground; }
QLabel { background: transparent; }
QFrame[role="card"] { background: $card; border: 1px solid $line; border-radius: 10px; }
QFrame[role="bar"] { background: $bar; }
QFrame[role="bar"] QLabel { color: $bar_quiet; }
QFrame[role="bar"] QLabel[role="figure"] { color: $figures; }
QFrame[role="message"] { background: $soft; border: 1px solid $watch; border-radius: 8px; }
QLabel[role="quiet"] { color: $quiet; }
QLabel[role="small"] { color: $quiet; font-size: ${px12}px; }
QLabel[role="head"] { font-size: ${px16}px; font-weight: bold; }
QLabel[role="title"] { font-size: ${px20}px; font-weight: bold; }
QLabel[role="huge"] { font-size: ${px26}px; font-weight: bold; color: $violet; }
QLabel[role="verdict"] { font-size: ${px22}px; font-weight: bold; }
QWidget[role="understood"] { color: $quiet; font-size: ${px12}px; }
QLabel[role="fault"] { color: $out; font-size: ${px12}px; }
QLineEdit, QPlainTextEdit, QComboBox { background: $card; border: 1px solid $line; border-radius: 6px;
  padding: ${px4}px ${px8}px; selection-background-color: $violet; selection-color: $on_violet; }
QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus { border: 2px solid $violet; padding: ${px3}px ${px7}px; }
QLineEdit[role="big"] { font-size: ${px16}px; font-weight: bold; }
QLineEdit[wrong="true"] { border: 2px solid $out; }
QFrame[role="bar"] QLineEdit { background: $bar_field; color: $figures; border: 2px solid $bar_field; font-size: ${px34}px;
  font-weight: bold; padding: 0px ${px8}px; }
QFrame[role="bar"] QLineEdit:focus { border: 2px solid $bar_accent; }
QFrame[role="bar"] QLineEdit[wrong="true"] { border: 2px solid $bar_warn; }
QFrame[role="bar"] QComboBox { background: $bar_field; color: $figures; border: 1px solid $bar_field; }
QFrame[role="bar"] QComboBox:focus { border: 2px solid $bar_accent; }
QComboBox QLineEdit, QComboBox QLineEdit:focus { border: 0; padding: 0; background: transparent; }
QComboBox::drop-down { border: 0; width: ${px18}px; }
QComboBox::down-arrow { image: url("$arrow"); width: ${px10}px; height: ${px10}px; }
QComboBox QAbstractItemView { background: $card; color: $ink; border: 1px solid $line; selection-background-color: $soft;
  selection-color: $ink; }
QPushButton { background: $card; border: 1px solid $line; border-radius: 8px; padding: ${px6}px ${px14}px; }
QPushButton:hover { border-color: $violet; }
QPushButton:focus { border: 2px solid $violet; padding: ${px5}px ${px13}px; }
QPushButton:disabled { color: $quiet; }
QPushButton[role="main"] { background: $violet; color: $on_violet; border: 1px solid $violet; font-weight: bold; }
QPushButton[role="main"]:focus { border: 2px solid $ink; }
QPushButton[role="take"] { background: $bar_accent; color: #241B30; border: 2px solid $bar_accent; font-size: ${px20}px;
  font-weight: bold; padding: ${px8}px ${px14}px; }
QPushButton[role="take"]:focus { border: 2px solid $figures; }
QPushButton[role="take"]:disabled { background: $bar_field; color: $bar_quiet; border-color: $bar_field; }
QPushButton[role="tab"] { background: transparent; border: 0; border-bottom: 3px solid transparent;
  border-radius: 0; color: $quiet; padding: ${px4}px ${px8}px; }
QPushButton[role="tab"]:checked { color: $violet; font-weight: bold; border-bottom: 3px solid $violet; }
QPushButton[role="tab"]:focus { border-bottom: 3px solid $ink; }
QPushButton[role="link"] { background: transparent; border: 0; color: $violet; padding: ${px4}px; }
QPushButton[role="link"]:focus { border: 2px solid $violet; padding: ${px2}px; }
QCheckBox { spacing: ${px8}px; background: transparent; }
QCheckBox::indicator { width: ${px14}px; height: ${px14}px; border: 1px solid $quiet; border-radius: 3px; background: $card; }
QCheckBox::indicator:checked { background: $violet; border-color: $violet; image: url("$tick"); }
QCheckBox:focus { color: $violet; }
QListView, QTableView, QTextBrowser, QListWidget { background: $card; border: 0; outline: 0; }
QListView#cards, QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: 0; }
QListWidget#groups { background: transparent; }
QListWidget#groups::item { padding: ${px6}px ${px8}px; }
QListWidget#groups::item:selected { background: $soft; border-color: $soft; }
QListWidget#groups:focus::item:selected { border-color: $violet; }
QListWidget::item { padding: ${px2}px; border: 2px solid transparent; border-radius: 6px; }
QListWidget::item:selected { border-color: $violet; color: $ink; }
QHeaderView::section { background: $card; color: $quiet; border: 0; padding: ${px4}px; }
QTableView { gridline-color: $line; }
QTableView::item:selected { background: $soft; color: $ink; }
QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
QScrollBar::handle:vertical { background: $line; border-radius: 5px; min-height: 30px; }
QScrollBar:horizontal { background: transparent; height: 10px; margin: 0; }
QScrollBar::handle:horizontal { background: $line; border-radius: 5px; min-width: 30px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QToolTip { background: $card; color: $ink; border: 1px solid $line; padding: ${px6}px; }
QProgressBar { border: 0; background: $line; border-radius: 3px; max-height: 6px; }
QProgressBar::chunk { background: $violet; border-radius: 3px; }
""")
_SIZES = (2, 3, 4, 5, 6, 7, 8, 10, 12, 13, 14, 16, 18, 20, 22, 26, 34)


def style_sheet(colours: dict[Role, str], px: Callable[[float], int]) -> str:
    """The style sheet text; ``px`` scales a length with the text size."""
    from violet_dial.kit.theme.icons import icon_path

    dark = colours["card"].startswith("#2")
    sizes = {f"px{size}": str(px(size)) for size in _SIZES}
    arrow = icon_path("arrow-down-night" if dark else "arrow-down")
    tick = icon_path("tick-night" if dark else "tick")
    return _SHEET.substitute({str(role): value for role, value in colours.items()}, arrow=arrow, tick=tick, **sizes)
