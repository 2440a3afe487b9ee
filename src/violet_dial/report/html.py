"""Paper as one self-contained HTML page; all text from people is escaped."""

from functools import lru_cache

from jinja2 import Environment, PackageLoader, StrictUndefined, Template
from markupsafe import Markup, escape

from violet_dial.report.blocks import SIGNS, Drawing, Paper, Picture
from violet_dial.report.shapes import dial_svg


@lru_cache(maxsize=1)
def _template() -> Template:
    loader = PackageLoader("violet_dial.report", "templates")
    made = Environment(loader=loader, autoescape=True, undefined=StrictUndefined)
    made.filters["drawn"] = _drawn
    made.filters["vector"] = _vector
    return made.get_template("paper.html")


def _drawn(picture: Picture) -> Markup:
    return Markup(dial_svg(picture.dial, picture.title))


def _vector(block: Drawing) -> Markup:
    """A drawing of our own making, whose words are escaped already, with its title for a screen reader."""
    title = f"<title>{escape(block.title)}</title>"
    return Markup(block.svg.replace(">", f">{title}", 1))


def paper_html(paper: Paper) -> str:
    """The paper as HTML text."""
    return _template().render(paper=paper, signs=SIGNS)
