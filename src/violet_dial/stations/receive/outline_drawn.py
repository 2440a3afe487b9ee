"""The outline of a device with its findings on it, drawn for paper: the views that have any, side by side."""

import re
from functools import lru_cache
from pathlib import Path

from violet_dial.core.receiving.places import VIEWS, DeviceKind, View
from violet_dial.job.document import Job
from violet_dial.report.blocks import Drawing
from violet_dial.report.shapes import Caption, Circle, Ready, Shape, svg

OUTLINES = Path(__file__).parent.parent.parent / "assets" / "outlines"
PAPER_INKS = (("#111111", "#8A7F93"), ("#EEEEEE", "#F4F0EA"), ("#FAFAFA", "#FFFDFA"), ("#CFCFCF", "#E4D9EE"))
WIDE, TALL, GAP, FOOT = 320.0, 200.0, 24.0, 18.0
MOST_MARKED = 24


@lru_cache(maxsize=32)
def outline_svg(kind: DeviceKind, view: View) -> str:
    """The text of an outline, as it ships."""
    stem = "board" if kind == "other" else kind.replace(" ", "-")
    return (OUTLINES / f"{stem}-{view}.svg").read_text(encoding="utf-8")


def outlines_drawn(job: Job) -> tuple[Drawing, ...]:
    """One drawing of the views that findings are on, each finding with its number; none without findings."""
    found = job.receiving.findings[:MOST_MARKED]
    views = [view for view in VIEWS if any(one.view == view for one in found)]
    if not views:
        return ()
    parts: list[Shape] = []
    left, share = 0.0, {1: 0.4, 2: 0.66, 3: 0.9}.get(len(views), 1.0)
    sizes = {view: _size(job.device.kind, view) for view in views}
    scales = {view: min(WIDE / wide, TALL / tall) for view, (wide, tall) in sizes.items()}
    below = max(sizes[view][1] * scales[view] for view in views)
    for view in views:
        (wide, tall), scale = sizes[view], scales[view]
        inside = _inner(job.device.kind, view)
        parts.append(Ready(f'<g transform="translate({left:g} 0) scale({scale:.4f})">{inside}</g>'))
        parts.append(Caption((left + wide * scale / 2, below + FOOT - 4), view, 13, "quiet", "middle"))
        for number, one in enumerate(found, start=1):
            if one.view == view:
                at = (left + one.x * wide * scale, one.y * tall * scale)
                parts.append(Circle(at, 10, "out", "card", 1.8))
                parts.append(Caption((at[0], at[1] + 4.5), f"{number}", 13, "out", "middle"))
        left += wide * scale + GAP
    said = ", ".join(f"{number} {one.kind} on the {one.view}" for number, one in enumerate(found, start=1))
    return (Drawing(svg((left - GAP, below + FOOT), parts), f"Where it was found: {said}", share),)


def _size(kind: DeviceKind, view: View) -> tuple[float, float]:
    """Width and height of an outline, in its own units."""
    box = re.search(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', outline_svg(kind, view))
    return (float(box[1]), float(box[2])) if box is not None else (WIDE, TALL)


def _inner(kind: DeviceKind, view: View) -> str:
    """The shapes of an outline in the inks of paper."""
    text = outline_svg(kind, view)
    for drawn, ink in PAPER_INKS:
        text = text.replace(drawn, ink)
    inside = re.search(r"<svg[^>]*>(.*)</svg>", text, re.DOTALL)
    return inside[1] if inside is not None else ""
