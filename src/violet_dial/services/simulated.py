"""The simulated bench from inside the application: instruments to connect to, and hands that touch for one."""

from collections.abc import Callable
from dataclasses import replace
from time import monotonic

from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.trade import kind_of
from violet_dial.core.diagnosis.evidence import TEST_UNITS
from violet_dial.core.diagnosis.explain import short_words
from violet_dial.core.errors import InvalidInput
from violet_dial.core.practice.form import NEEDLE, SPEEDS
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import Evidence, Fault, Setting
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.simulated.bench import SimulatedBench
from violet_dial.instruments.simulated.device import DeviceUnderTest, hidden_fault
from violet_dial.instruments.simulated.meter import Frame, SimulatedCamera, SimulatedMeter, meter_truth
from violet_dial.instruments.simulated.server import BenchServer
from violet_dial.instruments.simulated.shutter import SimulatedCard, SimulatedShutter, hidden_faults
from violet_dial.job.document import Job
from violet_dial.services.circuits import circuit_from, circuit_of, templates
from violet_dial.services.station import Exercises

USUAL_STEM = "cds-series"
SHUTTER_OF = "shutter of"  # before a device's name: what is wrong with its shutter
METER_OF = "meter of"  # before a device's name: how its needle errs
ON_FROM, DIM_FROM = 0.75, 0.2  # shares of what lights a lamp or pulls a magnet


class SimulatedView:
    """A simulated camera as a source of pictures."""

    name = "camera (simulated)"

    def __init__(self, camera: SimulatedCamera) -> None:
        self.camera = camera

    def picture(self) -> Frame | None:
        """The next picture."""
        return self.camera.picture()

    def end(self) -> None:
        """It never waits."""

    def close(self) -> None:
        """Nothing is held open."""


class SimulatedInstruments:
    """Serves on loopback from the moment it is made; ``hidden`` names a fault by the circuit's name, as
    ``PART:MODE:FIGURE``. A fault put right in the job is put right in the device. ``exercises`` of the line at work, asked for
    anew each time: the workshop may be another."""

    def __init__(self, hidden: dict[str, str] | None = None, exercises: Callable[[], Exercises | None] = lambda: None) -> None:
        self._hidden, self._exercises = hidden or {}, exercises
        self._loaded = ""  # how the device under the probes stands
        self._view: tuple[str, SimulatedView] | None = None
        self._card: tuple[tuple[str, str, int], SimulatedCard] | None = None
        usual = next(template for template in templates() if template.stem == USUAL_STEM)
        self._usual = circuit_from(usual.text)
        self.bench = SimulatedBench(DeviceUnderTest(self._usual))
        self._server = BenchServer(self.bench)
        self._server.start()

    @property
    def instruments(self) -> tuple[Kept, ...]:
        """What there is to connect to."""
        address = self._server.address
        return (
            Kept("Bench multimeter (simulated)", address),
            Kept("Light meter and lamp (simulated)", address, "SCPI light meter", settable=True),
        )

    @property
    def scope(self) -> Kept:
        """Its oscilloscope: asked for a trace at a time, not read on and on."""
        return Kept("Oscilloscope (simulated)", self._server.address)

    @property
    def touching(self) -> bool:
        return self.bench.answer("SIM:TOUCH?") != "AIR"

    def load(self, job: Job) -> None:
        """The job's device under the probes; one without a circuit is stood in for by a healthy CdS meter."""
        if job.practising.is_one:
            self._load_exercise(job)
            return
        try:
            circuit = circuit_of(job)
        except InvalidInput:
            circuit = self._usual
        fault = self._fault(circuit, job)
        stands = f"{fault.words if fault else 'sound'}\n{circuit.text}"
        if stands == self._loaded:
            return
        self._loaded = stands
        self.bench.put(None)
        self.bench.device = DeviceUnderTest(circuit, fault)

    def _load_exercise(self, job: Job) -> None:
        """An exercise's device, with what was mended until now."""
        exercises = self._exercises()
        found = exercises.under_test(job) if exercises is not None else None
        if found is None:
            return  # its seal is broken: the page says so
        stands, make = found
        if stands != self._loaded:
            self._loaded = stands
            self.bench.put(None)
            self.bench.device = make()

    def _fault(self, circuit: Circuit, job: Job) -> Fault | None:
        text = self._hidden.get(job.tracing.circuit_name, "")
        if not text:
            return None
        try:
            fault = hidden_fault(circuit, text)
        except InvalidInput:
            return None  # the circuit was edited and the part is gone
        return None if any(repair.fault.part == fault.part for repair in job.tracing.repairs) else fault

    def card(self, job: Job, works: str, sensors: int) -> SimulatedCard:
        """A sound card with the job's shutter before it; the same one for the same job.

        Raises InvalidInput: the job is an exercise of something else.
        """
        if job.practising.is_one and self._hides(job, SPEEDS) is None:
            raise InvalidInput("Sound card", "an exercise without a shutter to time", "one of shutter speeds")
        key = (job.job_id, works, sensors)
        if self._card is None or self._card[0] != key:
            if self._card is not None:
                self._card[1].stop()
            faults = hidden_faults(self._told(job, f"{SHUTTER_OF} {job.device.name}"))
            seed = sum(job.job_id.encode())
            self._card = (key, SimulatedCard(SimulatedShutter(works, faults, sensors, seed), seed))
        return self._card[1]

    def camera(self, job: Job) -> "SimulatedView":
        """A camera before the job's dial; the same one for the same job.

        Raises InvalidInput: the job is an exercise of a circuit: its needle is looked at at Practise.
        """
        if job.practising.is_one and self._hides(job, NEEDLE) is None:
            raise InvalidInput("Camera", "an exercise of a circuit", "a meter under light; here: look at movement, at Practise")
        if self._view is None or self._view[0] != job.job_id:
            truth = meter_truth(self._told(job, f"{METER_OF} {job.device.name}"))
            self._view = (job.job_id, SimulatedView(SimulatedCamera(SimulatedMeter(truth, self._lit_lux, monotonic))))
        return self._view[1]

    def _told(self, job: Job, name: str) -> str:
        """What is wrong with a needle or a shutter: of an exercise what it hides, else what is said under a name."""
        if not job.practising.is_one:
            return self._hidden.get(name, "")
        return self._hides(job, NEEDLE if name.startswith(METER_OF) else SPEEDS) or ""

    def _hides(self, job: Job, form: str) -> str | None:
        """What an exercise of a form hides; None where it is of another."""
        exercises = self._exercises()
        return exercises.told(job, form) if exercises is not None else None

    def _lit_lux(self) -> float:
        """The light on the simulated dial now."""
        return float(self.bench.answer("MEAS:ILL?") or 0.0)

    def touch(self, ask: Evidence | None, setting: Setting) -> str:
        """Put the probes to where a test wants them, the device standing as it wants; lift them when they touch. Where it
        wants a look, look. What was done or seen, in words."""
        if ask is not None and ask.part:
            self.bench.device.stand(ask.setting)
            return self._seen(ask.part) if ask.test == "seen" else self._shown(ask)
        if self.touching:
            self.bench.put(None)
            return "probes lifted"
        plus, minus = (ask.plus, ask.minus) if ask is not None and ask.plus else (self.bench.device.circuit.nodes[0], "0")
        stands = ask.setting if ask is not None else setting
        if ask is not None and ask.test in ("ohm", "continuity"):
            stands = replace(stands, supply="off")
        self.bench.device.stand(stands)
        self.bench.put((plus, minus))
        return f"probes at {plus} and {'gnd' if minus == '0' else minus}"

    def _seen(self, part: str) -> str:
        device = self.bench.device
        value = device.look(part)
        if kind_of(device.circuit, device.circuit.part(part)) == "movement":
            said = f"stands at {value:.0%}"
        else:
            said = "is on" if value > ON_FROM else "is dim" if value > DIM_FROM else "is off"
        return f"On the simulated device the {short_words(device.circuit, part)} {said}."

    def _shown(self, ask: Evidence) -> str:
        """What a meter shows for which hands would open a loop or lift a leg."""
        device = self.bench.device
        figure = f"{format_engineering(device.of_part(ask.test, ask.part), 4)}{TEST_UNITS[ask.test]}"
        return f"On the simulated device the meter at the {short_words(device.circuit, ask.part)} shows {figure}."

    def close(self) -> None:
        if self._card is not None:
            self._card[1].stop()
        self._server.close()
