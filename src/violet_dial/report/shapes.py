"""A picture as a list of shapes, described once: drawn by Qt on the screen (`kit.picture`) and as SVG on paper (here), which
the HTML takes as it is and the PDF as vectors.

Coordinates: from the left top, in units of which a picture says how many it is wide and tall. Colours are roles of the theme
(ink, quiet, line, violet …), or ``#RRGGBB``; ``none`` for nothing. Words are escaped here.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from html import escape

from violet_dial.report.dial import OUTER_RADIUS, Area, Dial, Line, MarkState, Role
from violet_dial.report.palette import INKS, ROLE_COLOURS, ROLE_WIDTHS, STATE_ROLES

SIGN = 4.2  # radius of a mark
Point = tuple[float, float]
Segment = tuple[Point, Point]


@dataclass(frozen=True)
class Caption:
    """Words on one line: ``at`` their base line's left end, middle or right end by ``anchor`` (start, middle, end); ``size`` of
    type at usual text; cut off with … where they would be wider than ``most`` (0: any width)."""

    at: Point
    text: str
    size: float = 13.0
    colour: str = "ink"
    anchor: str = "start"
    bold: bool = False
    most: float = 0.0


@dataclass(frozen=True)
class Polyline:
    """A line through points."""

    points: tuple[Point, ...]
    colour: str = "line"
    width: float = 1.0
    dashed: bool = False


@dataclass(frozen=True)
class Strokes:
    """Many straight lines of one kind."""

    segments: tuple[Segment, ...]
    colour: str = "line"
    width: float = 1.0


@dataclass(frozen=True)
class Filled:
    """A filled outline; ``share`` of its colour that is seen, ``edge`` the colour round it."""

    points: tuple[Point, ...]
    fill: str
    share: float = 1.0
    edge: str = "none"


@dataclass(frozen=True)
class Box:
    """A rectangle: left top, width and height."""

    at: Point
    size: Point
    fill: str = "none"
    edge: str = "none"
    width: float = 1.0
    corner: float = 0.0


@dataclass(frozen=True)
class Circle:
    """A circle."""

    at: Point
    radius: float
    edge: str
    fill: str = "none"
    width: float = 1.2


@dataclass(frozen=True)
class HalfDisc:
    """The left half of a disc."""

    at: Point
    radius: float
    fill: str


@dataclass(frozen=True)
class Sign:
    """The mark of a reading: round within, triangle up high, down low, half undecided, hollow not taken."""

    at: Point
    state: MarkState
    size: float = SIGN


@dataclass(frozen=True)
class Ready:
    """SVG of our own that stands as it is; on paper alone."""

    svg: str


Plain = Caption | Polyline | Strokes | Filled | Box | Circle | HalfDisc | Ready
Shape = Plain | Sign


def parts_of(sign: Sign) -> tuple[Plain, ...]:
    """What a mark is made of."""
    (x, y), size, colour = sign.at, sign.size, STATE_ROLES[sign.state]
    if sign.state in ("high", "low"):
        tip = -size if sign.state == "high" else size
        return (Filled(((x, y + tip), (x - size, y - 0.8 * tip), (x + size, y - 0.8 * tip)), colour, edge="card"),)
    if sign.state == "inside":
        return (Circle(sign.at, 0.85 * size, "card", colour),)
    whole = Circle(sign.at, 0.85 * size, colour, "card", 1.6)
    return (whole,) if sign.state == "empty" else (whole, HalfDisc(sign.at, 0.85 * size, colour))


def plain(shapes: Iterable[Shape]) -> Iterable[Plain]:
    """Shapes, each mark as what it is made of."""
    for shape in shapes:
        if isinstance(shape, Sign):
            yield from parts_of(shape)
        else:
            yield shape


def middle(y: float, size: float) -> float:
    """The base line of words of a size (in units of the picture) whose middle is at ``y``."""
    return y + 0.36 * size


def clipped_line(line: Segment, left: float, right: float) -> Segment | None:
    """What of a straight line lies between two sides; None for nothing."""
    (x0, y0), (x1, y1) = line
    if max(x0, x1) < left or min(x0, x1) > right:
        return None
    if x0 == x1:
        return line

    def at(x: float) -> Point:
        return x, y0 + (x - x0) / (x1 - x0) * (y1 - y0)

    first, last = (at(min(max(x, left), right)) for x in (x0, x1))
    return first, last


# SVG


def svg(size: Point, shapes: Iterable[Shape], scale: float = 1.0, title: str = "") -> str:
    """One SVG element; ``scale`` of its words' sizes, ``title`` for a screen reader."""
    inside = "".join(_svg(shape, scale) for shape in plain(shapes))
    said = f"<title>{escape(title)}</title>" if title else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" width="{size[0]:g}" height="{size[1]:g}" '
        f'viewBox="0 0 {size[0]:g} {size[1]:g}" font-family="B612">{said}{inside}</svg>'
    )


def ink(colour: str) -> str:
    """A colour on paper."""
    return INKS.get(colour, colour)


def _points(points: tuple[Point, ...]) -> str:
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in points)


def _svg(shape: Plain, scale: float) -> str:
    if isinstance(shape, Ready):
        return shape.svg
    if isinstance(shape, Caption):
        weight = ' font-weight="bold"' if shape.bold else ""
        how = f'font-size="{shape.size * scale:g}" text-anchor="{shape.anchor}" fill="{ink(shape.colour)}"{weight}'
        return f'<text x="{shape.at[0]:.1f}" y="{shape.at[1]:.1f}" {how}>{escape(shape.text)}</text>'
    if isinstance(shape, Polyline):
        dash = ' stroke-dasharray="4 3"' if shape.dashed else ""
        how = f'fill="none" stroke="{ink(shape.colour)}" stroke-width="{shape.width:g}"{dash}'
        return f'<polyline points="{_points(shape.points)}" {how}/>'
    if isinstance(shape, Strokes):
        path = "".join(f"M{a:.1f} {b:.1f}L{c:.1f} {d:.1f}" for (a, b), (c, d) in shape.segments)
        return f'<path d="{path}" fill="none" stroke="{ink(shape.colour)}" stroke-width="{shape.width:g}"/>' if path else ""
    if isinstance(shape, Filled):
        edge = "" if shape.edge == "none" else f' stroke="{ink(shape.edge)}"'
        share = "" if shape.share == 1 else f' fill-opacity="{shape.share:g}"'
        return f'<polygon points="{_points(shape.points)}" fill="{ink(shape.fill)}"{share}{edge}/>'
    x, y = shape.at
    if isinstance(shape, Box):
        room = f'width="{max(shape.size[0], 0):.1f}" height="{max(shape.size[1], 0):.1f}" rx="{shape.corner:g}"'
        how = f'fill="{ink(shape.fill)}" stroke="{ink(shape.edge)}" stroke-width="{shape.width:g}"'
        return f'<rect x="{x:.1f}" y="{y:.1f}" {room} {how}/>'
    if isinstance(shape, Circle):
        how = f'fill="{ink(shape.fill)}" stroke="{ink(shape.edge)}" stroke-width="{shape.width:g}"'
        return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{shape.radius:.1f}" {how}/>'
    r = shape.radius
    return f'<path d="M {x:.1f} {y - r:.1f} A {r:g} {r:g} 0 0 0 {x:.1f} {y + r:.1f} Z" fill="{ink(shape.fill)}"/>'


# the dial

DIAL_SCALE, DIAL_SIGN = 260.0, 6.0  # units per radius; a mark on it
DIAL_FOOT, DIAL_SIDE, DIAL_TOP = 34.0, 12.0, 8.0
To = Callable[[Point], Point]  # from the dial's own coordinates to those of the picture


def dial_areas(areas: Iterable[Area], at: To) -> list[Shape]:
    """Areas of a dial."""
    return [Filled(tuple(map(at, area.points)), ROLE_COLOURS[area.role]) for area in areas]


def dial_lines(lines: Iterable[Line], at: To) -> list[Shape]:
    """Lines of a dial: curves one by one, straight lines of one kind together."""
    found: list[Shape] = []
    straight: dict[Role, list[Segment]] = {}
    for line in lines:
        points = tuple(map(at, line.points))
        if len(points) == 2 and not line.dashed:
            straight.setdefault(line.role, []).append((points[0], points[1]))
        else:
            found.append(Polyline(points, ROLE_COLOURS[line.role], ROLE_WIDTHS[line.role], line.dashed))
    return [*found, *(Strokes(tuple(many), ROLE_COLOURS[role], ROLE_WIDTHS[role]) for role, many in straight.items())]


def dial_svg(dial: Dial, title: str) -> str:
    """The dial as an SVG element."""
    left, top = OUTER_RADIUS * DIAL_SCALE + DIAL_SIDE, OUTER_RADIUS * DIAL_SCALE + DIAL_TOP

    def at(point: Point) -> Point:
        return left + point[0] * DIAL_SCALE, top - point[1] * DIAL_SCALE

    shapes = dial_areas(dial.areas, at) + dial_lines(dial.lines, at)
    shapes += [Caption(at((label.x, label.y - 4 / DIAL_SCALE)), label.text, 13, "quiet", "middle") for label in dial.labels]
    shapes += [Sign(at((mark.x, mark.y)), mark.state, DIAL_SIGN) for mark in dial.marks]
    shapes += dial_lines((dial.needle,) if dial.needle is not None else (), at)
    return svg((2 * left, top + DIAL_FOOT), shapes, title=title)
