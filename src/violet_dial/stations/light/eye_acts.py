"""Acts at the eye: marks of the dial put and taken away, the dial without its needle, the set-up of the same model."""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.lamps import MOST_LOOKS
from violet_dial.core.eye.face import MOST_MARKS
from violet_dial.core.eye.lamps import LampSpot, glow
from violet_dial.core.eye.needle import grey
from violet_dial.core.quantities import format_grouped, parse_number
from violet_dial.job.act import Act, ActResult
from violet_dial.job.document import Job
from violet_dial.job.exposing import LampLook
from violet_dial.job.light import DialMark, DialSetUp, LampPlace, NeedleNote
from violet_dial.stations.light.eyes import face_from

EXPECTED = (
    "12 (the value of the mark under the cross) · empty (the dial without its needle) · known (as this model was set up) · "
    "clear · settle, creep, flick (how the needle goes) · zero (the cell capped) · "
    "ring (a pointer turned to meet the needle) · lamp slow, lamp over, then f/8 (into Expose's map) · "
    "camera /dev/video0, a film or a folder"
)
MOST_NOTES, LAMP_PX = 60, 7.0
NEAR_PX = 14.0  # a mark nearer to the cross than this is meant


@dataclass(frozen=True)
class Cross:
    """Where the cross stands in the picture, px, and the size of the pictures."""

    x: float
    y: float
    wide: int
    tall: int


def _with_dial(job: Job, dial: DialSetUp, words: str) -> ActResult:
    return ActResult(replace(job, light=replace(job.light, dial=dial)), "Light", words)


def put_mark(cross: Cross, text: str) -> Act:
    """The mark under the cross with its value; one of the same value is put anew.

    Raises InvalidInput: no figure, too many marks, or marks that make no dial.
    """
    value = parse_number(text.strip().lower().removeprefix("ev").removesuffix("ev").strip(), "Mark")

    def act(job: Job, at: str) -> ActResult:
        dial = job.light.dial
        fits = (dial.wide, dial.tall) == (cross.wide, cross.tall)
        others = tuple(mark for mark in dial.marks if mark.value != value) if fits else ()
        if len(others) >= MOST_MARKS:
            raise InvalidInput("Marks", len(others) + 1, f"at most {MOST_MARKS}; three to eight are enough")
        marks = tuple(sorted((*others, DialMark(cross.x, cross.y, value)), key=lambda other: other.value))
        kept = dial if fits else DialSetUp()
        made = replace(kept, marks=marks, wide=cross.wide, tall=cross.tall)
        face_from(made)
        gone = "" if fits or not dial.marks else "; marks in pictures of another size let go"
        return _with_dial(job, made, f"Dial: mark {value:g}{gone}")

    return act


def take_mark_away(cross: Cross) -> Act:
    """The mark near the cross away."""

    def act(job: Job, at: str) -> ActResult:
        dial = job.light.dial
        near = min(dial.marks, key=lambda mark: _away(mark, cross), default=None)
        if near is None or _away(near, cross) > NEAR_PX:
            raise InvalidInput("Mark", "none near the cross", "the cross on a mark")
        return _with_dial(
            job, replace(dial, marks=tuple(mark for mark in dial.marks if mark != near)), f"Dial: mark {near.value:g} away"
        )

    return act


def _away(mark: DialMark, cross: Cross) -> float:
    return float(((mark.x - cross.x) ** 2 + (mark.y - cross.y) ** 2) ** 0.5)


def put_lamp(cross: Cross, name: str, frame: npt.NDArray[np.uint8], radius: float = LAMP_PX) -> Act:
    """The lamp under the cross, while it is off. Raises InvalidInput: no such lamp, or too near the edge."""
    if name not in ("slow", "over"):
        raise InvalidInput("Lamp", name, "slow or over")
    off = glow(LampSpot(name, cross.x, cross.y, radius), grey(frame))
    place = LampPlace("slow" if name == "slow" else "over", cross.x, cross.y, radius, round(min(max(off, -1.0), 1.0), 4))

    def act(job: Job, at: str) -> ActResult:
        dial = job.light.dial
        fits = (dial.wide, dial.tall) in ((cross.wide, cross.tall), (0, 0))
        kept = dial if fits else DialSetUp()
        lamps = (*(lamp for lamp in kept.lamps if lamp.name != name), place)
        made = replace(kept, lamps=lamps, wide=cross.wide, tall=cross.tall)
        return _with_dial(job, made, f"Dial: the {name} lamp")

    return act


def note_look(look: LampLook) -> Act:
    """What the lamps said, into Expose's map."""

    def act(job: Job, at: str) -> ActResult:
        exposing = job.exposing
        if len(exposing.lamps) >= MOST_LOOKS:
            raise InvalidInput("Looks", len(exposing.lamps) + 1, f"at most {MOST_LOOKS}")
        made = replace(exposing, lamps=(*exposing.lamps, replace(look, at=at)))
        said = f"Lamps at f/{look.f_number:g}, {format_grouped(look.lux)} lx: {look.seen}"
        return ActResult(replace(job, exposing=made), "Expose", said)

    return act


def put_empty(picture: str, wide: int, tall: int) -> Act:
    """The dial without its needle, as a picture (WebP in base64)."""

    def act(job: Job, at: str) -> ActResult:
        dial = job.light.dial
        kept = dial if (dial.wide, dial.tall) in ((wide, tall), (0, 0)) else DialSetUp()
        made = replace(kept, wide=wide, tall=tall, empty=picture)
        return _with_dial(job, made, "Dial: a picture without its needle")

    return act


def turn_ring(job: Job, at: str) -> ActResult:
    """Whether a ring's pointer is turned to meet the needle: the other way than it stands."""
    dial = replace(job.light.dial, has_ring=not job.light.dial.has_ring)
    return _with_dial(job, dial, "Dial: the needle against a ring's pointer" if dial.has_ring else "Dial: the needle alone")


def put_dial(dial: DialSetUp) -> Act:
    """A whole set-up, as it was made for the same model."""

    def act(job: Job, at: str) -> ActResult:
        if not dial.marks:
            raise InvalidInput("Dial", "not known", "a model that was set up in another job: give three marks of its scale")
        return _with_dial(job, dial, f"Dial: as set up before, {len(dial.marks)} marks")

    return act


def note_needle(note: NeedleNote) -> Act:
    """What the needle did, into the job."""

    def act(job: Job, at: str) -> ActResult:
        notes = (*job.light.needle, replace(note, taken_at=at))[-MOST_NOTES:]
        return ActResult(replace(job, light=replace(job.light, needle=notes)), "Light", f"Needle: {note.words}")

    return act


def clear_dial(job: Job, at: str) -> ActResult:
    """Everything of the dial away."""
    return _with_dial(job, DialSetUp(), "Dial: set up anew")
