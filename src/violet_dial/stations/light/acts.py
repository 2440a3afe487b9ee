"""Acts at Light: readings taken and struck out, the scale moved, something put right, the set-up changed."""

from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput, NotEnoughData
from violet_dial.core.light.chain import UNIT_TYPED, ReferenceLight, reference_figure, reference_light
from violet_dial.core.quantities import format_signed, parse_number
from violet_dial.core.records.light import Chain, Direction, LightReading
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.job.act import ActResult, changes_said
from violet_dial.job.document import Job
from violet_dial.job.light import AS_FOUND, LightSetup, Run, TakenReading

SAME_LIGHT_EV = 0.05  # a smaller change of the reference light is neither rising nor falling


@dataclass(frozen=True)
class TypedReading:
    """What is typed at the Light station for one reading; ``direction`` None means: work it out."""

    reference: str
    indicated: str
    direction: Direction | None = None
    attitude: str = ""


@dataclass(frozen=True)
class NeedleAtLight:
    """One reading: the reference as its source shows it, the needle in EV100, how the light came (None: work it out), how the
    meter was held, and what a camera saw of the dial (small, WebP in base64)."""

    reference: Measured
    needle: Measured
    direction: Direction | None = None
    attitude: str = ""
    picture: str = ""

    def light(self, chain: Chain) -> ReferenceLight:
        """What falls on the meter."""
        return reference_light(chain, self.reference.value, self.reference.u)


def needle_said(text: str) -> Measured:
    """The needle as read by eye and typed. Raises InvalidInput: not a number."""
    value = parse_number(text.strip().lower().removeprefix("ev").strip(), "Reading")
    return Measured(value, unit="EV100", typed=text.strip())


def reference_said(job: Job, text: str, capture: Capture | None = None) -> Measured:
    """The reference as typed, in the unit of the job's source; what an instrument showed where it was put in by that.

    Raises InvalidInput: not a number the chain can use.
    """
    chain = job.light.setup.chain
    figure, unit = reference_figure(chain, text), UNIT_TYPED[chain.source.kind]
    if capture is None:
        return Measured(figure, unit=unit, typed=text.strip())
    return replace(Measured.of(capture), typed=text.strip())


def read_typed(job: Job, typed: TypedReading, capture: Capture | None = None, picture: str = "") -> NeedleAtLight:
    """A typed reading, read once. Raises InvalidInput: reference or reading is not a number the chain can use."""
    reference = reference_said(job, typed.reference, capture)
    return NeedleAtLight(reference, needle_said(typed.indicated), typed.direction, typed.attitude.strip(), picture)


def implied_direction(job: Job, ev100: float) -> Direction:
    """Rising or falling, from the light before; the same light again keeps its direction."""
    readings = job.light.current.readings
    if not readings:
        return ""
    change = ev100 - readings[-1].reading.reference_ev100
    if abs(change) <= SAME_LIGHT_EV:
        return readings[-1].reading.direction
    return "rising" if change > 0 else "falling"


def take_reading(job: Job, read: NeedleAtLight, at: str) -> ActResult:
    """One reading taken into the current run."""
    light = read.light(job.light.setup.chain)
    direction = read.direction if read.direction is not None else implied_direction(job, light.ev100)
    reading = LightReading(
        light.ev100, read.needle.value, direction, read.attitude, light.u_stops, read.needle.u or job.light.setup.u_reading
    )
    capture, opened = read.reference.capture, light.opened()
    if capture is not None:
        window = f"{len(capture.window)} samples" if capture.window else "one sample"
        opened = (f"{capture.instrument}: {capture.value:.5g} lx, u {capture.u:.2g} lx, from {window}", *opened)
    typed = read.reference.typed or f"{read.reference.value:.6g}"
    taken = TakenReading(reading, at, typed, opened, capture, read.picture, read.needle.capture)
    how = f", {reading.direction}" if reading.direction else ""
    held = f", {reading.attitude}" if reading.attitude else ""
    reason = f"Ev {reading.reference_ev100:.1f} read {reading.indicated_ev100:.1f}{how}{held}"
    return ActResult(_with_readings(job, (*job.light.current.readings, taken)), "Light", reason)


def take_typed(job: Job, typed: TypedReading, at: str) -> ActResult:
    """A typed reading taken, where nothing shows it before. Raises InvalidInput: it cannot be read."""
    return take_reading(job, read_typed(job, typed), at)


def _with_readings(job: Job, readings: tuple[TakenReading, ...]) -> Job:
    name = job.light.current.name
    if name == AS_FOUND and not job.light.current.readings and job.tracing.repairs:
        name = "after the repair"  # a sheet that calls it found would be untrue
    run = replace(job.light.current, readings=readings, name=name)
    return replace(job, light=replace(job.light, runs=(*job.light.runs[:-1], run)))


def add_readings(job: Job, readings: tuple[LightReading, ...], source: str, at: str) -> ActResult:
    """Readings from a file, after they were shown and accepted."""
    taken = tuple(TakenReading(reading, at) for reading in readings)
    job = _with_readings(job, (*job.light.current.readings, *taken))
    return ActResult(job, "Light", f"{len(readings)} readings taken from {source}")


def strike_reading(job: Job, index: int, at: str) -> ActResult:
    """One reading of the current run left out; the log and undo still have it."""
    readings = job.light.current.readings
    if not 0 <= index < len(readings):
        raise InvalidInput("Reading", index + 1, f"1 to {len(readings)}")
    struck = readings[index].reading
    left = readings[:index] + readings[index + 1 :]
    reason = f"Reading at Ev {struck.reference_ev100:.1f} ({struck.indicated_ev100:.1f}) struck out"
    return ActResult(_with_readings(job, left), "Light", reason)


def record_adjustment(job: Job, shift_stops: float, how: str, at: str) -> ActResult:
    """The scale was moved: the run so far stands as found, a new run begins."""
    if not job.light.current.readings:
        raise NotEnoughData("An adjustment", 0, 1)
    run = Run(name=f"after shifting {format_signed(shift_stops)} stop", shift_stops=shift_stops)
    light = replace(job.light, runs=(*job.light.runs, run))
    reason = f"Scale shifted {format_signed(shift_stops)} stop" + (f": {how}" if how else "")
    return ActResult(replace(job, light=light), "Light", reason)


def record_repair(job: Job, what: str, at: str) -> ActResult:
    """Something was put right: the run so far stands as it was, a new run begins."""
    if not job.light.current.readings:
        raise NotEnoughData("A repair to check", 0, 1)
    light = replace(job.light, runs=(*job.light.runs, Run(name=f"after: {what}")))
    return ActResult(replace(job, light=light), "Light", f"Put right: {what}")


def change_setup(job: Job, setup: LightSetup, at: str) -> ActResult:
    """How the meter is checked: film speed, chain, tolerance, adjuster, range. Readings taken keep their values."""
    if setup.range_to_ev100 - setup.range_from_ev100 < 1:
        expected = "a range of at least one stop, lower end first"
        raise InvalidInput("Range", f"{setup.range_from_ev100:g} to {setup.range_to_ev100:g}", expected)
    said = changes_said(job.light.setup, setup)
    return ActResult(replace(job, light=replace(job.light, setup=setup)), "Light", f"Set-up: {said}")
