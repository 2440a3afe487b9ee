"""What the page Speeds shows: the ladder rung by rung, the last firing's light, what is wrong in words with weights."""

from dataclasses import dataclass

from violet_dial.core.exposure.curtains import taper_said
from violet_dial.core.exposure.ladder import Rung
from violet_dial.core.exposure.pattern import Works
from violet_dial.core.exposure.said import SHORT, doubt_said, headline, measured_said, pattern_said, time_said
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.job.exposing import Fired
from violet_dial.report.dial import MarkState
from violet_dial.services.job_shutter import works_of
from violet_dial.services.repairs import since_repair
from violet_dial.stations.expose.bench import Speeds, speeds_so_far

SHOWN_WEIGHT, MOST_SHOWN = 0.03, 4  # of a pattern, from which it is listed
TAPER_U = 0.03  # stops: of a taper as it is kept
NO_SHUTTER = "No shutter here: say the speeds of its dial if there is one, for instance speeds 1 to 1/500."


@dataclass(frozen=True)
class RungShown:
    """One speed: its mark, firings in stops, mean and its doubt (two standard deviations), what was measured in words, its state;
    ``is_next`` where the next firing goes."""

    marked_s: float
    mark: str
    errors: tuple[float, ...]
    mean_stops: float
    doubt_stops: float
    tolerance_stops: float
    measured: str
    state: MarkState
    is_next: bool = False

    @property
    def sentence(self) -> str:
        """The rung as a screen reader says it."""
        times = f"{len(self.errors)} firings, {self.measured}" if self.errors else "not fired"
        return f"{self.mark}: {times}"


@dataclass(frozen=True)
class FiringShown:
    """The light of one firing: points evenly along ``span_s``, the edges as shares of it, in words; nothing where it was
    typed."""

    points: tuple[float, ...] = ()
    opened: float = 0.0
    closed: float = 0.0
    words: str = ""


@dataclass(frozen=True)
class PatternShown:
    """One pattern: its short name, its weight, its sentence."""

    name: str
    weight: float
    words: str


@dataclass(frozen=True)
class SpeedsShown:
    """All the page shows."""

    headline: str
    stands: str
    rungs: tuple[RungShown, ...]
    patterns: tuple[PatternShown, ...]
    seen: tuple[str, ...]  # what sensors across the frame and the flash contact showed


WORKS_SAID: dict[Works, str] = {"leaf": "leaf shutter", "focal plane": "focal-plane shutter", "electronic": "electronic shutter"}
PLACES: dict[str, MarkState] = {"inside": "inside", "high": "high", "low": "low", "undecided": "undecided", "empty": "empty"}


def speeds_shown(job: Job, aimed: float | None = None) -> SpeedsShown:
    """The page as the job stands; ``aimed`` is the mark that was chosen for the next firing, s. Patterns as far as they
    were weighed."""
    judged = speeds_so_far(job)
    if judged.ladder is None:
        return SpeedsShown(NO_SHUTTER, "", (), (), ())
    asked = aimed if aimed is not None else judged.next.marked_s if judged.next is not None else None
    rungs = tuple(rung_shown(rung, rung.marked_s == asked) for rung in judged.ladder.rungs)
    works = works_of(job)
    found = [pattern for pattern in judged.patterns if pattern.weight >= SHOWN_WEIGHT][:MOST_SHOWN]
    patterns = tuple(PatternShown(SHORT[one.kind], one.weight, pattern_said(one, works)) for one in found)
    return SpeedsShown(_headline(job, judged), _stands(job, judged), rungs, patterns, _seen(since_repair(job).fired))


def _headline(job: Job, judged: Speeds) -> str:
    if judged.ladder is None or not judged.ladder.fired:
        return "Nothing fired yet"
    if judged.patterns:
        said = headline(judged.patterns)
        return f"{said[:1].upper()}{said[1:]}"
    off = [rung for rung in judged.ladder.rungs if rung.state in ("high", "low")]
    return f"{len(off)} of {_fired_speeds(job)} speeds off" if off else f"{_fired_speeds(job)} speeds fired so far"


def _fired_speeds(job: Job) -> int:
    return len({one.marked_s for one in since_repair(job).fired})


def _stands(job: Job, judged: Speeds) -> str:
    if judged.ladder is None:
        return ""
    rungs = judged.ladder.rungs
    inside = sum(rung.state == "inside" for rung in rungs)
    out = sum(rung.state in ("high", "low") for rung in rungs)
    left = sum(not rung.decided for rung in rungs)
    fired = f"{judged.ladder.fired} firing{'s' * (judged.ladder.fired != 1)}"
    said = f"{WORKS_SAID[works_of(job)]} · {fired} · {inside} within, {out} off, {left} to decide"
    return f"{said} · one firing scatters {judged.ladder.scatter_stops:.2f} stop" if judged.ladder.fired > 3 else said


def rung_shown(one: Rung, is_next: bool = False) -> RungShown:
    """One speed as the ladder shows it."""
    measured = ""
    if one.errors:
        time_s = one.marked_s * 2.0**one.mean_stops
        measured = f"{measured_said(time_s)} ({format_signed(one.mean_stops, 2)} ± {2 * one.u_stops:.2f})"
    return RungShown(
        one.marked_s, time_said(one.marked_s), one.errors, one.mean_stops, 2 * one.u_stops if one.errors else 0.0,
        one.tolerance_stops, measured, PLACES[one.state], is_next,
    )  # fmt: skip


def light_shown(fired: tuple[Fired, ...], marked_s: float) -> FiringShown:
    """The light of the last firing of a speed; of the last one there was where that speed was not fired yet."""
    several = [one for one in fired if one.marked_s == marked_s] or list(fired)
    if not several:
        return FiringShown(words=f"{time_said(marked_s)} was not fired yet.")
    one = several[-1]
    marked_s = one.marked_s
    span = one.step_s * len(one.picture)
    said = f"{time_said(marked_s)}, {one.source}: {_time_said(one)}"
    if one.rise_s is not None and one.fall_s is not None and one.rise_s + one.fall_s > 0:
        total = one.time_s + (one.rise_s + one.fall_s) / 2
        said += f" · opens in {measured_said(one.rise_s)}, closes in {measured_said(one.fall_s)}"
        said += f" · efficiency {one.time_s / total:.1%}"
        full = one.time_s - (one.rise_s + one.fall_s) / 2
        said += f" · fully open {measured_said(full)}" if full > 0 else " · never fully open"
    if span <= 0:
        return FiringShown(words=said)
    return FiringShown(one.picture, one.from_s / span, (one.from_s + one.time_s) / span, said)


def _time_said(one: Fired) -> str:
    doubt = f" ± {doubt_said(2 * one.u_s)}" if one.u_s > 0 else ""
    return f"{measured_said(one.time_s)}{doubt}"


def _seen(fired: tuple[Fired, ...]) -> tuple[str, ...]:
    """What the fastest firing with sensors across the frame, and the newest with a contact, showed."""
    found = []
    seen = [one for one in fired if one.taper_stops is not None]
    across = min(seen, key=lambda one: one.marked_s, default=None)  # the fastest shows it most
    if across is not None and across.first_s is not None and across.second_s is not None and across.taper_stops is not None:
        found.append(
            f"At {time_said(across.marked_s)} the first curtain takes {measured_said(across.first_s)} over the frame, the second "
            f"{measured_said(across.second_s)}. {taper_said(across.taper_stops, TAPER_U, across.capped)}"
        )
    flash = next((one for one in reversed(fired) if one.contact_after_s is not None), None)
    if flash is not None and flash.contact_after_s is not None:
        late = flash.contact_after_s
        when = f"{measured_said(abs(late))} {'after' if late >= 0 else 'before'} the shutter is fully open"
        found.append(
            f"At {time_said(flash.marked_s)} the flash contact closes {when}, with {flash.contact_bounces or 0} bounces."
        )
    return tuple(found)
