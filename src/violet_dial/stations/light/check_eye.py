"""The command ``eye``: a needle read in a picture of a dial."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.eye.needle import NeedleReading
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.station import JSON, Command, Option
from violet_dial.stations.light.dial_file import MOST_BYTES, MOST_JSON, dial_of, looked, picture_of

ARGUMENTS = (
    Option("dial", "the dial in JSON: marks with x, y and value; pivot, needle and lamps where known", type=Path),
    Option("frame", "a picture of it: JPEG, PNG or WebP", type=Path),
    Option("--empty", "the same without the needle (the cell capped)", "PICTURE", type=Path),
    JSON,
)


def _run(options: Namespace) -> int:
    dial = dial_of(read_given(options.dial, "Dial", MOST_JSON + 1), str(options.dial))
    picture = picture_of(read_given(options.frame, "Picture", MOST_BYTES + 1), str(options.frame))
    empty = (
        picture_of(read_given(options.empty, "Picture", MOST_BYTES + 1), str(options.empty)) if options.empty else None
    )
    found = looked(dial, picture, empty)
    needle = found.needle
    if options.json:
        read = (
            {"value": needle.value, "u": needle.u, "reason": None, "width_px": needle.width_px}
            if isinstance(needle, NeedleReading)
            else {"value": None, "u": None, "reason": needle.reason, "width_px": None}
        )
        face = dial.face
        print(as_json({
            **read, "lamps": [{"name": name, "state": state} for name, state in found.lamps],
            "dial": {"pivot": list(face.pivot), "radius_px": face.radius_px, "law": "log" if face.is_log else "even",
                     "residual_px": face.residual_px, "worst_check": face.worst_check},
        }))  # fmt: skip
        return 0
    if isinstance(needle, NeedleReading):
        print(f"{needle.value:.4g} ± {2 * needle.u:.2g}")
    else:
        print(f"Not read: {needle.reason}.")
    for name, state in found.lamps:
        print(f"{name}: {state}")
    return 0


COMMANDS = (Command("eye", "a needle read in a picture of a dial", ARGUMENTS, _run),)
