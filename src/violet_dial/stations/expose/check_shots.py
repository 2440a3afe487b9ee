"""The command ``trim``: the next test shot of a camera whose cell sets the time."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.trim import Marks, Scene, TestShot, TrimSetting, trim
from violet_dial.core.quantities import parse_number
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.station import JSON, Command, Option
from violet_dial.stations.expose.table import SCENES, read_shots

MOST_BYTES = 1_000_000


def _marks(text: str, name: str) -> tuple[float, ...]:
    return tuple(parse_number(word, name) for word in text.split(","))


ARGUMENTS = (
    Option("file", "a CSV of wheel, slider, scene, flash, stops (bright +); - is standard input", type=Path),
    Option("--wheel", "numbers of the wheel, clear first", "N,N,..", "0,1,2,3,4,5,6,7,8,9"),
    Option("--slider", "marks of the slider, bright cell first", "N,N,..", "-2,-1,0,1,2"),
    Option("--scene", "what it is to be right for (default: as the last shot)", choices=SCENES),
    Option("--flash", "with flash (default: as the last shot)", choices=("yes", "no")),
    Option("--film", "frames left in the pack", "N", type=int),
    JSON,
)


def _aim(options: Namespace, last: TestShot | None) -> tuple[Scene, bool]:
    """What the setting is to be right for: as said, else as the last shot."""
    scene: Scene = options.scene or (last.scene if last else "outdoors")
    return scene, options.flash == "yes" if options.flash else bool(last and last.flash)


def _run(options: Namespace) -> int:
    shots = read_shots(read_given(options.file, "Shots", MOST_BYTES))
    marks = Marks(_marks(options.wheel, "--wheel"), _marks(options.slider, "--slider"))
    if options.film is not None and options.film < 0:
        raise InvalidInput("--film", options.film, "0 or more frames")
    found = trim(shots, marks, _aim(options, shots[-1] if shots else None), options.film)
    if options.json:
        print(as_json({
            "next": _setting(found.next), "best": _setting(found.best), "done": found.done, "doubt_stops": found.doubt_stops,
            "chance": found.best.chance, "shots": len(shots), "film_left": options.film, "words": found.words,
        }))  # fmt: skip
    else:
        print(found.words)
    return 0


def _setting(one: TrimSetting) -> dict[str, float]:
    return {"wheel": one.wheel, "slider": one.slider, "stops": one.stops, "u_stops": one.u_stops}


COMMANDS = (Command("trim", "the next test shot of a camera whose cell sets the time", ARGUMENTS, _run),)
