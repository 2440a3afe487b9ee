"""The arithmetic of an exercise, opened: the points term by term, each chance said, what the coach reckoned, the skills."""

from violet_dial.core.errors import VioletDialError
from violet_dial.core.practice.course import CourseStep
from violet_dial.core.practice.memory import FIRST_DAYS, GROWS, SHRINKS
from violet_dial.core.practice.score import SAID, quadratic, score_of
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.practise.coach import Coached
from violet_dial.practise.exercise import course_of
from violet_dial.practise.outcome import map_of, step_words
from violet_dial.practise.progress import Progress
from violet_dial.services.station import Section


def opened(job: Job, coached: Coached | None, progress: Progress | None) -> tuple[str, tuple[Section, ...]] | None:
    """The sums behind an exercise and one's progress; what is still hidden stays so."""
    sections: list[Section] = []
    if job.practising.is_one:
        try:
            course = course_of(job)
        except VioletDialError as error:
            return "Exercise", (("It cannot be opened", (str(error),)),)
        outcome = job.practising.outcome
        if outcome is not None and outcome.paths:
            sections.append(("Points", score_of(course, outcome.paths[0].minutes).opened()))
            said = tuple(
                f"{step_words(course, one)}\t{SAID:.0f} × {format_signed(quadratic(one.move.chance, one.is_right), 3)}"
                for one in course.said
            )
            sections.append(("What was said with a chance", said or ("nothing",)))
        done = [step for step in course.steps if not job.practising.is_open or step.move.kind in ("test", "slip")]
        lines = tuple(f"{step_words(course, one)}\t{_cost(one)}" for one in done)
        sections.append(("Minutes and money", lines or ("nothing yet",)))
        sections.append(("The rule", RULE))
        mapped = map_of(job)
        if mapped is not None and mapped.words:
            rows = (("there", mapped.right), ("not there", mapped.wrong), ("not traced", mapped.missing))
            sections.append(("What was traced", tuple(f"{name}\t{', '.join(one) or 'none'}" for name, one in rows)))
    if progress is not None and progress.skills:
        fades = tuple(
            f"{skill.name}\t2^(−{skill.days:.1f} d / {skill.half_life_days:.1f} d)"
            f"{'' if skill.was_good else ', halved: the last did not go well,'} = {skill.chance:.2f}"
            for skill in progress.skills
        )
        how = f"half-life {FIRST_DAYS:g} days at first, × {GROWS:g} when it goes well, × {SHRINKS:g} when not"
        sections.append(("Skills", (how, *fades)))
    return ("Exercise", tuple(sections)) if sections else None


def _cost(step: CourseStep) -> str:
    """Minutes of a step, and money where it took some."""
    money = f", parts {step.money:.0f}" if step.money else ""
    return f"{step.minutes:.1f} min{money}"


RULE = (
    "A chance p that was right gives 1 − (1 − p)², one that was wrong −p²: nobody gains by saying more or less than is believed "
    "(Brier).",
    "Bits of a test: how much likelier it made what is true, log₂ of after over before.",
)
