"""Invented shutters with one thing wrong: whether the pattern is named right, and how many firings the ladder takes to be
decided."""

import math
from dataclasses import dataclass, field

import numpy as np

from bench.measure import row
from violet_dial.core.exposure.ladder import SpeedTolerance, Timed, ladder, next_speed
from violet_dial.core.exposure.pattern import Kind, patterns

SHUTTERS, SEED, AT_EACH = 500, 17, 3
NAMED: tuple[Kind, ...] = ("true", "ratio", "constant", "slow", "position", "grease", "taper", "fastest", "none")
SPEEDS = tuple(2.0**-n for n in range(11))  # 1 s to 1/1000


@dataclass
class Shutter:
    """Known truth: what is wrong, by how much; each speed is off a little by itself, each firing scatters."""

    kind: Kind
    rng: np.random.Generator
    scatter: float = field(init=False)
    own: dict[float, float] = field(init=False)
    speeds: tuple[float, ...] = field(init=False)
    fired: int = 0

    def __post_init__(self) -> None:
        rng = self.rng
        self.speeds = SPEEDS[: int(rng.integers(8, 12))]
        self.scatter = float(rng.uniform(0.02, 0.08))
        self.own = dict(zip(self.speeds, rng.normal(0.0, 0.7 if self.kind == "none" else 0.05, len(self.speeds)), strict=True))
        self.amount = float(rng.choice([-1.0, 1.0]) * rng.uniform(0.25, 1.2))
        self.share = float(rng.uniform(0.25, 1.1)) * (1 if rng.random() < 0.7 else -0.45)  # of the fastest speed
        self.at = int(rng.integers(2, len(self.speeds) - 3))
        self.alone = int(rng.integers(1, len(self.speeds) - 1))

    def error(self, marked_s: float) -> float:
        """What is off at a speed besides its own error and scatter, stops."""
        place = self.speeds.index(marked_s)
        delay = self.share * self.speeds[-1]
        return {
            "true": 0.0, "ratio": self.amount, "constant": math.log2((marked_s + delay) / marked_s),
            "slow": abs(self.amount) if place <= self.at else 0.0, "position": self.amount if place == self.alone else 0.0,
            "grease": abs(self.amount) * math.exp(-self.fired / 2.5), "taper": math.log2((marked_s + delay / 2) / marked_s),
            "fastest": abs(self.amount) if place == len(self.speeds) - 1 else 0.0, "none": 0.0,
        }[self.kind]  # fmt: skip

    def fire(self, marked_s: float) -> Timed:
        """One firing, as measured."""
        off = self.error(marked_s) + self.own[marked_s] + self.rng.normal(0.0, self.scatter)
        delay = self.share * self.speeds[-1] if self.kind == "taper" else 0.0
        taper = math.log2((marked_s + delay) / marked_s) + self.rng.normal(0.0, 0.05)
        self.fired += 1
        time_s = marked_s * 2.0**off
        return Timed(marked_s, time_s, 0.005 * time_s, self.fired - 1, taper)


def named(count: int, seed: int = SEED) -> dict[str, float]:
    """Share of shutters whose likeliest pattern is the true one, and what was said of it on average; by kind."""
    rng = np.random.default_rng(seed)
    right: dict[str, list[bool]] = {kind: [] for kind in NAMED}
    said = []
    for number in range(count):
        shutter = Shutter(NAMED[number % len(NAMED)], rng)
        firings = [shutter.fire(one) for one in shutter.speeds for _ in range(AT_EACH)]
        best = patterns(firings)[0]
        right[shutter.kind].append(best.kind == shutter.kind)
        said.append(best.weight)
    every = [one for some in right.values() for one in some]
    return {"right": float(np.mean(every)), "said": float(np.mean(said))} | {
        kind: float(np.mean(some)) for kind, some in right.items()
    }


def decided(count: int, seed: int = SEED + 1) -> dict[str, float]:
    """Firings a speed until all are decided, and the share of verdicts that are true; beside three at each."""
    rng = np.random.default_rng(seed)
    firings, speeds, true, judged, thrice_true, thrice_judged = 0, 0, 0, 0, 0, 0
    for number in range(count):
        shutter = Shutter(NAMED[number % 5], rng)  # kinds that do not change while they are fired
        made: list[Timed] = []
        while (ask := next_speed(ladder(shutter.speeds, made))) is not None:
            made.append(shutter.fire(ask.marked_s))
        thrice = [shutter.fire(one) for one in shutter.speeds for _ in range(AT_EACH)]
        firings, speeds = firings + len(made), speeds + len(shutter.speeds)
        one, two = _judged(shutter, made)
        true, judged = true + one, judged + two
        one, two = _judged(shutter, thrice)
        thrice_true, thrice_judged = thrice_true + one, thrice_judged + two
    return {
        "a_speed": firings / speeds, "share": firings / (AT_EACH * speeds), "true": true / judged,
        "judged": judged / speeds, "thrice_true": thrice_true / thrice_judged, "thrice_judged": thrice_judged / speeds,
    }  # fmt: skip


def _judged(shutter: Shutter, made: list[Timed]) -> tuple[int, int]:
    """How many verdicts are true, of how many given."""
    rungs = [one for one in ladder(shutter.speeds, made, SpeedTolerance()).rungs if one.state in ("inside", "high", "low")]
    true = [
        (abs(shutter.error(one.marked_s) + shutter.own[one.marked_s]) <= one.tolerance_stops) == (one.state == "inside")
        for one in rungs
    ]
    return sum(true), len(true)


def report() -> None:
    """All of it."""
    got = named(SHUTTERS)
    row(f"{SHUTTERS} shutters: pattern named right", f"{got['right']:.1%}, said {got['said']:.1%}", "goal: 90 %")
    row("by kind", ", ".join(f"{kind} {got[kind]:.0%}" for kind in NAMED), "")
    found = decided(SHUTTERS // 2)
    row("firings a speed until decided", f"{found['a_speed']:.2f} ({found['share']:.0%} of three)", "goal: two thirds")
    row(
        "verdicts that are true", f"{found['true']:.1%} of {found['judged']:.0%}; "
        f"three at each {found['thrice_true']:.1%} of {found['thrice_judged']:.0%}", "said: 95 %",
    )  # fmt: skip


if __name__ == "__main__":
    report()
