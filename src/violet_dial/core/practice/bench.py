"""The bench of an exercise: answers every test from the hidden device, the same on every machine, and knows a slip."""

import zlib
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import replace

import numpy as np

from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.operating import OperatingPoint, operating_point
from violet_dial.core.circuit.trade import figure, kind_of, set_circuit, tolerance_of, usual_setting, with_inner
from violet_dial.core.diagnosis.allowed import is_safe, useful_settings
from violet_dial.core.diagnosis.evidence import CONTINUITY_OHM, TIMES, how_long, timing
from violet_dial.core.diagnosis.faults import CircuitChange, changes_of, rebuilt
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import FULL_SCALE_A, ON_A, Meter, Predictor, question
from violet_dial.core.diagnosis.recorded import RECORDED, UNSOLVED
from violet_dial.core.errors import CannotSolve, InvalidInput, VioletDialError
from violet_dial.core.practice.costs import BENT, BURNT, LIT, POWERED, SHOCK, Slip
from violet_dial.core.practice.course import left_of
from violet_dial.core.practice.exercise import Exercise
from violet_dial.core.practice.form import FormReading, off_by
from violet_dial.core.records.circuit import LEADS_OHM, OVERLOAD_OHM, Evidence, Fault, Setting
from violet_dial.core.task import Task

OHMS = ("ohm", "continuity")
SHORT_A, SHORT_TIMES = 0.3, 5.0  # current of a supply from which something burns: so much, and so many times the usual


class Bench:
    """Answers for an exercise's device."""

    def __init__(self, exercise: Exercise, circuit: Circuit) -> None:
        self.exercise, self.circuit = exercise, circuit
        self.form = exercise.form
        self.device = FaultyDevice(circuit, exercise.faults, np.random.default_rng([exercise.seed, exercise.level, 1]))
        self._sound = Predictor(circuit, (Hypothesis((), 0.0),), draws=0)

    def left(self, mended: Iterable[Fault]) -> tuple[Fault, ...]:
        """Faults that are still in the device."""
        return left_of(self.circuit, self.exercise.faults, tuple(mended))

    def answer(self, ask: Evidence, nth: int = 0, mended: Iterable[Fault] = ()) -> Evidence:
        """What the meter or the eye says.

        Raises CannotSolve: the device comes to no rest there.

        Parameters
        ----------
        ask : the test with how the device stands; its value is not looked at
        nth : how often the same test was made before; a repeated one is another touch
        """
        words = f"{ask.test} {ask.plus} {ask.minus} {ask.part} {ask.setting!r}"
        self.device.faults = self.left(mended)
        self.device.rng = np.random.default_rng([self.exercise.seed, zlib.crc32(words.encode()), nth])
        return self.device.read(replace(ask, value=0.0), self.exercise.wrong)

    def prepared(self, mended: Iterable[Fault], task: Task) -> "Bench":
        """Another bench of the same device that has solved every useful setting already, as it is and as a sound one; `learn`
        takes that over. For a worker: the first answer in a setting of a large circuit takes longest. Raises TaskCancelled.
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

    def reads(self, test: str, nth: int = 0, mended: Iterable[Fault] = ()) -> FormReading:
        """What a device that is judged by readings alone shows at a test. Raises InvalidInput: no such test."""
        form = self.form
        if form is None:
            raise InvalidInput("Test", test, "a test of a circuit: this device is one")
        form.place(test)
        rng = np.random.default_rng([self.exercise.seed, zlib.crc32(test.encode()), nth])
        if rng.random() < self.exercise.wrong:
            return FormReading(test, float(rng.uniform(-2.0, 2.0)))
        off = sum(off_by(form.name, test, one) for one in self.left(mended))
        return FormReading(test, off + float(rng.normal(0.0, form.u)))

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


MOST_POINTS = 200  # settings whose operating points are kept


LEAK_OHM = 1e9


OHM_V, RANGE_OHM = (0.03, 0.5), 100e3  # ohmmeters that spare junctions, and such that do not


NOISE_SHARE, NOISE_V, EYE, RECORDED_SHARE = 0.005, 0.002, 0.02, 0.04


class FaultyDevice:
    """``faults`` hidden in a circuit whose parts are off by their tolerances; ``at_times``: the fault comes and goes."""

    def __init__(self, circuit: Circuit, faults: tuple[Fault, ...], rng: np.random.Generator, at_times: bool = False) -> None:
        self.nominal = circuit
        parts = []
        faulty = {fault.part for fault in faults}
        for part in circuit.parts:
            share = 0.0 if part.letter in "QBEFGHC" or part.name in faulty else tolerance_of(circuit, part)
            by = float(np.exp(share * rng.standard_normal()))
            parts.append(replace(part, value=part.value * by, area=part.area * (by if part.letter == "D" else 1.0)))
            note = circuit.note(part.name)
            for key in ("r10", "a_per_lx"):
                if key in note:
                    circuit = replace(circuit, notes={**circuit.notes, part.name.lower(): {
                        **circuit.note(part.name), key: repr(figure(circuit, part.name, key, 1.0) * by)}})  # fmt: skip
        self.circuit = circuit.with_parts(tuple(parts))
        self.faults, self.rng, self.at_times = faults, rng, at_times
        self.meter = Meter()
        self._points: dict[tuple[Setting, tuple[Fault, ...]], tuple[Circuit, OperatingPoint]] = {}
        self._traces: dict[tuple[object, tuple[Fault, ...]], float] = {}
        self.ohm_v = float(rng.choice(OHM_V))

    def stands(self, setting: Setting) -> Circuit:
        """The circuit with its faults as parts, in a setting."""
        stands = set_circuit(self.circuit, setting)
        if setting.supply == "bench":  # its own volts, whatever the cell's are
            fed = {part.name: part.value for part in self.nominal.parts if kind_of(self.nominal, part) == "battery"}
            stands = stands.with_parts(tuple(replace(part, value=fed.get(part.name, part.value)) for part in stands.parts))
        if self.at_times and self.rng.random() < 0.5:
            return _with_cells(stands)
        for fault in self.faults:
            other = rebuilt(stands, fault)
            if other is not None:
                stands = other
            for place, change in enumerate(changes_of(stands, fault, setting)):
                stands = _changed(stands, change, f"{fault.part}{place}".lower())
        return _with_cells(stands)

    def true(self, ask: Evidence) -> float:
        """What an ideal eye or meter would end on, on the bench's own scale: volt, ohm, ampere, share, farad, second."""
        if ask.test in RECORDED:
            return self._recorded(ask)
        if ask.test == "capacitance":
            return self._farad(ask.part)
        if ask.test in ("ohm", "continuity"):
            stands, point = self.point(replace(ask.setting, supply="off"))
            before = _volts(point, ask)
            driven = (
                Part("Iohm#", "I", (ask.minus, ask.plus), self.ohm_v / RANGE_OHM),
                Part("Rohm#", "R", (ask.plus, ask.minus), RANGE_OHM),
            )
            volts = min(
                _volts(operating_point(stands.with_parts((*stands.parts, *driven)), point), ask) - before, self.ohm_v * (1 - 1e-6)
            )
            return max(volts, 0.0) * RANGE_OHM / (self.ohm_v - volts) + LEADS_OHM
        stands, point = self.point(ask.setting)
        if ask.test == "volt":
            meter = Part("Rvolt#", "R", (ask.plus, ask.minus), self.meter.input_ohm)
            return _volts(operating_point(stands.with_parts((*stands.parts, meter)), point), ask)
        if ask.test == "amp":
            plain = abs(point.currents[ask.part])
            ohm = float(self.meter.burden_ohm(np.array([plain]))[0])
            return abs(_with_series(stands, ask.part, ohm, point))
        return self._seen(point, ask.part)

    def _recorded(self, ask: Evidence) -> float:
        """What a recording would show, worked out once. Raises CannotSolve: nothing of that kind is to be recorded there."""
        key = (question(ask), self.faults)
        if key not in self._traces:
            if len(self._traces) >= MOST_POINTS:
                self._traces.clear()
            self._traces[key] = self._trace(ask)
        return self._traces[key]

    def _trace(self, ask: Evidence) -> float:
        predictor = Predictor(self.circuit, (Hypothesis(self.faults, 0.0),), draws=0)
        mean, sigma = RECORDED[ask.test](predictor, ask)
        if not sigma[0] < UNSOLVED:
            raise CannotSolve(f"{ask.where}: no {ask.test} is to be recorded there. Ask for volts or ohms there.")
        value = float(mean[0])
        return 10.0**value if ask.test == "time" else round(value) if ask.test in ("clock", "wakes") else abs(value)

    def point(self, setting: Setting) -> tuple[Circuit, OperatingPoint]:
        """The circuit in a setting and where it stands, kept as long as it does not come and go."""
        key = (setting, self.faults)
        if key not in self._points or self.at_times:
            if len(self._points) >= MOST_POINTS:
                self._points.clear()
            stands = self.stands(setting)
            self._points[key] = stands, operating_point(stands)
        return self._points[key]

    def settle(self, setting: Setting) -> None:
        """Solve a setting beforehand, and how long a shutter is held open in it; one in which it comes to no rest is left."""
        with suppress(CannotSolve, InvalidInput):
            self.point(setting)
            if setting.supply != "off" and self.faults:
                self._recorded(Evidence("time", 0.0, part=timing(self.nominal)[0].name, setting=setting))

    def learn(self, other: "FaultyDevice") -> None:
        """What another of the very same device has solved."""
        self._points.update(other._points)
        self._traces.update(other._traces)

    def _seen(self, point: OperatingPoint, name: str) -> float:
        kind = kind_of(self.nominal, self.nominal.part(name))
        usual = FULL_SCALE_A if kind == "movement" else ON_A.get(kind, 5e-3)
        share = point.currents[name] / figure(self.nominal, name, "full_a" if kind == "movement" else "on_a", usual)
        modes = {fault.mode for fault in self.faults if fault.part == name}
        share = 0.0 if "stuck pointer" in modes else -share if "leads exchanged" in modes else share
        return share if kind in ("movement", "led") else abs(share)

    def _farad(self, name: str) -> float:
        value = self.nominal.part(name).value * float(10 ** self.rng.normal(0, 0.05))
        for fault in self.faults:
            if fault.part == name and fault.mode == "open":
                return 3e-12
            if fault.part == name and fault.mode in ("too high", "too low"):
                return value * fault.figure
        return value

    def read(self, ask: Evidence, wrong: float = 0.0) -> Evidence:
        """What the meter or the eye says; now and then it is wrong."""
        rng = self.rng
        if rng.random() < wrong:
            anything = {"volt": rng.uniform(0, 6), "ohm": 10 ** rng.uniform(0, 7), "seen": rng.choice([0.0, 0.5, 1.0]),
                        "amp": 10 ** rng.uniform(-7, -2), "continuity": rng.choice([0.0, 1.0]),
                        "capacitance": 10 ** rng.uniform(-11, -5), "time": 10 ** rng.uniform(-3, 1), "ripple": rng.uniform(0, 2),
                        "dip": rng.uniform(0, 2), "clock": rng.choice([0.0, 1.0]), "wakes": rng.choice([0.0, 1.0])}  # fmt: skip
            return replace(ask, value=float(anything[ask.test]))
        true = self.true(ask)
        if ask.test == "volt":
            return replace(ask, value=true + rng.normal(0, NOISE_SHARE * abs(true) + NOISE_V))
        if ask.test == "ohm":
            ohm = true * 10 ** rng.normal(0, 0.005)
            return replace(ask, value=OVERLOAD_OHM if ohm > 0.4 * OVERLOAD_OHM else ohm)
        if ask.test == "amp":
            return replace(ask, value=abs(true * (1 + rng.normal(0, 0.01)) + rng.normal(0, 1e-7)))
        if ask.test == "continuity":
            return replace(ask, value=float(true < CONTINUITY_OHM * 10 ** rng.normal(0, 0.15)))
        if ask.test in ("capacitance", "clock", "wakes"):
            return replace(ask, value=true)
        if ask.test == "time" and how_long(true) in TIMES:
            return replace(ask, value=true)
        if ask.test in RECORDED:
            return replace(ask, value=abs(true * (1 + rng.normal(0, RECORDED_SHARE))))
        if kind_of(self.nominal, self.nominal.part(ask.part)) == "movement":
            shown = round((true + rng.normal(0, EYE)) * 50) / 50
            return replace(ask, value=float(np.clip(shown, 0, 1)))
        return replace(ask, value=0.0 if true < 0.2 else 1.0 if true > 0.7 else 0.5)


def _volts(point: OperatingPoint, ask: Evidence) -> float:
    return point.voltages.get(ask.plus, 0.0) - point.voltages.get(ask.minus, 0.0)


def _with_series(stands: Circuit, name: str, ohm: float, near: OperatingPoint) -> float:
    parts = [replace(part, nodes=("probe#", *part.nodes[1:])) if part.name == name else part for part in stands.parts]
    first = stands.part(name).nodes[0]
    series = stands.with_parts((*parts, Part("Ramp#", "R", (first, "probe#"), ohm)))
    begun = replace(near, voltages={**near.voltages, "probe#": near.voltages.get(first, 0.0)})
    return operating_point(series, begun).currents["Ramp#"]


def _with_cells(stands: Circuit) -> Circuit:
    inside = with_inner(stands)
    leaks = [Part(f"Rleak{node}#", "R", (node, "0"), LEAK_OHM) for node in stands.nodes]
    return inside.with_parts((*inside.parts, *leaks))


def _changed(stands: Circuit, change: CircuitChange, tag: str) -> Circuit:
    """One change of a fault, as parts."""
    parts = list(stands.parts)
    for place, part in enumerate(parts):
        if change.own and part.name == change.own:
            parts[place] = replace(part, value=1.0 / (1.0 / part.value + change.siemens))
        if change.source and part.name == change.source:
            parts[place] = replace(part, value=part.value * change.source_factor)
            if change.series_ohm:
                inner = f"{tag}series#"
                parts[place] = replace(parts[place], nodes=(inner, part.nodes[1]))
                parts.append(Part(f"R{tag}series#", "R", (inner, part.nodes[0]), change.series_ohm))
        if change.element and part.name == change.element:
            if part.letter == "Q" and change.element_factors[0]:
                name = f"{part.model}#weak"
                model = stands.models[part.model]
                figures = {**model.figures, "bf": model.figures.get("bf", 100.0) / change.element_factors[-1]}
                parts[place] = replace(part, model=name)
                stands = replace(stands, models={**stands.models, name: replace(model, name=name, figures=figures)})
            elif part.letter in "QD":
                parts[place] = Part(f"R{tag}gone#", "R", (part.nodes[0], part.nodes[-1]), 1e12)
            else:
                raise VioletDialError(f"{part.name}: this device cannot have that fault.")
    if change.siemens and not change.own:
        parts.append(Part(f"R{tag}beside#", "R", change.nodes, 1.0 / change.siemens))
    return stands.with_parts(tuple(parts))
