"""Pictures of prints as figures: decoded in the process that pictures are decoded in."""

import io

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.pictures.compare import Compared
from violet_dial.services.decoder import DECODER, CannotDecode

PIXELS, MOST_BYTES = 640, 40_000_000
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
