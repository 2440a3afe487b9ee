"""Invented repairs fired until they are proved, and logs whose failures follow something or nothing."""

from dataclasses import replace

import numpy as np

from bench.measure import row
from violet_dial.core.proof.follows import Factor, follow
from violet_dial.core.proof.log import Firing
from violet_dial.core.proof.sequential import Sequence, fixed_plan, sequence, stands

REPAIRS, LOGS, FIRINGS, SEED = 20_000, 500, 60, 31
FACTORS: tuple[Factor, ...] = ("rest", "low battery", "position", "cold")
OFTEN, SELDOM = 0.5, 0.02  # of the firings that fail where the cause holds, and elsewhere
LOW_V = 2.72


def tried(plan: Sequence, chance: float, count: int, seed: int = SEED) -> tuple[float, float]:
    """Share of devices that fail so often which are proved, and firings on average."""
    rng = np.random.default_rng(seed)
    proved = fired = 0
    for _one in range(count):
        results = tuple((rng.random(plan.most) < chance).tolist())
        n, verdict = _ended(plan, results)
        proved += verdict == "proved"
        fired += n
    return proved / count, fired / count


def _ended(plan: Sequence, results: tuple[bool, ...]) -> tuple[int, str]:
    failed_at = [place for place, one in enumerate(results, start=1) if one]
    for place in sorted({*failed_at, *plan.prove_at, plan.most}):  # it can only end where one fails or a boundary lies
        verdict, _left = stands(plan, results[:place])
        if verdict != "going":
            return place, verdict
    return plan.most, "failed"


def log_of(cause: Factor | None, rng: np.random.Generator, count: int = FIRINGS) -> tuple[Firing, ...]:
    """A log of firings with rests, volts, positions and cold ones mixed; failures follow the cause, or nothing."""
    found = []
    for _place in range(count):
        rest = float(rng.choice([0.02, 0.02, 0.5, 9.0, 14.0]))
        one = Firing(
            str(rng.choice(["1/60", "1/125", "1/250"])), battery_v=round(float(rng.uniform(2.5, 3.1)), 2), rest_h=rest,
            cold=bool(rng.random() < 0.3), position=str(rng.choice(["level", "upright", "down"])),
        )  # fmt: skip
        holds = {
            "rest": rest >= 9, "low battery": (one.battery_v or 0) < LOW_V, "position": one.position == "down", "cold": one.cold,
        }  # fmt: skip
        chance = 0.15 if cause is None else OFTEN if holds[cause] else SELDOM
        found.append(replace(one, failed="did not open" if rng.random() < chance else ""))
    return tuple(found)


def named(count: int, seed: int = SEED) -> dict[str, float]:
    """Shares of logs in which the true cause was named first, and in which anything was named where there is none."""
    rng = np.random.default_rng(seed)
    right = wrong = 0
    for place in range(count):
        cause = FACTORS[place % len(FACTORS)]
        found = follow(log_of(cause, rng))
        right += bool(found) and found[0].factor == cause
        wrong += bool(follow(log_of(None, rng)))
    return {"right": right / count, "wrong": wrong / count}


def report() -> None:
    """All of it."""
    plan, fixed = sequence(0.05, 0.95), fixed_plan(0.05, 0.95)
    false, _n = tried(plan, plan.claim, REPAIRS)
    power, fired = tried(plan, plan.good, REPAIRS)
    row(f"{REPAIRS} repairs just as bad as the claim: proved", f"{false:.2%}, said {plan.false_claim:.2%}", "goal: under 5 %")
    row("good ones: proved", f"{power:.2%}, said {plan.power:.2%}", "as said")
    row(
        "good ones: firings",
        f"{fired:.1f}, said {plan.expected:.1f}; fixed {fixed.n}",
        f"{1 - fired / fixed.n:.0%} fewer; goal 25 %",
    )
    got = named(LOGS)
    row(f"{LOGS} logs of {FIRINGS}: cause named", f"{got['right']:.1%}", "goal: 90 %")
    row("named where there is none", f"{got['wrong']:.1%}", "goal: under 5 %")


if __name__ == "__main__":
    report()
