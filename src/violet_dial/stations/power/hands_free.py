"""Readings the connected meter takes by itself: a cell at rest, then under its load; a diode both ways, before and behind it."""

from dataclasses import replace

from violet_dial.core.circuit.trade import switches_of
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import device_of
from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture
from violet_dial.job.act import Act
from violet_dial.job.document import Job
from violet_dial.job.power import CellRead, FitRead
from violet_dial.services import live
from violet_dial.services.circuits import circuit_of, has_circuit
from violet_dial.stations.power.acts import load_ohm, state_of_cell, take_cell, take_fit

USUAL_LOAD_OHM = 47.0
USUAL_SIZE = "LR44"
BEYOND_V = 9e5  # what a meter on its diode test sends for more than it can show


class CellHands:
    """Two steps: at rest, then under a load: the device itself where its circuit is known, else the resistor used before."""

    def __init__(self) -> None:
        self._rest: Capture | None = None

    def begin(self) -> None:
        """Another job: at rest first."""
        self._rest = None

    def _size(self, job: Job) -> str:
        return job.power.cells[-1].size if job.power.cells else USUAL_SIZE

    def _ohm(self, job: Job) -> float:
        return next((cell.load_ohm for cell in reversed(job.power.cells) if cell.load_ohm), USUAL_LOAD_OHM)

    def slot(self, job: Job) -> live.Slot:
        """Where the next reading goes."""
        load = "under the device itself" if has_circuit(job) else f"under {self._ohm(job):g} Ω"
        return live.Slot(f"{self._size(job)} {'at rest' if self._rest is None else load}", "volt")

    def asks(self, job: Job) -> Evidence | None:
        """Where the probes go and how the device stands: at the battery, switched off and then as in use."""
        try:
            device = device_of(circuit_of(job))
        except InvalidInput:
            return None
        plus, minus = device.circuit.part(device.battery).nodes
        setting = device.setting
        if self._rest is None:
            off = {name: switch.positions[0] for name, switch in switches_of(device.circuit).items()}
            setting = replace(setting, switches=tuple(sorted(off.items())))
        return Evidence("volt", 0.0, plus, minus, setting=setting)

    @property
    def awaits(self) -> str:
        """What is to be done before the second reading."""
        return "" if self._rest is None else f"at rest {abs(self._rest.value):.3f} V: now under its load"

    def put(self, job: Job, capture: Capture) -> Act | None:
        """The first reading is remembered, the second makes the act. Raises InvalidInput: figures no cell shows."""
        rest = self._rest
        if rest is None:
            self._rest = capture
            return None
        load_v = abs(capture.value)
        ohm = load_ohm(job, "device", load_v) if has_circuit(job) else self._ohm(job)
        read = CellRead(self._size(job), abs(rest.value), load_v, ohm, rest=rest, load=capture)
        state_of_cell(job.power, read)
        self._rest = None
        return lambda one, at: take_cell(one, read, at)

    def drop(self) -> bool:
        """Take back the reading at rest."""
        had, self._rest = self._rest is not None, None
        return had


class FitHands:
    """Three steps: the diode test forward, then reverse, then volts before and behind in the light of the middle."""

    def __init__(self) -> None:
        self._before: Capture | None = None

    def begin(self) -> None:
        """Another job: from the first step."""
        self._before = None

    def slot(self, job: Job) -> live.Slot:
        """Where the next reading goes."""
        done = {one.what for one in job.power.fitted}
        if "forward" not in done:
            return live.Slot("diode, red on the end without a band", "diode")
        if "reverse" not in done:
            return live.Slot("diode, red on the band", "diode")
        return live.Slot("before the diode" if self._before is None else "behind the diode", "volt")

    def asks(self, job: Job) -> Evidence | None:
        """None: the diode is no point of the circuit yet."""
        return None

    @property
    def awaits(self) -> str:
        """What is to be done before the next reading."""
        return "" if self._before is None else f"before it {abs(self._before.value):.3f} V: now behind it"

    def put(self, job: Job, capture: Capture) -> Act | None:
        """A reading of the step at hand; volts before it are remembered until those behind it come."""
        done = {one.what for one in job.power.fitted}
        is_beyond = not abs(capture.value) < BEYOND_V
        volts, kept = (None, replace(capture, value=BEYOND_V)) if is_beyond else (abs(capture.value), capture)
        for what in ("forward", "reverse"):
            if what not in done:
                read = FitRead(what, volts, capture=kept)
                return lambda one, at: take_fit(one, read, at)
        before = self._before
        if before is None:
            self._before = kept
            return None
        span = job.light.setup
        middle = (span.range_from_ev100 + span.range_to_ev100) / 2
        behind = FitRead("behind", volts or 0.0, abs(before.value), middle, kept, before)
        self._before = None
        return lambda one, at: take_fit(one, behind, at)

    def drop(self) -> bool:
        """Take back the volts before the diode."""
        had, self._before = self._before is not None, None
        return had
