"""What is found on a device by looking, and what each finding means.

Source: Common practice, no source.
"""

from dataclasses import dataclass
from typing import Literal, get_args

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


_CAUSTIC = "Alkaline residue is caustic: gloves and eye protection; keep the dust out of eyes and lungs."
_UNKNOWN = "Unknown growth: treat as hazardous until known. Do not scrape dry or blow."

MEANINGS: dict[FindingKind, Meaning] = {
    "green crust": Meaning(
        "Copper salts: every wire, track and contact near here is suspect, and so is the wire under its insulation, "
        "further along than the green shows.",
        ("wire", "track", "joint", "contact", "connector", "clip"), 12.0, _CAUSTIC,
    ),
    "white crust": Meaning(
        "Alkaline leakage or aluminium salts, sometimes mould: battery clips and their leads first.",
        ("clip", "contact", "wire", "joint"), 10.0, _CAUSTIC,
    ),
    "black copper": Meaning(
        "Oxidised and brittle: copper that looks whole may be through. Confirm each wire with the meter, not by eye.",
        ("wire", "track", "joint"), 15.0,
    ),
    "crystals": Meaning(
        "Unknown: may bridge neighbouring tracks once damp.", ("track", "joint", "capacitor"), 5.0, _UNKNOWN
    ),
    "sticky": Meaning(
        "Old grease or glue: levers, blades and magnet faces near here may hang; contacts may be lifted by it.",
        ("switch", "solenoid", "contact"), 4.0,
        "Solvents burn and attack paint and covering: air the room, no flame, gloves.",
    ),
    "dent": Meaning(
        "A blow: look under it and at the shoe for crushed spacers, loose screws and cracked joints.",
        ("joint", "wire", "flex"), 4.0,
    ),
    "crack": Meaning(
        "Broken by force: anything fixed on either side of it may have moved.", ("joint", "flex", "track"), 6.0
    ),
    "missing screw": Meaning(
        "It may be inside: a jam is explained by it, and so is a short that comes and goes. Find it before any force.",
        ("switch", "track"), 3.0,
    ),
    "loose part": Meaning("Something has worked loose: short or jam, depending on how it is held.", ("contact",), 3.0),
    "wear": Meaning("Rubbed through: contact fingers and resistance tracks near here.", ("switch", "contact"), 4.0),
    "smell of burning": Meaning(
        "Something ran hot: look for a short; do not power it again before the short is found.",
        ("capacitor", "transistor", "regulator", "coil"), 10.0, "Do not power up again before a short is found.",
    ),
    "liquid": Meaning(
        "Leaked cell or water: corrosion creeps along wires from here.", ("clip", "wire", "contact", "track"), 10.0,
        _CAUSTIC,
    ),
}  # fmt: skip
