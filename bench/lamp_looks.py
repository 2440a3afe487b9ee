"""Invented automatics whose lamps are looked at: how often the cause is named, thresholds true within their band, looks
needed."""

import math

import numpy as np

from bench.measure import row
from violet_dial.core.exposure.lamps import Kind, LampObservation, Law, Seen, lamps

CAMERAS, SEED, MOST = 300, 23, 30
NAMED: tuple[Kind, ...] = ("as meant", "shifted", "aperture", "slow lamp", "over lamp", "swapped", "contact", "slow dead", "none")
APERTURES = (2.8, 5.6, 16.0)


class Camera:
    """Known truth: one thing wrong, and edges that smear a little."""

    def __init__(self, kind: Kind, rng: np.random.Generator) -> None:
        self.kind, self.law, self._rng = kind, Law(), rng
        self.amount = float(rng.choice([-1.0, 1.0]) * rng.uniform(0.6, 2.0))
        self.own = rng.normal(0.0, 0.08, 2)
        self.stuck = float(rng.choice([2.0, 11.0, 22.0]))

    def look(self, f_number: float, lux: float) -> LampObservation:
        """What an eye sees there."""
        rng = self._rng
        n = self.stuck if self.kind == "aperture" else f_number
        x = math.log2(float(self.law.time_s(n, lux))) + rng.normal(0.0, 0.12)
        if self.kind == "shifted":
            x += self.amount
        slow = math.log2(self.law.slow_s) + self.own[0] + (self.amount if self.kind == "slow lamp" else 0.0)
        over = math.log2(self.law.shortest_s) + self.own[1] + (self.amount if self.kind == "over lamp" else 0.0)
        seen: Seen = "slow" if x > slow else "over" if x < over else "none"
        if min(abs(x - slow), abs(x - over)) < 0.08:
            seen = "flicker"
        if self.kind == "contact" or (self.kind == "slow dead" and seen == "slow"):
            seen = "none"
        if self.kind == "swapped" and seen in ("slow", "over"):
            seen = "over" if seen == "slow" else "slow"
        if self.kind == "none":
            seen = ("slow", "over", "none", "both")[int(rng.integers(4))]
        return LampObservation(f_number, lux, seen)


def looked(count: int, seed: int = SEED) -> dict[str, float]:
    """Shares named right and what was said, thresholds within two deviations, looks; beside a sweep in whole stops."""
    rng = np.random.default_rng(seed)
    right, said, inside, looks = [], [], [], []
    for number in range(count):
        camera = Camera(NAMED[number % len(NAMED)], rng)
        made = [camera.look(5.6, 400.0)]
        found = lamps(made, camera.law, APERTURES)
        while found.next is not None and len(made) < MOST:
            made.append(camera.look(*found.next))
            found = lamps(made, camera.law, APERTURES)
        right.append(found.causes[0].kind == camera.kind)
        said.append(found.causes[0].weight)
        looks.append(len(made))
        if camera.kind in ("as meant", "shifted", "slow lamp", "over lamp"):
            moved = -camera.amount if camera.kind == "shifted" else camera.amount
            slow = camera.own[0] + (moved if camera.kind in ("shifted", "slow lamp") else 0.0)
            inside.append(abs(found.slow.stops - slow) <= 2 * found.slow.u_stops + 1e-9)
    return {
        "right": float(np.mean(right)), "said": float(np.mean(said)), "inside": float(np.mean(inside)),
        "looks": float(np.median(looks)),
    }  # fmt: skip


def report() -> None:
    """All of it."""
    got = looked(CAMERAS)
    row(f"{CAMERAS} automatics: cause named right", f"{got['right']:.1%}, said {got['said']:.1%}", "")
    row("slow threshold within its band of 95 %", f"{got['inside']:.1%}", "said: 95 %")
    row("looks until settled, median", f"{got['looks']:.0f}", "a sweep in half stops at three apertures: 60")


if __name__ == "__main__":
    report()
