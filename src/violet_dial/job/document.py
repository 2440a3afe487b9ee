"""The job document: frozen records, nothing computed; each station's records stand in a file of their own.

Every act at the bench makes the next version of one of these. Times are ISO 8601 text with offset; dates ISO 8601.
Limits stand at the fields: the door that keeps a version and the door that reads it go by the same ones.
"""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from violet_dial.core.receiving.places import DeviceKind
from violet_dial.job.closing import Closing
from violet_dial.job.exposing import Exposing
from violet_dial.job.light import LightCheck
from violet_dial.job.opening import Opening
from violet_dial.job.power import Power
from violet_dial.job.practising import Practising
from violet_dial.job.proving import Proving
from violet_dial.job.receiving import Receiving
from violet_dial.job.text import Hash, Line, Text
from violet_dial.job.tracing import Tracing

FORMAT_VERSION = 5

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

    sha256: Hash
    file_name: Line
    media_type: Line
    caption: Line = ""


@dataclass(frozen=True)
class Job:
    """One device at the bench, whole."""

    job_id: Annotated[str, MaxLen(64)]
    number: Annotated[int, Ge(1), Le(99_999_999)]
    device: Device = field(default_factory=Device)
    intake: Intake = field(default_factory=Intake)
    photos: Annotated[tuple[Photo, ...], MaxLen(500)] = ()
    receiving: Receiving = field(default_factory=Receiving)
    opening: Opening = field(default_factory=Opening)
    tracing: Tracing = field(default_factory=Tracing)
    power: Power = field(default_factory=Power)
    light: LightCheck = field(default_factory=LightCheck)
    exposing: Exposing = field(default_factory=Exposing)
    proving: Proving = field(default_factory=Proving)
    practising: Practising = field(default_factory=Practising)
    closing: Closing = field(default_factory=Closing)
    waits_for: Line = ""
    format_version: Literal[5] = 5

    @property
    def label(self) -> str:
        """Number as written on the tag."""
        return f"{self.number:04d}"
