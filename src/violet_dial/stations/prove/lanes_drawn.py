"""The lanes of firings, drawn for paper."""

from violet_dial.job.document import Job
from violet_dial.report import drawings
from violet_dial.report.blocks import Drawing
from violet_dial.report.palette import INK, LINE, OUT, VIOLET, WITHIN
from violet_dial.stations.prove.firings_state import firings_shown

WIDE, NAME, ROW, HEAD = 460.0, 44.0, 20.0, 14.0
MOST_APART = 9.0


def lanes_drawn(job: Job) -> Drawing:
    """Every firing a tick on its setting's lane, failures heavy and low, repairs as dashed lines across."""
    shown = firings_shown(job)
    apart = min((WIDE - NAME - 8) / max(shown.count, 1), MOST_APART)
    tall = HEAD + ROW * len(shown.lanes) + 2

    def x(place: float) -> float:
        return NAME + 4 + (place + 0.5) * apart

    parts = []
    for row, one in enumerate(shown.lanes):
        middle = HEAD + (row + 0.5) * ROW
        parts.append(drawings.words((NAME - 4, middle + 3), one.setting, 9, INK, "end"))
        parts.append(drawings.line((NAME, middle), (WIDE, middle), LINE, 0.6))
        parts += [drawings.line((x(at), middle - 4), (x(at), middle + 4), WITHIN, 1.0) for at in one.clean]
        for at, _key in one.failed:
            parts.append(drawings.line((x(at), middle - 6), (x(at), middle + 6), OUT, 1.8))
            parts.append(drawings.mark((x(at), middle + 6), "low", 2.6))
    begins = shown.stretches if shown.stretches and shown.stretches[0][0] == 0 else ((0, ""), *shown.stretches)
    for place, name in begins:
        if place:
            parts.append(drawings.line((x(place - 0.5), 2), (x(place - 0.5), tall), VIOLET, 1.0, dashed=True))
        parts.append(drawings.quiet((x(place - 0.5) + 2, HEAD - 5), f"after {name}" if name else "as it came"))
    said = "; ".join(one.sentence for one in shown.lanes)
    return Drawing(drawings.drawing(WIDE, tall, parts), f"Firings by setting: {said}", 0.8)
