"""What is wrong with a shutter, in words: the kind, its figure, what to look at, by how the shutter works."""

from violet_dial.core.exposure.pattern import Pattern, Works
from violet_dial.core.light.marks import aperture_marks, nearest_mark, time_marks

CLEAR = 0.8  # weight from which one kind is said alone
SPRING: dict[Works, str] = {
    "leaf": "the main spring, or the ring that times it",
    "focal plane": "the tension of both curtains",
    "electronic": "the timing voltage, or the trimmer of all times",
}
SLOW: dict[Works, str] = {
    "leaf": "the escapement: old oil, or its lever not engaging",
    "focal plane": "the slow-speed escapement: old oil, or its lever not engaging",
    "electronic": "the timing resistor or capacitor of that range",
}
ALONE: dict[Works, str] = {
    "leaf": "the cam at that speed, or how the ring is seated",
    "focal plane": "the cam at that speed, or how the dial is seated",
    "electronic": "the contact of that position, then its resistor",
}
MOVES: dict[Works, str] = {
    "leaf": "how late the blades are let go or caught",
    "focal plane": "the moment at which the second curtain is let go",
    "electronic": "the release of the magnet: its face, its spring, a slow contact",
}


def time_said(time_s: float) -> str:
    """A marked time as engraved."""
    for fineness in (1, 3, 2):
        mark, away = nearest_mark(time_s, time_marks(fineness))
        if abs(away) < 0.02:
            return mark.text
    return f"{time_s:.3g} s"


def aperture_said(f_number: float) -> str:
    """An aperture as engraved."""
    for fineness in (1, 3, 2):
        mark, away = nearest_mark(f_number, aperture_marks(fineness))
        if abs(away) < 0.02:
            return mark.text
    return f"f/{f_number:.3g}"


def measured_said(time_s: float) -> str:
    """A time that was measured, as it is read at the bench."""
    if time_s >= 1.0:
        return f"{time_s:.2f} s"
    return f"{time_s * 1e3:.3g} ms" if time_s < 0.1 else f"{time_s * 1e3:.0f} ms"


def doubt_said(time_s: float) -> str:
    """How far a time may be off, to two figures."""
    return f"{time_s:.2g} s" if time_s >= 1.0 else f"{time_s * 1e3:.2g} ms"


def _faster(stops: float) -> str:
    return "slow" if stops > 0 else "fast"


def pattern_said(one: Pattern, works: Works) -> str:
    """One kind in a sentence: what is seen, and where to look."""
    amount = f"{abs(one.figure):.2f} stop"
    way, mark = _faster(one.figure), time_said(one.marked_s) if one.marked_s else ""
    late = measured_said(abs(one.figure))
    words = {
        "true": "Every speed is as marked, as far as it was fired.",
        "ratio": f"All speeds {way} by the same {amount}: {SPRING[works]}.",
        "constant": f"{late} {'added to' if one.figure > 0 else 'lost from'} every time, so the fast ones go off first: "
        f"{MOVES[works]}.",
        "slow": f"From {mark} to the slowest {way}, by up to {amount}: {SLOW[works]}.",
        "position": f"{mark} alone is {way}, by {amount}: {ALONE[works]}.",
        "grease": f"Slow after rest, by {amount}, and looser with each firing: old grease. Clean before anything is adjusted.",
        "taper": f"The {'last' if one.figure > 0 else 'first'} side of the frame gets {late} more at every speed: "
        "the curtains' tensions differ.",
        "fastest": f"{mark} is never reached ({amount} slow) though the next one is: "
        + ("blades or their spring." if works != "electronic" else "blades, their spring, or the magnet."),
        "none": "None of the known patterns: each speed is off by its own amount. Look for two faults, or a worn works.",
    }
    if not one.beside_s:
        return words[one.kind]
    beside = f"{time_said(one.beside_s)} is {_faster(one.beside_stops)} by {abs(one.beside_stops):.2f} stop"
    return f"{words[one.kind]} Beside it {beside}: {ALONE[works]}."


SHORT = {
    "true": "as marked", "ratio": "all by one ratio", "constant": "one time added or lost", "slow": "the slow speeds",
    "position": "one speed alone", "grease": "slow after rest", "taper": "taper across the frame",
    "fastest": "the fastest not reached", "none": "none of these patterns",
}  # fmt: skip


def weight_said(weight: float) -> str:
    """A weight as it is shown: never all, never nothing."""
    return "over 99 %" if weight > 0.995 else "under 1 %" if weight < 0.005 else f"{100 * weight:.0f} %"


def _short(one: Pattern) -> str:
    beside = f", and {time_said(one.beside_s)} {_faster(one.beside_stops)}" if one.beside_s else ""
    return f"{_alone(one)}{beside}"


def _alone(one: Pattern) -> str:
    if one.kind == "position":
        return f"{time_said(one.marked_s)} alone {_faster(one.figure)}"
    if one.kind == "slow":
        return f"{time_said(one.marked_s)} and slower {_faster(one.figure)}"
    if one.kind == "ratio":
        return f"all speeds {_faster(one.figure)} by one ratio"
    return SHORT[one.kind]


def headline(found: tuple[Pattern, ...]) -> str:
    """The likeliest kind with its weight, and the second where the first is not clear."""
    if not found:
        return ""
    first = found[0]
    said = f"{_short(first)} ({weight_said(first.weight)})"
    if first.weight >= CLEAR or len(found) == 1:
        return said
    return f"{said} or {_short(found[1])} ({weight_said(found[1].weight)})"
