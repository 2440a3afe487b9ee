"""An exercise worked through: tests, what was said with a chance, what was mended, slips; minutes, money and bits at each step.

The same record is made of a trainee's job and of a player's game, so that they can be laid side by side.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.allowed import Reach, cost_of
from violet_dial.core.diagnosis.case import Case, Repair
from violet_dial.core.diagnosis.predict import question
from violet_dial.core.practice.costs import BURNT, MENDED, WORKS_MIN, Slip, mending
from violet_dial.core.practice.drawn import same
from violet_dial.core.practice.form import PART, Form, FormReading, minutes_of
from violet_dial.core.records.circuit import Evidence, Fault, Setting

MoveKind = Literal["test", "said", "mended", "slip", "given up"]


@dataclass(frozen=True)
class Move:
    """One thing done: a test with what it gave (``evidence``, or a ``reading`` of a device that has only such), a fault ``said``
    with a ``chance`` or put right, a slip, or giving up."""

    kind: MoveKind
    evidence: Evidence | None = None
    fault: Fault | None = None
    chance: float = 0.0
    slip: Slip | None = None
    reading: FormReading | None = None


@dataclass(frozen=True)
class CourseStep:
    """A move with what it brought: ``minutes`` and ``money`` of this move, ``opens`` the covers taken off for it,
    ``is_right`` whether what was said is in the device, or what was mended was broken."""

    move: Move
    minutes: float
    money: float = 0.0
    opens: tuple[str, ...] = ()
    is_right: bool = False


@dataclass(frozen=True)
class Course:
    """An exercise so far.

    Parameters
    ----------
    circuit, hidden : the device as drawn, and what is wrong with it
    steps : what was done, in order
    form : of a device that is judged by readings alone; then no circuit counts
    """

    circuit: Circuit
    hidden: tuple[Fault, ...]
    steps: tuple[CourseStep, ...] = ()
    now: Setting = field(default_factory=Setting)
    opened: frozenset[str] = frozenset()
    form: Form | None = None

    @property
    def minutes(self) -> float:
        return sum(step.minutes for step in self.steps)

    @property
    def money(self) -> float:
        return sum(step.money for step in self.steps)

    @property
    def tests(self) -> int:
        return sum(step.move.kind == "test" for step in self.steps)

    @property
    def mended(self) -> tuple[Fault, ...]:
        """What was put right, in order."""
        return tuple(step.move.fault for step in self.steps if step.move.kind == "mended" and step.move.fault is not None)

    @property
    def left(self) -> tuple[Fault, ...]:
        """Faults still there."""
        return left_of(self.circuit, self.hidden, self.mended)

    @property
    def works(self) -> bool:
        """Whether every fault was put right."""
        return not self.left

    @property
    def is_over(self) -> bool:
        """Found, given up, or ended by a slip."""
        ended = any(step.move.kind == "given up" or (step.move.slip is not None and step.move.slip.ends) for step in self.steps)
        return ended or self.works

    @property
    def slips(self) -> tuple[Slip, ...]:
        return tuple(step.move.slip for step in self.steps if step.move.slip is not None and not step.move.slip.is_work)

    @property
    def is_discharged(self) -> bool:
        """Whether the flash capacitor was emptied and nothing was fed since."""
        for step in reversed(self.steps):
            if step.move.slip is not None and step.move.slip.is_work:
                return True
            if step.move.evidence is not None and step.move.evidence.setting.supply != "off":
                return False
        return False

    @property
    def said(self) -> tuple[CourseStep, ...]:
        """What was said with a chance."""
        return tuple(step for step in self.steps if step.move.kind == "said")

    @property
    def needless(self) -> tuple[Fault, ...]:
        """What was put right though nothing was wrong there."""
        return tuple(
            step.move.fault for step in self.steps if step.move.kind == "mended" and not step.is_right and step.move.fault
        )

    @property
    def case(self) -> Case:
        """All that is known of the device by now, as Trace has it."""
        epochs: list[tuple[Evidence, ...]] = [()]
        for step in self.steps:
            if step.move.kind == "test" and step.move.evidence is not None:
                epochs[-1] = (*epochs[-1], step.move.evidence)
            elif step.move.kind == "mended":
                epochs.append(())
        return Case(self.circuit, tuple(epochs), tuple(Repair(one) for one in self.mended))

    @property
    def was_dead(self) -> bool:
        """Whether ohms or a beep were taken since the last repair."""
        return any(one.test in ("ohm", "continuity") for one in self.case.now)

    @property
    def has_burnt(self) -> bool:
        """Whether something smoked: what was replaced is not put at risk again before ohms were measured."""
        return any(slip.kind == BURNT.kind for slip in self.slips)

    def asked_before(self, ask: "Evidence | str") -> int:
        """How often the same test was made since the last repair and before."""
        if isinstance(ask, str):
            return sum(step.move.reading is not None and step.move.reading.test == ask for step in self.steps)
        every = (step.move.evidence for step in self.steps if step.move.evidence is not None)
        return sum(question(one) == question(ask) for one in every)

    def after(self, move: Move) -> "Course":
        """One move more."""
        minutes, money, opens, is_right, now = 0.0, 0.0, tuple[str, ...](), False, self.now
        if move.reading is not None and self.form is not None:
            minutes = minutes_of(self.form, move.reading.test, self.readings[-1].test if self.readings else "")
        elif move.kind == "test" and move.evidence is not None:
            minutes, opens = cost_of(self.circuit, move.evidence, self.now, Reach(opened=self.opened))
            now = move.evidence.setting
        elif move.kind == "mended" and move.fault is not None:
            minutes, money = MENDED[self.form.name] if self.form else mending(self.circuit, move.fault)
            minutes += WORKS_MIN
            is_right = any(mends(self.circuit, move.fault, one) for one in self.left)
        elif move.kind == "said" and move.fault is not None:
            is_right = any(is_it(self, move.fault, one) for one in self.left)
        elif move.slip is not None:
            minutes, money = move.slip.minutes, move.slip.money
        step = CourseStep(move, minutes, money, opens, is_right)
        opened = self.opened | {one.lower() for one in opens}
        return replace(self, steps=(*self.steps, step), now=now, opened=opened)

    @property
    def readings(self) -> tuple[FormReading, ...]:
        """Readings since the last repair."""
        found: tuple[FormReading, ...] = ()
        for step in self.steps:
            if step.move.kind == "mended":
                found = ()
            elif step.move.reading is not None:
                found = (*found, step.move.reading)
        return found

    @property
    def tried(self) -> tuple[Setting, ...]:
        """Settings a test was made in."""
        every = [step.move.evidence.setting for step in self.steps if step.move.evidence is not None]
        return tuple(dict.fromkeys(every)) or (Setting(),)


def begin(circuit: Circuit, hidden: tuple[Fault, ...], moves: Iterable[Move] = (), form: Form | None = None) -> Course:
    """A course from its moves.

    Parameters
    ----------
    hidden : what is wrong with the device
    moves : what was done, in order
    form : of a device that is judged by readings alone
    """
    course = Course(circuit, hidden, now=usual_setting(circuit), form=form)
    for move in moves:
        course = course.after(move)
    return course


def mends(circuit: Circuit, said: Fault, hidden: Fault) -> bool:
    """Whether putting ``said`` right puts a hidden fault right: the same part, or the same two points parted."""
    if said.part in PART.values():
        return said.name == hidden.name  # all of such a device is one part
    return said.part == hidden.part or same(circuit, (said,), hidden)


def left_of(circuit: Circuit, hidden: tuple[Fault, ...], mended: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Hidden faults that nothing put right yet.

    ``hidden``, ``mended``: what was wrong with the device, and what was put right.
    """
    return tuple(one for one in hidden if not any(mends(circuit, each, one) for each in mended))


def is_it(course: Course, said: Fault, hidden: Fault) -> bool:
    """Whether what is said is what is hidden."""
    return said.name == hidden.name if course.form else same(course.circuit, (said,), hidden, course.tried)
