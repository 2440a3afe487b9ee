"""The command ``eye``: a needle read in a picture of a dial; dials as files: marks, needle and lamps as JSON, pictures decoded
apart.
"""

import json
import math
from argparse import Namespace
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from violet_dial.core.errors import InvalidInput
from violet_dial.core.eye.face import MOST_MARKS, Face, ScaleMark, face_of
from violet_dial.core.eye.lamps import LampSpot, glow, lamp_state
from violet_dial.core.eye.needle import Eye, NeedleReading, Refused, eye_of, grey, read_needle
from violet_dial.core.eye.pair import MARKS_PX, MOVED_PX, moved, moved_from_marks, shifted
from violet_dial.services.decoder import DECODER, CannotDecode
from violet_dial.services.files import read_given
from violet_dial.services.station import JSON, Command, Option, as_json

MOST_JSON, MOST_BYTES, MOST_SIDE = 200_000, 40_000_000, 4_096
MOST_LAMPS = 8
Picture = npt.NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class DialFile:
    """A dial as it was set up."""

    face: Face
    is_dark: bool | None
    wide_px: float | None
    lamps: tuple[LampSpot, ...]


def dial_of(data: bytes, name: str) -> DialFile:
    """A dial from JSON: ``marks`` (``x``, ``y`` in px, ``value``), and where known ``pivot`` ([x, y]), ``needle`` (``dark``,
    ``wide_px``) and ``lamps`` (``name``, ``x``, ``y``, ``radius``, ``off``). Raises InvalidInput: not such a file, or marks
    that make no dial.
    """
    if len(data) > MOST_JSON:
        raise InvalidInput(name, f"{len(data)} bytes", f"at most {MOST_JSON} bytes of JSON")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InvalidInput(name, data[:40].decode("utf-8", "replace"), "a dial in JSON: marks with x, y and value") from error
    if not isinstance(raw, dict) or not isinstance(raw.get("marks"), list):
        raise InvalidInput(name, "no marks", "a JSON object with marks: a list of x, y and value")
    unknown = set(raw) - {"marks", "pivot", "needle", "lamps"}
    if unknown:
        raise InvalidInput(name, ", ".join(sorted(unknown)), "marks, pivot, needle and lamps alone")
    marks = tuple(ScaleMark(*_numbers(one, ("x", "y", "value"), "Mark")) for one in raw["marks"][: MOST_MARKS + 1])
    pivot = raw.get("pivot")
    if pivot is not None and not (isinstance(pivot, list) and len(pivot) == 2):
        raise InvalidInput("Pivot", pivot, "[x, y] in px")
    needle = raw.get("needle") or {}
    if not isinstance(needle, dict):
        raise InvalidInput("Needle", needle, "an object: dark true or false, wide_px")
    lamps = raw.get("lamps") or []
    if not isinstance(lamps, list) or len(lamps) > MOST_LAMPS:
        raise InvalidInput("Lamps", lamps if not isinstance(lamps, list) else len(lamps), f"a list of at most {MOST_LAMPS}")
    spots = tuple(_lamp(lamp) for lamp in lamps)
    place = (float(pivot[0]), float(pivot[1])) if pivot is not None else None
    dark, wide = needle.get("dark"), needle.get("wide_px")
    return DialFile(face_of(marks, place), dark if isinstance(dark, bool) else None, float(wide) if wide else None, spots)


def _numbers(one: Any, names: tuple[str, ...], what: str) -> tuple[float, ...]:
    good = isinstance(one, dict) and all(type(one.get(name)) in (int, float) for name in names)
    if not good:
        raise InvalidInput(what, one, f"an object with the numbers {', '.join(names)}")
    return tuple(float(one[name]) for name in names)


def _lamp(one: Any) -> LampSpot:
    x, y, radius = _numbers(one, ("x", "y", "radius"), "Lamp")
    off = one.get("off", 0.0)
    return LampSpot(str(one.get("name", "lamp"))[:60], x, y, radius, float(off) if isinstance(off, int | float) else 0.0)


def picture_of(data: bytes, name: str) -> Picture:
    """A picture as brightness, shape (h, w), at its own size.

    Raises InvalidInput: empty, too large, or no picture that can be decoded.
    """
    import io

    from PIL import Image

    if not data or len(data) > MOST_BYTES:
        raise InvalidInput("Picture", f"{name}, {len(data)} bytes", f"a picture of 1 to {MOST_BYTES} bytes")
    try:
        with Image.open(io.BytesIO(data)) as opened:
            wide, tall = opened.size
    except (OSError, ValueError, Image.DecompressionBombError) as error:
        raise InvalidInput("Picture", name, "JPEG, PNG or WebP that can be opened") from error
    if max(wide, tall) > MOST_SIDE:
        raise InvalidInput("Picture", f"{name}, {wide} x {tall}", f"at most {MOST_SIDE} points on a side: a camera's picture")
    try:
        _, held = DECODER.decode(data, MOST_SIDE)
    except CannotDecode as error:
        raise InvalidInput("Picture", name, f"JPEG, PNG or WebP that can be opened ({error})") from error
    with Image.open(io.BytesIO(held)) as opened:
        return grey(np.asarray(opened.convert("RGB")))


@dataclass(frozen=True)
class Looked:
    """What an eye saw of one picture: the needle read or refused, each lamp's state, and how far the dial lies from where it was
    set up, px to the right and down (None where it was not found)."""

    needle: NeedleReading | Refused
    lamps: tuple[tuple[str, str], ...]
    moved_px: tuple[float, float] | None


def looked(dial: DialFile, picture: Picture, empty: Picture | None = None) -> Looked:
    """One picture looked at, the dial followed where it was moved. Raises InvalidInput: a picture of another size than the empty
    one, or a lamp outside it."""
    eye: Eye = eye_of(dial.face, empty, dial.is_dark, dial.wide_px)
    near = moved(empty, picture) if empty is not None else None
    shift = moved_from_marks(dial.face, picture, near) or near
    if shift is None:
        return Looked(Refused("the dial is not seen near where it was set up: put its marks anew"), _lamps(dial, picture), None)
    if math.hypot(*shift) <= MOVED_PX:
        return Looked(read_needle(eye, picture), _lamps(dial, picture), shift)
    lamps = _lamps(
        replace(dial, lamps=tuple(replace(lamp, x=lamp.x + shift[0], y=lamp.y + shift[1]) for lamp in dial.lamps)), picture
    )
    needle = read_needle(shifted(eye, shift), picture)
    if isinstance(needle, NeedleReading):
        by_marks = MARKS_PX / dial.face.radius_px * abs(dial.face.slope_at(needle.angle))
        needle = replace(needle, u=math.hypot(needle.u, by_marks))
    return Looked(needle, lamps, shift)


def _lamps(dial: DialFile, picture: Picture) -> tuple[tuple[str, str], ...]:
    return tuple((spot.name, lamp_state(spot, (glow(spot, picture),))) for spot in dial.lamps)


EYE_ARGUMENTS = (
    Option("dial", "the dial in JSON: marks with x, y and value; pivot, needle and lamps where known", type=Path),
    Option("frame", "a picture of it: JPEG, PNG or WebP", type=Path),
    Option("--empty", "the same without the needle (the cell capped)", "PICTURE", type=Path),
    JSON,
)


def _eye(options: Namespace) -> int:
    dial = dial_of(read_given(options.dial, "Dial", MOST_JSON + 1), str(options.dial))
    picture = picture_of(read_given(options.frame, "Picture", MOST_BYTES + 1), str(options.frame))
    empty = picture_of(read_given(options.empty, "Picture", MOST_BYTES + 1), str(options.empty)) if options.empty else None
    found = looked(dial, picture, empty)
    needle = found.needle
    if options.json:
        read = (
            {"value": needle.value, "u": needle.u, "reason": None, "width_px": needle.width_px}
            if isinstance(needle, NeedleReading)
            else {"value": None, "u": None, "reason": needle.reason, "width_px": None}
        )
        face = dial.face
        said: dict[str, Any] = {
            **read, "moved_px": None if found.moved_px is None else list(found.moved_px),
            "lamps": [{"name": name, "state": state} for name, state in found.lamps],
            "dial": {"pivot": list(face.pivot), "radius_px": face.radius_px, "law": "log" if face.is_log else "even",
                     "residual_px": face.residual_px, "worst_check": face.worst_check},
        }  # fmt: skip
        print(as_json(said))
        return 0
    if isinstance(needle, NeedleReading):
        print(f"{needle.value:.4g} ± {2 * needle.u:.2g}")
    else:
        print(f"Not read: {needle.reason}.")
    if found.moved_px is not None and math.hypot(*found.moved_px) > MOVED_PX:
        print(f"The dial lies {found.moved_px[0]:+.0f}, {found.moved_px[1]:+.0f} px from where it was set up, and was followed.")
    for name, state in found.lamps:
        print(f"{name}: {state}")
    return 0


EYE_COMMANDS = (Command("eye", "a needle read in a picture of a dial", EYE_ARGUMENTS, _eye),)
