"""Marks of findings: each kind has a shape of its own, so that no colour is needed to tell them apart."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from violet_dial.core.receiving.findings import FindingKind
from violet_dial.kit.theme.colours import Role
from violet_dial.kit.theme.look import Look

# Strokes in a box from -1 to 1: polylines, closed where the last point is the first.
_LINES: dict[FindingKind, tuple[tuple[tuple[float, float], ...], ...]] = {
    "black copper": (((-0.6, -0.6), (0.6, -0.6), (0.6, 0.6), (-0.6, 0.6), (-0.6, -0.6)),),
    "crystals": (((0, -0.8), (0, 0.8)), ((-0.7, -0.4), (0.7, 0.4)), ((-0.7, 0.4), (0.7, -0.4))),
    "sticky": (((0, -0.8), (0.7, 0), (0, 0.8), (-0.7, 0), (0, -0.8)),),
    "dent": (((-0.8, -0.4), (0, 0.5), (0.8, -0.4)),),
    "crack": (((-0.8, -0.7), (-0.1, -0.2), (-0.4, 0.2), (0.3, 0.1), (0.1, 0.8)),),
    "missing screw": (((-0.4, -0.4), (0.4, 0.4)), ((-0.4, 0.4), (0.4, -0.4))),
    "loose part": (((-0.75, 0), (-0.4, -0.7), (0.4, -0.7), (0.75, 0), (0.4, 0.7), (-0.4, 0.7), (-0.75, 0)),),
    "wear": (((-0.7, -0.5), (0.7, -0.5)), ((-0.7, 0), (0.7, 0)), ((-0.7, 0.5), (0.7, 0.5))),
    "smell of burning": (
        ((-0.5, 0.8), (-0.2, 0.3), (-0.7, -0.2), (-0.4, -0.8)), ((0.3, 0.8), (0.6, 0.3), (0.1, -0.2), (0.4, -0.8)),
    ),
}  # fmt: skip
_FILLED: frozenset[FindingKind] = frozenset({"black copper", "sticky"})
_DOTS: dict[FindingKind, bool] = {"green crust": True, "white crust": False}
COLOURS: dict[FindingKind, Role] = {
    "green crust": "within", "white crust": "quiet", "black copper": "ink", "crystals": "out", "missing screw": "out",
    "smell of burning": "out", "liquid": "watch", "crack": "out",
}  # fmt: skip


def draw_finding(painter: QPainter, look: Look, at: QPointF, kind: FindingKind, size: float) -> None:
    """One mark of radius ``size`` pixels on a round plate centred on ``at``."""
    colour = look.colour(COLOURS.get(kind, "watch"))
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(look.colour("card"))
    painter.drawEllipse(at, size, size)
    inner = size * 0.72
    painter.setPen(QPen(colour, max(size * 0.17, 1.6), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.setBrush(colour if kind in _FILLED else Qt.BrushStyle.NoBrush)
    for line in _LINES.get(kind, ()):
        painter.drawPolyline(QPolygonF([QPointF(at.x() + x * inner, at.y() + y * inner) for x, y in line]))
        if kind in _FILLED:
            painter.drawPolygon(QPolygonF([QPointF(at.x() + x * inner, at.y() + y * inner) for x, y in line]))
    if kind in _DOTS:
        painter.setBrush(colour if _DOTS[kind] else Qt.BrushStyle.NoBrush)
        for x, y in ((0.0, -0.45), (-0.45, 0.35), (0.45, 0.35)):
            painter.drawEllipse(QPointF(at.x() + x * inner, at.y() + y * inner), inner * 0.3, inner * 0.3)
    if kind == "missing screw":
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, inner * 0.85, inner * 0.85)
    if kind == "liquid":
        drop = QPainterPath(QPointF(at.x(), at.y() - inner * 0.8))
        drop.quadTo(at.x() + inner * 0.9, at.y() + inner * 0.3, at.x(), at.y() + inner * 0.75)
        drop.quadTo(at.x() - inner * 0.9, at.y() + inner * 0.3, at.x(), at.y() - inner * 0.8)
        painter.fillPath(drop, colour)
