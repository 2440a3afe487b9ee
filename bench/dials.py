"""Invented dials before a simulated camera: how far off the needle is read, whether the band is true, what is refused."""

import time
from dataclasses import dataclass

import numpy as np

from bench.measure import row
from violet_dial.core.eye.face import ScaleMark, face_of
from violet_dial.core.eye.needle import Eye, NeedleReading, Refused, eye_of, grey, read_needle
from violet_dial.instruments.simulated.dial import DialLook, DialShot, Law, SimulatedDial

DIALS, FRAMES, SEED = 60, 3_000, 29
SIZES = ((640, 480), (800, 600), (1280, 720), (1920, 1080))
PUT_PX = 0.5  # how well marks are put, standard deviation


def invented(rng: np.random.Generator) -> DialLook:
    """One dial of any kind."""
    wide, tall = SIZES[int(rng.integers(len(SIZES)))]
    law: Law = ("linear", "log", "curved")[int(rng.integers(3))]
    is_black = rng.random() < 0.4
    ground, ink = (
        (rng.uniform(0.06, 0.16), rng.uniform(0.7, 0.9)) if is_black else (rng.uniform(0.7, 0.9), rng.uniform(0.05, 0.2))
    )
    needle = rng.uniform(0.7, 0.95) if is_black else rng.uniform(0.03, 0.2)
    is_blade = bool(rng.random() < 0.4)
    first, last = (rng.choice([1.0, 2.0]), rng.choice([64.0, 1000.0])) if law == "log" else (0.0, rng.choice([10.0, 17.0, 100.0]))
    return DialLook(
        wide, tall, law, float(first), float(last), int(rng.integers(5, 12)), float(rng.uniform(60, 120)),
        float(rng.uniform(-8, 8)), float(rng.uniform(0.5, 0.66)), float(ground), float(ink), float(needle),
        float(rng.uniform(0.02, 0.035) if is_blade else rng.uniform(0.007, 0.013)), is_blade, bool(rng.random() < 0.4),
        (float(rng.uniform(-5, 5)), float(rng.uniform(-5, 5))), height=float(rng.uniform(0.005, 0.03)),
        has_finder=bool(rng.random() < 0.3),
    )  # fmt: skip


def shot_of(rng: np.random.Generator) -> DialShot:
    """How one picture is taken."""
    glare = (
        (float(rng.uniform(0.1, 0.9)), float(rng.uniform(0.1, 0.8)), float(rng.uniform(0.05, 0.14)))
        if rng.random() < 0.25
        else None
    )
    return DialShot(
        float(rng.uniform(0.5, 1.05)), (float(rng.uniform(-0.3, 0.3)), float(rng.uniform(-0.3, 0.3))),
        float(rng.uniform(0.4, 1.8)),
        float(rng.uniform(0, 3)) if rng.random() < 0.3 else 0.0, float(rng.uniform(0.004, 0.02)), glare,
    )  # fmt: skip


def put(dial: SimulatedDial, rng: np.random.Generator) -> Eye:
    """The dial set up by a hand that is off by half a pixel: its marks, the empty picture, and a first look at the needle."""
    marks = tuple(ScaleMark(one.x + rng.normal(0, PUT_PX), one.y + rng.normal(0, PUT_PX), one.value) for one in dial.marks)
    face, empty = face_of(marks), grey(dial.frame((), DialShot(noise=0.003)))
    first = read_needle(eye_of(face, empty), grey(dial.frame((dial.value(0.5),), DialShot(noise=0.003))))
    is_dark = dial.look.needle < dial.look.ground
    return eye_of(face, empty, is_dark, first.width_px if isinstance(first, NeedleReading) else None)


@dataclass
class Tally:
    """Errors of those read as shares of the scale, their stated deviations, refusals with their reasons."""

    errors: list[float]
    stated: list[float]
    refused: list[str]
    seconds: float


def read(count: int, dials: int = DIALS, seed: int = SEED) -> Tally:
    """Needles read against the picture without them."""
    rng = np.random.default_rng(seed)
    found = Tally([], [], [], 0.0)
    for _dial in range(dials):
        look = invented(rng)
        dial = SimulatedDial(look, int(rng.integers(1 << 30)))
        eye = put(dial, rng)
        for _frame in range(count // dials):
            share = rng.uniform(0.02, 0.98)
            value = dial.value(share)
            picture = grey(dial.frame((value,), shot_of(rng)))
            begun = time.perf_counter()
            one = read_needle(eye, picture)
            found.seconds += time.perf_counter() - begun
            if isinstance(one, Refused):
                found.refused.append(one.reason)
            else:
                slope = (
                    abs(dial.value(share + 0.005) - dial.value(share - 0.005)) / 0.01
                )  # a share of the scale is one of its arc
                found.errors.append((one.value - value) / slope)
                found.stated.append(one.u / slope)
    return found


def hidden(count: int, seed: int = SEED + 1) -> tuple[float, float, float]:
    """Shares refused: of dials without a needle, of those with two, of those covered by something."""
    rng = np.random.default_rng(seed)
    refused = [0, 0, 0]
    for _one in range(count):
        look = invented(rng)
        dial = SimulatedDial(look, int(rng.integers(1 << 30)))
        eye = put(dial, rng)
        first, apart = rng.uniform(0.05, 0.6), rng.uniform(0.12, 0.35)
        cases = (
            ((), None), ((dial.value(first), dial.value(first + apart)), None),
            ((dial.value(first),), (0.5, 0.45, 0.42)),
        )  # fmt: skip
        for case, (values, cover) in enumerate(cases):
            picture = grey(dial.frame(values, shot_of(rng), cover))
            refused[case] += not isinstance(read_needle(eye, picture), NeedleReading)
    none, two, covered = (one / count for one in refused)
    return none, two, covered


def report() -> None:
    """All of it."""
    got = read(FRAMES)
    errors, stated = np.abs(np.array(got.errors)), np.array(got.stated)
    row(f"{FRAMES} frames of {DIALS} dials: median error", f"{np.median(errors):.3%} of the scale", "goal: 0.3 %")
    row("within twice the stated deviation", f"{np.mean(errors <= 2 * stated):.1%}", "goal: 95 %")
    row("wrong without a refusal (over 2 % and 3 u)", f"{np.mean((errors > 0.02) & (errors > 3 * stated)):.2%}", "goal: 0.5 %")
    row("refused", f"{len(got.refused) / FRAMES:.1%}")
    row("a picture takes", f"{1000 * got.seconds / FRAMES:.1f} ms")
    none, two, covered = hidden(120)
    row("refused: no needle, two needles, covered", f"{none:.1%}, {two:.1%}, {covered:.1%}", "goal: 98 %")


if __name__ == "__main__":
    report()
