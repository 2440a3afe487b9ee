"""Live instruments through PyVISA on the simulated bench: hands-free takes, refusals, safety, and what a reading keeps."""

import math
from collections.abc import Callable
from dataclasses import replace

from tests.instruments.bench_at_work import BenchTest, wait_for
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence
from violet_dial.core.records.light import Chain, LuxMeter
from violet_dial.core.steady.samples import Accuracy, Capture
from violet_dial.instruments.kept import Kept
from violet_dial.job.document import Job
from violet_dial.job.light import LightCheck, LightSetup
from violet_dial.job.schema import job_from_json, job_to_json
from violet_dial.services.live import Event, LiveBench, Slot, figure_text
from violet_dial.stations.light.acts import TypedReading, read_typed, take_reading
from violet_dial.stations.trace.acts import captured_evidence, choose_circuit, take_evidence

VOLTS = Slot("clip+ to gnd", "volt")


class Hands(BenchTest):
    def setUp(self) -> None:
        super().setUp()
        self.live = LiveBench(lambda: "2026-11-03T10:00:00.000+00:00")
        self.addCleanup(self.live.close)
        self.events: list[Event] = []
        self.live.connect(Kept("meter", self.server.address, stated=(("volt", Accuracy(0.01, 0.002)),)), 0.04)

    def until(self, condition: Callable[[], bool], wait_s: float = 12.0) -> bool:
        def polled() -> bool:
            self.events += self.live.poll()
            return condition()

        return wait_for(polled, wait_s)

    def kinds(self) -> list[str]:
        return [event.kind for event in self.events]

    def begin(self, slot: Slot) -> None:
        self.live.hands_free = True
        self.live.aim(slot)
        self.assertTrue(self.until(lambda: self.live.shown("meter").verdict is not None))


class Taking(Hands):
    def test_a_touch_is_taken_with_all_that_belongs_to_it(self) -> None:
        self.begin(VOLTS)
        self.assertFalse(self.until(lambda: bool(self.events), 1.0), "leads in the air")
        self.bench.put(("clip+", "0"))
        self.assertTrue(self.until(lambda: "taken" in self.kinds()))
        capture = self.events[-1].capture
        assert capture is not None
        self.assertAlmostEqual(capture.value, 1.35, delta=0.005)
        self.assertAlmostEqual(capture.u, (0.01 * 1.35 + 0.002) / math.sqrt(3), delta=3e-4)
        self.assertEqual((capture.instrument, capture.function, capture.full_scale), ("meter", "volt", 2.0))
        self.assertGreaterEqual(len(capture.window), 5)
        self.assertFalse(self.until(lambda: self.kinds().count("taken") > 1, 1.0), "one touch, one take")

    def test_off_by_default_and_nothing_without_a_place(self) -> None:
        self.live.aim(VOLTS)
        self.bench.put(("clip+", "0"))
        self.assertFalse(self.until(lambda: bool(self.events), 1.5))
        self.live.aim(None)
        with self.assertRaisesRegex(InvalidInput, "no place"):
            self.live.take()
        self.live.aim(VOLTS)
        self.assertAlmostEqual(self.live.take().value, 1.35, delta=0.01)

    def test_ohms_are_not_switched_to_while_there_is_voltage(self) -> None:
        self.bench.put(("clip+", "0"))
        self.assertTrue(self.until(lambda: "1.3" in self.live.shown("meter").figure))
        self.begin(Slot("clip+ to gnd", "ohm"))
        self.assertTrue(self.until(lambda: "refused" in self.kinds()))
        self.assertIn("cells out", self.events[-1].words)
        self.assertEqual(self.kinds().count("refused"), 1, "said once for one touch")
        with self.assertRaisesRegex(InvalidInput, "cells out"):
            self.live.take()
        self.bench.put(None)
        self.bench.answer("SIM:SUPPLY off")
        self.assertTrue(self.until(lambda: self.live.shown("meter").verdict.kind == "open"))
        self.live.aim(Slot("Rser", "ohm"))
        self.assertTrue(self.until(lambda: self.live.shown("meter").sample.function == "ohm"))
        self.bench.put(("swo", "cell+"))
        self.assertTrue(self.until(lambda: "taken" in self.kinds()))
        self.assertAlmostEqual(self.events[-1].capture.value, 330, delta=5)

    def test_open_is_taken_by_hand_alone_and_current_never_switched_to(self) -> None:
        self.bench.answer("SIM:SUPPLY off")
        self.begin(Slot("Rwred", "ohm"))
        self.assertTrue(self.until(lambda: self.live.shown("meter").figure == "OL"))
        self.assertEqual(self.live.take().value, math.inf)
        self.live.aim(Slot("Rwred", "amp"))
        self.assertFalse(self.until(lambda: self.live.shown("meter").sample.function == "amp", 0.6))
        with self.assertRaisesRegex(InvalidInput, "socket"):
            self.live.take()

    def test_a_lost_link_is_said_and_healed(self) -> None:
        self.begin(VOLTS)
        self.bench.answer("SIM:FAULT AWAY,1")
        self.assertTrue(self.until(lambda: self.kinds() == ["lost", "back"], 6.0), self.events)
        with self.assertRaises(InvalidInput):
            self.live.connect(Kept("meter", self.server.address))

    def test_a_run_of_reference_lights(self) -> None:
        self.live.connect(Kept("lux", self.server.address, "SCPI light meter", settable=True), 0.04)
        self.begin(Slot("reference", "lux", 320.0))
        self.assertEqual(self.live.front.name, "lux")
        for lux in (320.0, 640.0, 80.0):
            self.events.clear()
            self.live.aim(Slot("reference", "lux", lux))
            self.assertTrue(self.live.set_light())
            self.assertTrue(self.until(lambda: "taken" in self.kinds()), (lux, self.events))
            self.assertAlmostEqual(self.events[-1].capture.value, lux, delta=0.02 * lux)


class Keeping(BenchTest):
    def test_evidence_keeps_its_capture_and_uncertainty(self) -> None:
        text = self.bench.device.circuit.text
        job = choose_circuit(Job("j1", 1), "meter", text, "now").job
        capture = Capture("meter", "volt", 0.41, 0.004, 2.0, "now", ((-0.5, 0.41), (0.0, 0.41)))
        evidence = captured_evidence(Evidence("volt", 0.0, "sw", "0", setting=job.tracing.setting), capture)
        job = take_evidence(job, evidence, "now", capture).job
        again = job_from_json(job_to_json(job))
        self.assertEqual(again.tracing.now[-1].capture, capture)
        self.assertEqual(again.tracing.now[-1].evidence.u, 0.004)
        beyond = replace(capture, function="ohm", value=math.inf, u=0.0)
        evidence = captured_evidence(Evidence("ohm", 0.0, "sw", "0", setting=job.tracing.setting), beyond)
        self.assertEqual(evidence.value, OVERLOAD_OHM)
        self.assertEqual(
            job_from_json(job_to_json(take_evidence(job, evidence, "now", beyond).job)).tracing.now[-1].evidence, evidence
        )

    def test_a_captured_light_brings_its_own_uncertainty(self) -> None:
        """1 % of 1000 lx as standard uncertainty is 0.01 / ln 2 = 0.0144 stop (JCGM 100:2008, 5.1.2, first order)."""
        job = Job("j1", 1, light=LightCheck(LightSetup(chain=Chain(LuxMeter()))))
        capture = Capture("lux", "lux", 1000.0, 10.0, at="now", window=((0.0, 1000.0),))
        done = take_reading(job, read_typed(job, TypedReading("1000", "8.6"), capture), "now").job.light.current.readings[0]
        self.assertAlmostEqual(done.reading.u_reference, 0.01 / math.log(2), delta=1e-4)
        self.assertIn("lux: 1000 lx", done.reference_sum[0])
        self.assertEqual(done.capture, capture)

    def test_figures_as_the_bar_shows_them(self) -> None:
        for value, function, said in (
            (1.5234, "volt", "1.523 V"), (-0.0021, "volt", "−0.002 V"), (38_210.0, "ohm", "38.21 kΩ"), (12.5, "lux", "12.5 lx"),
            (10_240.0, "lux", "10\u00a0240 lx"), (4.7e-6, "capacitance", "4.7 µF"),
        ):  # fmt: skip
            self.assertEqual(figure_text(value, function), said)  # type: ignore[arg-type]
