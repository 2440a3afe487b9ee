"""What Prove puts on the sheet: how surely it is fixed, contacts before and after, exercise, seals, readings over time."""

from datetime import date

from violet_dial.core.proof.said import better_said, followed_said, percent, plan_said, share_said
from violet_dial.core.proof.seams import SEALS
from violet_dial.job.document import Job
from violet_dial.job.spoken import spoken_date
from violet_dial.report.blocks import Block, Grid, Lines, SheetPlace, present, section
from violet_dial.report.dial import MarkState
from violet_dial.stations.prove.bench import judged_of
from violet_dial.stations.prove.firings_state import firings_shown, rank_of
from violet_dial.stations.prove.pictures import lanes_drawn
from violet_dial.stations.prove.rounds_state import STATES, contacts_of, course_of, ohm_said, recheck_on, soak_of, soak_said
from violet_dial.stations.prove.seals_state import suspects_of

HEADS = ("setting", "fired", "failed", "at most", "")
WIDTHS = (0.22, 0.14, 0.14, 0.2, 0.3)


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the proof."""
    return (*_firings(job), *_contacts(job), *_exercise(job), *_seals(job), *_soak(job))


def card(job: Job) -> tuple[tuple[str, str], ...]:
    """What is proved, and when it is to be checked again."""
    due = recheck_on(job)
    return present(("Proved", statement(job)), ("Drift", f"check again before {spoken_date(due)}" if due else ""))


def statement(job: Job) -> str:
    """What is proved, in plain words with its figures; empty with nothing fired."""
    judged = judged_of(job)
    one = judged.plan
    if not job.proving.log:
        return ""
    if one.verdict == "proved":
        return (
            f"After the repair {one.failed} of {one.n} firings failed. Fewer than {share_said(one.claim.share)} fail now, with "
            f"{100 * one.claim.confidence:.4g} % confidence (at most {percent(one.upper)})."
        )
    if one.verdict == "failed":
        return plan_said(one)
    return (
        f"Not proved yet: {one.failed} of {one.n} firings failed since the repair; at most {percent(one.upper)} fail, with "
        f"{100 * one.claim.confidence:.4g} % confidence. {one.left} more clean ones are wanted."
    )


def _firings(job: Job) -> tuple[Block, ...]:
    if not job.proving.log:
        return ()
    judged = judged_of(job)
    said = [statement(job)]
    said += [f"After {one.after.name}: {better_said(one)}" for one in judged.better if one.before.failed]
    said += [followed_said(one) for one in judged.follows]
    now = sorted(judged.now, key=lambda one: rank_of(one.name))
    states: tuple[MarkState, ...] = tuple("high" if one.failed else "inside" for one in now)
    rows = tuple((one.name, f"{one.n}", f"{one.failed}", percent(one.high), "failed" if one.failed else "clean") for one in now)
    grid = Grid(HEADS, rows, WIDTHS, states, 4, 5)
    return section("Is it fixed", Lines(tuple(said)), lanes_drawn(firings_shown(job)), grid, place=SheetPlace.PROOF)


def _contacts(job: Job) -> tuple[Block, ...]:
    if not job.proving.rounds:
        return ()
    found, rounds = contacts_of(job), job.proving.rounds
    several = len(rounds) > 1
    heads = ("position", rounds[0].how, f"after {rounds[-1].how}", "") if several else ("position", rounds[0].how, "")
    rows = tuple(
        (position.name, ohm_said(position.ohms[0]), *((ohm_said(position.ohms[-1]),) if several else ()), position.state)
        for position in found.positions
    )
    widths = (0.25, 0.25, 0.25, 0.25) if several else (0.34, 0.33, 0.33)
    states = tuple(STATES[position.state] for position in found.positions)
    last = len(heads) - 1
    grid = Grid(heads, rows, widths, states, last, len(heads))
    return section("Contacts", grid, Lines((found.words,)), place=SheetPlace.PROOF)


def _exercise(job: Job) -> tuple[Block, ...]:
    if job.proving.exercise is None or not job.proving.days:
        return ()
    found = course_of(job, date.today())
    fired, failed = (sum(getattr(day, name) for day in job.proving.days) for name in ("fired", "failed"))
    said = f"{len(job.proving.days)} days, {fired} firings, {failed} failed."
    held = (found.words,) if found is not None and found.state == "done" else ()
    return section("Exercise", Lines((said, *held)), place=SheetPlace.PROOF)


def _seals(job: Job) -> tuple[Block, ...]:
    found = suspects_of(job)
    frames = job.proving.frames
    if not frames:
        return ()
    if not found:
        return section("Light seals", Lines((f"{len(frames)} frames shot with the cap on: no fog.",)), place=SheetPlace.PROOF)
    first = found[0]
    seal = next((f"{one.material}, {one.thick_mm} mm" for one in SEALS if one.where == first.cause), "")
    said = f"Light gets in at the {first.cause} ({percent(first.chance)}): {'; '.join(first.speaks_for)}."
    return section("Light seals", Lines((said, *((f"Seal: {seal}.",) if seal else ()))), place=SheetPlace.PROOF)


def _soak(job: Job) -> tuple[Block, ...]:
    found = soak_of(job)
    if found is None:
        return ()
    due = recheck_on(job)
    again = (f"Check it again before {spoken_date(due)}.",) if due else ()
    return section("Over time", Lines((soak_said(job, found), *again)), place=SheetPlace.PROOF)
