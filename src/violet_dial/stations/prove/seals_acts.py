"""Acts at Seals: a frame of the roll typed or scanned, the roll that was planned, the side of the hinge."""

import re
from dataclasses import replace

import numpy as np

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.leaks import Fog, FogFrame, fog_of, roll_plan
from violet_dial.core.proof.seams import SEAMS, SHAPES, SIDES
from violet_dial.job.act import Act, ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.proving import FrameSeen
from violet_dial.services.photos import MOST_BYTES, picture_of
from violet_dial.services.station import FileIn, Listing
from violet_dial.stations.prove.acts import with_proving

EXPECTED = (
    "3 edge top (as the picture is seen) · 3 edge top perforations · 3 edge top inside · 4 clean · 5 open hinge streak left · "
    "roll 24 · hinge left · drop 3"
)
MOST_FRAMES = 400
WIDE_FILM = 1.3  # width to height of a scan, below which the whole width of 35 mm film is on it
ON_FILM = (1 / 38, 5.5 / 35, 37 / 38, 29.5 / 35)  # the frame on 35 mm film with its perforations; ISO 1007 (from memory)
WHOLE = (0.0, 0.0, 1.0, 1.0)
BRIGHT = 0.5  # mean of a scan above which it is of the negative as it lies: fog is dark there


def frames_of(job: Job) -> tuple[FogFrame, ...]:
    """Frames for the core."""
    return tuple(
        FogFrame(frame.number, frame.open, Fog(frame.shape, frame.side, frame.border) if frame.shape is not None else None)
        for frame in job.proving.frames
    )


def planned(job: Job) -> tuple[tuple[int, str], ...]:
    """The roll as planned; nothing without one."""
    return roll_plan(job.proving.roll) if job.proving.roll else ()


def open_at(job: Job, number: int) -> str:
    """What was open at a frame: as planned, else everything."""
    return dict(planned(job)).get(number, "all")


def next_frame(job: Job) -> int:
    """The first frame of the plan that was not looked at; without a plan the one after the last."""
    seen = {frame.number for frame in job.proving.frames}
    return next((number for number, _open in planned(job) if number not in seen), max(seen, default=0) + 1)


def understand(job: Job, text: str) -> Understood:
    """A line typed at Seals. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().lower().split())
    if match := re.fullmatch(r"roll (\d+)(?: frames)?", low):
        count = int(match[1])
        roll_plan(count)
        return Understood(f"= a roll of {count} frames", lambda job, at: with_proving(
            job, replace(job.proving, roll=count), f"Seal roll of {count} frames"
        ))  # fmt: skip
    if match := re.fullmatch(r"hinge (right|left)", low):
        side = match[1]
        return Understood(f"= the back hinges on the {side}, seen from behind", lambda job, at: with_proving(
            job, replace(job.proving, hinge=side), f"Hinged on the {side}"  # type: ignore[arg-type]
        ))  # fmt: skip
    if match := re.fullmatch(r"drop (\d+)", low):
        number = int(match[1])
        if all(frame.number != number for frame in job.proving.frames):
            raise InvalidInput("Frame", number, "one that was looked at")
        return Understood(f"= frame {number} left out", lambda job, at: with_proving(
            job, replace(job.proving, frames=tuple(frame for frame in job.proving.frames if frame.number != number)),
            f"Frame {number} left out",
        ))  # fmt: skip
    seen = _seen(job, low)
    return Understood(f"= {frame_said(seen)}", lambda job, at: take_frame(job, seen))


def _seen(job: Job, low: str) -> FrameSeen:
    """``3 edge top perforations``, ``4 clean``, ``5 open hinge streak left``."""
    shapes, sides, seams = ("|".join(sorted(several, key=len, reverse=True)) for several in (SHAPES, SIDES, SEAMS))
    match = re.fullmatch(
        rf"(?:frame )?(\d+)(?: open (all|none|{seams}))? (?:(clean)|({shapes})(?: (?:at |on )?(?:the )?({sides}))?"
        r"(?: (perforations|inside))?)",
        low,
    )
    if match is None:
        raise InvalidInput("Seals", low, EXPECTED)
    number = int(match[1])
    if not 1 <= number <= 1000:
        raise InvalidInput("Frame", number, "1 to 1000")
    opened = match[2] or open_at(job, number)
    if match[3]:
        return FrameSeen(number, opened)
    side = match[5] or ("middle" if match[4] in ("all over", "spot", "patch") else "")
    if not side:
        raise InvalidInput("Side", low, f"where on the picture: {', '.join(SIDES)}")
    border = {"perforations": True, "inside": False}.get(match[6] or "")
    return FrameSeen(number, opened, match[4], side, border)  # type: ignore[arg-type]


def frame_said(one: FrameSeen) -> str:
    """A frame in words."""
    what = {"all": "nothing taped", "none": "all seams taped"}.get(one.open, f"only the {one.open} open")
    if one.shape is None:
        return f"frame {one.number}, {what}: clean"
    at = "" if one.shape == "all over" else f" at the {one.side}"
    border = {True: ", into the perforations", False: ", ends at the frame", None: ""}[one.border]
    return f"frame {one.number}, {what}: {one.shape}{at}{border}"


def take_frame(job: Job, seen: FrameSeen) -> ActResult:
    """A frame that was looked at, in place of what was said of it before."""
    frames = sorted((*(frame for frame in job.proving.frames if frame.number != seen.number), seen), key=lambda one: one.number)
    if len(frames) > MOST_FRAMES:
        raise InvalidInput("Frames", len(frames), f"at most {MOST_FRAMES}")
    return with_proving(job, replace(job.proving, frames=tuple(frames)), f"Seals: {frame_said(seen)}")


def scanned(job: Job, name: str, data: bytes) -> FrameSeen:
    """A frame from its scan: its number from the file's name, else the next one; the whole width of the film or the frame alone.

    Raises InvalidInput: no picture, or too small a one.
    """
    grey = np.asarray(picture_of(data, name).mean(axis=2))
    light = 1.0 - grey if float(np.median(grey)) > BRIGHT else grey
    wide = grey.shape[1] / grey.shape[0]
    fog = fog_of(light, ON_FILM if wide < WIDE_FILM else WHOLE)
    digits = re.search(r"(\d{1,3})\D*$", name.rpartition(".")[0])
    number = int(digits[1]) if digits and 1 <= int(digits[1]) <= 1000 else next_frame(job)
    seen = FrameSeen(number, open_at(job, number), source=name[:200])
    return seen if fog is None else replace(seen, shape=fog.shape, side=fog.side, border=fog.border)


def _read(job: Job, name: str, data: bytes) -> tuple[Listing | None, Act]:
    seen = scanned(job, name, data)
    return None, lambda one, at: take_frame(one, seen)


FILE_IN = FileIn(
    "A scan of a frame, upright, shot with the cap on", "Pictures (*.png *.jpg *.jpeg *.webp)", _read, most_bytes=MOST_BYTES
)
