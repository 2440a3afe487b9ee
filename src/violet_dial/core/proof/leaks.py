"""Fog on frames to the seam it came through; the roll plan that parts them; fog found on a scan."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.seams import BEFORE, BORDER, CAUSES, OPPOSITE, SEAMS, Cause, Hinge, Shape, Side, shapes_of, sides_of

COUNTS_FOR = 0.25  # of how a second frame and each after looks: frames of one roll share more than the leak
FOG_BARE, FOG_OPENED = (0.7, 0.85)  # chance that a frame is fogged: nothing taped, all taped but the seam it comes through
FOG_TAPED, FOG_ELSE = 0.02, 0.75  # the seam taped (tape seldom leaks); where no seam lets it in
DOUBT = 0.015  # of everything seen: tape that does not hold on a whole roll, frames miscounted; common practice, no source
LEAST_CONTRAST = 0.04  # of full density, below which a frame is called clean
LIT, WIDE, THIN = 0.4, 0.62, 0.22  # of the most: lit; of the frame: all over; of the frame: a streak
FILLS, SMALL, AT_EDGE = 0.7, 0.36, 0.14  # of the frame: along all of it; a spot; the densest place is at the edge
PERFORATIONS = 8  # on one 35 mm frame; ISO 1007 (from memory)
Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Fog:
    """Fog on one frame, as the picture is seen upright; ``side`` there, ``border`` whether it reaches into the perforations."""

    shape: Shape
    side: Side
    border: bool | None = None


@dataclass(frozen=True)
class FogFrame:
    """One frame of the roll: its number, what was open ("all", a seam, or "none" with all taped), its fog; None for clean."""

    number: int
    open: str
    fog: Fog | None


@dataclass(frozen=True)
class LeakSuspect:
    """One way in, its chance, what speaks for it and what against."""

    cause: Cause
    chance: float
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]


def turned(side: Side) -> Side:
    """A place of the upright picture as a place of the gate seen from behind: the lens turns the picture by half a turn.

    Example
    -------
    >>> turned("top left"), turned("middle")
    ('bottom right', 'middle')
    """
    return " ".join(OPPOSITE[word] for word in side.split())  # type: ignore[return-value]


def roll_plan(frames: int, taped_from: int = 6) -> tuple[tuple[int, str], ...]:
    """Which frame is shot with what open: the first bare, then all seams taped but one in turn, the last all taped.

    Raises InvalidInput: too few frames.

    Returns
    -------
    tuple of (frame number from 1, what is open)
    """
    need = taped_from + 2 * len(SEAMS) + 1
    if not need <= frames <= 100:
        raise InvalidInput(
            "Frames", frames, f"{need} to 100: {taped_from} bare, two for each of {len(SEAMS)} seams, one all taped"
        )
    each = (frames - taped_from - 1) // len(SEAMS)
    found = [(n, "all") for n in range(1, taped_from + 1)]
    for seam in SEAMS:
        found += [(len(found) + 1 + n, seam) for n in range(each)]
    return (*found, *((n, "none") for n in range(len(found) + 1, frames + 1)))


def judge_leaks(frames: tuple[FogFrame, ...], hinge: Hinge = "right") -> tuple[LeakSuspect, ...]:
    """Where the light gets in, the likeliest first; the chances sum to 1. Raises InvalidInput: an open seam that is none."""
    weights = {cause: np.log(BEFORE[cause]) for cause in CAUSES}
    pro: dict[Cause, dict[str, float]] = {cause: {} for cause in CAUSES}
    seen = 0
    taped: set[str] = set()
    for frame in frames:
        if frame.open not in ("all", "none", *SEAMS):
            raise InvalidInput("Open", frame.open, f"all, none, or one of {', '.join(SEAMS)}")
        share = 1.0 if not seen or frame.fog is None else COUNTS_FOR
        seen += frame.fog is not None
        said = {cause: _said(frame, cause, hinge) for cause in CAUSES}
        for words in next(iter(said.values())):
            mean = float(np.mean([said[cause][words] for cause in CAUSES]))
            is_taping = words.startswith(("fog with", "clean with"))
            counts = share if not is_taping else COUNTS_FOR if frame.open in taped else 1.0  # each taping counts whole once
            for cause in CAUSES:
                weights[cause] += counts * float(np.log(said[cause][words]))
                known = pro[cause].get(words, 0.0)
                pro[cause][words] = known + counts * float(np.log(said[cause][words] / mean))
        taped.add(frame.open)
    top = max(weights.values())
    total = sum(np.exp(weight - top) for weight in weights.values())
    told = {cause: float(np.exp(weights[cause] - top) / total) for cause in CAUSES}
    found = [_suspect(cause, (1 - DOUBT) * told[cause] + DOUBT * BEFORE[cause], pro[cause]) for cause in CAUSES]
    return tuple(sorted(found, key=lambda one: -one.chance))


def _suspect(cause: Cause, chance: float, pro: dict[str, float]) -> LeakSuspect:
    ranked = sorted(pro.items(), key=lambda one: -one[1])
    return LeakSuspect(
        cause, chance, tuple(words for words, much in ranked if much > 0.3)[:4],
        tuple(words for words, much in reversed(ranked) if much < -0.3)[:4],
    )  # fmt: skip


def _said(one: FogFrame, cause: Cause, hinge: Hinge) -> dict[str, float]:
    """The chance of each thing seen on a frame, were this the cause."""
    bare = {"all": FOG_BARE, "none": FOG_TAPED}.get(one.open, FOG_OPENED if one.open == cause else FOG_TAPED)
    fogged = bare if cause in SEAMS else FOG_ELSE if cause != "none of these" else 0.5
    what = {"all": "nothing taped", "none": "all seams taped"}.get(one.open, f"only the {one.open} open")
    if one.fog is None:
        return {f"clean with {what}": 1 - fogged}
    side = turned(one.fog.side)
    found = {f"fog with {what}": fogged, one.fog.shape: shapes_of(cause)[one.fog.shape]}
    if one.fog.shape != "all over":
        found[f"at the {one.fog.side} of the picture: {side} of the gate"] = sides_of(cause, hinge)[side]
    if one.fog.border is not None:
        reaches = BORDER[cause]
        found["reaches into the perforations" if one.fog.border else "ends at the frame"] = (
            reaches if one.fog.border else 1 - reaches
        )
    return found


def fog_of(density: Array, frame: tuple[float, float, float, float]) -> Fog | None:
    """Fog on the scan of a frame that was shot with the cap on, upright as the picture would be; None when it is clean.

    Raises InvalidInput: a scan too small, or a frame outside it.

    Parameters
    ----------
    density : float array, shape (rows, columns), 0 to 1; light that reached the film, perforations included where scanned
    frame : left, top, right, bottom of the frame's window in the scan, 0 to 1
    """
    rows, columns = density.shape if density.ndim == 2 else (0, 0)
    left, top, right, bottom = frame
    if min(rows, columns) < 16 or not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise InvalidInput("Scan", f"{columns} x {rows}", "at least 16 x 16 points, and a frame inside it")
    base = float(np.quantile(density, 0.1))
    fog = np.clip(_smooth(density) - base, 0, None)
    inside = fog[int(top * rows) : int(bottom * rows), int(left * columns) : int(right * columns)]
    most = float(np.quantile(inside, 0.995))
    if most < LEAST_CONTRAST:
        return None
    lit = inside > LIT * most
    border = _border(fog, inside, frame) if (top > 0.02 or bottom < 0.98) else None
    if float(lit.mean()) > WIDE:
        return Fog("all over", "middle", border)
    up, along = _peak(inside)
    return Fog(_shape(lit, inside, up, along), _side(up, along, lit), border)


def _smooth(density: Array) -> Array:
    from scipy.ndimage import gaussian_filter

    return np.asarray(gaussian_filter(density, max(min(density.shape) / 100, 0.5)))


def _border(fog: Array, inside: Array, frame: tuple[float, float, float, float]) -> bool:
    """Whether the film outside the frame is fogged as well."""
    rows = len(fog)
    above, below = fog[: max(int(frame[1] * rows) - 1, 0)], fog[int(frame[3] * rows) + 1 :]
    most = max((float(np.quantile(part, 0.98)) for part in (above, below) if part.size), default=0.0)
    return most > 0.3 * float(np.quantile(inside, 0.995))


def _peak(inside: Array) -> tuple[float, float]:
    """Where the fog is densest, 0 to 1 from the top and from the left."""
    rows, columns = np.nonzero(inside >= np.quantile(inside, 0.97))
    return (float(rows.mean()) + 0.5) / inside.shape[0], (float(columns.mean()) + 0.5) / inside.shape[1]


def _extent(lit: npt.NDArray[np.bool_]) -> tuple[float, float]:
    """How tall and how wide the fog is, shares of the frame."""
    rows, columns = np.nonzero(lit)
    return float(np.ptp(rows)) / lit.shape[0], float(np.ptp(columns)) / lit.shape[1]


def _side(up: float, along: float, lit: npt.NDArray[np.bool_]) -> Side:
    """Which third of the frame the densest place is in; along a way that the fog fills, none."""
    tall, wide = _extent(lit)
    above = "top" if up < 1 / 3 else "bottom" if up > 2 / 3 else ""
    beside = "left" if along < 1 / 3 else "right" if along > 2 / 3 else ""
    if above and beside and (tall > FILLS or wide > FILLS):
        above, beside = (above, "") if wide > tall else ("", beside)
    return f"{above} {beside}".strip() or "middle"  # type: ignore[return-value]


def _shape(lit: npt.NDArray[np.bool_], inside: Array, up: float, along: float) -> Shape:
    tall, wide = _extent(lit)
    at_edge = min(up, 1 - up) < AT_EDGE or min(along, 1 - along) < AT_EDGE
    if not at_edge:
        if (wide < THIN and tall > FILLS) or (tall < THIN and wide > FILLS):
            return "streak"
        return "spot" if max(tall, wide) < SMALL else "patch"
    if wide >= tall and _waves(inside, "top" if up < 0.5 else "bottom"):
        return "sprocket wave"
    both = min(up, 1 - up) < 1 / 3 and min(along, 1 - along) < 1 / 3
    return "corner" if both and max(tall, wide) <= FILLS else "edge"


def _waves(inside: Array, side: str) -> bool:
    """Whether the fog along the top or the bottom goes up and down with the perforations."""
    deep = max(len(inside) // 5, 2)
    band = (inside[:deep] if side == "top" else inside[-deep:]).mean(axis=0)
    band = (
        band
        - np.convolve(np.pad(band, len(band) // 8, mode="edge"), np.ones(len(band) // 4) / (len(band) // 4), "same")[
            len(band) // 8 : len(band) // 8 + len(band)
        ]
    )
    power = np.abs(np.fft.rfft(band * np.hanning(len(band)))) ** 2
    near = power[PERFORATIONS - 2 : PERFORATIONS + 3].sum()
    return bool(near > 0.5 * power[2:30].sum() and float(np.sqrt(np.mean(band**2))) > 0.08 * float(inside.max()))
