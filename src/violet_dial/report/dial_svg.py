"""The dial as SVG, for the HTML sheet."""

from violet_dial.report.dial import OUTER_RADIUS, Dial, Line, Mark
from violet_dial.report.palette import ROLE_COLOURS, ROLE_WIDTHS, STATE_COLOURS

_SCALE = 260.0  # user units per radius
_MARK = 6.0


def _xy(point: tuple[float, float]) -> str:
    return f"{point[0] * _SCALE:.1f},{-point[1] * _SCALE:.1f}"


def _line(line: Line) -> str:
    dash = ' stroke-dasharray="6 4"' if line.dashed else ""
    points = " ".join(_xy(point) for point in line.points)
    colour, width = ROLE_COLOURS[line.role], ROLE_WIDTHS[line.role]
    return f'<polyline points="{points}" fill="none" stroke="{colour}" stroke-width="{width}"{dash}/>'


def _mark(mark: Mark) -> str:
    x, y, colour = mark.x * _SCALE, -mark.y * _SCALE, STATE_COLOURS[mark.state]
    if mark.state in ("high", "low"):
        tip = -_MARK if mark.state == "high" else _MARK
        points = f"{x:.1f},{y + tip:.1f} {x - _MARK:.1f},{y - tip:.1f} {x + _MARK:.1f},{y - tip:.1f}"
        return f'<polygon points="{points}" fill="{colour}"/>'
    ring = f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{_MARK - 1}" fill="{{}}" stroke="{colour}" stroke-width="1.5"/>'
    if mark.state == "inside":
        return ring.format(colour)
    if mark.state == "empty":
        return ring.format("none")
    r = _MARK - 1
    half = f'<path d="M{x:.1f},{y - r:.1f} A{r},{r} 0 0 0 {x:.1f},{y + r:.1f} Z" fill="{colour}"/>'
    return ring.format("#FFFDFA") + half


def dial_svg(dial: Dial, title: str) -> str:
    """The dial as one SVG element; ``title`` must already be escaped."""
    width, height = OUTER_RADIUS * _SCALE + 12, OUTER_RADIUS * _SCALE + 8
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" role="img" '
        f'viewBox="{-width:.0f} {-height:.0f} {2 * width:.0f} {height + 34:.0f}"><title>{title}</title>'
    ]
    for area in dial.areas:
        parts.append(f'<polygon points="{" ".join(_xy(p) for p in area.points)}" fill="{ROLE_COLOURS[area.role]}"/>')
    parts.extend(_line(line) for line in dial.lines)
    for label in dial.labels:
        x, y = label.x * _SCALE, -label.y * _SCALE + 4
        parts.append(
            f'<text x="{x:.1f}" y="{y:.1f}" font-size="13" text-anchor="middle" fill="#6F6579">{label.text}</text>'
        )
    parts.extend(_mark(mark) for mark in dial.marks)
    if dial.needle:
        parts.append(_line(dial.needle))
    return "".join(parts) + "</svg>"
