"""What the page Seals shows: the camera's back with every way in, frames as they were seen, suspects, the roll."""

from dataclasses import dataclass

from violet_dial.core.proof.leaks import LeakSuspect, judge_leaks, turned
from violet_dial.core.proof.said import percent
from violet_dial.core.proof.seams import SEALS, SEAMS, Hinge
from violet_dial.job.document import Job
from violet_dial.stations.prove.seals_acts import frame_said, frames_of, next_frame, planned

SHOWN_CHANCE, MOST_SUSPECTS = 0.02, 4
LAMP = (
    "Before any film: in the dark, a small bright lamp in the empty body, back shut; look along every seam, and at the mount "
    "with the shutter closed. Old foam is sticky: gloves, and off the curtain. A curtain against the lamp shows pinholes."
)


@dataclass(frozen=True)
class FrameShown:
    """One frame: number, what was open, its fog on the gate seen from behind (empty shape: clean)."""

    number: int
    open: str
    shape: str
    side: str
    words: str


@dataclass(frozen=True)
class SealsShown:
    """All the page shows; ``chances`` of every way in, empty with nothing seen."""

    headline: str
    reason: str
    chances: tuple[tuple[str, float], ...]
    frames: tuple[FrameShown, ...]
    hinge: Hinge
    suspects: tuple[tuple[str, str], ...]
    seals: tuple[tuple[str, str, str, str], ...]
    under: str


def suspects_of(job: Job) -> tuple[LeakSuspect, ...]:
    """Ways in by their chance; none with no fogged frame."""
    frames = frames_of(job)
    return judge_leaks(frames, job.proving.hinge) if any(frame.fog is not None for frame in frames) else ()


def seals_shown(job: Job) -> SealsShown:
    """The page as the job stands."""
    found = suspects_of(job)
    frames = tuple(
        FrameShown(frame.number, frame.open, frame.shape or "", turned(frame.side) if frame.shape else "", frame_said(frame))
        for frame in job.proving.frames
    )
    return SealsShown(
        _headline(job, found), plan_words(job), tuple((one.cause, one.chance) for one in found), frames, job.proving.hinge,
        tuple((f"{one.cause}  {percent(one.chance)}", _why(one)) for one in found[:MOST_SUSPECTS] if one.chance >= SHOWN_CHANCE),
        tuple((seal.where, seal.material, f"{seal.thick_mm} mm" if seal.thick_mm != "-" else "", seal.mind) for seal in SEALS),
        "" if found else LAMP,
    )  # fmt: skip


def _headline(job: Job, found: tuple[LeakSuspect, ...]) -> str:
    if not found:
        return "No fog so far." if job.proving.frames else "Where does light get in?"
    first, second = found[:2]
    if first.cause == "none of these":
        return f"None of the usual ways explains it ({percent(first.chance)}); {second.cause} would be next."
    sure = "" if first.chance >= 0.9 else f", else {second.cause} ({percent(second.chance)})"
    return f"Light gets in at the {first.cause}: {percent(first.chance)}{sure}."


def _why(one: LeakSuspect) -> str:
    said = "; ".join(one.speaks_for)
    against = f" Against: {'; '.join(one.speaks_against)}." if one.speaks_against else ""
    return f"{said[:1].upper()}{said[1:]}.{against}" if said else against.strip()


def plan_words(job: Job) -> str:
    """What to shoot or look at next."""
    if not job.proving.roll:
        return "A roll with the cap on in bright light, part of it taped, parts the seams: roll 24 lays it out."
    roll = planned(job)
    if not job.proving.frames:
        bare = sum(opened == "all" for _number, opened in roll)
        each = {seam: [number for number, opened in roll if opened == seam] for seam in SEAMS}
        said = "; ".join(f"{numbers[0]} to {numbers[-1]} only the {seam} open" for seam, numbers in each.items())
        last = [number for number, opened in roll if opened == "none"]
        return f"Frames 1 to {bare} bare; then tape all seams: {said}; {last[0]} to {last[-1]} all taped." if last else said
    number = next_frame(job)
    opened = dict(roll).get(number)
    if opened is None:
        return "Every frame of the roll was looked at."
    what = {"all": "nothing taped", "none": "all seams taped"}.get(opened, f"only the {opened} open")
    return f"Next: frame {number}, shot with {what}. Type how it looks, or Ctrl+I with its scan."
