"""The bench of an exercise: answers every test from the hidden device, the same on every machine, and knows a slip."""

import zlib
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of, usual_setting
from violet_dial.core.diagnosis.allowed import is_safe, useful_settings
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.costs import BENT, BURNT, LIT, POWERED, SHOCK, Slip
from violet_dial.core.practice.course import left_of
from violet_dial.core.practice.device import Device
from violet_dial.core.practice.exercise import Exercise
from violet_dial.core.practice.form import Reading, off_by
from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.core.task import Task

OHMS = ("ohm", "continuity")
SHORT_A, SHORT_TIMES = 0.3, 5.0  # current of a supply from which something burns: so much, and so many times the usual


class Bench:
    """Answers for an exercise's device."""

    def __init__(self, exercise: Exercise, circuit: Circuit) -> None:
        self.exercise, self.circuit = exercise, circuit
        self.form = exercise.form
        self.device = Device(circuit, exercise.faults, np.random.default_rng([exercise.seed, exercise.level, 1]))
        self._sound = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)

    def left(self, mended: Iterable[Fault]) -> tuple[Fault, ...]:
        """Faults that are still in the device."""
        return left_of(self.circuit, self.exercise.faults, tuple(mended))

    def answer(self, ask: Evidence, nth: int = 0, mended: Iterable[Fault] = ()) -> Evidence:
        """What the meter or the eye says.

        Parameters
        ----------
        ask : the test with how the device stands; its value is not looked at
        nth : how often the same test was made before; a repeated one is another touch

        Raises
        ------
        CannotSolve
            The device comes to no rest there.
        """
        words = f"{ask.test} {ask.plus} {ask.minus} {ask.part} {ask.setting!r}"
        self.device.faults = self.left(mended)
        self.device.rng = np.random.default_rng([self.exercise.seed, zlib.crc32(words.encode()), nth])
        return self.device.read(replace(ask, value=0.0), self.exercise.wrong)

    def prepared(self, mended: Iterable[Fault], task: Task) -> "Bench":
        """Another bench of the same device that has solved every useful setting already, as it is and as a sound one; `learn`
        takes that over. For a worker: the first answer in a setting of a large circuit takes longest.

        Raises
        ------
        TaskCancelled
        """
        other = Bench(self.exercise, self.circuit)
        settings = useful_settings(self.circuit, usual_setting(self.circuit))
        for faults in dict.fromkeys((self.left(mended), ())):
            other.device.faults = faults
            for setting in settings:
                for stands in (setting, replace(setting, supply="off")):
                    task.check()
                    other.device.settle(stands)
        return other

    def learn(self, other: "Bench") -> None:
        """What another bench of the same device has solved."""
        self.device.learn(other.device)

    def reads(self, test: str, nth: int = 0, mended: Iterable[Fault] = ()) -> Reading:
        """What a device that is judged by readings alone shows at a test.

        Raises
        ------
        InvalidInput
            No such test.
        """
        form = self.form
        if form is None:
            raise InvalidInput("Test", test, "a test of a circuit: this device is one")
        form.place(test)
        rng = np.random.default_rng([self.exercise.seed, zlib.crc32(test.encode()), nth])
        if rng.random() < self.exercise.wrong:
            return Reading(test, float(rng.uniform(-2.0, 2.0)))
        off = sum(off_by(form.name, test, one) for one in self.left(mended))
        return Reading(test, off + float(rng.normal(0.0, form.u)))

    def slip(
        self, ask: Evidence, is_fed: bool, was_dead: bool, mended: Iterable[Fault] = (), is_discharged: bool = False
    ) -> Slip | None:
        """What a test would lead to that has a price; None where it is sound work.

        Parameters
        ----------
        is_fed : whether the supply stands in the device when the leads touch
        is_discharged : whether a flash capacitor was emptied since anything was fed
        was_dead : whether ohms or a beep were taken since the last repair, before anything was fed
        """
        nodes = self.circuit.part(ask.part).nodes[:2] if ask.part and ask.test != "seen" else (ask.plus, ask.minus)
        if not is_discharged and any(node and self.circuit.note(node).get("flash") for node in nodes):
            return SHOCK
        if ask.test in (*OHMS, "capacitance") and is_fed and self.has_supply:
            return POWERED
        if ask.test in OHMS and not self._sound.is_quiet(ask.plus, ask.minus, ask.setting):
            return LIT
        if ask.test in OHMS and self._drives_a_movement(ask):
            return BENT
        if ask.test not in (*OHMS, "capacitance") and not was_dead and self.draws_a_short(ask, mended):
            return BURNT
        return None

    def _drives_a_movement(self, ask: Evidence) -> bool:
        has_one = any(kind_of(self.circuit, part) == "movement" for part in self.circuit.parts)
        return has_one and not is_safe(self._sound, ask)

    @property
    def has_supply(self) -> bool:
        """Whether there are cells to take out."""
        return any(kind_of(self.circuit, part) == "battery" for part in self.circuit.parts)

    def draws_a_short(self, ask: Evidence, mended: Iterable[Fault]) -> bool:
        """Whether the supply gives so much in this setting that something burns."""
        batteries = [part.name for part in self.circuit.parts if kind_of(self.circuit, part) == "battery"]
        left = self.left(mended)
        if not batteries or not left or ask.setting.supply == "off":
            return False
        self.device.faults = left
        try:
            sick = self._supplied(batteries, ask)
            self.device.faults = ()
            return sick > max(SHORT_A, SHORT_TIMES * self._supplied(batteries, ask))
        except CannotSolve:
            return False

    def _supplied(self, batteries: list[str], ask: Evidence) -> float:
        currents = self.device.point(ask.setting)[1].currents
        return max(abs(currents.get(name, 0.0)) for name in batteries)
