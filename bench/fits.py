"""Fits against SciPy's general fitter, and how often the flags are raised."""

import numpy as np
from scipy.optimize import curve_fit

from bench.measure import median_s, row
from violet_dial.core.calibration import models
from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.calibration.readings import tabulate
from violet_dial.core.calibration.verdict import decide
from violet_dial.core.records.light import Direction, LightReading
from violet_dial.demo.seen import DemoMeter

LIGHTS = np.arange(5.0, 16.0)
METERS_PER_KIND = 200


def _readings(meter: DemoMeter, rng: np.random.Generator, both: bool = False) -> tuple[LightReading, ...]:
    ways: tuple[Direction, ...] = ("rising", "falling") if both else ("",)
    return tuple(LightReading(float(x), meter.read(float(x), way, rng), way) for way in ways for x in LIGHTS)


def report_speed() -> None:
    """All six models over 200 readings, against one general fit of one model."""
    rng = np.random.default_rng(3)
    meter = DemoMeter(0.3, dark_falloff_ev100=4.0)
    readings = tuple(LightReading(float(x), meter.read(float(x), "", rng)) for x in rng.uniform(5, 15, 200))
    table = tabulate(readings)

    def general() -> object:
        return curve_fit(
            lambda x, a, d: a + models.low_falloff(x, d), table.reference, table.error, p0=(0.0, 3.0), sigma=table.sigma,
            bounds=((-5, -1), (5, float(table.reference.min()) - 0.02)),
        )  # fmt: skip

    ours = median_s(lambda: models.fit_models(table, table.error), 20)
    whole = median_s(lambda: decide(assess(readings, CheckPlan())), 20)
    one = median_s(general, 20)
    row("fit of all six models over 200 readings", f"{ours * 1e3:.1f} ms", "goal: under 50 ms")
    row("whole judgement over 200 readings", f"{whole * 1e3:.1f} ms")
    row("ratio of all six to SciPy curve_fit of one", f"{ours / one:.2f}")


def report_truth() -> None:
    """How often each flag is raised; the kinds of shapes are told beside the truth in `bench.intervals`."""
    rng = np.random.default_rng(20)
    for name, meter in (("sticky by 0.5 stop", DemoMeter(stick_stops=0.5)), ("not sticky", DemoMeter())):
        raised = sum(bool(assess(_readings(meter, rng, True), CheckPlan()).flags.sticky.raised) for _ in range(METERS_PER_KIND))
        row(f"{name}: flagged sticky", f"{raised} of {METERS_PER_KIND}")
    for name, scatter in (("scatter 0.4 stop", 0.4), ("scatter as stated", 0.06)):
        meter = DemoMeter(scatter_stops=scatter)
        flags = (assess(_readings(meter, rng, True), CheckPlan()).flags for _ in range(METERS_PER_KIND))
        raised = sum(bool(one.erratic.raised) for one in flags)
        row(f"{name}: flagged erratic", f"{raised} of {METERS_PER_KIND}")


def report() -> None:
    report_speed()
    report_truth()
