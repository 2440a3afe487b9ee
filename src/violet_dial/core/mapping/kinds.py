"""What kinds of thing lie on a board: their words, their legs, and what is usual of each where nothing is said.

Source: Usual figures: common practice, no source. Colours of figures in order: IEC 60062 [memory].
"""

import re
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.units import Unit

Key = Literal["ohm", "farad", "volt", "full_a", "on_a", "r10", "a_per_lx", "mm", "wide_mm"]
UNIT_OF: dict[Key, Unit] = {"ohm": "Ω", "farad": "F", "volt": "V", "full_a": "A", "on_a": "A", "r10": "Ω"}
COLOURS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")  # 0 to 9
DESIGNATOR = re.compile(r"^[A-Za-z]{1,3}\d{1,3}[a-z]?$")
USUAL_WIDE_MM = 0.5


@dataclass(frozen=True)
class PartKind:
    """A kind of thing: the words for it, its legs in order, figures it has with the usual values, the first one first; what
    it is called where the board gives no name."""

    name: str
    words: tuple[str, ...]
    legs: tuple[str, ...] = ("a", "b")
    usual: tuple[tuple[Key, float], ...] = ()
    letters: tuple[str, ...] = ()
    subs: tuple[str, ...] = ()


LEAD_WORDS = {"wire": ("jumper",), "flex": ("ribbon",)}
LEADS = ("wire", "track", "joint", "connector", "contact", "clip", "flex")
KINDS: tuple[PartKind, ...] = (
    *(PartKind(lead, (lead, *LEAD_WORDS.get(lead, ()))) for lead in LEADS),
    PartKind("resistor", ("resistor",), usual=(("ohm", 10e3),), letters=("R",)),
    PartKind("trimmer", ("trimmer", "pot", "potentiometer"), usual=(("ohm", 10e3),), letters=("VR", "RV", "P")),
    PartKind("capacitor", ("capacitor", "cap", "electrolytic", "tantalum", "ceramic"), usual=(("farad", 1e-6),), letters=("C",)),
    PartKind("diode", ("diode",), ("a", "band"), letters=("D",), subs=("schottky", "silicon", "germanium")),
    PartKind("led", ("led",), ("a", "band"), (("on_a", 3e-3),)),
    PartKind("transistor", ("transistor",), ("e", "b", "c"), letters=("Q", "T"), subs=("npn", "pnp")),
    PartKind("cds", ("cds",), usual=(("r10", 200e3),), subs=("cds",)),
    PartKind("selenium", ("selenium",), ("+", "-"), (("a_per_lx", 1e-7),), subs=("selenium",)),
    PartKind("silicon cell", ("photodiode",), ("+", "-"), (("a_per_lx", 5e-9),), subs=("silicon",)),
    PartKind("movement", ("movement", "meter", "galvanometer"), ("+", "-"), (("full_a", 100e-6), ("ohm", 1500.0)), ("M",)),
    PartKind("lamp", ("lamp", "bulb"), usual=(("ohm", 150.0), ("on_a", 15e-3)), letters=("L",)),
    PartKind("solenoid", ("magnet", "solenoid", "electromagnet"), usual=(("ohm", 120.0), ("on_a", 15e-3))),
    PartKind("coil", ("coil",), usual=(("ohm", 20.0), ("on_a", 20e-3))),
    PartKind("motor", ("motor",), ("+", "-"), (("ohm", 6.0), ("on_a", 150e-3))),
    PartKind("battery", ("battery", "cells", "cell pack"), ("+", "-"), (("volt", 1.5),), letters=("BT",)),
    PartKind("fuse", ("fuse",), usual=(("ohm", 0.1),), letters=("F",)),
)
BY_WORD = {word: kind for kind in KINDS for word in kind.words}
BY_NAME = {kind.name: kind for kind in KINDS}
UNITS: tuple[Unit, ...] = ("V", "Ω", "A", "F", "Hz", "lx")


def kind_of_designator(name: str) -> PartKind | None:
    """What a printed designator says: R4 is a resistor; None where it says nothing."""
    letters = re.sub(r"\d.*$", "", name).upper()
    return next((kind for kind in KINDS if letters in kind.letters), None)


def track_ohm(length_mm: float, wide_mm: float = USUAL_WIDE_MM) -> float:
    """What a copper track of 35 µm should measure, ohm.

    Source: Resistivity of copper 17.2 nΩ m (IEC 60028) [memory]; thickness of usual foil: common practice, no source.
    """
    return 17.2e-6 * length_mm / (wide_mm * 0.035)
