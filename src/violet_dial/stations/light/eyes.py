"""Pictures of a dial as a job keeps them, and the eye that a job's set-up makes."""

import base64
import binascii
import io

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import LEAST_MARKS, Face, ScaleMark, face_of
from violet_dial.core.eye.needle import Eye, eye_of, grey
from violet_dial.job.light import DialSetUp
from violet_dial.services.decoder import DECODER, CannotDecode
from violet_dial.services.remembered import remembered

SMALL_WIDE, MOST_SMALL, MOST_WHOLE = 160, 6_000, 1_000_000  # px; characters that a job holds
QUALITIES = (88, 70, 50, 30, 10)
MOST_SIDE = 4_096
Frame = npt.NDArray[np.uint8]
Picture = npt.NDArray[np.float64]


def packed(frame: Frame, is_small: bool = False) -> str:
    """A picture as WebP in base64.

    Parameters
    ----------
    frame : uint8 array, shape (h, w)
    is_small : made small, for a reading; else whole, for the set-up
    """
    from PIL import Image

    held = Image.fromarray(frame)
    if is_small:
        held.thumbnail((SMALL_WIDE, SMALL_WIDE))
    for quality in QUALITIES[1 if is_small else 0 :]:
        out = io.BytesIO()
        held.save(out, "WEBP", quality=quality, method=2)  # of 6: 3 % more bytes than the usual 4, half the time
        text = base64.b64encode(out.getvalue()).decode()
        if len(text) <= (MOST_SMALL if is_small else MOST_WHOLE):
            break
    return text


def unpacked(text: str) -> bytes:
    """A picture of the job as PNG, decoded apart. Raises InvalidInput: it cannot be opened."""
    try:
        return DECODER.decode(base64.b64decode(text, validate=True), MOST_SIDE)[1]
    except (CannotDecode, binascii.Error) as error:
        raise InvalidInput("Picture of the dial", f"{len(text)} characters", "one that can be opened") from error


def empty_of(set_up: DialSetUp) -> Picture | None:
    """The dial without its needle, shape (h, w); None where there is no such picture, or one of another size. It may take
    a second; call it beside the window's work."""
    from PIL import Image

    if not set_up.empty:
        return None
    with Image.open(io.BytesIO(unpacked(set_up.empty))) as opened:
        found = grey(np.asarray(opened.convert("RGB")))
    return found if found.shape == (set_up.tall, set_up.wide) else None


@remembered(lambda dial: (dial.marks,))
def face_from(dial: DialSetUp) -> Face | None:
    """The dial that the marks make; None with too few of them. Raises InvalidInput: marks that make no dial."""
    if len(dial.marks) < LEAST_MARKS:
        return None
    return face_of(tuple(ScaleMark(mark.x, mark.y, mark.value) for mark in dial.marks))


def eye_from(set_up: DialSetUp, empty: Picture | None) -> Eye | None:
    """An eye for the dial as it was set up; None with too few marks.

    ``empty``: as `empty_of` gives it. Raises InvalidInput: marks that make no dial.
    """
    face = face_from(set_up)
    return None if face is None else eye_of(face, empty)
