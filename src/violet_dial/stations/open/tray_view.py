"""The tray: compartments in the order of removal, what lies in each drawn to scale. Fasteners are drawn to scale: head with its
drive, shank from the side, thread hand beside it.
"""

import re
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal, Slot
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from violet_dial.core.opening.steps import Step
from violet_dial.core.opening.tally import tally
from violet_dial.kit.picture import antialiased, draw_mark, pens
from violet_dial.kit.theme.look import Look
from violet_dial.stations.open.words import HAND_SIGNS, STATE_MARKS

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
    pens(painter, look, "ink", "ground", 1.5)
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


CELL_WIDTH, LINE_HEIGHT, HEAD_HEIGHT = 236, 46, 22
PICTURES_KEPT = 400  # drawn steps kept as pictures, so that scrolling does not draw them again


@dataclass(frozen=True)
class Compartment:
    """One compartment: its name and the places of the steps whose things lie in it."""

    name: str
    places: tuple[int, ...]


def compartments_of(steps: tuple[Step, ...]) -> tuple[Compartment, ...]:
    """Compartments in the order in which they were first used; a step without one lies beside the tray."""
    found: dict[str, list[int]] = {}
    for place, step in enumerate(steps):
        found.setdefault(step.tray or "beside", []).append(place)
    return tuple(Compartment(name, tuple(places)) for name, places in found.items())


class TrayView(QScrollArea):
    """Scrolls over the tray; ``chosen`` carries the place of the step that was clicked."""

    chosen = Signal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._board = _Board(look, self)
        self.setWidget(self._board)
        self.setWidgetResizable(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Tray")
        look.changed.connect(self._board.restyle)

    def show_steps(self, steps: tuple[Step, ...], chosen: int) -> None:
        """Show the tray; the compartment of the chosen step is brought into view."""
        self._board.show_steps(steps, chosen)
        box = self._board.box_of(chosen)
        if box is not None:
            self.ensureVisible(box.center().x(), box.center().y(), 10, box.height() // 2 + 10)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._board.lay_out()


class _Board(QWidget):
    """Paints only the compartments that are in view."""

    def __init__(self, look: Look, area: TrayView) -> None:
        super().__init__()
        self._look, self._area = look, area
        self._steps: tuple[Step, ...] = ()
        self._chosen = -1
        self._boxes: list[tuple[QRect, Compartment]] = []
        self._pictures: dict[tuple[Step, int], QPixmap] = {}

    def show_steps(self, steps: tuple[Step, ...], chosen: int) -> None:
        same = steps is self._steps
        self._steps, self._chosen = steps, chosen
        if same:
            self.update()
        else:
            self.lay_out()

    @Slot()
    def restyle(self) -> None:
        """Draw everything again in the new look."""
        self._pictures.clear()
        self.lay_out()

    def lay_out(self) -> None:
        """Compartments side by side, as many columns as fit."""
        gap, width = self._look.px(8), max(self._area.viewport().width(), 120)
        columns = max(1, (width + gap) // (self._look.px(CELL_WIDTH) + gap))
        cell = (width - (columns - 1) * gap) // columns
        self._boxes = []
        heights = [0] * columns
        for compartment in compartments_of(self._steps):
            column = heights.index(min(heights))
            height = self._look.px(HEAD_HEIGHT + LINE_HEIGHT * len(compartment.places) + 6)
            self._boxes.append((QRect(column * (cell + gap), heights[column], cell, height), compartment))
            heights[column] += height + gap
        self.resize(QSize(width, max(*heights, 10)))
        self.update()

    def box_of(self, place: int) -> QRect | None:
        return next((box for box, compartment in self._boxes if place in compartment.places), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, compartment in self._boxes:
            if box.contains(event.position().toPoint()):
                row = int((event.position().y() - box.y() - self._look.px(HEAD_HEIGHT)) // self._look.px(LINE_HEIGHT))
                self._area.chosen.emit(compartment.places[min(max(row, 0), len(compartment.places) - 1)])

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = antialiased(self)
        if not self._steps:
            painter.setPen(self._look.colour("quiet"))
            painter.drawText(self.rect().adjusted(0, 12, 0, 60), Qt.AlignmentFlag.AlignHCenter, "The tray is empty.")
        for box, compartment in self._boxes:
            if box.intersects(event.rect()):
                self._paint(painter, box, compartment, event.rect())

    def _paint(self, painter: QPainter, box: QRect, compartment: Compartment, seen: QRect) -> None:
        look = self._look
        chosen = self._chosen in compartment.places
        pens(painter, look, "violet" if chosen else "line", "soft" if chosen else "card", 2 if chosen else 1)
        painter.drawRoundedRect(QRectF(box).adjusted(1, 1, -1, -1), 8, 8)
        painter.setFont(look.font(13, True))
        painter.setPen(look.colour("violet"))
        head = QRectF(box).adjusted(look.px(10), look.px(4), -look.px(8), 0)
        painter.drawText(head, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, compartment.name)
        for row, place in enumerate(compartment.places):
            top = box.y() + look.px(HEAD_HEIGHT) + row * look.px(LINE_HEIGHT)
            if top > seen.bottom() or top + look.px(LINE_HEIGHT) < seen.top():
                continue
            painter.drawPixmap(box.x(), top, self._picture(self._steps[place], box.width()))

    def _picture(self, step: Step, width: int) -> QPixmap:
        """A step's row as a picture, drawn once."""
        found = self._pictures.get((step, width))
        if found is not None:
            return found
        if len(self._pictures) >= PICTURES_KEPT:
            self._pictures.clear()
        ratio, height = self.devicePixelRatioF(), self._look.px(LINE_HEIGHT)
        picture = QPixmap(int(width * ratio), int(height * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_step(painter, QRectF(0, 0, width, height), step)
        painter.end()
        self._pictures[step, width] = picture
        return picture

    def _paint_step(self, painter: QPainter, box: QRectF, step: Step) -> None:
        look = self._look
        painter.setOpacity(0.55 if step.planned or tally(step).state == "whole" else 1.0)
        left = QPointF(box.x() + look.px(10), box.y() + box.height() * 0.36)
        used = draw_part(painter, look, left, step, look.px(50) / 10)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        hand = HAND_SIGNS[step.hand]
        facts = "  ".join(
            part for part in (f"×{step.count}" if step.count > 1 else "", step.size, step.head, step.finish) if part
        )
        x = left.x() + used + look.px(8)
        width = box.right() - x - look.px(6)
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        hand_width = painter.fontMetrics().horizontalAdvance(hand)
        upper = QRectF(x, box.y(), width - hand_width - 4, box.height() * 0.66)
        painter.drawText(upper, flags, painter.fontMetrics().elidedText(facts, Qt.TextElideMode.ElideRight, int(upper.width())))
        if hand:
            painter.setPen(look.colour("out" if step.hand in ("left", "unknown") else "quiet"))
            painter.drawText(
                QRectF(box.right() - hand_width - look.px(8), box.y(), hand_width + 2, box.height() * 0.66), flags, hand
            )
        lower = QRectF(box.x() + look.px(10), box.y() + box.height() * 0.62, box.width() - look.px(18), box.height() * 0.38)
        centre = QPointF(lower.x() + look.px(5), lower.center().y())
        draw_mark(painter, look, centre, STATE_MARKS[tally(step).state], look.px(5))
        painter.setPen(look.colour("quiet"))
        name = lower.adjusted(look.px(16), 0, 0, 0)
        painter.drawText(name, flags, painter.fontMetrics().elidedText(step.name, Qt.TextElideMode.ElideRight, int(name.width())))
