"""Checks that run by themselves on invented meters under a simulated lamp: the same verdict as by their true readings?"""

import math
import time
from dataclasses import dataclass, replace

import numpy as np

from bench.measure import row
from violet_dial.core.eye.face import face_of
from violet_dial.core.eye.needle import Eye, NeedleReading, eye_of, grey, read_needle
from violet_dial.core.records.light import Chain, Direction, LuxMeter
from violet_dial.core.steady.samples import Capture, Measured
from violet_dial.instruments.simulated.dial import DialShot
from violet_dial.instruments.simulated.meter import MeterTruth, SimulatedCamera, SimulatedMeter
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.light import LightSetup
from violet_dial.services.light_judgement import judge
from violet_dial.stations.light.acts import NeedleAtLight, take_reading
from violet_dial.stations.light.by_itself import ByItself, LightWanted, Stands
from violet_dial.stations.light.dial_watch import DialReader, FollowingReader, Picture, SeenDial
from violet_dial.stations.light.state import next_of

METERS, SEED, TICK_S = 40, 12, 0.2
LAMP_TAU_S, LUX_NOISE = 0.35, 0.002
MOST_TICKS = 8_000
AT = "2026-11-27T09:00:00+00:00"


def invented(rng: np.random.Generator) -> MeterTruth:
    """One meter of every kind: right, off, sloping, sticking, remembering, underdamped, blind in the dark."""
    kind = int(rng.integers(6))
    truth = MeterTruth(damping=float(rng.uniform(0.3, 1.0)), hertz=float(rng.uniform(0.8, 2.0)))
    sign = float(rng.choice([-1.0, 1.0]))
    return (
        replace(truth, offset=float(rng.uniform(-0.05, 0.05))), replace(truth, offset=sign * float(rng.uniform(0.6, 1.2))),
        replace(truth, slope=sign * float(rng.uniform(0.1, 0.15))), replace(truth, stick=float(rng.uniform(0.6, 0.9))),
        replace(truth, slow=float(rng.uniform(0.3, 0.8))), replace(truth, dark=float(rng.uniform(7.5, 8.5))),
    )[kind]  # fmt: skip


def bare_job() -> Job:
    """A meter described, checked with a lux meter."""
    job = Job("r1", 1, Device("Bench meter", kind="hand meter", cell="selenium"), Intake("to be checked"))
    return replace(job, light=replace(job.light, setup=LightSetup(chain=Chain(LuxMeter(u_relative=0.03)))))


@dataclass
class Bench:
    """A job, a lamp with its lux meter, a camera before a meter; a clock that is moved on."""

    truth: MeterTruth
    rng: np.random.Generator
    follows: bool = True
    gain: float = 1.0  # of the lamp against what it is asked for
    by_hand: bool = False
    is_told: bool = False

    def __post_init__(self) -> None:
        self.job, self.truly, self.now_s = (bare_job(), bare_job(), 0.0)  # as the eye read, as pointer and light truly stood
        self._from, self._to, self._set_s = 640.0, 640.0, -10.0
        self.camera = SimulatedCamera(
            SimulatedMeter(self.truth, self.true_lux, lambda: self.now_s), seed=int(self.rng.integers(1 << 30))
        )
        self.reader = DialReader(None)

    # the lamp

    def true_lux(self) -> float:
        """The light now."""
        left = math.exp(-(self.now_s - self._set_s) / LAMP_TAU_S)
        return math.exp(math.log(self._to) + (math.log(self._from) - math.log(self._to)) * left)

    def set_lux(self, lux: float) -> None:
        """Ask for a light; a lamp that does not follow stays where it is."""
        if self.follows:
            self._from, self._to, self._set_s = self.true_lux(), lux * self.gain, self.now_s

    def light(self) -> Measured | None:
        """What the lux meter shows."""
        lux = self.true_lux() * (1 + float(self.rng.normal(0, LUX_NOISE)))
        return Measured.of(Capture("lux", "lux", lux, LUX_NOISE * lux))

    # the camera

    def look(self) -> SeenDial | None:
        """The newest picture, read."""
        frame = self.camera.picture()
        return None if frame is None else self.reader.look(frame, self.now_s)

    # the job

    def wanted(self) -> LightWanted | None:
        """What Light asks for."""
        act = next_of(self.job, None)
        if act is None or act.kind != "read":
            return None
        return LightWanted(float(act.reference.replace("\u00a0", "").replace(" ", "")), act.reference, act.direction or "")

    def take(self, wanted: LightWanted, light: Measured, needle: Measured) -> bool:
        """A reading taken; beside it the one that was true."""
        direction: Direction | None = {"rising": "rising", "falling": "falling"}.get(wanted.direction)  # type: ignore[assignment]
        true = NeedleAtLight(Measured(self.true_lux(), unit="lx"), Measured(self.camera.meter.shows), direction)
        self.job = take_reading(self.job, NeedleAtLight(light, needle, direction), AT).job
        self.truly = take_reading(self.truly, true, AT).job
        return True

    def eye(self) -> tuple[Eye, Picture]:
        """The dial set up: its marks, its empty picture, a first look."""
        face, empty = face_of(self.camera.dial.marks), grey(self.camera.empty())
        first = read_needle(eye_of(face, empty), grey(self.camera.dial.frame((10.0,), DialShot(noise=0.004))))
        return eye_of(face, empty, True, first.width_px if isinstance(first, NeedleReading) else None), empty

    def begun(self) -> ByItself:
        """The dial set up, and a run that begins."""
        eye, empty = self.eye()
        self.reader = FollowingReader(eye, empty)
        return ByItself(self, self, self, eye.face.scale, remembers=self.truth.slow > 0)


def run(bench: Bench, most: int = MOST_TICKS) -> Stands:
    """A whole check, or until a person is asked."""
    by_itself = bench.begun()
    for _tick in range(most):
        stands = by_itself.tick(bench.now_s)
        if stands.stage in ("waits", "done"):
            return stands
        bench.now_s += TICK_S
    return by_itself.stands


def compared(count: int, seed: int = SEED) -> tuple[float, float, float, int]:
    """The share with the same verdict, readings and minutes a meter, and how many asked for a person."""
    rng = np.random.default_rng(seed)
    same, readings, minutes, asked = 0, 0, 0.0, 0
    for _meter in range(count):
        truth = invented(rng)
        bench = Bench(truth, rng)
        stands = run(bench)
        asked += stands.stage != "done"
        same += judge(bench.job).verdict.kind == judge(bench.truly).verdict.kind
        readings += stands.taken
        minutes += bench.now_s / 60
    return same / count, readings / count, minutes / count, asked


def report() -> None:
    """All of it."""
    begun = time.perf_counter()
    same, readings, minutes, asked = compared(METERS)
    row(f"{METERS} meters by themselves: same verdict", f"{same:.1%}", "goal: 95 %")
    row("a meter", f"{readings:.1f} readings, {minutes:.1f} min", f"{asked} asked for a person")
    row("worked out in", f"{time.perf_counter() - begun:.0f} s")


if __name__ == "__main__":
    report()
