"""Cautions that apply to a job: brief, and deferring to local rules and licensed practice.

Source: Common practice, no source. Nothing here declares a device safe.
"""

from dataclasses import dataclass

from violet_dial.job.document import Hazard, Job


@dataclass(frozen=True)
class Caution:
    """One caution: what it is about and what to do."""

    title: str
    text: str


LOCAL_RULES = "Local rules and licensed practice come first; this list does not make a device safe."
HAZARDS: dict[Hazard, Caution] = {
    "alkaline residue": Caution(
        "Alkaline residue", "Caustic. Gloves and eye protection; keep the dust out of eyes and lungs."
    ),
    "flash capacitor": Caution(
        "Flash capacitor", "Holds a lethal charge for days. Discharge through a resistor, then measure before touching."
    ),
    "mercury cell": Caution(
        "Mercury cell", "Toxic. Do not open or crush; seal it in a bag and hand it in by local rules."
    ),
    "unknown growth": Caution(
        "Unknown growth or crystals", "Treat as hazardous until known. Do not scrape dry or blow."
    ),
    "solvents": Caution("Solvents", "They burn and attack paint and coverings. Air the room; no flame; gloves."),
}
SELENIUM = Caution("Selenium plate", "Toxic. Do not sand or break the cell; dispose of it by local rules.")
LEAD = Caution("Lead solder", "Toxic. Wash hands; no food at the bench.")
_CAMERAS_WITH_FLASH = ("rangefinder compact", "instant camera")


def cautions_for(job: Job) -> tuple[Caution, ...]:
    """The cautions that apply to this device, those ticked at Receive first."""
    found = [HAZARDS[name] for name in job.intake.hazards]
    if job.device.cell == "selenium":
        found.append(SELENIUM)
    if job.device.kind in _CAMERAS_WITH_FLASH and HAZARDS["flash capacitor"] not in found:
        found.append(HAZARDS["flash capacitor"])
    found.append(LEAD)
    return tuple(found)
