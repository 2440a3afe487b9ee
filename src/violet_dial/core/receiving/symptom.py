"""What a headline fault says, and what is therefore looked at first.

Source: Common practice, no source: first the battery, then its compartment, then the lead from it, then everything else; a blow
or a missing screw before any force; lively is not the same as right.
"""

import re
from dataclasses import dataclass
from typing import Literal

from violet_dial.core.receiving.gate import HOLDS_FILM
from violet_dial.core.receiving.places import DeviceKind

Symptom = Literal["dead", "reads wrong", "comes and goes", "works jammed", "not said"]
First = Literal["walk", "battery", "look", "film", "open", "trace", "light"]

_WORDS: dict[str, str] = {  # each a regular expression over the lower-case headline
    "dead": r"\bdead\b|not move|no move|does nothing|nothing happens|no reaction|no lamps?|no motor|no power|no sign|won't"
    r"|will not|doesn't|does not|hangs at|pinned|stuck at|stands still",
    "partly": r"\bright in\b|\bfine in\b|only in|except in|dead indoors|dead in (dim|low|bright|strong)",
    "meter": r"needle|pointer|meter|reads?\b|reading|expos|lamp|light|picture|motor|\bdead:|\bdead$",
    "wrong": r"\bhigh\b|\blow\b|stops?\b|\bslow|\bfast|dark|bright|\boff\b|wrong|over|under|inaccurate|calibrat|check"
    r"|complaint",
    "comes and goes": r"wander|sometimes|now and then|intermittent|comes and goes|never (shows|reads) the same|jumps|in the cold"
    r"|when (cold|warm|pressed|bent)|on and off|erratic|unsteady",
    "works": r"jam|stuck|shutter|release|advance|wind|mirror|lever|ring\b|blades?|drum|cord|knob|slips|loose|rattl|dropp|fell",
    "battery good": r"(battery|cells?|batteries) (is |are )?(good|fresh|new|full|fine|ok|sound|measured|tested)"
    r"|(new|fresh|good) (battery|cells?|batteries)",
}


def says(headline: str, what: str) -> bool:
    """Whether a headline says one of the things that are listened for."""
    return re.search(_WORDS[what], headline.lower()) is not None


def symptom_of(headline: str) -> Symptom:
    """The kind of fault a headline speaks of; what is dead in some light only, reads wrong."""
    if says(headline, "partly"):
        return "reads wrong"
    if says(headline, "comes and goes"):
        return "comes and goes"
    about_meter = says(headline, "meter")
    if says(headline, "dead") and (about_meter or not says(headline, "works")):
        return "dead"
    if says(headline, "works") and not about_meter:
        return "works jammed"
    return "reads wrong" if says(headline, "wrong") or about_meter else "not said"


@dataclass(frozen=True)
class KnownOfJob:
    """What is known of a device before its own work begins.

    ``walked``, ``looked``, ``opened``, ``traced``, ``read``: something of that was done already; ``battery_seen`` and
    ``film_seen``: looked at, or said in words.
    """

    headline: str
    kind: DeviceKind
    needs_battery: bool = True
    walked: bool = False
    looked: bool = False
    opened: bool = False
    traced: bool = False
    read: bool = False
    battery_seen: bool = False
    film_seen: bool = False


@dataclass(frozen=True)
class Approach:
    """What is looked at first, and why, in one sentence."""

    first: First
    reason: str


def approach(known: KnownOfJob) -> Approach:
    """Where to begin with a device, from its headline fault, its kind and what is known so far."""
    symptom = symptom_of(known.headline)
    if known.traced or known.read:
        return Approach("trace" if known.traced and not known.read else "light", "The work has begun.")
    early = _before_work(known, symptom)
    if early is not None:
        return early
    if symptom == "dead":
        fed = "its cell makes its own current" if not known.needs_battery else "the battery is known"
        return Approach(
            "trace", f"It is dead and {fed}: the fault lies on the way between. Trace asks for the reading that tells most."
        )
    if symptom == "works jammed" and not known.opened:
        return Approach("open", "The fault is in the works: note every part as it comes off, and the way back is worked out.")
    if symptom == "works jammed":
        return Approach("light", "Once the works go again, what the meter reads is checked against reference light.")
    return Approach("light", "It lives: how far off it is, over which light, is told by readings at reference light.")


def _before_work(known: KnownOfJob, symptom: Symptom) -> Approach | None:
    """What comes before anything is opened, measured or read; None when nothing does."""
    seen = known.battery_seen or says(known.headline, "battery good")
    if symptom == "dead" and known.needs_battery and not seen:
        return Approach(
            "battery", "It is dead: first the battery (fresh, measured under load, right way round), then its contacts."
        )
    if symptom == "works jammed" and not known.looked:
        return Approach(
            "look", "A jam may be a screw that is missing at its place, or a blow on the shoe: look all round before any force."
        )
    if symptom in ("comes and goes", "not said") and not known.walked:
        why = "It comes and goes" if symptom == "comes and goes" else "The headline does not say what fails"
        return Approach(
            "walk", f"{why}: try each setting, on cells and on the bench supply; a fault on one alone says where it is."
        )
    if symptom in ("dead", "works jammed") and known.kind in HOLDS_FILM and not known.film_seen:
        return Approach("film", "It will be opened: is film or a pack inside? That has to come out safely first.")
    return None
