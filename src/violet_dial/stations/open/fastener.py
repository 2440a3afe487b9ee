"""Fasteners and parts drawn to scale: head seen from above with its drive, shank from the side, thread hand beside it."""

import re

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from violet_dial.core.opening.steps import Step
from violet_dial.kit.theme.look import Look

_SIZE = re.compile(r"M?(\d+(?:\.\d+)?)(?:x(\d+(?:\.\d+)?))?", re.IGNORECASE)
_METALS: dict[str, str] = {
    "chrome": "#C9CED4", "nickel": "#B9B29E", "black": "#3B3740", "brass": "#C7A24A", "steel": "#A9A9AE", "zinc": "#9FB0B8",
}  # fmt: skip
USUAL_MM = (1.7, 3.0)  # thread and length when no size is noted; common practice, no source


def size_mm(step: Step) -> tuple[float, float]:
    """Diameter and length in millimetres as noted, or what is usual."""
    found = _SIZE.match(step.size)
    if found is None:
        return USUAL_MM
    return float(found.group(1)), float(found.group(2) or USUAL_MM[1])


def draw_part(painter: QPainter, look: Look, at: QPointF, step: Step, px_per_mm: float) -> float:
    """Draw one of the step's things with its left middle at ``at``; returns the width used in pixels."""
    metal = QColor(_METALS.get(step.finish, "#B8B4BC"))
    painter.setPen(QPen(look.colour("quiet"), 1.2))
    painter.setBrush(metal)
    diameter, length = size_mm(step)
    diameter, length = min(diameter, 6.0) * px_per_mm, min(length, 14.0) * px_per_mm
    if step.kind == "screw":
        return _screw(painter, at, (diameter, length), step)
    if step.kind in ("nut", "washer", "shim", "snap ring", "e-ring", "ball"):
        return _round_part(painter, look, at, diameter, step)
    return _other_part(painter, look, at, step)


def _screw(painter: QPainter, at: QPointF, size: tuple[float, float], step: Step) -> float:
    diameter, length = size
    metal = painter.brush()
    head = diameter * 1.75
    centre = QPointF(at.x() + head / 2, at.y())
    painter.drawEllipse(centre, head / 2, head / 2)
    dark = step.finish == "black"
    painter.setPen(QPen(QColor("#EFEAF6" if dark else "#241B30"), 1.8))
    arm = head * 0.32
    if step.head in ("slotted", "cross", "JIS cross", ""):
        painter.drawLine(QPointF(centre.x() - arm, centre.y()), QPointF(centre.x() + arm, centre.y()))
    if step.head in ("cross", "JIS cross"):
        painter.drawLine(QPointF(centre.x(), centre.y() - arm), QPointF(centre.x(), centre.y() + arm))
    if step.head == "JIS cross":
        dot = max(head * 0.06, 1.2)
        painter.setBrush(painter.pen().color())
        painter.drawEllipse(QPointF(centre.x() + arm * 0.72, centre.y() - arm * 0.72), dot, dot)
        painter.setBrush(metal)
    if step.head == "hex":
        painter.drawEllipse(centre, arm * 0.7, arm * 0.7)
    if step.head == "two-pin":
        for way in (-1, 1):
            painter.drawEllipse(QPointF(centre.x() + way * arm, centre.y()), 1.6, 1.6)
    painter.setPen(QPen(painter.brush().color().darker(150), 1.0))
    left = at.x() + head + 5
    painter.drawRect(QRectF(left, at.y() - head / 2, diameter * 0.55, head))
    shank = QRectF(left + diameter * 0.55, at.y() - diameter / 2, length, diameter)
    painter.drawRect(shank)
    threads = max(int(length / 4), 1)
    for place in range(1, threads):
        x = shank.x() + place * length / threads
        lean = 1.5 if step.hand != "left" else -1.5
        painter.drawLine(QPointF(x - lean, shank.top()), QPointF(x + lean, shank.bottom()))
    return head + 5 + diameter * 0.55 + length


def _round_part(painter: QPainter, look: Look, at: QPointF, diameter: float, step: Step) -> float:
    outer = max(diameter * 1.8, 12.0)
    centre = QPointF(at.x() + outer / 2, at.y())
    if step.kind == "nut":
        corners = [(1, 0), (0.5, 0.87), (-0.5, 0.87), (-1, 0), (-0.5, -0.87), (0.5, -0.87)]
        half = outer / 2
        painter.drawPolygon(QPolygonF([QPointF(centre.x() + x * half, centre.y() + y * half) for x, y in corners]))
    else:
        painter.drawEllipse(centre, outer / 2, outer / 2)
    if step.kind == "ball":
        return outer
    painter.setBrush(look.colour("card"))
    painter.drawEllipse(centre, outer * 0.28, outer * 0.28)
    if step.kind in ("snap ring", "e-ring"):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawRect(QRectF(centre.x() - outer * 0.09, centre.y(), outer * 0.18, outer * 0.55))
    return outer


def _other_part(painter: QPainter, look: Look, at: QPointF, step: Step) -> float:
    """A sign for what is no fastener: knob, cover, spring, wire and the rest."""
    width, height = look.px(26), look.px(18)
    box = QRectF(at.x(), at.y() - height / 2, width, height)
    painter.setBrush(look.colour("ground"))
    painter.setPen(QPen(look.colour("ink"), 1.5))
    if step.kind in ("knob", "ring"):
        painter.drawEllipse(box.center(), height / 2, height / 2)
        if step.kind == "ring":
            painter.drawEllipse(box.center(), height / 4, height / 4)
    elif step.kind in ("spring", "cord", "wire", "flex"):
        waves = 6 if step.kind == "spring" else 2
        points = [
            QPointF(box.x() + width * n / (2 * waves), box.center().y() + (height / 3 if n % 2 else -height / 3))
            for n in range(2 * waves + 1)
        ]
        painter.drawPolyline(QPolygonF(points))
    elif step.kind == "lever":
        painter.drawRoundedRect(QRectF(box.x(), box.center().y() - 3, width, 6), 3, 3)
    else:
        painter.drawRoundedRect(box, 3, 3)
    return float(width)
