"""What is found on a device by looking, and what each finding means."""

from dataclasses import dataclass
from typing import Literal, get_args

from violet_dial.core.facts import facts

FindingKind = Literal[
    "green crust", "white crust", "black copper", "crystals", "sticky", "dent", "crack", "missing screw", "loose part",
    "wear", "smell of burning", "liquid",
]  # fmt: skip
FINDING_KINDS: tuple[FindingKind, ...] = get_args(FindingKind)
Extent = Literal["a spot", "a patch", "all over"]
EXTENTS: tuple[Extent, ...] = get_args(Extent)


@dataclass(frozen=True)
class Meaning:
    """What a kind of finding means for tracing, the caution that goes with it, and the parts whose priors it raises.

    ``suspects`` names kinds of part in the neighbourhood; ``weight`` is how many times more likely than usual a fault
    there is held to be.
    """

    tracing: str
    suspects: tuple[str, ...] = ()
    weight: float = 1.0
    caution: str = ""


MEANINGS: dict[str, Meaning] = {
    kind: Meaning(**{**meaning, "suspects": tuple(meaning["suspects"])}) for kind, meaning in facts("findings").items()
}
