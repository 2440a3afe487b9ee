"""Power's records: what the device was made for, what may feed it, how it is used, cells read, how a diode was fitted."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.steady.samples import Capture
from violet_dial.job.text import Line

Volts = Annotated[float, Ge(0), Le(60)]
Curve = Annotated[tuple[float, ...], MaxLen(200)]


@dataclass(frozen=True)
class OwnCell:
    """A cell of the bench's own: its curve over the charge left (0 to 1), volts of one cell at rest, ohms; whence it is known."""

    name: Annotated[str, MaxLen(40)]
    left: Curve
    volts: Curve
    ohm: Curve
    ah: Annotated[float, Ge(0.0001), Le(1000)]
    cells: Annotated[int, Ge(1), Le(6)] = 1
    nominal_v: Annotated[float, Ge(0), Le(12)] = 0.0
    v_per_c: Annotated[float, Ge(-0.1), Le(0.1)] = 0.0
    colder: Annotated[float, Ge(0), Le(0.2)] = 0.02
    yearly_loss: Annotated[float, Ge(0), Le(1)] = 0.03
    opened_weeks: Annotated[float, Ge(0), Le(520)] = 0.0
    source: Line = ""


@dataclass(frozen=True)
class CellRead:
    """A cell or stack read: volts at rest, under a load where one was tried; °C; what an instrument gave at each."""

    size: Annotated[str, MaxLen(40)]
    rest_v: Volts
    load_v: Volts | None = None
    load_ohm: Annotated[float, Ge(0), Le(1e6)] | None = None
    at_c: Annotated[float, Ge(-10), Le(40)] = 20.0
    at: Line = ""
    rest: Capture | None = None
    load: Capture | None = None


@dataclass(frozen=True)
class FitRead:
    """One figure read at a fitted diode; ``volts`` None for overload; what an instrument gave, and before the diode."""

    what: Literal["forward", "reverse", "behind"]
    volts: Volts | None
    before_v: Volts = 0.0
    ev100: Annotated[float, Ge(-20), Le(40)] = 0.0
    capture: Capture | None = None
    before: Capture | None = None


@dataclass(frozen=True)
class Chosen:
    """The battery to use: as it is said, what it does in words, and when a cell that was opened is due (ISO 8601 date)."""

    said: Line
    words: Line
    at: Line = ""
    due_on: Line = ""


@dataclass(frozen=True)
class Power:
    """The Power station's share of the job. Choices, diodes, parts of the drawer and the use are kept as they were said; without
    choices the usual ones are judged. ``design_v`` 0: as the circuit has it."""

    design_v: Volts = 0.0
    choices: Annotated[tuple[Line, ...], MaxLen(24)] = ()
    diodes: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    own_cells: Annotated[tuple[OwnCell, ...], MaxLen(40)] = ()
    drawer: Annotated[tuple[Line, ...], MaxLen(200)] = ()
    use: Annotated[tuple[Line, ...], MaxLen(60)] = ()
    cells: Annotated[tuple[CellRead, ...], MaxLen(200)] = ()
    lead: Literal["positive", "negative"] = "positive"
    fitted: Annotated[tuple[FitRead, ...], MaxLen(60)] = ()
    test_needle: Annotated[float, Ge(0), Le(2)] | None = None
    chosen: Chosen | None = None
