"""A map on paper: its drawing and its photos with their spots as SVG, and all of it as a poster over several pages."""

import base64
import io
from collections.abc import Callable
from dataclasses import dataclass
from xml.sax.saxutils import escape

from PIL import Image
from reportlab.graphics import renderPDF, renderSVG, shapes
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.drawing import BoardDrawing, Wire
from violet_dial.report import palette
from violet_dial.report.letters import plain, register

COLUMN, ROW = 27 * mm, 21 * mm
EDGE = 14 * mm  # around the drawing
MARGIN, OVERLAP = 12 * mm, 6 * mm  # of a page; by how much neighbouring pages show the same
MOST_PAGES = 60


@dataclass(frozen=True)
class PhotoPage:
    """A photo as it lies, PNG or JPEG, with its spots (name, x and y as shares) and joins (both ends, measured or not)."""

    name: str
    picture: bytes
    spots: tuple[tuple[str, float, float], ...]
    joins: tuple[tuple[tuple[float, float], tuple[float, float], bool], ...]


def circuit_shapes(drawing: BoardDrawing) -> shapes.Drawing:
    """The drawing of a circuit as ReportLab has it, in points."""
    register()
    wide, tall = drawing.wide * COLUMN + 2 * EDGE + COLUMN * 0.6, drawing.tall * ROW + 2 * EDGE
    page = shapes.Drawing(wide, tall)

    def at(x: float, y: float) -> tuple[float, float]:
        return EDGE + x * COLUMN, tall - EDGE - y * ROW

    quiet = HexColor(palette.QUIET)
    for name, first, last in drawing.headings:
        page.add(_text((at(first, 0)[0] + at(last, 0)[0]) / 2, tall - 5 * mm, name, 7, quiet, "middle"))
    for rail in drawing.rails:
        page.add(shapes.Line(*at(rail.first, rail.y), *at(rail.last, rail.y), strokeColor=quiet, strokeWidth=2.2))
        if rail.node == GROUND:
            page.add(_text(at(rail.first, rail.y)[0], at(rail.first, rail.y)[1] - 9, "chassis", 8, quiet, "start"))
    for wire in drawing.wires:
        _add_wire(page, wire, at)
    for place in drawing.places:
        x, y = at(place.x, place.y)
        page.add(shapes.Circle(x, y, 2.2, fillColor=HexColor(palette.INK), strokeColor=None))
        page.add(_text(x + 2, y + 4.5, place.node, 8, HexColor(palette.VIOLET), "start"))
    return page


def _add_wire(page: shapes.Drawing, wire: Wire, at: Callable[[float, float], tuple[float, float]]) -> None:
    points = [value for x, y in wire.points for value in at(x, y)]
    colour = HexColor(palette.LEAD_COLOURS.get(wire.colour, palette.QUIET))
    line = shapes.PolyLine(points, strokeColor=colour, strokeWidth=1.4)
    if wire.is_block:
        line.strokeDashArray = [1.5, 2.5]
    page.add(line)
    x, y = at(*wire.mark)
    page.add(shapes.Rect(x - 7, y - 3.5, 14, 7, rx=1.5, ry=1.5, fillColor=HexColor("#FFFFFF"), strokeColor=colour, strokeWidth=1))
    if wire.is_upright:
        page.add(_text(x + 9, y - 2.5, wire.label, 7, HexColor(palette.INK), "start"))
    else:
        page.add(_text(x, y - 12, wire.label, 7, HexColor(palette.INK), "middle"))


def _text(x: float, y: float, words: str, size: float, colour: object, anchor: str) -> shapes.String:
    return shapes.String(x, y, plain(words)[:60], fontName="B612", fontSize=size, fillColor=colour, textAnchor=anchor)


def circuit_svg(drawing: BoardDrawing) -> bytes:
    """The drawing of a circuit as an SVG file."""
    text: str = renderSVG.drawToString(circuit_shapes(drawing))
    return text.encode()


def photo_svg(page: PhotoPage) -> bytes:
    """A photo with its spots as an SVG file that holds the picture."""
    with Image.open(io.BytesIO(page.picture)) as image:
        wide, tall = image.size
        kind = (image.format or "PNG").lower()
    packed = base64.b64encode(page.picture).decode()
    size = max(wide, tall) / 90
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {tall}"><title>{escape(plain(page.name))}</title>',
        f'<image width="{wide}" height="{tall}" href="data:image/{kind};base64,{packed}"/>',
    ]
    for (ax, ay), (bx, by), measured in page.joins:
        dash = "" if measured else f' stroke-dasharray="{size * 1.4:.1f} {size:.1f}"'
        ends = f'x1="{ax * wide:.1f}" y1="{ay * tall:.1f}" x2="{bx * wide:.1f}" y2="{by * tall:.1f}"'
        parts.append(f'<line {ends} stroke="#F2EEF5" stroke-width="{size * 0.4:.1f}"{dash}/>')
    for name, x, y in page.spots:
        here = f'cx="{x * wide:.1f}" cy="{y * tall:.1f}" r="{size * 0.6:.1f}"'
        parts.append(f'<circle {here} fill="#14101A" stroke="#FFFFFF" stroke-width="{size * 0.2:.1f}"/>')
        parts.append(
            f'<text x="{x * wide + size:.1f}" y="{y * tall - size * 0.6:.1f}" font-size="{size * 1.8:.1f}" fill="#FFFFFF" '
            f'stroke="#14101A" stroke-width="{size * 0.4:.1f}" paint-order="stroke">{escape(plain(name))}</text>'
        )
    return ("".join(parts) + "</svg>").encode()


def laid_picture(content: bytes, turned: int, mirrored: bool) -> bytes:
    """A picture as it lies on the map, PNG. Raises InvalidInput: it cannot be opened."""
    out = io.BytesIO()
    try:
        with Image.open(io.BytesIO(content), formats=("PNG", "JPEG", "WEBP")) as image:
            found = image.convert("RGB").rotate(-turned, expand=True)
            found = found.transpose(Image.Transpose.FLIP_LEFT_RIGHT) if mirrored else found
            found.save(out, "PNG")
    except (OSError, ValueError, SyntaxError) as error:
        raise InvalidInput("Photo", f"{len(content)} bytes", "a picture that can be opened") from error
    return out.getvalue()


def poster_pdf(title: str, drawing: BoardDrawing, photos: tuple[PhotoPage, ...]) -> bytes:
    """Photos on a page each, the drawing over as many as it takes, to be put together; A4 on its side.

    Raises InvalidInput: more pages than anybody puts together.
    """
    register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=landscape(A4), invariant=1)
    canvas.setTitle(plain(title))
    for page in photos:
        _photo_page(canvas, title, page)
    if drawing.places:
        _drawing_pages(canvas, title, circuit_shapes(drawing))
    elif not photos:
        _foot(canvas, f"{title} · nothing is on the map yet")
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _room() -> tuple[float, float]:
    wide, tall = landscape(A4)
    return wide - 2 * MARGIN, tall - 2 * MARGIN - 6 * mm


def _foot(canvas: Canvas, words: str) -> None:
    canvas.setFont("B612", 8)
    canvas.setFillColor(HexColor(palette.QUIET))
    canvas.drawString(MARGIN, 8 * mm, plain(words)[:150])


def _photo_page(canvas: Canvas, title: str, page: PhotoPage) -> None:
    picture = ImageReader(io.BytesIO(page.picture))
    wide, tall = picture.getSize()
    room = _room()
    scale = min(room[0] / wide, room[1] / tall)
    left, foot = MARGIN + (room[0] - wide * scale) / 2, MARGIN + 6 * mm
    canvas.drawImage(picture, left, foot, wide * scale, tall * scale)

    def at(x: float, y: float) -> tuple[float, float]:
        return left + x * wide * scale, foot + (1 - y) * tall * scale

    for one, other, measured in page.joins:
        canvas.setStrokeColor(HexColor("#F2EEF5"))
        canvas.setLineWidth(2)
        canvas.setDash([] if measured else [5, 3])
        canvas.line(*at(*one), *at(*other))
    canvas.setDash([])
    canvas.setFont("B612-Bold", 9)
    for name, x, y in page.spots:
        cx, cy = at(x, y)
        words = plain(name)[:40]
        canvas.setFillColor(HexColor("#14101A"))
        canvas.setStrokeColor(HexColor("#FFFFFF"))
        canvas.circle(cx, cy, 3.4, fill=1)
        canvas.roundRect(cx + 5, cy + 3, canvas.stringWidth(words, "B612-Bold", 9) + 6, 12, 2, stroke=0, fill=1)
        canvas.setFillColor(HexColor("#FFFFFF"))
        canvas.drawString(cx + 8, cy + 6, words)
    _foot(canvas, f"{title} · {page.name}")
    canvas.showPage()


def _drawing_pages(canvas: Canvas, title: str, drawing: shapes.Drawing) -> None:
    room = _room()
    step = room[0] - OVERLAP, room[1] - OVERLAP
    across = max(1, -int(-(drawing.width - OVERLAP) // step[0]))
    down = max(1, -int(-(drawing.height - OVERLAP) // step[1]))
    if across * down > MOST_PAGES:
        raise InvalidInput("Poster", f"{across * down} pages", f"at most {MOST_PAGES}; the SVG has all of it")
    for row in range(down):
        for column in range(across):
            left, foot = MARGIN, MARGIN + 6 * mm
            canvas.saveState()
            frame = canvas.beginPath()
            frame.rect(left, foot, *room)
            canvas.clipPath(frame, stroke=0)
            top = foot + room[1] - drawing.height  # the first page begins at its top left corner
            renderPDF.draw(drawing, canvas, left - column * step[0], top + row * step[1])
            canvas.restoreState()
            where = f" · row {row + 1} of {down}, column {column + 1} of {across}" if across * down > 1 else ""
            _foot(canvas, f"{title}{where}")
            canvas.showPage()
