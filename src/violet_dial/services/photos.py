"""Photos: checked, named by their content, and made small for the screen; prints as figures; all decoding in a process that
can be ended.
"""

import hashlib
import io
from dataclasses import dataclass, replace
from pathlib import PurePath

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.pictures.compare import Compared
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job, Photo
from violet_dial.services.decoder import DECODER, SMALL, CannotDecode

PIXELS = 640
KINDS = "Two pictures of the same scene (*.jpg *.jpeg *.png *.webp)"
SEEN_STOPS = 0.15  # of colour, from which a cast is said
SEEN_TURN = 0.7  # degrees, from which a tilt is said


def picture_of(data: bytes, name: str) -> npt.NDArray[np.float64]:
    """Code values 0 to 1, shape (h, w, 3), of at most 640 pixels either way.

    Raises InvalidInput: empty, too large, or no picture that can be decoded.
    """
    if not data or len(data) > MOST_BYTES:
        raise InvalidInput("Picture", f"{name}, {len(data)} bytes", f"a picture of 1 to {MOST_BYTES} bytes")
    try:
        _, small = DECODER.decode(data, PIXELS)
    except CannotDecode as error:
        raise InvalidInput("Picture", name, f"JPEG, PNG or WebP that can be opened ({error})") from error
    from PIL import Image

    with Image.open(io.BytesIO(small)) as opened:
        return np.asarray(opened.convert("RGB"), dtype=float) / 255.0


def compared_said(found: Compared, width_mm: float | None = None) -> tuple[str, ...]:
    """What two pictures differ in, in sentences; lengths in mm where the print's width is known."""
    way = "brighter" if found.stops > 0 else "darker"
    low, high = sorted(found.exposure_stops, key=abs)
    said = [f"The second is {abs(found.stops):.2f} ± {2 * found.u_stops:.2f} stop {way} as a picture."]
    if abs(high - low) > 0.01:
        said.append(f"That is {abs(low):.1f} to {abs(high):.1f} stop of exposure: how steep the print is is not known.")
    else:
        said.append(f"By the slope given that is {abs(low):.2f} stop of exposure.")
    for name, (before, after) in (("shadows", found.shadows_lost), ("highlights", found.highlights_lost)):
        if max(before, after) >= 0.01:
            said.append(f"Lost in the {name}: {before:.0%} of the first, {after:.0%} of the second.")
    casts = [
        f"{'more' if stops > 0 else 'less'} {name} by {abs(stops):.2f} stop"
        for name, stops in (("red", found.red_stops), ("blue", found.blue_stops))
        if abs(stops) >= SEEN_STOPS
    ]
    if casts:
        said.append(f"Colour: {', '.join(casts)}.")
    if abs(found.laid.turn_deg) >= SEEN_TURN:
        said.append(f"Turned by {abs(found.laid.turn_deg):.1f}° against the first.")
    for name, seen in (("Shaken", found.shake), ("A second image", found.double)):
        if seen is not None:
            length = (
                f"{seen[0] / found.width_px * width_mm:.1f} mm" if width_mm else f"{seen[0] / found.width_px:.1%} of its width"
            )
            said.append(f"{name}: {length}, at {seen[1]:.0f}° to the level.")
    return tuple(said)


MOST_BYTES = 40_000_000
MEDIA_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
EXPECTED = f"a JPEG, PNG or WebP picture of at most {MOST_BYTES // 1_000_000} MB"


@dataclass(frozen=True)
class CheckedPhoto:
    """A photo's record and its content."""

    record: Photo
    content: bytes


def check_photo(content: bytes, file_name: str, caption: str = "") -> CheckedPhoto:
    """The record of a photo after its content was found to be one. It may take seconds; call it beside the window's work.

    Raises InvalidInput: too large, or not a JPEG, PNG or WebP picture that can be opened.
    """
    if len(content) > MOST_BYTES:
        raise InvalidInput("Photo", f"{file_name}, {len(content)} bytes", EXPECTED)
    try:
        kind, _ = DECODER.decode(content)
    except CannotDecode as error:
        raise InvalidInput("Photo", file_name, f"{EXPECTED} ({error})") from error
    digest = hashlib.sha256(content).hexdigest()
    return CheckedPhoto(Photo(digest, PurePath(file_name).name[:300], MEDIA_TYPES[kind], caption), content)


LARGE = 1600  # pixels either way of a photo that is worked on


def thumbnail(content: bytes, pixels: int = SMALL) -> bytes:
    """A small PNG of a photo, turned upright, of at most so many pixels either way. It may take seconds; call it beside the
    window's work. Raises InvalidInput: it cannot be opened.
    """
    try:
        return DECODER.decode(content, pixels)[1]
    except CannotDecode as error:
        raise InvalidInput("Photo", f"{len(content)} bytes", f"a picture that can be opened ({error})") from error


def add_photo(job: Job, photo: Photo, at: str) -> ActResult:
    """A photo whose content is already kept."""
    return ActResult(replace(job, photos=(*job.photos, photo)), "Receive", f"Photo {photo.file_name}")
