"""The job document: frozen records, nothing computed.

Every act at the bench makes the next version of one of these. Times are ISO 8601 text with offset; dates ISO 8601.
"""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.calibration.adjuster import Adjuster
from violet_dial.core.calibration.assess import Plan
from violet_dial.core.calibration.readings import DEFAULT_U_READING, Reading, Tolerance
from violet_dial.core.circuit.trade import Setting
from violet_dial.core.diagnosis.evidence import Evidence, Prefer
from violet_dial.core.diagnosis.faults import Fault
from violet_dial.core.light.chain import Chain
from violet_dial.core.opening.steps import Sealant, Step
from violet_dial.core.receiving.findings import Extent, FindingKind
from violet_dial.core.receiving.gate import Gate
from violet_dial.core.receiving.places import DeviceKind, View
from violet_dial.core.receiving.walk import Result, Supply
from violet_dial.core.steady.samples import Capture

FORMAT_VERSION = 3
MOST_READINGS = 2000  # per run; far beyond a day's work, and still drawn and judged in bounded time
MOST_RUNS = 100
MOST_PHOTOS = 500
MOST_FINDINGS = 300
MOST_TRIALS = 1000
MOST_STEPS = 1500
MOST_EVIDENCE = 500
MOST_CIRCUIT = 200_000  # characters of SPICE text

Line = Annotated[str, MaxLen(300)]
Text = Annotated[str, MaxLen(20_000)]

CellKind = Literal["selenium", "CdS", "silicon", "not known"]
Hazard = Literal["alkaline residue", "flash capacitor", "mercury cell", "unknown growth", "solvents"]


@dataclass(frozen=True)
class Device:
    """What came to the bench."""

    name: Line = ""
    maker: Line = ""
    serial: Line = ""
    kind: DeviceKind = "hand meter"
    cell: CellKind = "not known"
    family: Line = ""  # mount or works shared with other models, as the bench names it


@dataclass(frozen=True)
class Intake:
    """How it came: the headline fault in one line, and everything else noticed."""

    headline_fault: Line = ""
    owner: Line = ""
    received_on: Line = ""
    came_with: Text = ""
    noticed: Text = ""
    tried_already: Text = ""
    hazards: Annotated[tuple[Hazard, ...], MaxLen(5)] = ()


@dataclass(frozen=True)
class Photo:
    """A photo by the hash of its content; the content itself is in the workshop file or the bundle."""

    sha256: Annotated[str, MaxLen(64)]
    file_name: Line
    media_type: Line
    caption: Line = ""


@dataclass(frozen=True)
class Finding:
    """Something seen on the device: what, where on which view (0 to 1 from left and top), how much; ``photo`` a hash."""

    finding_id: Line
    kind: FindingKind
    view: View
    x: Annotated[float, Ge(0), Le(1)]
    y: Annotated[float, Ge(0), Le(1)]
    extent: Extent = "a spot"
    note: Line = ""
    photo: Annotated[str, MaxLen(64)] = ""


@dataclass(frozen=True)
class TakenTrial:
    """One act of the function walk as tried."""

    act: Line
    setting: Line = ""
    supply: Supply = "battery"
    result: Result = "works"
    note: Line = ""
    at: Line = ""


@dataclass(frozen=True)
class MissingScrew:
    """A screw that is not where it should be: where, what its siblings look like, and where it was found at last."""

    screw_id: Line
    view: View
    place: Line
    siblings: Line = ""
    looked: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    found: Line = ""


@dataclass(frozen=True)
class Receiving:
    """The Receive station's share of the job, beside the description."""

    findings: Annotated[tuple[Finding, ...], MaxLen(MOST_FINDINGS)] = ()
    trials: Annotated[tuple[TakenTrial, ...], MaxLen(MOST_TRIALS)] = ()
    gate: Gate = field(default_factory=Gate)
    missing: Annotated[tuple[MissingScrew, ...], MaxLen(100)] = ()


@dataclass(frozen=True)
class ShorterWay:
    """A lesson: a part can be reached through other parts in so many minutes."""

    part: Line
    through: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    minutes: Annotated[float, Ge(0), Le(600)] = 5.0
    note: Line = ""


@dataclass(frozen=True)
class Opening:
    """The Open station's share of the job: the strip-down in the order of removal, and lessons about the way in."""

    steps: Annotated[tuple[Step, ...], MaxLen(MOST_STEPS)] = ()
    shorter_ways: Annotated[tuple[ShorterWay, ...], MaxLen(50)] = ()
    sealant: Sealant = "soft"  # the school followed where a step says nothing


@dataclass(frozen=True)
class TakenEvidence:
    """Evidence with what was typed and when, or with what an instrument gave."""

    evidence: Evidence
    typed: Line = ""
    at: Line = ""
    capture: Capture | None = None


@dataclass(frozen=True)
class TakenRepair:
    """A fault put right: the evidence of the epoch before was taken with it."""

    fault: Fault
    words: Line = ""
    at: Line = ""


@dataclass(frozen=True)
class Spot:
    """Where a point of the circuit is pinned on the map: columns and rows of its grid."""

    node: Line
    column: Annotated[float, Ge(-5), Le(60)]
    row: Annotated[float, Ge(-5), Le(60)]


@dataclass(frozen=True)
class Tracing:
    """The Trace station's share of the job: circuit, how the device stands, evidence in epochs between repairs."""

    circuit_name: Line = ""
    circuit_text: Annotated[str, MaxLen(MOST_CIRCUIT)] = ""
    setting: Setting = field(default_factory=Setting)
    epochs: Annotated[tuple[Annotated[tuple[TakenEvidence, ...], MaxLen(MOST_EVIDENCE)], ...], MaxLen(60)] = ((),)
    repairs: Annotated[tuple[TakenRepair, ...], MaxLen(60)] = ()
    pinned: Annotated[tuple[Spot, ...], MaxLen(500)] = ()
    weights: Annotated[tuple[tuple[Line, float], ...], MaxLen(60)] = ()
    prefer: Prefer = "least minutes"

    @property
    def now(self) -> tuple[TakenEvidence, ...]:
        """Evidence since the last repair."""
        return self.epochs[-1] if self.epochs else ()


@dataclass(frozen=True)
class TakenReading:
    """A reading with what was typed and the sum of the reference chain at that time; ``capture`` is of the light."""

    reading: Reading
    taken_at: Line = ""
    typed_reference: Line = ""
    reference_sum: Annotated[tuple[Line, ...], MaxLen(40)] = ()
    capture: Capture | None = None


@dataclass(frozen=True)
class Run:
    """Readings taken in one state of the meter; ``shift_stops`` is what was done to the scale just before."""

    name: Line = "as found"
    readings: Annotated[tuple[TakenReading, ...], MaxLen(MOST_READINGS)] = ()
    shift_stops: Annotated[float, Ge(-20), Le(20)] = 0.0

    @property
    def bare(self) -> tuple[Reading, ...]:
        """The readings as the core takes them."""
        return tuple(taken.reading for taken in self.readings)


@dataclass(frozen=True)
class LightSetup:
    """How this meter is checked: film speed, reference chain, tolerance, adjuster, range, reading uncertainty."""

    film_speed: Annotated[float, Ge(1), Le(100_000)] = 100.0
    light_source: Line = "tungsten 2856 K"
    chain: Chain = field(default_factory=Chain)
    tolerance: Tolerance = field(default_factory=Tolerance)
    adjuster: Adjuster = field(default_factory=Adjuster)
    range_from_ev100: Annotated[float, Ge(-20), Le(40)] = 5.0
    range_to_ev100: Annotated[float, Ge(-20), Le(40)] = 15.0
    u_reading: Annotated[float, Ge(0.001), Le(5)] = DEFAULT_U_READING

    @property
    def plan(self) -> Plan:
        """What the readings are judged by."""
        return Plan(self.tolerance, self.adjuster, self.range_from_ev100, self.range_to_ev100)


@dataclass(frozen=True)
class LightCheck:
    """The Light station's share of the job."""

    setup: LightSetup = field(default_factory=LightSetup)
    runs: Annotated[tuple[Run, ...], MaxLen(MOST_RUNS)] = (Run(),)

    @property
    def current(self) -> Run:
        """The run readings are taken into now."""
        return self.runs[-1] if self.runs else Run()


@dataclass(frozen=True)
class Closing:
    """What goes back with the device, and the lesson that stays."""

    done: Text = ""
    left: Text = ""
    battery: Line = ""
    lesson: Text = ""
    signed_by: Line = ""
    signed_on: Line = ""


@dataclass(frozen=True)
class Job:
    """One device at the bench, whole."""

    job_id: Annotated[str, MaxLen(64)]
    number: Annotated[int, Ge(1), Le(99_999_999)]
    device: Device = field(default_factory=Device)
    intake: Intake = field(default_factory=Intake)
    photos: Annotated[tuple[Photo, ...], MaxLen(MOST_PHOTOS)] = ()
    receiving: Receiving = field(default_factory=Receiving)
    opening: Opening = field(default_factory=Opening)
    tracing: Tracing = field(default_factory=Tracing)
    light: LightCheck = field(default_factory=LightCheck)
    closing: Closing = field(default_factory=Closing)
    waits_for: Line = ""
    format_version: Literal[3] = 3

    @property
    def label(self) -> str:
        """Number as written on the tag."""
        return f"{self.number:04d}"
