"""One step of a strip-down: what came off, how many, from where, how it is held, and what became of it."""

import math
from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.errors import InvalidInput

StepKind = Literal[
    "screw", "nut", "washer", "shim", "spring", "snap ring", "e-ring", "ball", "knob", "cover", "ring", "lever", "wire",
    "flex", "cord", "covering", "board", "assembly",
]  # fmt: skip
KINDS: tuple[StepKind, ...] = get_args(StepKind)
KIND_WORDS: dict[str, StepKind] = {
    **{kind: kind for kind in KINDS},
    **{f"{kind}s": kind for kind in KINDS if not kind.endswith("s")},
    **{"switches": "assembly", "e ring": "e-ring", "e rings": "e-ring", "circlip": "snap ring", "retaining ring": "snap ring",
       "glue": "covering", "leather": "covering", "leatherette": "covering", "string": "cord", "lead": "wire", "pcb": "board",
       "dial": "knob", "plate": "cover", "block": "assembly", "spacer": "shim", "bearing ball": "ball"},
}  # fmt: skip
Head = Literal["", "slotted", "cross", "JIS cross", "hex", "two-pin", "knurled"]
HEADS: tuple[Head, ...] = get_args(Head)
Finish = Literal["", "chrome", "nickel", "black", "brass", "steel", "zinc"]
FINISHES: tuple[Finish, ...] = get_args(Finish)
Hand = Literal["", "right", "left", "unknown"]
HANDS: tuple[Hand, ...] = get_args(Hand)
Sealant = Literal["", "soft", "hard", "none"]
SEALANTS: tuple[Sealant, ...] = get_args(Sealant)
EndKind = Literal["refitted", "replaced", "left out"]

FASTENERS: frozenset[StepKind] = frozenset({"screw", "nut", "washer", "shim", "snap ring", "e-ring", "ball", "covering"})
THREADED: frozenset[StepKind] = frozenset({"screw", "nut", "knob", "ring"})
COVERING: frozenset[StepKind] = frozenset({"cover", "knob", "ring", "board", "assembly", "covering", "lever"})
HAND_NOT_KNOWN = "Thread hand not known: look it up or try gently both ways; never force. Some counter dials are left-hand."
# Minutes to take one off and lay it out; common practice, no source. The log's own times replace them.
USUAL_MINUTES: dict[StepKind, float] = {
    "screw": 0.7, "nut": 1.0, "washer": 0.3, "shim": 0.5, "spring": 1.5, "snap ring": 1.5, "e-ring": 1.0, "ball": 1.0,
    "knob": 2.0, "cover": 2.0, "ring": 3.0, "lever": 1.5, "wire": 2.0, "flex": 3.0, "cord": 4.0, "covering": 5.0,
    "board": 4.0, "assembly": 4.0,
}  # fmt: skip
MOST_COUNT = 999
LONGEST_TEXT = 300


@dataclass(frozen=True)
class WireEnd:
    """What became of ``count`` of the things of a step."""

    kind: EndKind
    count: int
    note: str = ""
    at: str = ""


@dataclass(frozen=True)
class Step:
    """One line of the strip-down.

    ``home`` is where it belongs (for a fastener: what it holds). ``under`` and ``hides`` name other parts of the
    list; ``back_after`` names parts that must be back first although they came off earlier; ``orientation`` is how it
    goes back (turn into the slot, outside the lever); ``test_before`` is a test to make before it goes back.
    ``planned`` steps come from an earlier strip-down and are not off yet; ``confirmed`` counts how often they were met.
    """

    step_id: str
    kind: StepKind
    home: str
    count: int = 1
    size: str = ""
    head: Head = ""
    finish: Finish = ""
    hand: Hand = ""
    tool: str = ""
    tray: str = ""
    under: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    preset: str = ""
    marks: str = ""
    wire_colour: str = ""
    wire_from: str = ""
    wire_to: str = ""
    no_bath: bool = False
    no_fingers: bool = False
    sealant: Sealant = ""
    orientation: str = ""
    back_after: tuple[str, ...] = ()
    test_before: str = ""
    minutes: float = 0.0
    note: str = ""
    photo: str = ""
    planned: bool = False
    confirmed: int = 0
    off_at: str = ""
    ends: tuple[WireEnd, ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= self.count <= MOST_COUNT:
            raise InvalidInput("Count", self.count, f"1 to {MOST_COUNT}")
        if not (math.isfinite(self.minutes) and 0 <= self.minutes <= 600):
            raise InvalidInput("Minutes", self.minutes, "0 to 600")
        if not self.home.strip():
            raise InvalidInput("Step", self.kind, "what it holds or where it belongs, for instance: screw x3 top cover")
        for name in ("home", "size", "tray", "preset", "marks", "note", "tool", "orientation", "test_before"):
            if len(getattr(self, name)) > LONGEST_TEXT:
                raise InvalidInput(name.replace("_", " "), getattr(self, name), f"at most {LONGEST_TEXT} characters")

    @property
    def thing(self) -> tuple[StepKind, str]:
        """What the step takes off, the same from one device to the next."""
        return self.kind, self.home.strip().lower()

    @property
    def name(self) -> str:
        """How the step's thing is spoken of: ``top cover``, ``3 screws of top cover``."""
        if self.kind in FASTENERS:
            return f"{plural(self.kind, self.count)} of {self.home}"
        return self.home if self.home.split()[-1].lower() in KIND_WORDS else f"{self.home} {self.kind}"

    @property
    def expected_minutes(self) -> float:
        """Minutes from the log, or what is usual for the kind and count."""
        return self.minutes or USUAL_MINUTES[self.kind] * min(self.count, 8)

    @property
    def caution(self) -> str:
        """What to mind before the act; empty when nothing."""
        return HAND_NOT_KNOWN if self.hand == "unknown" else ""


def plural(kind: str, count: int) -> str:
    """``screw`` or ``3 screws``."""
    if count == 1:
        return kind
    return f"{count} {kind}es" if kind.endswith(("s", "x")) else f"{count} {kind}s"


def names_of(step: Step) -> frozenset[str]:
    """Every name by which other steps may mean this ``step``, lower case."""
    own = {step.name.lower()}
    if step.kind not in FASTENERS:
        own |= {step.home.lower(), f"{step.home} {step.kind}".lower()}
    return frozenset(own)
