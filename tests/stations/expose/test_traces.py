"""Captures taken, named, laid beside a sister's, given to Trace; what is shown of them."""

import unittest
from dataclasses import replace

import numpy as np

from tests.stations.expose.test_acts import AT, camera
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.job.proving import NamedRepair
from violet_dial.report.blocks import Pairs
from violet_dial.services.circuits import circuit_from, templates
from violet_dial.stations.expose.paper import paper
from violet_dial.stations.expose.traces_acts import Captures, understand
from violet_dial.stations.expose.traces_state import traces_shown
from violet_dial.stations.trace.acts import choose_circuit
from violet_dial.stations.trace.table import read_evidence, write_evidence

T = np.arange(4000) / 20_000.0
SAW, FLAT = 2.6 + 1.1 * ((T * 172) % 1 - 0.5), np.full(len(T), 2.6)
CLOCK = 2.6 * (np.sin(2 * np.pi * 64 * T) > 0)
LATE = 2.6 * (np.sin(2 * np.pi * 64 * (T - 0.002)) > 0)


def capture(*channels: np.ndarray) -> bytes:
    rows = [f"{t:.6f}," + ",".join(f"{value:.4f}" for value in values) for t, *values in zip(T, *channels, strict=True)]
    return ("time," + ",".join(f"CH{n}" for n in range(1, len(channels) + 1)) + "\n" + "\n".join(rows)).encode()


class Traces(unittest.TestCase):
    def setUp(self) -> None:
        self.captures = Captures()

    def take(self, job: Job, name: str, *channels: np.ndarray) -> Job:
        listing, act = self.captures.file_in.read(job, name, capture(*channels))
        assert listing is not None
        self.assertEqual(listing.offered, len(channels))
        return act(job, AT).job

    def say(self, job: Job, *lines: str) -> Job:
        for line in lines:
            job = understand(job, line).act(job, AT).job
        return job

    def test_a_capture_beside_a_sisters(self) -> None:
        job = self.take(camera(), "sister.csv", FLAT)
        job = self.say(self.take(self.say(job, "1 is vreg to gnd", "1 sister"), "a.csv", SAW), "2 is vreg to gnd")
        shown = traces_shown(job)
        self.assertEqual([one.mark for one in shown.rows], ["empty", "high"])
        self.assertIn("Other: sawtooth", shown.beside[0][1])
        self.assertIn("sawtooth", shown.headline)
        self.assertIsNotNone(self.captures.pyramid(job.exposing.traces[1]))
        self.assertEqual(len(self.say(job, "drop 1").exposing.traces), 1)

    def test_the_sheet_shows_the_newest_before_the_repair_and_since(self) -> None:
        job = self.take(camera(), "sister.csv", FLAT)
        job = self.say(self.take(self.say(job, "1 is vreg to gnd", "1 sister"), "a.csv", SAW), "2 is vreg to gnd")
        self.assertEqual([row[0] for block in paper(job) if isinstance(block, Pairs) for row in block.rows], ["vreg to gnd"])
        mended = replace(job, proving=replace(job.proving, mends=(NamedRepair("capacitor", "2026-11-04T12:00:00+00:00"),)))
        new = mended.exposing.traces[1]
        _listing, act = self.captures.file_in.read(mended, "b.csv", capture(FLAT))
        since = act(mended, "2026-11-05T10:00:00+00:00").job
        since = self.say(since, "3 is vreg to gnd")
        rows = [row for block in paper(since) if isinstance(block, Pairs) for row in block.rows]
        self.assertEqual([row[0] for row in rows], ["vreg to gnd, before the repair", "vreg to gnd, since"])
        self.assertTrue(rows[0][1].startswith(new.shape))
        self.assertTrue(rows[1][1].startswith("flat"))

    def test_two_channels_say_which_leads(self) -> None:
        shown = traces_shown(self.take(camera(), "two.csv", CLOCK, LATE))
        self.assertRegex(shown.beside[0][1], r"CH1 leads CH2 by (1\.9|2|2\.0)\d* ms")

    def test_the_order_of_contacts_and_how_long_they_hold(self) -> None:
        half, full = ((at < T) & (T < 0.15) for at in (0.05, 0.08))
        shown = traces_shown(self.take(camera(), "press.csv", 3.0 * half, 3.0 * full))
        said = [words for _, words in shown.beside]
        self.assertIn("CH1 switches at 0.05005 s for 100 ms.", said)
        self.assertIn("CH2 switches at 0.08005 s for 70 ms, 30 ms after the one before.", said)

    def test_evidence_for_trace(self) -> None:
        job = choose_circuit(camera(), "r", next(one.text for one in templates() if one.stem == "regulator-clock"), AT).job
        job = self.say(self.take(job, "a.csv", SAW), "1 is vreg to gnd")
        done = self.say(job, "1 to trace")
        evidence = done.tracing.now[-1].evidence
        self.assertEqual((evidence.test, evidence.plus, evidence.minus), ("ripple", "vreg", "0"))
        self.assertEqual(evidence.value, job.exposing.traces[0].peak_to_peak)  # the very figure, not what is said of it

    def test_a_clock_that_the_sister_has_is_missing(self) -> None:
        job = choose_circuit(camera(), "r", next(one.text for one in templates() if one.stem == "regulator-clock"), AT).job
        job = self.say(self.take(job, "s.csv", CLOCK), "1 is clkin to gnd", "1 sister")
        job = self.say(self.take(job, "a.csv", 0 * FLAT + 0.01 * np.sin(T)), "2 is clkin to gnd")
        self.assertIn("issing", traces_shown(job).beside[0][1])
        job = self.say(job, "2 to trace")
        self.assertEqual((job.tracing.now[-1].evidence.test, job.tracing.now[-1].evidence.value), ("clock", 0.0))

    def test_what_a_recording_shows_goes_out_as_csv_and_comes_in_again(self) -> None:
        circuit = circuit_from(next(one.text for one in templates() if one.stem == "silicon-shutter"))
        setting = usual_setting(circuit)
        lines = ("rail sawtooth 0.4 V", "rail dips 0.3 V", "no clock at ct", "time 41 ms", "wakes by itself")
        said = [understand_evidence(circuit, line, setting).evidence for line in lines]
        several = tuple(one for one in said if one is not None)
        self.assertEqual(len(several), len(lines))
        self.assertEqual(read_evidence(write_evidence(several).encode(), circuit).evidence, several)

    def test_lines_that_cannot_be(self) -> None:
        job = self.take(camera(), "a.csv", SAW)
        for line in ("", "2 sister", "1 to trace", "drop 9", "sawtooth"):
            with self.subTest(line), self.assertRaises(VioletDialError):
                self.say(job, line)
        self.assertEqual(traces_shown(camera()).rows, ())


if __name__ == "__main__":
    unittest.main()
