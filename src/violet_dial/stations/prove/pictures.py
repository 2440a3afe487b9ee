"""Prove's lanes as shapes, for the screen and for paper: every firing a tick on its setting's lane, repairs as lines across."""

from collections.abc import Iterator
from dataclasses import dataclass
from textwrap import wrap

from violet_dial.report.blocks import Drawing
from violet_dial.report.shapes import Caption, Polyline, Shape, Sign, Strokes, middle, svg
from violet_dial.stations.prove.firings_state import FiringsShown, SettingRow

NAME, SAID, ROW, HEAD, FOOT = 92, 214, 44, 30, 26
LEAST_APART, MOST_APART = 9, 16  # between ticks: from which a key fits beside a failure, and at most
FEW = 12  # failures of a lane, whose keys are always said
LONGEST_LINE, TWO_LINES = 26, 36  # letters beside a lane; its height from which there are two lines of them
PAPER_WIDE, PAPER_SCALE = 460.0, 0.62


@dataclass(frozen=True)
class SettingRows:
    """Where lanes and ticks lie; ``words`` whether something is said beside them: on paper a table does that."""

    shown: FiringsShown
    wide: float
    tall: float
    scale: float = 1.0
    words: bool = True

    def row(self, place: int) -> tuple[float, float]:
        """Top and height of a lane."""
        px = self.scale
        foot = FOOT * px if self.words else 0.0
        tall = min((self.tall - HEAD * px - foot) / max(len(self.shown.lanes), 1), ROW * 1.5 * px)
        return HEAD * px + place * tall, tall

    @property
    def right(self) -> float:
        """Where the lanes end."""
        return self.wide - (SAID * self.scale if self.words else 0.0)

    @property
    def apart(self) -> float:
        """From tick to tick."""
        px = self.scale
        return min((self.right - (NAME + 16) * px) / max(self.shown.count, 1), MOST_APART * px)

    def x(self, place: float) -> float:
        """Where a firing stands, by its place in the log."""
        return (NAME + 8) * self.scale + (place + 0.5) * self.apart

    def shapes(self) -> Iterator[Shape]:
        """Repairs, lanes, what is said of them, and the keys of failures."""
        yield from self._stretches()
        for place, lane in enumerate(self.shown.lanes):
            yield from self._lane(lane, *self.row(place))
        if self.words:
            words = "    ".join(f"{digit} {kind}" for digit, kind in self.shown.kinds)
            foot = middle(self.tall - FOOT * self.scale / 2, 12 * self.scale)
            yield Caption((8 * self.scale, foot), words, 12, "quiet", most=self.wide - 16 * self.scale)

    def _stretches(self) -> Iterator[Shape]:
        """Each repair as a line across all lanes, its name over it."""
        shown, px = self.shown, self.scale
        if not shown.lanes:
            return
        below = sum(self.row(len(shown.lanes) - 1))
        begins = shown.stretches if shown.stretches and shown.stretches[0][0] == 0 else ((0, ""), *shown.stretches)
        ends = [*(self.x(place - 0.5) for place, _name in begins[1:]), self.right]
        for (place, name), end in zip(begins, ends, strict=True):
            x, colour = self.x(place - 0.5), "violet" if place else "quiet"
            if place:
                yield Polyline(((x, 6 * px), (x, below)), "violet", 1.6, dashed=True)
            room = end - x - 8 * px
            if room > 0:
                said = f"after {name}" if name else "as it came"
                yield Caption((x + 4 * px, middle((HEAD - 6) * px / 2, 12 * px)), said, 12, colour, most=room)

    def _lane(self, one: SettingRow, top: float, tall: float) -> Iterator[Shape]:
        px, at = self.scale, top + tall / 2
        yield Polyline(((NAME * px, at), (self.right - 8 * px, at)), "line")
        colour = "violet" if one.is_next and self.words else "ink"
        bold = self.words and (one.is_now or one.is_next)
        yield Caption(((NAME - 12) * px, middle(at, 15 * px)), one.setting, 15, colour, "end", bold)
        yield from self._ticks(one, top, tall)
        if not self.words:
            return
        if one.is_next:
            yield Caption((8 * px, middle(at, 15 * px)), "▶", 15, "violet")
        yield Sign((self.right + 10 * px, at), one.state, 6 * px)
        lines = wrap(one.said, LONGEST_LINE) if tall >= TWO_LINES * px else [one.said]
        for number, line in enumerate(lines):
            y = middle(at, 13 * px) + (number - (len(lines) - 1) / 2) * 16 * px
            yield Caption((self.right + 24 * px, y), line, 13, "ink", most=(SAID - 28) * px)

    def _ticks(self, one: SettingRow, top: float, tall: float) -> Iterator[Shape]:
        px, apart, at, reach = self.scale, self.apart, top + tall / 2, tall * 0.2
        clean = tuple(((x, at - reach), (x, at + reach)) for x in map(self.x, one.clean))
        yield Strokes(clean, "within", max(min(apart * 0.35, 2.4 * px), 1.0))
        failed = tuple(((x, at - 1.25 * reach), (x, at + 1.2 * reach)) for x in (self.x(place) for place, _key in one.failed))
        yield Strokes(failed, "out", 2.4 * px)
        says_keys = apart >= LEAST_APART * px or len(one.failed) < FEW
        for place, key in one.failed:
            yield Sign((self.x(place), at + 1.2 * reach), "low", min(max(apart * 0.7, 4 * px), 8 * px))
            if says_keys and at - 1.35 * reach - top > 11 * px:
                yield Caption((self.x(place), at - 1.25 * reach - 3 * px), key, 12, "out", "middle", True)


def lanes_drawn(shown: FiringsShown) -> Drawing:
    """The lanes for paper."""
    tall = (HEAD + ROW * 0.8 * len(shown.lanes)) * PAPER_SCALE + 2
    shapes = SettingRows(shown, PAPER_WIDE, tall, PAPER_SCALE, False).shapes()
    said = "; ".join(lane.sentence for lane in shown.lanes)
    return Drawing(svg((PAPER_WIDE, tall), shapes, PAPER_SCALE), f"Firings by setting: {said}", 0.8)
