"""What the reading bar says at Light: both fields understood, and whether the reading may be taken."""

from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import ReferenceLight, reference_light
from violet_dial.core.quantities import format_signed
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.job.document import Job
from violet_dial.kit.bar import BarField, BarState
from violet_dial.stations.light.acts import NeedleAtLight, TypedReading, implied_direction, needle_said, reference_said

REFERENCE, READING, DIRECTION, ATTITUDE = "reference", "reading", "direction", "attitude"
DIRECTIONS = (("by itself", None), ("rising", "rising"), ("falling", "falling"), ("not noted", ""))
ATTITUDES = ("not noted", "flat", "upright", "on its side")
SOURCE_WORDS = {
    "trusted meter": "Trusted meter reads, EV100",
    "lux meter": "Lux meter reads, lx",
    "luminance panel": "Luminance panel, cd/m²",
    "lamp at a distance": "Lamp at a distance, m",
}


@dataclass(frozen=True)
class BarUnderstood:
    """A bar's fields with what they mean: ``read`` once both are understood; ``wrong`` the field that is not, and why."""

    state: BarState
    read: NeedleAtLight | None
    indicated_ev100: float | None
    wrong: tuple[str, InvalidInput] | None = None


def typed_reading(values: dict[str, str]) -> TypedReading:
    """The reading as typed and chosen in the bar."""
    directions = dict(DIRECTIONS)
    attitude = values.get(ATTITUDE, "").strip()
    return TypedReading(
        values.get(REFERENCE, ""),
        values.get(READING, ""),
        directions.get(values.get(DIRECTION, "by itself")),  # type: ignore[arg-type]
        "" if attitude == ATTITUDES[0] else attitude,
    )


def understand_bar(job: Job, values: dict[str, str], capture: Capture | None) -> BarUnderstood:
    """What is typed in the bar, read once with this job's reference chain."""
    typed, wrong = typed_reading(values), []
    reference = needle = light = None
    try:
        reference = reference_said(job, typed.reference, capture)
        light = reference_light(job.light.setup.chain, reference.value, reference.u)
    except InvalidInput as error:
        wrong.append((REFERENCE, error))
    try:
        needle = needle_said(typed.indicated)
    except InvalidInput as error:
        wrong.append((READING, error))
    said = [
        _said(typed.reference, "type the light", _reference(job, typed, light), wrong, REFERENCE),
        _said(typed.indicated, "type what it shows", _needle(needle, light), wrong, READING),
    ]
    fields = (
        BarField(REFERENCE, SOURCE_WORDS[job.light.setup.chain.source.kind], "Reference light", *said[0]),
        BarField(READING, "Needle read by eye, Ev", "Needle read by eye", *said[1]),
        BarField(DIRECTION, "Light", "Light came", choices=tuple(name for name, _ in DIRECTIONS)),
        BarField(ATTITUDE, "Held", "Meter held", choices=ATTITUDES, editable=True),
    )
    read = None
    if reference is not None and needle is not None:
        read = NeedleAtLight(reference, needle, typed.direction, typed.attitude)
    shows = needle.value if needle is not None else None
    return BarUnderstood(BarState(fields, read is not None), read, shows, wrong[0] if wrong else None)


def _said(text: str, empty: str, understood: str, wrong: list[tuple[str, InvalidInput]], field: str) -> tuple[str, bool]:
    """What stands beside a field, and whether it is wrong."""
    if not text.strip():
        return empty, False
    fault = next((error for name, error in wrong if name == field), None)
    return (understood, False) if fault is None else (f"expected {fault.expected}", True)


def _reference(job: Job, typed: TypedReading, light: ReferenceLight | None) -> str:
    if light is None:
        return ""
    way = implied_direction(job, light.ev100) if typed.direction is None else typed.direction
    return f"= Ev {light.ev100:.2f} ± {2 * light.u_stops:.2f} {way}"


def _needle(needle: Measured | None, light: ReferenceLight | None) -> str:
    if needle is None:
        return ""
    off = "" if light is None else f"  {format_signed(needle.value - light.ev100)}"
    return f"= Ev {needle.value:.2f}{off}"
