"""The sheet as one self-contained HTML page; all text from people is escaped."""

from functools import lru_cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template
from markupsafe import Markup, escape

from violet_dial.report.dial import MarkState
from violet_dial.report.dial_svg import dial_svg
from violet_dial.report.sheet import Sheet

SIGNS: dict[MarkState, str] = {"inside": "●", "high": "▲", "low": "▼", "undecided": "◐", "empty": "○"}


@lru_cache(maxsize=1)
def _template() -> Template:
    loader = PackageLoader("violet_dial.report", "templates")
    return Environment(loader=loader, autoescape=True, undefined=StrictUndefined).get_template("sheet.html")


def sheet_html(sheet: Sheet) -> str:
    """The sheet as HTML text."""
    drawings = [Markup(dial_svg(table.dial, str(escape(table.title)))) for table in sheet.tables]
    return _template().render(sheet=sheet, tables=list(zip(sheet.tables, drawings, strict=True)), signs=SIGNS)
