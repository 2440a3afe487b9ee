"""Fits against SciPy's general fitter, and recovery of known truth as confusion counts."""

import numpy as np
from scipy.optimize import curve_fit

from bench.measure import median_s, row
from violet_dial.core.calibration import models
from violet_dial.core.calibration.assess import Plan, assess
from violet_dial.core.calibration.readings import Direction, Reading, tabulate
from violet_dial.core.calibration.verdict import decide
from violet_dial.stations.light.demo import SimulatedMeter

LIGHTS = np.arange(5.0, 16.0)
METERS_PER_KIND = 200
SCATTER_STOPS = 0.05


def _meter(kind: str, rng: np.random.Generator) -> SimulatedMeter:
    """A meter of one kind with its fault drawn over the range a bench meets."""
    offset = rng.uniform(0.25, 1.2) * rng.choice([-1, 1])
    some = rng.uniform(-0.6, 0.6)
    return {
        "true": lambda: SimulatedMeter(scatter_stops=SCATTER_STOPS),
        "even": lambda: SimulatedMeter(offset, scatter_stops=SCATTER_STOPS),
        "slope": lambda: SimulatedMeter(
            some, rng.uniform(0.06, 0.2) * rng.choice([-1, 1]), scatter_stops=SCATTER_STOPS
        ),
        "low_falloff": lambda: SimulatedMeter(
            some, dark_falloff_ev100=rng.uniform(3.2, 4.8), scatter_stops=SCATTER_STOPS
        ),
        "low_lift": lambda: SimulatedMeter(some, dark_lift_ev100=rng.uniform(4.0, 8.0), scatter_stops=SCATTER_STOPS),
        "high_compression": lambda: SimulatedMeter(
            some, bright_ev100=rng.uniform(12.0, 16.0), scatter_stops=SCATTER_STOPS
        ),
    }[kind]()


def _readings(meter: SimulatedMeter, rng: np.random.Generator, both: bool = False) -> tuple[Reading, ...]:
    ways: tuple[Direction, ...] = ("rising", "falling") if both else ("",)
    return tuple(Reading(float(x), meter.read(float(x), way, rng), way) for way in ways for x in LIGHTS)


def report_speed() -> None:
    """All six models over 200 readings, against one general fit of one model."""
    rng = np.random.default_rng(3)
    meter = SimulatedMeter(0.3, dark_falloff_ev100=4.0)
    readings = tuple(Reading(float(x), meter.read(float(x), "", rng)) for x in rng.uniform(5, 15, 200))
    table = tabulate(readings)

    def general() -> object:
        return curve_fit(
            lambda x, a, d: a + models.low_falloff(x, d), table.reference, table.error, p0=(0.0, 3.0), sigma=table.sigma,
            bounds=((-5, -1), (5, float(table.reference.min()) - 0.02)),
        )  # fmt: skip

    ours = median_s(lambda: models.fit_models(table, table.error), 20)
    whole = median_s(lambda: decide(assess(readings, Plan())), 20)
    one = median_s(general, 20)
    row("fit of all six models over 200 readings", f"{ours * 1e3:.1f} ms", "goal: under 50 ms")
    row("whole judgement over 200 readings", f"{whole * 1e3:.1f} ms")
    row("ratio of all six to SciPy curve_fit of one", f"{ours / one:.2f}")


def report_truth() -> None:
    """Confusion counts of the model kinds, and of the flags."""
    rng = np.random.default_rng(20)
    kinds = models.KINDS
    print(f"\n  Known truth, {METERS_PER_KIND} simulated meters of each kind, 11 lights, scatter {SCATTER_STOPS} stop")
    print("  " + "truth \\ found".ljust(18) + "".join(kind.rjust(18) for kind in kinds))
    for kind in kinds:
        found = dict.fromkeys(kinds, 0)
        for _ in range(METERS_PER_KIND):
            model = assess(_readings(_meter(kind, rng), rng), Plan()).model
            if model is not None:
                found[model.kind] += 1
        print("  " + kind.ljust(18) + "".join(str(found[other]).rjust(18) for other in kinds))
    for name, meter in (("sticky by 0.5 stop", SimulatedMeter(stick_stops=0.5)), ("not sticky", SimulatedMeter())):
        raised = sum(
            bool(assess(_readings(meter, rng, True), Plan()).flags.sticky.raised) for _ in range(METERS_PER_KIND)
        )
        row(f"{name}: flagged sticky", f"{raised} of {METERS_PER_KIND}")
    for name, scatter in (("scatter 0.4 stop", 0.4), ("scatter as stated", 0.06)):
        meter = SimulatedMeter(scatter_stops=scatter)
        raised = sum(bool(assess(_readings(meter, rng), Plan()).flags.erratic.raised) for _ in range(METERS_PER_KIND))
        row(f"{name}: flagged erratic", f"{raised} of {METERS_PER_KIND}")


def report() -> None:
    report_speed()
    report_truth()
