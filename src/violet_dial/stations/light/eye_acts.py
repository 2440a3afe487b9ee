"""Acts at the eye: marks of the dial put and taken away, the dial without its needle, the set-up of the same model."""

from dataclasses import dataclass, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import MOST_MARKS
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import Act, Done
from violet_dial.job.document import Job
from violet_dial.job.light import DialMark, DialSetUp, NeedleNote
from violet_dial.services.eyes import face_from

EXPECTED = (
    "12 (the value of the mark under the cross) · empty (the dial without its needle) · known (as this model was set up) · "
    "clear · settle, creep, flick (how the needle goes) · zero (the cell capped) · "
    "camera /dev/video0, a film or a folder"
)
MOST_NOTES = 60
NEAR_PX = 14.0  # a mark nearer to the cross than this is meant


@dataclass(frozen=True)
class Cross:
    """Where the cross stands in the picture, px, and the size of the pictures."""

    x: float
    y: float
    wide: int
    tall: int


def _with_dial(job: Job, dial: DialSetUp, words: str) -> Done:
    return Done(replace(job, light=replace(job.light, dial=dial)), "Light", words)


def put_mark(cross: Cross, text: str) -> Act:
    """The mark under the cross with its value; one of the same value is put anew.

    Raises
    ------
    InvalidInput
        No figure, too many marks, or marks that make no dial.
    """
    value = parse_number(text.strip().lower().removeprefix("ev").removesuffix("ev").strip(), "Mark")

    def act(job: Job, at: str) -> Done:
        dial = job.light.dial
        fits = (dial.wide, dial.tall) == (cross.wide, cross.tall)
        others = tuple(one for one in dial.marks if one.value != value) if fits else ()
        if len(others) >= MOST_MARKS:
            raise InvalidInput("Marks", len(others) + 1, f"at most {MOST_MARKS}; three to eight are enough")
        marks = tuple(sorted((*others, DialMark(cross.x, cross.y, value)), key=lambda one: one.value))
        made = DialSetUp(marks, cross.wide, cross.tall, dial.empty if fits else "")
        face_from(made)
        gone = "" if fits or not dial.marks else "; marks in pictures of another size let go"
        return _with_dial(job, made, f"Dial: mark {value:g}{gone}")

    return act


def take_mark_away(cross: Cross) -> Act:
    """The mark near the cross away."""

    def act(job: Job, at: str) -> Done:
        dial = job.light.dial
        near = min(dial.marks, key=lambda one: _away(one, cross), default=None)
        if near is None or _away(near, cross) > NEAR_PX:
            raise InvalidInput("Mark", "none near the cross", "the cross on a mark")
        return _with_dial(
            job, replace(dial, marks=tuple(one for one in dial.marks if one != near)), f"Dial: mark {near.value:g} away"
        )

    return act


def _away(mark: DialMark, cross: Cross) -> float:
    return float(((mark.x - cross.x) ** 2 + (mark.y - cross.y) ** 2) ** 0.5)


def put_empty(picture: str, wide: int, tall: int) -> Act:
    """The dial without its needle, as a picture (WebP in base64)."""

    def act(job: Job, at: str) -> Done:
        dial = job.light.dial
        marks = dial.marks if (dial.wide, dial.tall) in ((wide, tall), (0, 0)) else ()
        return _with_dial(job, DialSetUp(marks, wide, tall, picture), "Dial: a picture without its needle")

    return act


def put_dial(dial: DialSetUp) -> Act:
    """A whole set-up, as it was made for the same model."""

    def act(job: Job, at: str) -> Done:
        if not dial.marks:
            raise InvalidInput(
                "Dial", "not known", "a model that was set up in another job: give three marks of its scale"
            )
        return _with_dial(job, dial, f"Dial: as set up before, {len(dial.marks)} marks")

    return act


def note_needle(note: NeedleNote) -> Act:
    """What the needle did, into the job."""

    def act(job: Job, at: str) -> Done:
        notes = (*job.light.needle, replace(note, taken_at=at))[-MOST_NOTES:]
        return Done(replace(job, light=replace(job.light, needle=notes)), "Light", f"Needle: {note.words}")

    return act


def clear_dial(job: Job, at: str) -> Done:
    """Everything of the dial away."""
    return _with_dial(job, DialSetUp(), "Dial: set up anew")
