"""Paper as one self-contained HTML page; all text from people is escaped."""

from functools import lru_cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template
from markupsafe import Markup, escape

from violet_dial.report.blocks import SIGNS, Paper, Picture
from violet_dial.report.dial_svg import dial_svg


@lru_cache(maxsize=1)
def _template() -> Template:
    loader = PackageLoader("violet_dial.report", "templates")
    made = Environment(loader=loader, autoescape=True, undefined=StrictUndefined)
    made.filters["drawn"] = _drawn
    return made.get_template("paper.html")


def _drawn(picture: Picture) -> Markup:
    return Markup(dial_svg(picture.dial, str(escape(picture.title))))


def paper_html(paper: Paper) -> str:
    """The paper as HTML text."""
    return _template().render(paper=paper, signs=SIGNS)
