"""Invented leaks: light let in at a place and cast on the film by geometry alone, scanned, judged."""

import numpy as np
import numpy.typing as npt

from bench.measure import row
from violet_dial.core.proof.leaks import FogFrame, fog_of, judge_leaks, roll_plan
from violet_dial.core.proof.seams import SEAMS, Cause

FOGS, ROLLS, SEED = 300, 210, 23
MM = 4  # points to a millimetre
WIDE, TALL, FRAME = 38.0, 35.0, (1.0, 5.5, 37.0, 29.5)  # film before the gate, and the frame on it, mm
WAYS: tuple[Cause, ...] = (
    "top channel", "bottom channel", "hinge", "latch", "film window", "lens mount", "curtain or blades",
)  # fmt: skip
PITCH = 4.75  # mm, of the perforations


def cast(cause: Cause, rng: np.random.Generator) -> npt.NDArray[np.float64]:
    """Light on the film as it lies in the gate, seen from behind, 0 to 1; hinge on the right."""
    y, x = np.mgrid[0 : int(TALL * MM), 0 : int(WIDE * MM)] / MM
    strength = rng.uniform(0.25, 0.9)
    if cause in ("top channel", "bottom channel"):
        deep = rng.uniform(5.0, 11.0)  # how far it creeps in from the edge of the film
        from_edge = y if cause == "top channel" else TALL - y
        along = _gap(x, WIDE, rng)
        light = np.exp(-((from_edge / deep) ** 2)) * along
        if rng.random() < 0.4:  # it comes through the perforations
            light *= 0.55 + 0.45 * np.cos(2 * np.pi * (x + rng.uniform(0, PITCH)) / PITCH)
    elif cause in ("hinge", "latch"):
        from_edge = WIDE - x if cause == "hinge" else x
        deep = rng.uniform(2.5, 9.0)
        light = np.exp(-((from_edge / deep) ** 2)) * _gap(y, TALL, rng)
        if rng.random() < 0.3:  # a streak where the film lay still
            at = rng.uniform(2.0, 7.0)
            light = np.exp(-(((from_edge - at) / 1.6) ** 2)) * _gap(y, TALL, rng)
    elif cause == "film window":
        at_x, at_y = rng.uniform(11.0, 27.0), rng.uniform(11.0, 24.0)
        light = np.exp(-(((x - at_x) / rng.uniform(3, 8)) ** 2) - ((y - at_y) / rng.uniform(4, 12)) ** 2)
    else:
        light = _through_the_opening(cause, x, y, rng)
    return np.asarray(np.clip(strength * light / light.max() + rng.normal(0.0, 0.01, light.shape), 0, 1))


def _gap(along: npt.NDArray[np.float64], length: float, rng: np.random.Generator) -> npt.NDArray[np.float64]:
    """A gap along a seam: whole, or a part of it."""
    if rng.random() < 0.6:
        return np.ones_like(along)
    middle, half = rng.uniform(0.3, 0.7) * length, rng.uniform(0.2, 0.4) * length
    return np.asarray(1 / (1 + np.exp((np.abs(along - middle) - half) / 1.5)))


def _through_the_opening(
    cause: Cause, x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], rng: np.random.Generator
) -> npt.NDArray[np.float64]:
    """Light from before the gate: the frame's edge cuts it off."""
    left, top, right, bottom = FRAME
    inside = ((x > left) & (x < right) & (y > top) & (y < bottom)).astype(float)
    middle_x, middle_y = (left + right) / 2, (top + bottom) / 2
    if cause == "lens mount":  # it spills round the mirror box: broad, seldom even
        lean = rng.normal(0.0, 5.0, 2)
        light = np.exp(-(((x - middle_x - lean[0]) / 24) ** 2) - ((y - middle_y - lean[1]) / 18) ** 2)
    elif rng.random() < 0.7:  # a pinhole in a curtain
        at = rng.uniform(left + 7, right - 7), rng.uniform(top + 5, bottom - 5)
        light = np.exp(-(((x - at[0]) / 2.2) ** 2) - ((y - at[1]) / 2.2) ** 2)
    else:  # a gap between the curtains at rest
        light = np.exp(-(((x - rng.uniform(left + 9, right - 9)) / 1.2) ** 2))
    return np.asarray(light * inside + 1e-9)


def scanned(cause: Cause, rng: np.random.Generator) -> FogFrame:
    """A bare frame with the cap on, scanned upright."""
    left, top, right, bottom = FRAME
    upright = cast(cause, rng)[::-1, ::-1]
    frame = (1 - right / WIDE, 1 - bottom / TALL, 1 - left / WIDE, 1 - top / TALL)
    return FogFrame(1, "all", fog_of(upright, frame))


def judged(count: int, seed: int = SEED) -> dict[str, float]:
    """Shares with the right way in first, and among the first two; what was said of the first on average."""
    rng = np.random.default_rng(seed)
    first, two, said = 0, 0, 0.0
    for place in range(count):
        cause = WAYS[place % len(WAYS)]
        ranked = judge_leaks((scanned(cause, rng),))
        first += ranked[0].cause == cause
        two += cause in {one.cause for one in ranked[:2]}
        said += ranked[0].chance
    return {"first": first / count, "two": two / count, "said": said / count}


def rolled(count: int, seed: int = SEED) -> dict[str, float]:
    """Whole seal rolls, in one of twenty of which the tape does not hold: the same shares, and wrong claims above 0.95."""
    rng = np.random.default_rng(seed)
    plan = roll_plan(24)
    said, right = np.zeros(count), np.zeros(count, dtype=bool)
    for place in range(count):
        cause, shows, holds = WAYS[place % len(WAYS)], rng.uniform(0.5, 0.95), rng.random() > 0.05
        frames = []
        for number, opened in plan:
            way_in = opened in ("all", cause) or cause not in SEAMS or not holds
            fogged = rng.random() < (shows if way_in else 0.02)
            frames.append(FogFrame(number, opened, scanned(cause, rng).fog if fogged else None))
        first = judge_leaks(tuple(frames))[0]
        said[place], right[place] = first.chance, first.cause == cause
    sure = said > 0.95
    return {"first": right.mean(), "said": said.mean(), "sure_wrong": 1 - right[sure].mean()}


def report() -> None:
    """All of it."""
    got = judged(FOGS)
    row(f"{FOGS} fogs: right way in among the first two", f"{got['two']:.1%}", "goal: 95 %")
    row("first", f"{got['first']:.1%}, said {got['said']:.1%}")
    roll = rolled(ROLLS)
    row(f"{ROLLS} seal rolls: first right", f"{roll['first']:.1%}, said {roll['said']:.1%}")
    row("claims above 95 % that are wrong", f"{roll['sure_wrong']:.1%}")


if __name__ == "__main__":
    report()
