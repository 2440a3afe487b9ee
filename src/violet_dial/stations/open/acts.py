"""Acts at Open: steps taken, changed and refitted, the school of sealing; and the way back of a job."""

from dataclasses import MISSING, dataclass, fields, replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import EndKind, Sealant, Step, WireEnd
from violet_dial.core.opening.tally import Totals, open_beneath, tally, totals
from violet_dial.core.opening.typed import understand_step
from violet_dial.core.opening.way_back import BackItem, way_back
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job

TEST_ACT = "test before closing"  # how a test stop on the way back stands in the walk


def _with_steps(job: Job, steps: tuple[Step, ...]) -> Job:
    return replace(job, opening=replace(job.opening, steps=steps))


def next_step_id(job: Job) -> str:
    """Identity of the step to come."""
    numbers = [int(step.step_id[1:]) for step in job.opening.steps if step.step_id[1:].isdecimal()]
    return f"s{max(numbers, default=0) + 1}"


def step_at(job: Job, step_id: str) -> int:
    """Place of a step in the list."""
    for place, step in enumerate(job.opening.steps):
        if step.step_id == step_id:
            return place
    raise InvalidInput("Step", step_id, "a step of this job's list")


def typed_step(job: Job, text: str) -> tuple[Step, Step | None]:
    """The step a typed line means, and the planned one it is, if the plan has that thing.

    What was typed counts; what was not is as planned.
    """
    step = understand_step(text, next_step_id(job))
    met = next((one for one in job.opening.steps if one.planned and one.thing == step.thing), None)
    if met is None:
        return step, None
    silent = {
        field.name: getattr(met, field.name)
        for field in fields(Step)
        if field.default is not MISSING and getattr(step, field.name) == field.default
    }
    hand = met.hand if step.hand in ("", "unknown") else step.hand
    fixed = {"step_id": met.step_id, "planned": False, "confirmed": met.confirmed + 1, "hand": hand}
    return replace(step, **{**silent, **fixed}), met


def take_step(job: Job, text: str, at: str) -> ActResult:
    """One typed line of the strip-down: it is off now, before those that are only planned."""
    step, met = typed_step(job, text)
    off = [one for one in job.opening.steps if not one.planned]
    plan = [one for one in job.opening.steps if one.planned and one is not met]
    caution = " (thread hand not known)" if step.hand == "unknown" else ""
    where = f" -> {step.tray}" if step.tray else ""
    planned = ", as planned" if met is not None else ""
    steps = (*off, replace(step, off_at=at), *plan)
    return ActResult(_with_steps(job, steps), "Open", f"Off: {step.name}{where}{planned}{caution}")


def change_step(job: Job, step: Step, at: str) -> ActResult:
    """A step with other fields."""
    place = step_at(job, step.step_id)
    steps = (*job.opening.steps[:place], step, *job.opening.steps[place + 1 :])
    return ActResult(_with_steps(job, steps), "Open", f"{step.name} changed")


def take_planned(job: Job, step_id: str, at: str) -> ActResult:
    """A planned step is off now; it goes to the end of what is off, before the other planned ones."""
    place = step_at(job, step_id)
    step = replace(job.opening.steps[place], planned=False, off_at=at, confirmed=job.opening.steps[place].confirmed + 1)
    rest = [one for one in job.opening.steps if one.step_id != step_id]
    off = [one for one in rest if not one.planned]
    planned = [one for one in rest if one.planned]
    return ActResult(_with_steps(job, (*off, step, *planned)), "Open", f"Off: {step.name}, as planned")


def strike_step(job: Job, step_id: str, at: str) -> ActResult:
    """A step out of the list; the log and undo still have it."""
    place = step_at(job, step_id)
    steps = job.opening.steps[:place] + job.opening.steps[place + 1 :]
    return ActResult(_with_steps(job, steps), "Open", f"{job.opening.steps[place].name} struck out")


@dataclass(frozen=True)
class Ending:
    """What became of ``count`` things of a step; None: all that have no end yet."""

    step_id: str
    kind: EndKind = "refitted"
    count: int | None = None
    note: str = ""


def end_step(job: Job, ending: Ending, at: str) -> ActResult:
    """Things of a step get their end: refitted, replaced by, or left out because."""
    place = step_at(job, ending.step_id)
    step = job.opening.steps[place]
    if step.planned:
        raise InvalidInput("Way back", step.name, "something that is off; this is only planned")
    left = step.count - sum(end.count for end in step.ends)
    count = left if ending.count is None else ending.count
    if count < 1:
        raise InvalidInput("Count", count, f"1 or more; {tally(step).words} of {step.name} have an end already")
    if ending.kind != "refitted" and not ending.note.strip():
        needed = "by what it is replaced" if ending.kind == "replaced" else "why it is left out"
        raise InvalidInput(ending.kind.capitalize(), "nothing", needed)
    new = replace(step, ends=(*step.ends, WireEnd(ending.kind, count, ending.note.strip(), at)))
    steps = (*job.opening.steps[:place], new, *job.opening.steps[place + 1 :])
    said = {"refitted": "Back", "replaced": f"Replaced by {ending.note}", "left out": f"Left out because {ending.note}"}
    return ActResult(_with_steps(job, steps), "Open", f"{said[ending.kind]}: {step.name}, {tally(new).words}")


def close_over(job: Job, step_id: str, answer: str, at: str) -> ActResult:
    """A cover goes on although something beneath has no end; the answer is logged."""
    place = step_at(job, step_id)
    beneath = [job.opening.steps[one].name for one in open_beneath(job.opening.steps, place)]
    done = end_step(job, Ending(step_id), at)
    reason = f"{job.opening.steps[place].name} closed over {', '.join(beneath)}: {answer}"
    return ActResult(done.job, "Open", reason)


def reopen_step(job: Job, step_id: str, at: str) -> ActResult:
    """A refitted thing is off again."""
    place = step_at(job, step_id)
    step = job.opening.steps[place]
    steps = (*job.opening.steps[:place], replace(step, ends=()), *job.opening.steps[place + 1 :])
    return ActResult(_with_steps(job, steps), "Open", f"Off again: {step.name}")


def unfinished_beneath(job: Job, step_id: str) -> tuple[Step, ...]:
    """Steps that should be back before this one and have no whole tally."""
    steps = job.opening.steps
    return tuple(steps[place] for place in open_beneath(steps, step_at(job, step_id)))


def add_steps(job: Job, steps: tuple[Step, ...], source: str, at: str) -> ActResult:
    """A list from a file or an earlier job as a plan to work from; identities are given anew."""
    first = int(next_step_id(job)[1:])
    planned = tuple(
        replace(step, step_id=f"s{first + place}", planned=True, ends=(), off_at="") for place, step in enumerate(steps)
    )
    reason = f"Plan of {len(planned)} steps from {source}"
    return ActResult(_with_steps(job, (*job.opening.steps, *planned)), "Open", reason)


def choose_sealant(job: Job, sealant: Sealant, at: str) -> ActResult:
    """The school of securing hardware this job follows."""
    opening = replace(job.opening, sealant=sealant)
    return ActResult(replace(job, opening=opening), "Open", f"Sealant where nothing is said: {sealant}")


def back_of(job: Job) -> tuple[BackItem, ...]:
    """The way back of this job."""
    return way_back(job.opening.steps, job.device.kind, job.opening.sealant)


def totals_of(job: Job) -> Totals:
    """The tallies of the job."""
    return totals(job.opening.steps)
