"""What the page Eye says of camera, dial and needle."""

from dataclasses import dataclass

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import LEAST_MARKS, Face
from violet_dial.core.eye.needle import NeedleReading, Refused
from violet_dial.core.eye.pair import NeedlePair
from violet_dial.job.document import Job
from violet_dial.job.light import DialSetUp
from violet_dial.services.remembered import remembered
from violet_dial.stations.light.by_itself import Stands
from violet_dial.stations.light.eyes import face_from

PUT = "Cross on a mark of the scale (click, or arrows: Shift ten points, Ctrl a fifth of one), type its value, Enter."
WELL, BADLY = 0.02, 0.05  # of the scale, by which a mark is missed when it is left out


@dataclass(frozen=True)
class EyeShown:
    """The head of the page: what is read, what is to be done, how the dial was set up."""

    headline: str
    reason: str
    check: str


@remembered(lambda dial: (dial.marks,))
def face_or_why(dial: DialSetUp) -> tuple[Face | None, str]:
    """The dial that the marks make, or why they make none."""
    try:
        return face_from(dial), ""
    except InvalidInput as error:
        return None, str(error)


def eye_shown(
    dial: DialSetUp, fault: str, has_picture: bool, read: NeedleReading | Refused | NeedlePair | None, goes: Stands | str | None
) -> EyeShown:
    """What stands in the head; ``goes`` a run, or a trial of the needle in words."""
    face, why = face_or_why(dial)
    return EyeShown(_headline(fault, has_picture, read), _reason(dial, face, fault or why, goes), _check(dial, face))


def _headline(fault: str, has_picture: bool, read: NeedleReading | Refused | NeedlePair | None) -> str:
    if fault:
        return "No picture"
    if not has_picture:
        return "Waiting for a picture…"
    if isinstance(read, NeedleReading):
        return f"The needle shows {value_said(read)}"
    if isinstance(read, NeedlePair):
        way = "above" if read.apart > 0 else "below"
        met = abs(read.apart) <= 2 * read.u
        return "Needle and pointer meet" if met else f"The needle stands {abs(read.apart):.2f} {way} the pointer"
    return f"Not read: {read.reason}" if read is not None else "The dial is not set up yet"


def value_said(read: NeedleReading) -> str:
    """A reading with its expanded uncertainty."""
    decimals = 2 if read.u < 0.2 else 1
    return f"{read.value:.{decimals}f} ± {max(2 * read.u, 10.0**-decimals):.{decimals}f}".replace("-", "−")


def _reason(dial: DialSetUp, face: Face | None, why: str, goes: Stands | str | None) -> str:
    if isinstance(goes, Stands):
        return {"waits": f"It waits for you: {goes.words}. Enter on the picture goes on.", "done": f"Done: {goes.words}."}.get(
            goes.stage, f"By itself: {goes.words} · {goes.taken} taken. F10 ends it."
        )
    if goes:
        return f"A trial of the needle: {goes}. The word stop ends it."
    if why:
        return why
    left = LEAST_MARKS - len(dial.marks)
    if face is None:
        return f"{PUT} {left} more {'is' if left == 1 else 'are'} needed."
    return "F8 takes light and needle; F10 lets it run by itself: it sets the light, waits, reads, until nothing more is asked."


def _check(dial: DialSetUp, face: Face | None) -> str:
    if face is None:
        return f"{len(dial.marks)} marks"
    law = "by the logarithm" if face.is_log else "evenly"
    said = f"{len(dial.marks)} marks, {law}; they miss the arc by {face.residual_px:.1f} points"
    if face.worst_check == 0:
        return f"{said} · four marks or more check each other"
    how = "good" if face.worst_check < WELL else "look again at that mark" if face.worst_check < BADLY else "a mark is wrong"
    return f"{said} · the worst is missed by {100 * face.worst_check:.1f} % of the scale when left out: {how}"


def notes_said(job: Job) -> str:
    """What the needle did, the newest of each kind."""
    newest = {one.kind: one.words for one in job.light.needle}
    return " ".join(newest.values())
