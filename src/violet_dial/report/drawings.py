"""Drawings for paper as SVG text, put together from a few shapes; the HTML takes them as they are, the PDF as vectors.

Coordinates: from the left top, in units of which a drawing says how many it is wide and tall. All words are escaped here.
"""

from html import escape

from violet_dial.report.dial import MarkState
from violet_dial.report.palette import INK, LINE, QUIET, STATE_COLOURS

MARK = 4.2
Point = tuple[float, float]


def drawing(width: float, height: float, parts: list[str]) -> str:
    """One SVG element of these shapes."""
    inside = "".join(parts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" width="{width:g}" height="{height:g}" '
        f'viewBox="0 0 {width:g} {height:g}" font-family="B612">{inside}</svg>'
    )


def words(at: Point, text: str, size: float = 9.0, colour: str = INK, anchor: str = "start") -> str:
    """Words at a point: its left end, or its middle or right end by ``anchor`` (start, middle, end)."""
    how = f'font-size="{size:g}" text-anchor="{anchor}" fill="{colour}"'
    return f'<text x="{at[0]:.1f}" y="{at[1]:.1f}" {how}>{escape(text)}</text>'


def line(first: Point, last: Point, colour: str = LINE, width: float = 1.0, dashed: bool = False) -> str:
    """A straight line."""
    dash = ' stroke-dasharray="4 3"' if dashed else ""
    return (
        f'<line x1="{first[0]:.1f}" y1="{first[1]:.1f}" x2="{last[0]:.1f}" y2="{last[1]:.1f}" stroke="{colour}" '
        f'stroke-width="{width:g}"{dash}/>'
    )


def box(at: Point, size: Point, fill: str, stroke: str = "none") -> str:
    """A rectangle: left top, width and height."""
    return (
        f'<rect x="{at[0]:.1f}" y="{at[1]:.1f}" width="{max(size[0], 0):.1f}" height="{max(size[1], 0):.1f}" fill="{fill}" '
        f'stroke="{stroke}"/>'
    )


def ring(at: Point, radius: float, stroke: str, fill: str = "none", width: float = 1.2) -> str:
    """A circle."""
    how = f'fill="{fill}" stroke="{stroke}" stroke-width="{width:g}"'
    return f'<circle cx="{at[0]:.1f}" cy="{at[1]:.1f}" r="{radius:.1f}" {how}/>'


def shape(points: tuple[Point, ...], fill: str) -> str:
    """A filled outline."""
    return f'<polygon points="{" ".join(f"{x:.1f},{y:.1f}" for x, y in points)}" fill="{fill}"/>'


def mark(at: Point, state: MarkState, size: float = MARK) -> str:
    """The mark of a reading: round within, triangle up high, down low, half undecided, hollow not taken."""
    x, y = at
    colour = STATE_COLOURS[state]
    if state in ("high", "low"):
        tip = -size if state == "high" else size
        return shape(((x, y + tip), (x - size, y - tip), (x + size, y - tip)), colour)
    if state == "inside":
        return ring(at, size, colour, colour)
    whole = ring(at, size, colour, "#FFFDFA")
    if state == "empty":
        return whole
    return (
        whole
        + f'<path d="M {x:.1f} {y - size:.1f} A {size:g} {size:g} 0 0 0 {x:.1f} {y + size:.1f} Z" fill="{colour}"/>'
    )


def quiet(at: Point, text: str, anchor: str = "start", size: float = 8.0) -> str:
    """Small words in quiet ink."""
    return words(at, text, size, QUIET, anchor)
