"""Expose: its state on the line, what it wants done next, its words for the card and for search, its files of the bundle."""

import re
from dataclasses import replace

from violet_dial.core.exposure.ladder import to_decide
from violet_dial.core.exposure.lamps import cause_said
from violet_dial.core.exposure.said import SHORT, aperture_said, headline, time_said
from violet_dial.core.quantities import format_grouped
from violet_dial.job.bundle import Member
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing
from violet_dial.services.job_shutter import has_shutter
from violet_dial.services.next import NextAct, Urgency, described
from violet_dial.services.repairs import since_repair
from violet_dial.services.station import StationState
from violet_dial.stations.expose.bench import ladder_of, patterns_of
from violet_dial.stations.expose.lamps_state import lamps_of
from violet_dial.stations.expose.shots_state import trim_of
from violet_dial.stations.expose.table import write_fired, write_shots

ABOUT_SPEEDS = re.compile(
    r"(shutter|slow|fast|all) speeds?|speeds? (are|is|sound|off|slow|wrong)|1/\d+ (is|sounds|hangs|sticks|slow)|uneven"
    r"|one side (dark|bright)|taper|capp(ing|ed)|bulb",
    re.IGNORECASE,
)
ABOUT_SHOTS = re.compile(
    r"(pictures?|prints?|shots?) (come|came|comes|are|is) (out )?(too )?(dark|bright|light|pale)", re.IGNORECASE
)
ABOUT_LAMPS = re.compile(r"(slow|over|warning|exposure) lamps?|lamps? (light|lights|lit|come|comes) ", re.IGNORECASE)
SPEEDS, LAMPS, SHOTS, TRACES = range(4)


def begun(exposing: Exposing) -> bool:
    """Whether anything was measured here."""
    return bool(exposing.fired or exposing.lamps or exposing.auto or exposing.shots or exposing.traces)


def state(job: Job) -> StationState:
    """Done when every speed that was begun on is decided, and no trimming is left half way."""
    if not begun(job.exposing):
        return "open"
    return "done" if next_of(job, None) is None else "begun"


def finding(job: Job) -> str:
    """What is wrong with the shutter, in a few words."""
    exposing = job.exposing
    if job.practising.hides:
        return ""
    if exposing.fired:
        found = patterns_of(job)
        if found and found[0].kind == "true":
            return "Speeds as marked"
        return f"Speeds: {headline(found)}" if found else f"{len(since_repair(job).fired)} firings"
    if exposing.lamps:
        return cause_said(lamps_of(job).causes[0])
    if exposing.shots:
        best = trim_of(job).best
        return f"Best so far: wheel {best.wheel:g}, slider {best.slider:g}"
    return ""


def words(job: Job) -> tuple[str, ...]:
    """What search finds this job by: what is wrong with its speeds."""
    found = patterns_of(job) if job.exposing.fired else ()
    return (f"speeds {SHORT[found[0].kind]}",) if found else ()


def members(job: Job) -> tuple[Member, ...]:
    """Firings and test shots as CSV."""
    exposing = job.exposing
    fired = (("firings.csv", write_fired(exposing.fired)),) if exposing.fired else ()
    shots = (("shots.csv", write_shots(exposing.shots)),) if exposing.shots else ()
    return (*fired, *shots)


def next_of(job: Job, result: object) -> NextAct | None:
    """A speed to fire, or a test shot to burn, where that is the complaint or was begun."""
    if not described(job):
        return None
    fault = job.intake.headline_fault
    of_shots = job.device.kind == "instant camera" and bool(ABOUT_SHOTS.search(fault))
    of_speeds = bool(ABOUT_SPEEDS.search(fault))
    if (job.exposing.shots or of_shots) and (found := _shoot(job)) is not None:
        return replace(found, urgency=Urgency.COMPLAINT) if of_shots else found
    if has_shutter(job) and (job.exposing.fired or of_speeds) and (found := _fire(job)) is not None:
        return replace(found, urgency=Urgency.COMPLAINT) if of_speeds else found
    of_lamps = bool(ABOUT_LAMPS.search(fault))
    if (job.exposing.lamps or of_lamps) and (found := _look(job)) is not None:
        return replace(found, urgency=Urgency.COMPLAINT) if of_lamps else found
    return None


def _look(job: Job) -> NextAct | None:
    found = lamps_of(job)
    if found.next is None:
        return None
    at = f"{aperture_said(found.next[0])} in {format_grouped(found.next[1])} lx"
    edge = "slow" if found.slow.u_stops >= found.over.u_stops else "over"
    settled = found.slow.known and found.over.known
    why = "Both edges are known there: whether they follow the aperture is not." if settled else (
        f"This light lies where the {edge} lamp is most in doubt: whatever is lit halves it."
    )  # fmt: skip
    return NextAct(
        "Expose", f"Look at the lamps at {at}", why, "1 min", "To the map", "look", "its lamps to be looked at", Urgency.LIGHT,
        page=LAMPS,
    )  # fmt: skip


def _fire(job: Job) -> NextAct | None:
    judged = ladder_of(job)
    if judged.next is None or judged.ladder is None:
        return None
    mark, rung = time_said(judged.next.marked_s), judged.next
    if not rung.errors:
        left = sum(not one.errors for one in judged.ladder.rungs)
        why = f"Not fired yet; {left} speed{'s' * (left != 1)} to go, both ends and the middle first: they tell patterns apart."
    else:
        more = to_decide(rung)
        why = (
            f"It stands at {rung.mean_stops:+.2f} ± {2 * rung.u_stops:.2f} stop, too near the tolerance of "
            f"{rung.tolerance_stops:.2f} to call: about {more} more."
        ).replace("-", "−")
    return NextAct(
        "Expose", f"Fire at {mark}", why, "1 min", "To the ladder", "fire", "its shutter to be timed", Urgency.LIGHT, page=SPEEDS
    )


def _shoot(job: Job) -> NextAct | None:
    found = trim_of(job)
    if found.done:
        return None
    return NextAct(
        "Expose", f"Shoot at wheel {found.next.wheel:g}, slider {found.next.slider:g}", found.words, "4 min, one frame",
        "To the shots", "shoot", "test shots", Urgency.LIGHT, page=SHOTS,
    )  # fmt: skip
