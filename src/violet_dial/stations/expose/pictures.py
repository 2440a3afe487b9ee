"""Expose's pictures as shapes, for the screen and for paper: the ladder of speeds, and the map of lamps."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from textwrap import wrap

from violet_dial.core.exposure.said import aperture_said
from violet_dial.core.quantities import format_grouped
from violet_dial.report.blocks import Drawing
from violet_dial.report.shapes import (
    Box,
    Caption,
    Circle,
    Filled,
    Point,
    Polyline,
    Shape,
    Sign,
    Strokes,
    clipped_line,
    middle,
    svg,
)
from violet_dial.stations.expose.lamps_state import LampSign, LampsShown
from violet_dial.stations.expose.speeds_state import RungShown

MOST_STOPS, LEAST_STOPS = 4.0, 1.0
NAME, FIGURE, ROW, HEAD, PAD = 96, 182, 30, 26, 8
PAPER_WIDE, PAPER_SCALE, PAPER_MAP_TALL = 460.0, 0.62, 190.0
LEFT, FOOT, TOP, SPOT = 56, 40, 8, 9
NUMBERS = (1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0, 32.0)
LUX = (0.1, 1.0, 10.0, 100.0, 1000.0, 10_000.0, 100_000.0)
LETTER = 7.4  # of bold words of the map, on average, at usual text
KEY = "light, lx →   S slow  O over  – none  B both  ~ flicker"
NAMES = ("too dark for any time", "slow lamp", "no lamp", "over lamp")


@dataclass(frozen=True)
class PictureFrame:
    """How large a picture is, and its lengths to those at usual text; ``figures`` whether words stand beside it: on paper a table
    does that."""

    wide: float
    tall: float
    scale: float = 1.0
    figures: bool = True


# the ladder


@dataclass(frozen=True)
class LadderPicture:
    """Where the rungs of a ladder lie."""

    rungs: tuple[RungShown, ...]
    frame: PictureFrame

    @property
    def most(self) -> float:
        """Stops at the edge: what holds every firing, in whole stops."""
        far = max((abs(error) for rung in self.rungs for error in rung.errors), default=0.0)
        return min(max(LEAST_STOPS, float(int(far * 1.1) + 1)), MOST_STOPS)

    def row(self, place: int) -> tuple[float, float]:
        """Top and height of a rung."""
        frame = self.frame
        tall = (frame.tall - HEAD * frame.scale) / max(len(self.rungs), 1)
        tall = min(tall, ROW * 1.7 * frame.scale)
        return HEAD * frame.scale + place * tall, tall

    def shapes(self) -> Iterator[Shape]:
        """The scale, then each rung: its mark, firings, mean with its doubt, what was measured."""
        frame, most, px = self.frame, self.most, self.frame.scale
        left, right = NAME * px, frame.wide - (FIGURE if frame.figures else PAD) * px

        def x(stops: float) -> float:
            return left + (min(max(stops, -most), most) / most + 1) / 2 * (right - left)

        yield from self._scale(x(0.0), (right - left) / (2 * most))
        for place, rung in enumerate(self.rungs):
            top, tall = self.row(place)
            at, gap = top + tall / 2, min(tall * 0.16, 5)
            low, high = x(-rung.tolerance_stops), x(rung.tolerance_stops)
            yield Box((low, top + gap), (high - low, tall - 2 * gap), "band")
            yield Caption(
                ((NAME - 8) * px, middle(at, 14 * px)),
                rung.mark,
                14,
                "violet" if rung.is_next and frame.figures else "ink",
                "end",
                rung.is_next,
            )
            if rung.is_next and frame.figures:
                yield Caption((PAD * px, middle(at, 14 * px)), "▸", 14, "violet")
            reach = min(tall * 0.28, 8 * px)
            yield Strokes(
                tuple(((x(error), at - reach), (x(error), at + reach)) for error in rung.errors), "ink", 1.6 * min(px, 1)
            )
            if rung.errors:
                ends = (x(rung.mean_stops - rung.doubt_stops), at), (x(rung.mean_stops + rung.doubt_stops), at)
                yield Polyline(ends, "ink", 1.0)
            yield Sign((x(rung.mean_stops), at), rung.state, 6 * px)
            if frame.figures:
                said = rung.measured or ("fire it next" if rung.is_next else "not fired")
                yield Caption((right + 10 * px, middle(at, 13 * px)), said, 13, "ink" if rung.errors else "quiet")

    def _scale(self, zero: float, a_stop: float) -> Iterator[Shape]:
        frame, most, px = self.frame, int(self.most), self.frame.scale
        below = sum(self.row(len(self.rungs) - 1))
        for stops in range(-most, most + 1):
            x = zero + stops * a_stop
            yield Polyline(((x, HEAD * px - 4), (x, below)), "line", 2.0 if not stops else 1.0)
            said = "as marked" if not stops else f"{stops:+d}".replace("-", "−")
            yield Caption((x, HEAD * px - 10 * px), said, 12, "quiet", "middle")
        yield Caption((PAD * px, HEAD * px - 10 * px), "← fast", 12, "quiet")
        if frame.figures:
            yield Caption((frame.wide - PAD * px, HEAD * px - 10 * px), "slow →  in stops", 12, "quiet", "end")


def ladder_drawn(rungs: tuple[RungShown, ...]) -> Drawing:
    """The ladder for paper."""
    tall = (HEAD + ROW * len(rungs)) * PAPER_SCALE + 2
    shapes = LadderPicture(rungs, PictureFrame(PAPER_WIDE, tall, PAPER_SCALE, False)).shapes()
    said = "; ".join(f"{rung.mark} {rung.mean_stops:+.2f}" for rung in rungs if rung.errors)
    return Drawing(svg((PAPER_WIDE, tall), shapes, PAPER_SCALE), f"Speeds in stops, slow to the right: {said}", 0.8)


# the lamps


@dataclass(frozen=True)
class LampMap:
    """Light across, aperture up: what should be lit as areas, what was seen as signs, where to look next."""

    shown: LampsShown
    frame: PictureFrame

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the map."""
        frame, px = self.frame, self.frame.scale
        return LEFT * px, TOP * px, frame.wide - 10 * px, frame.tall - FOOT * px

    def at(self, lux2: float, n2: float) -> Point:
        """Where a light (log2 lx) and an aperture (log2 N²) lie."""
        shown, (left, top, right, bottom) = self.shown, self.box
        along = (lux2 - shown.lux2[0]) / (shown.lux2[1] - shown.lux2[0])
        up = (n2 - shown.n2[0]) / (shown.n2[1] - shown.n2[0])
        return left + along * (right - left), bottom - up * (bottom - top)

    def edge(self, time2: float) -> tuple[Point, Point]:
        """Where a time (log2 s) is meant, from the widest aperture to the smallest: log2 lx = log2 N² + constant − time."""
        low, high = self.shown.n2
        return self.at(low + self.shown.constant - time2, low), self.at(high + self.shown.constant - time2, high)

    def shapes(self) -> Iterator[Shape]:
        """All of it."""
        shown, (left, top, right, bottom) = self.shown, self.box
        yield Box((left, top), (right - left, bottom - top), "card")
        for time2, is_darker, colour in (
            (shown.slow, True, "watch"),
            (shown.over, False, "violet"),
            (shown.longest, True, "line"),
        ):
            yield Filled(self._side(time2, is_darker), colour, 0.16 if colour != "line" else 0.5)
        meant = ((one, "quiet", 1.0, False) for one in (shown.slow, shown.over, shown.longest))
        found = ((one, "violet", 2.4, True) for one in (shown.found_slow, shown.found_over) if one is not None)
        for time2, colour, width, dashed in (*meant, *found):
            line = clipped_line(self.edge(time2), left, right)
            if line is not None:
                yield Polyline(line, colour, width, dashed)
        yield from self._names()
        yield from self._scales()
        for spot in shown.spots:
            yield from self._spot(spot)
        if shown.next is not None and self.frame.figures:
            yield from self._next(self.at(*shown.next))

    def _side(self, time2: float, is_darker: bool) -> tuple[Point, ...]:
        """What lies on one side of an edge, within the map."""
        left, top, right, bottom = self.box
        (x0, y0), (x1, y1) = self.edge(time2)
        steps = [n / 12 for n in range(13)]  # an edge that leaves the map goes on along its side
        slope = tuple((min(max(x0 + n * (x1 - x0), left), right), y0 + n * (y1 - y0)) for n in steps)
        far = left if is_darker else right
        return (*slope, (far, top), (far, bottom))

    def _names(self) -> Iterator[Shape]:
        """What each part of the map is, along its top."""
        (left, top, right, _), shown, px = self.box, self.shown, self.frame.scale
        ends = [left, *(self.edge(one)[1][0] for one in (shown.longest, shown.slow, shown.over)), right]
        for begin, end, name in zip(ends, ends[1:], NAMES, strict=False):
            first, last = max(begin, left) + 4, min(end, right) - 4
            for number, line in enumerate(lines_of(name, (last - first) / (LETTER * px))):
                yield Caption(((first + last) / 2, top + (14 + 15 * number) * px), line, 12, "quiet", "middle", True)

    def _scales(self) -> Iterator[Shape]:
        (left, top, right, bottom), shown, px = self.box, self.shown, self.frame.scale
        yield Box((left, top), (right - left, bottom - top), "none", "line")
        for number in NUMBERS:
            n2 = 2 * math.log2(number)
            if shown.n2[0] <= n2 <= shown.n2[1]:
                yield Caption(
                    (left - 6 * px, middle(self.at(shown.lux2[0], n2)[1], 12 * px)), aperture_said(number), 12, "quiet", "end"
                )
        for lux in LUX:
            if shown.lux2[0] <= math.log2(lux) <= shown.lux2[1]:
                x = self.at(math.log2(lux), shown.n2[0])[0]
                yield Polyline(((x, bottom), (x, bottom + 4 * px)), "line")
                said = format_grouped(lux) if lux >= 1 else f"{lux:g}"
                yield Caption((x, bottom + 16 * px), said, 12, "quiet", "middle")
        yield Caption(((left + right) / 2, bottom + 33 * px), KEY, 12, "quiet", "middle")

    def _spot(self, spot: LampSign) -> Iterator[Shape]:
        (x, y), px = self.at(spot.lux2, spot.n2), self.frame.scale
        size, wide = SPOT * px, max(SPOT * 2.0, 8 + 7.5 * len(spot.sign)) * px
        corner = size if spot.right else 0.0
        yield Box((x - wide / 2, y - size), (wide, 2 * size), "card", "within" if spot.right else "out", 2.0 * px, corner)
        yield Caption((x, middle(y, 12 * px)), spot.sign, 12, "ink", "middle", True)

    def _next(self, at: Point) -> Iterator[Shape]:
        (x, y), size = at, (SPOT + 3) * self.frame.scale
        yield Circle(at, size, "violet", width=2.4)
        ways = ((1.5, 0.0), (-1.5, 0.0), (0.0, 1.5), (0.0, -1.5))
        yield Strokes(
            tuple(((x + a * size, y + b * size), (x + a * size * 0.66, y + b * size * 0.66)) for a, b in ways), "violet", 2.4
        )


def lines_of(words: str, letters: float) -> tuple[str, ...]:
    """Words on lines of so many letters; none where one of them is longer."""
    lines = wrap(words, max(int(letters), 1), break_long_words=False)
    return tuple(lines) if all(len(line) <= letters for line in lines) else ()


def lamps_drawn(shown: LampsShown) -> Drawing:
    """The map of lamps for paper."""
    size = (PAPER_WIDE, PAPER_MAP_TALL)
    said = "; ".join(spot.words for spot in shown.spots)
    shapes = LampMap(shown, PictureFrame(*size, PAPER_SCALE, False)).shapes()
    return Drawing(svg(size, shapes, PAPER_SCALE), f"Lamps over light and aperture: {said}", 0.8)
