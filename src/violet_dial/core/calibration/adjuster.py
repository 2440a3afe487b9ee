"""The adjustment in the technician's own units, and whether the ring still reaches its stop."""

from dataclasses import dataclass

from violet_dial.core.light.marks import film_speed_marks, nearest_mark
from violet_dial.core.quantities import format_signed
from violet_dial.core.records.light import Adjuster

LEAST_CORD_LEFT_MM = 1.0  # cord that must remain on the drum at the hard stop; common practice, no source


@dataclass(frozen=True)
class Instruction:
    """One way to make the adjustment: the unit, what to do, and the error it leaves over in stops."""

    unit: str
    text: str
    left_stops: float


def _way(stops: float) -> str:
    return "forward (reads more)" if stops > 0 else "back (reads less)"


def instructions(stops: float, adjuster: Adjuster) -> tuple[Instruction, ...]:
    """The shift said in every unit this adjuster has, stops first."""
    found = [Instruction("stops", f"shift the indication by {format_signed(stops)} stop", 0.0)]
    if adjuster.notch_stops > 0:
        notches = round(stops / adjuster.notch_stops)
        text = f"turn the drum {abs(notches)} notch{'es' if abs(notches) != 1 else ''} {_way(stops)}"
        left = notches * adjuster.notch_stops - stops
        found.append(Instruction("notches", text if notches else "leave the drum where it is", left))
    if adjuster.degrees_per_stop > 0:
        degrees = abs(stops) * adjuster.degrees_per_stop
        found.append(Instruction("degrees", f"turn by {degrees:.1f}° {_way(stops)}", 0.0))
    if adjuster.cord_mm_per_stop > 0:
        cord = abs(stops) * adjuster.cord_mm_per_stop
        found.append(Instruction("cord", f"move the cord {cord:.1f} mm {_way(stops)}", 0.0))
    found.append(_film_speed_instruction(stops, adjuster.film_speed))
    return tuple(found)


def _film_speed_instruction(stops: float, film_speed: float) -> Instruction:
    """A meter that reads high is put right by dialling a slower film: S 2^stops."""
    wanted = film_speed * 2.0**stops
    mark, above = nearest_mark(wanted, film_speed_marks())
    text = f"or set the film-speed dial to {mark.text} for {film_speed:g} film"
    return Instruction("film speed", text, -above)


@dataclass(frozen=True)
class Travel:
    """Whether the ring reaches its hard stop before the end of the cord after the shift.

    ``safe`` is None when the adjuster was not measured; ``cord_left_mm`` after the shift.
    """

    safe: bool | None
    cord_left_mm: float | None
    text: str


def judge_travel(stops: float, adjuster: Adjuster) -> Travel:
    """Over-travel check: cord left at the hard stop after the drum is shifted.

    Parameters
    ----------
    stops : shift of the scale, stops
    adjuster : what moves the scale, and how far: stops per notch, degrees, millimetres of cord
    """
    if adjuster.cord_left_mm == 0 or adjuster.cord_mm_per_stop == 0:
        text = "Over-travel not checked: give drum diameter, degrees per stop and the cord left at the hard stop."
        return Travel(None, None, text)
    used = stops * adjuster.cord_mm_per_stop
    left = adjuster.cord_left_mm - used
    arithmetic = f"{adjuster.cord_left_mm:.1f} mm − ({format_signed(used, 1)} mm) = {left:.1f} mm"
    if left >= LEAST_CORD_LEFT_MM:
        return Travel(True, left, f"The ring reaches its hard stop first: {arithmetic} of cord left there.")
    return Travel(
        False,
        left,
        f"The cord ends before the hard stop: {arithmetic} left. Re-lay the cord, or the next turn snaps it.",
    )
