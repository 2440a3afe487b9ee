"""What may be done to what: sealant schools, cleaning by material, and the bath by kind of part.

Source: Common practice, no source. Practitioners disagree on sealants: all three schools are here, the soft one is the default.
"""

from dataclasses import dataclass
from typing import Literal

from violet_dial.core.opening.steps import Sealant, StepKind

Verdict = Literal["good", "with care", "never"]
Material = Literal[
    "paint", "covering", "plastic", "plated metal", "coated glass", "first-surface mirror", "copper track"
]
Agent = Literal[
    "dry brush and blower",
    "contact cleaner",
    "isopropyl alcohol",
    "naphtha",
    "acetone or thinner",
    "vinegar, then water",
]


@dataclass(frozen=True)
class School:
    """One way of securing loose hardware, and why people hold with it."""

    sealant: Sealant
    title: str
    why: str


SCHOOLS: tuple[School, ...] = (
    School("soft", "Soft contact cement", "Keeps even a loosened screw from falling, and comes out with a fingernail."),
    School("hard", "Hard thread lacquer", "Does not give under vibration; needs heat or solvent at the next repair."),
    School("none", "Nothing", "Clean threads and the right torque hold; nothing creeps into the works."),
)


@dataclass(frozen=True)
class CleaningAdvice:
    """How one agent suits one material."""

    verdict: Verdict
    reason: str


_BURNS = "Burns: air the room, no flame, gloves."
CLEANING: dict[Material, dict[Agent, CleaningAdvice]] = {
    "paint": {
        "dry brush and blower": CleaningAdvice("good", "Start here."),
        "isopropyl alcohol": CleaningAdvice("with care", "Dulls some paints and lifts filled index marks: try a hidden spot."),
        "naphtha": CleaningAdvice("with care", f"Most paints stand it; index marks may not. {_BURNS}"),
        "acetone or thinner": CleaningAdvice("never", "Takes the paint off."),
    },
    "covering": {
        "dry brush and blower": CleaningAdvice("good", "Start here."),
        "isopropyl alcohol": CleaningAdvice("with care", "Only a damp swab; it softens glue from beneath."),
        "naphtha": CleaningAdvice("with care", f"Loosens the glue: that is how a covering is lifted. {_BURNS}"),
        "acetone or thinner": CleaningAdvice("never", "Melts and stains."),
    },
    "plastic": {
        "dry brush and blower": CleaningAdvice("good", "Start here."),
        "isopropyl alcohol": CleaningAdvice("with care", "Clear plastics craze: windows only with water and soap."),
        "contact cleaner": CleaningAdvice("with care", "Only one marked safe for plastic."),
        "acetone or thinner": CleaningAdvice("never", "Dissolves it."),
    },
    "plated metal": {
        "dry brush and blower": CleaningAdvice("good", "Start here."),
        "vinegar, then water": CleaningAdvice(
            "with care", "Neutralises alkaline crust on contacts; rinse and dry at once. Gloves and eye protection."
        ),
        "isopropyl alcohol": CleaningAdvice("good", "For the last wipe of a contact."),
        "naphtha": CleaningAdvice("good", f"Takes old grease. {_BURNS}"),
    },
    "coated glass": {
        "dry brush and blower": CleaningAdvice("good", "Blow before any wipe: grit scratches."),
        "isopropyl alcohol": CleaningAdvice("with care", "A drop on a swab, never on the glass; keep it out of the cement."),
        "acetone or thinner": CleaningAdvice("never", "Reaches the cement and the black edge."),
    },
    "first-surface mirror": {
        "dry brush and blower": CleaningAdvice("with care", "Blow only. No fingers, no brush on the silver."),
        "isopropyl alcohol": CleaningAdvice("never", "The silver comes off with the swab."),
    },
    "copper track": {
        "contact cleaner": CleaningAdvice("good", "On a swab, no flooding; again until no black comes off."),
        "isopropyl alcohol": CleaningAdvice("good", "For flux and residue after soldering."),
        "vinegar, then water": CleaningAdvice("with care", "Only where crust is alkaline; rinse and dry, or it goes on eating."),
    },
}  # fmt: skip

_NO_BATH: dict[StepKind, str] = {
    "spring": "springs lose their set or are lost",
    "covering": "the glue goes",
    "board": "meters, felt and boards stay out",
    "flex": "it cracks at the bends",
    "cord": "it shrinks and slips",
    "wire": "residue creeps under the insulation",
    "ball": "it is lost",
    "shim": "thin shims stick and fold",
}


def bath_advice(kind: StepKind, no_bath: bool) -> str:
    """Whether this goes into the cleaning bath; empty when it may."""
    if kind in _NO_BATH:
        return f"Not into the bath: {_NO_BATH[kind]}."
    return "Not into the bath, as noted." if no_bath else ""
