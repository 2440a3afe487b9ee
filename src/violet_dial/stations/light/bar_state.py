"""What the reading bar says at Light: both fields understood, and whether the reading may be taken."""

from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import reference_light
from violet_dial.core.quantities import format_signed, parse_number
from violet_dial.core.steady.samples import Capture
from violet_dial.job.document import Job
from violet_dial.kit.bar import BarField, BarState
from violet_dial.stations.light.acts import TypedReading, chain_with, implied_direction

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
class Understood:
    """A bar's fields with what they mean; ``indicated_ev100`` None while it is not understood."""

    state: BarState
    indicated_ev100: float | None


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


def understand_bar(job: Job, values: dict[str, str], capture: Capture | None) -> Understood:
    """What is typed in the bar, understood with this job's reference chain."""
    typed = typed_reading(values)
    said, wrong, ev100 = _reference(job, typed, capture)
    read, read_wrong, indicated = _reading(typed.indicated, ev100)
    fields = (
        BarField(REFERENCE, SOURCE_WORDS[job.light.setup.chain.source.kind], "Reference light", said, wrong),
        BarField(READING, "Needle read by eye, Ev", "Needle read by eye", read, read_wrong),
        BarField(DIRECTION, "Light", "Light came", choices=tuple(name for name, _ in DIRECTIONS)),
        BarField(ATTITUDE, "Held", "Meter held", choices=ATTITUDES, editable=True),
    )
    ready = ev100 is not None and indicated is not None
    return Understood(BarState(fields, ready), None if read_wrong else indicated)


def _reference(job: Job, typed: TypedReading, capture: Capture | None) -> tuple[str, bool, float | None]:
    text = typed.reference.strip()
    if not text:
        return "type the light", False, None
    try:
        light = reference_light(chain_with(job.light.setup.chain, capture), text)
    except InvalidInput as error:
        return f"expected {error.expected}", True, None
    way = implied_direction(job, light.ev100) if typed.direction is None else typed.direction
    return f"= Ev {light.ev100:.2f} ± {2 * light.u_stops:.2f} {way}", False, light.ev100


def _reading(typed: str, ev100: float | None) -> tuple[str, bool, float | None]:
    text = typed.strip()
    if not text:
        return "type what it shows", False, None
    try:
        indicated = parse_number(text.lower().removeprefix("ev").strip(), "Reading")
    except InvalidInput as error:
        return f"expected {error.expected}", True, None
    error_text = "" if ev100 is None else f"  {format_signed(indicated - ev100)}"
    return f"= Ev {indicated:.2f}{error_text}", False, indicated
