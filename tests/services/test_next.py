"""Next follows from the headline fault, the kind of device and what is known so far; and what is kept passes one gate."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from tests.services.test_workshop import Act, AtTheBench, reading
from tests.workshops import next_act
from violet_dial.core.errors import InvalidInput
from violet_dial.job.act import ActResult
from violet_dial.job.document import Device, Intake, Job
from violet_dial.job.light import Run
from violet_dial.job.opening import Opening
from violet_dial.job.tracing import PinnedNode
from violet_dial.services.circuits import templates
from violet_dial.services.evidence import type_evidence
from violet_dial.services.way_in import understand_shorter_way
from violet_dial.stations import STATIONS
from violet_dial.stations.receive.acts import answer_gate, describe_device
from violet_dial.stations.trace.acts import choose_circuit, pin_spot


def described(headline: str, device: Device) -> Act:
    return lambda job, at: describe_device(job, device, Intake(headline), at)


def circuit(stem: str) -> Act:
    template = next(one for one in templates() if one.stem == stem)
    return lambda job, at: choose_circuit(job, template.title, template.text, at)


def gate(**answers: Any) -> Act:
    return lambda job, at: answer_gate(job, replace(job.receiving.gate, **answers), at)


def changed(change: Callable[[Job], Job]) -> Act:
    return lambda job, at: ActResult(change(job), "Light", "changed")


REFLEX, METER = (Device("Puffin reflex", kind="reflex", cell="CdS"), Device("Little Auk meter", kind="hand meter", cell="CdS"))
CLIP = Device("Dovekie clip meter", kind="hand meter", cell="selenium")


class NextFromTheHeadline(AtTheBench):
    def next_after(self, *acts: Act) -> tuple[str, str]:
        act = next_act(self.do(*acts), STATIONS)
        self.assertTrue(act.reason.strip(), act)
        return act.station, act.kind

    def test_dead_with_a_good_battery_goes_to_the_circuit_not_to_a_reading(self) -> None:
        self.assertEqual(self.next_after(described("needle dead, battery good", METER)), ("Trace", "choose circuit"))

    def test_a_body_that_may_hold_a_film_is_asked_for_it_before_it_is_opened(self) -> None:
        self.assertEqual(self.next_after(described("needle dead, battery good", REFLEX)), ("Receive", "film"))
        self.assertEqual(self.next_after(gate(film="nothing inside")), ("Trace", "choose circuit"))

    def test_dead_and_nothing_known_asks_for_the_battery_first(self) -> None:
        self.assertEqual(self.next_after(described("needle dead", METER)), ("Receive", "battery"))
        self.assertEqual(self.next_after(gate(battery="out")), ("Trace", "choose circuit"))

    def test_dead_without_a_battery_of_its_own_goes_to_the_circuit(self) -> None:
        self.assertEqual(self.next_after(described("needle does not move", CLIP)), ("Trace", "choose circuit"))

    def test_what_reads_wrong_is_read(self) -> None:
        self.assertEqual(self.next_after(described("reads high, pictures come out dark", CLIP)), ("Light", "read"))
        self.assertEqual(self.next_after(described("right in sun, dead indoors", CLIP)), ("Light", "read"))

    def test_a_jam_is_looked_over_before_any_force(self) -> None:
        station, _ = self.next_after(described("shutter jammed", REFLEX))
        self.assertEqual(station, "Receive")

    def test_nothing_said_is_asked(self) -> None:
        self.assertEqual(next_act(self.bench.view(self.job_id).job, STATIONS).kind, "describe")

    def test_a_figure_alone_has_two_meanings(self) -> None:
        self.do(described("needle dead, battery good", REFLEX), circuit("cds-series"))
        before = self.bench.view(self.job_id)
        with self.assertRaises(InvalidInput) as raised:
            self.do(lambda job, at: type_evidence(job, "sw 0.5", at))
        for meant in ("0.5 V", "0.5 ohm"):
            self.assertIn(meant, str(raised.exception))
        self.assertEqual(self.bench.view(self.job_id).version_id, before.version_id)
        self.do(lambda job, at: type_evidence(job, "sw 0.5", at, "volt"))
        self.assertEqual(self.bench.view(self.job_id).job.tracing.now[0].evidence.test, "volt")
        for typed, ohms in (("sw swo 47R", 47.0), ("sw swo 2k2", 2200.0), ("sw swo 0,5 kΩ", 500.0)):
            self.do(lambda job, at, typed=typed: type_evidence(job, typed, at))
            self.assertAlmostEqual(self.bench.view(self.job_id).job.tracing.now[-1].evidence.value, ohms)


class TheGate(AtTheBench):
    """What could not be opened again is refused with a sentence, and nothing changes."""

    def test_all_that_was_kept_and_could_not_be_opened(self) -> None:
        self.do(described("reads high", CLIP), reading("8", "8.6"))
        ways = tuple(replace(understand_shorter_way("meter cell through front frame; 6 min"), minutes=n + 1.0) for n in range(51))
        refused: dict[str, Act] = {
            "20 001 characters noticed": described("reads high", CLIP),
            "a name of 301 characters": described("reads high", replace(CLIP, name="x" * 301)),
            "102 runs": changed(lambda job: replace(job, light=replace(job.light, runs=(Run(),) * 102))),
            "a shift of 25 stops": changed(lambda job: replace(job, light=replace(job.light, runs=(Run(shift_stops=25.0),)))),
            "51 shorter ways": changed(lambda job: replace(job, opening=Opening(shorter_ways=ways))),
            "a pin at column 61": lambda job, at: pin_spot(job, PinnedNode("lead", 61.0, 0.0), at),
        }
        refused["20 001 characters noticed"] = lambda job, at: describe_device(
            job, CLIP, Intake("reads high", noticed="x" * 20_001), at
        )
        before = self.bench.view(self.job_id)
        for what, act in refused.items():
            with self.subTest(what):
                with self.assertRaises(InvalidInput) as raised:
                    self.do(act)
                self.assertIn("expected", str(raised.exception))
                after = self.bench.view(self.job_id)
                self.assertEqual((after.version_id, after.job), (before.version_id, before.job))
        self.assertEqual(self.bench.trouble(self.job_id), "")
        self.assertTrue(self.bench.export_bundle(self.job_id))

    def test_the_most_that_is_allowed_opens_again(self) -> None:
        most = Intake("reads high", noticed="x" * 20_000)
        self.do(lambda job, at: describe_device(job, replace(CLIP, name="x" * 300), most, at))
        self.assertEqual(self.bench.trouble(self.job_id), "")
        self.assertEqual(len(self.bench.view(self.job_id).job.intake.noticed), 20_000)


if __name__ == "__main__":
    unittest.main()
