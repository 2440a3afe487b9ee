"""The ladder of speeds and the map of lamps, drawn for paper."""

import math

from violet_dial.core.exposure.ladder import Rung
from violet_dial.core.exposure.said import aperture_said, time_said
from violet_dial.core.quantities import format_grouped
from violet_dial.report import drawings
from violet_dial.report.blocks import Drawing
from violet_dial.report.palette import INK, LINE, OUT, QUIET, ROLE_COLOURS, VIOLET
from violet_dial.stations.expose.lamps_state import LampsShown

WIDE, NAME, ROW, HEAD = 460.0, 56.0, 15.0, 18.0
LEAST_STOPS, MOST_STOPS = 1.0, 4.0
MAP_WIDE, MAP_TALL, MARGIN = 460.0, 190.0, 40.0
SLOW, RIGHT, OVER = "#E4D9EE", "#EAF3F1", "#F6E3DE"  # what should be lit: slow, none, over
NUMBERS = (2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0)
KEY = "S slow lit, O over lit, – none, ~ flickers; red where it is not as meant"


def ladder_drawn(rungs: tuple[Rung, ...]) -> Drawing:
    """Each speed's mean with its band against the mark, the tolerance behind."""
    far = max(abs(one.mean_stops) + 2 * one.u_stops for one in rungs)
    most = min(max(LEAST_STOPS, float(int(far) + 1)), MOST_STOPS)
    tall = HEAD + ROW * len(rungs) + 2

    def x(stops: float) -> float:
        held = min(max(stops, -most), most)
        return NAME + (held / most + 1) / 2 * (WIDE - NAME - 8)

    parts = []
    for place, one in enumerate(rungs):
        low, high = x(-one.tolerance_stops), x(one.tolerance_stops)
        parts.append(drawings.box((low, HEAD + place * ROW + 1.5), (high - low, ROW - 3), ROLE_COLOURS["tolerance"]))
    for stops in range(-int(most), int(most) + 1):
        parts.append(drawings.line((x(stops), HEAD - 4), (x(stops), tall), VIOLET if not stops else LINE))
        said = "as marked" if not stops else f"{stops:+d}".replace("-", "−")
        parts.append(drawings.quiet((x(stops), HEAD - 7), said, "middle"))
    for place, one in enumerate(rungs):
        middle = HEAD + (place + 0.5) * ROW
        parts.append(drawings.words((NAME - 8, middle + 3), time_said(one.marked_s), 9, INK, "end"))
        ends = x(one.mean_stops - 2 * one.u_stops), x(one.mean_stops + 2 * one.u_stops)
        parts.append(drawings.line((ends[0], middle), (ends[1], middle), INK, 1.2))
        parts.append(drawings.mark((x(one.mean_stops), middle), one.state))
    said = "; ".join(f"{time_said(one.marked_s)} {one.mean_stops:+.2f}" for one in rungs)
    return Drawing(drawings.drawing(WIDE, tall, parts), f"Speeds in stops, slow to the right: {said}", 0.8)


def lamps_drawn(shown: LampsShown) -> Drawing:
    """Light across, aperture up; what should be lit as areas, what was seen as signs."""
    (left, right), (low, high) = shown.lux2, shown.n2

    def at(lux2: float, n2: float) -> drawings.Point:
        across = (min(max(lux2, left), right) - left) / (right - left)
        up = (high - min(max(n2, low), high)) / (high - low)
        return MARGIN + across * (MAP_WIDE - MARGIN - 10), 8 + up * (MAP_TALL - 34)

    def edge(place: float) -> tuple[drawings.Point, drawings.Point]:
        return at(low + shown.constant - place, low), at(high + shown.constant - place, high)

    slow, over = edge(shown.slow), edge(shown.over)
    parts = [
        drawings.shape((at(left, low), slow[0], slow[1], at(left, high)), SLOW),
        drawings.shape((slow[0], over[0], over[1], slow[1]), RIGHT),
        drawings.shape((over[0], at(right, low), at(right, high), over[1]), OVER),
    ]
    for found, name in ((shown.found_slow, "slow"), (shown.found_over, "over")):
        if found is not None:
            ends = edge(found)
            parts.append(drawings.line(ends[0], ends[1], VIOLET, 1.6, dashed=True))
            parts.append(drawings.quiet((ends[1][0] - 4, ends[1][1] + 8), f"{name} as found", "end"))
    for lux in (10.0**power for power in range(-1, 7)):
        if left <= math.log2(lux) <= right:
            said = f"{format_grouped(lux)} lx" if lux >= 1 else f"{lux:g} lx"
            parts.append(drawings.quiet((at(math.log2(lux), low)[0], MAP_TALL - 14), said, "middle"))
    for number in NUMBERS:
        if low <= 2 * math.log2(number) <= high:
            parts.append(
                drawings.quiet((MARGIN - 4, at(left, 2 * math.log2(number))[1] + 3), aperture_said(number), "end")
            )
    for one in shown.spots:
        x, y = at(one.lux2, one.n2)
        parts.append(drawings.words((x, y + 3), one.sign, 10, INK if one.right else OUT, "middle"))
    parts.append(drawings.words((MARGIN, MAP_TALL - 2), KEY, 8, QUIET))
    said = "; ".join(one.words for one in shown.spots)
    return Drawing(drawings.drawing(MAP_WIDE, MAP_TALL, parts), f"Lamps over light and aperture: {said}", 0.8)
