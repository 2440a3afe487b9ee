"""The device under test: a circuit with a hidden fault, solved by the circuit core."""

import math
from dataclasses import dataclass, replace

from violet_dial.core.circuit.netlist import GROUND, Circuit, Part, node_key
from violet_dial.core.circuit.trade import kind_of, set_circuit, switches_of, usual_setting
from violet_dial.core.diagnosis.faults import faults_of
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.diagnosis.recorded import UNSOLVED
from violet_dial.core.errors import CannotSolve, InvalidInput
from violet_dial.core.practice.bench import Bench
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Fault, Setting, TestKind
from violet_dial.core.steady.samples import Function

CONTINUITY_MODES = ("ohm", "continuity")
ANSWERED = ("volt", "ohm", "continuity", "amp", "seen", "capacitance")  # by the device of an exercise
LOGARITHMIC = ("ohm", "continuity", "capacitance")
MOST_FOUND = 2_000
METER, BURDEN_OHM = "Rmeter#", 1.0  # an ordinary meter on its milliampere range; common practice, no source
# An ordinary meter's diode test, and what it wants beside a capacitor; common practice, no source.
DIODE_TEST_A, DIODE_LIMIT_V, DIODE_SHOWN_V, LEAST_BESIDE_OHM = 1e-3, 3.0, 2.0, 5e3


def hidden_fault(circuit: Circuit, text: str) -> Fault:
    """A fault said as ``PART:MODE`` or ``PART:MODE:FIGURE`` (``Wred:high resistance:22k``).

    Raises InvalidInput: a part the circuit has not, or a mode that part cannot fail in; the modes it can are named.
    """
    part, _, rest = text.partition(":")
    mode, _, figure = rest.partition(":")
    known = [fault for fault, _ in faults_of(circuit) if fault.part.lower() == part.strip().lower()]
    if not known:
        names = ", ".join(dict.fromkeys(fault.part for fault, _ in faults_of(circuit)))
        raise InvalidInput("Fault", text, f"PART:MODE with a part that can fail: {names}")
    fitting = [fault for fault in known if fault.mode == mode.strip().lower()]
    if not fitting:
        modes = ", ".join(dict.fromkeys(fault.mode for fault in known))
        raise InvalidInput("Fault", text, f"{known[0].part} with one of: {modes}")
    if not figure:
        return fitting[len(fitting) // 2]
    return replace(fitting[0], figure=parse_number(figure, "Fault figure"))


@dataclass(frozen=True)
class DeviceShown:
    """What a meter would end on: the value, and whether light-slow parts have a say in it."""

    value: float
    slow: bool


class DeviceUnderTest:
    """Answers what a meter at two points ends on, in the setting the device stands in."""

    def __init__(self, circuit: Circuit, *faults: Fault | None) -> None:
        self.circuit = circuit
        self.faults = tuple(fault for fault in faults if fault is not None)
        self.setting: Setting = usual_setting(circuit)
        hidden = Hypothesis(self.faults, 0.0)
        self._predictor = Predictor(circuit, (hidden,), draws=0)
        self._metered: dict[tuple[str, str, str], Predictor] = {}
        self._slow = any(kind_of(circuit, part) == "cds" for part in circuit.parts)

    def points(self, text: str) -> tuple[str, str]:
        """Two nodes from ``clip+,gnd``. Raises InvalidInput: not two points of the circuit."""
        nodes = {*self.circuit.nodes, GROUND}
        found = [GROUND if part.strip().lower() == "gnd" else node_key(part.strip()) for part in text.split(",")]
        if len(found) != 2 or not set(found) <= nodes:
            raise InvalidInput("Points", text, f"two of gnd, {', '.join(self.circuit.nodes)}")
        return found[0], found[1]

    def turn(self, text: str) -> None:
        """A switch turned: ``S1,on``. Raises InvalidInput: a switch or position the circuit has not."""
        name, _, position = text.partition(",")
        setting = self.setting.with_switch(name.strip().lower(), position.strip().lower())
        set_circuit(self.circuit, setting)
        self.setting = setting

    def stand(self, setting: Setting) -> None:
        """The device put into a setting: what the hands that are not there would do."""
        set_circuit(self.circuit, setting)
        self.setting = setting

    @property
    def switches(self) -> tuple[str, ...]:
        return tuple(switches_of(self.circuit))

    def shows(self, function: Function, plus: str, minus: str) -> DeviceShown:
        """What the meter ends on. Ohms with a supply in are no good: they are pushed off by the voltage there."""
        if function == "volt":
            return DeviceShown(self._value(Evidence("volt", 0.0, plus, minus, setting=self.setting)), self._slow)
        if function in CONTINUITY_MODES:
            volts = 0.0
            if self.setting.supply != "off":
                volts = self._value(Evidence("volt", 0.0, plus, minus, setting=self.setting))
            off = replace(self.setting, supply="off")
            ohms = 10.0 ** self._value(Evidence("ohm", 0.0, plus, minus, setting=off)) + abs(volts) / 1e-4
            return DeviceShown(float("inf") if ohms >= 0.98 * OVERLOAD_OHM else ohms, self._slow)
        if function == "diode":
            return DeviceShown(self._diode_v(plus, minus), False)
        if function == "capacitance":
            return DeviceShown(self._capacitance_f(plus, minus), False)
        return DeviceShown(self._through_meter(plus, minus) if function == "amp" else 0.0, self._slow)

    def swings(self, plus: str, minus: str) -> float:
        """How far an oscilloscope sees the point swing, peak to peak, V."""
        prediction = self._predictor.of(Evidence("ripple", 0.0, plus, minus, setting=self.setting))
        return float(prediction.mean[0]) if prediction.sigma[0] < UNSOLVED else 0.0

    def _through_meter(self, plus: str, minus: str) -> float:
        """Current through an ammeter put between two points."""
        if plus == minus:
            return 0.0
        meter = Part(METER, "R", (plus, minus), BURDEN_OHM)
        return self._across((meter,), plus, minus, self.setting) / BURDEN_OHM

    def _diode_v(self, plus: str, minus: str) -> float:
        """What the test current leaves between two points, supply out; overload above what the meter can show."""
        if plus == minus:
            return 0.0
        drive = Part("Imeter", "I", (minus, plus), DIODE_TEST_A)
        limit = Part(METER, "R", (plus, minus), DIODE_LIMIT_V / DIODE_TEST_A)
        volts = self._across((drive, limit), plus, minus, replace(self.setting, supply="off"))
        return volts if volts < DIODE_SHOWN_V else float("inf")

    def _capacitance_f(self, plus: str, minus: str) -> float:
        """The capacitors between two points; overload where something beside them lets the charge off."""
        between = [part for part in self.circuit.parts if part.letter == "C" and set(part.nodes) == {plus, minus}]
        if not between:
            return 0.0
        beside = Evidence("ohm", 0.0, plus, minus, setting=replace(self.setting, supply="off"))
        if 10.0 ** self._value(beside) < LEAST_BESIDE_OHM:
            return float("inf")
        asks = [Evidence("capacitance", 0.0, part=part.name, setting=self.setting) for part in between]
        return float(sum(10.0 ** self._value(ask) for ask in asks))

    def _across(self, meter: tuple[Part, ...], plus: str, minus: str, setting: Setting) -> float:
        """Volts between two points with a meter's insides there: parts of the circuit while it touches."""
        key = (meter[0].letter, plus, minus)
        if key not in self._metered:
            circuit = self.circuit.with_parts((*self.circuit.parts, *meter))
            self._metered[key] = Predictor(circuit, self._predictor.hypotheses, draws=0)
        across = Evidence("volt", 0.0, plus, minus, setting=setting)
        return float(self._metered[key].of(across).mean[0])

    def look(self, part: str) -> float:
        """What is seen of a part: 0 off to 1 on, or a needle's share of full scale.

        Raises InvalidInput: a part the circuit has not.
        """
        share = self._value(Evidence("seen", 0.0, part=self.circuit.part(part).name, setting=self.setting))
        return min(max(share, 0.0), 1.0)  # a pointer has stops, and more than on is on

    def of_part(self, test: TestKind, part: str) -> float:
        """Current through a part in series with it, A, or its capacitance with a leg lifted, F.

        Raises InvalidInput: a part the circuit has not, or one whose current cannot be told.
        """
        value = self._value(Evidence(test, 0.0, part=self.circuit.part(part).name, setting=self.setting))
        return 10.0**value if test == "capacitance" else abs(value)

    def needle(self) -> float:
        """Where the first movement's pointer would stand, as a share of full scale; 0 without one."""
        for part in self.circuit.parts:
            if kind_of(self.circuit, part) == "movement":
                return self.look(part.name)
        return 0.0

    def _value(self, ask: Evidence) -> float:
        return float(self._predictor.of(ask).mean[0])


class ExerciseUnderTest(DeviceUnderTest):
    """The device of an exercise: its parts off by their tolerances, its faults as parts; what was mended is sound. A bench of its
    own, for the link's thread: with what the other has solved by now."""

    def __init__(self, bench: Bench, mended: tuple[Fault, ...]) -> None:
        super().__init__(bench.circuit, *bench.left(mended))
        own = Bench(bench.exercise, bench.circuit)
        own.learn(bench)
        own.device.faults = self.faults
        self._device = own.device
        self._found: dict[Evidence, float] = {}

    def _value(self, ask: Evidence) -> float:
        if ask.test not in ANSWERED:
            return super()._value(ask)
        if ask not in self._found:
            if len(self._found) >= MOST_FOUND:
                self._found.clear()
            try:
                true = self._device.true(ask)
            except CannotSolve:
                return super()._value(ask)
            self._found[ask] = math.log10(max(true, 1e-15)) if ask.test in LOGARITHMIC else true
        return self._found[ask]
