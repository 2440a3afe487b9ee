"""What is said for and against a suspect: the figures in the sentences against the circuit solved with them in it."""

import re
import unittest
from dataclasses import replace
from pathlib import Path

import violet_dial
from tests.core.diagnosis.test_predict import as_it_stands
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.case import Case, Suspect
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.diagnosis.explain import Reasons, evidence_said, reasons_for, short_words, spoken, suspect_words
from violet_dial.core.diagnosis.hypotheses import Priors
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.records.circuit import Evidence

CIRCUITS = Path(violet_dial.__file__).parent / "assets" / "circuits"
SERIES = read_spice((CIRCUITS / "cds-series.cir").read_text(encoding="utf-8"))


def evidence(circuit: Circuit, *lines: str) -> tuple[Evidence, ...]:
    found = []
    now = usual_setting(circuit).lit(1000.0)
    for line in lines:
        typed = understand_evidence(circuit, line, now)
        now = typed.setting
        if typed.evidence is not None:
            found.append(typed.evidence)
    return tuple(found)


def told(lines: tuple[str, ...], name: str, belief: Priors | None = None) -> tuple[Suspect, Reasons]:
    case = Case(SERIES, (evidence(SERIES, *lines),), belief=belief or Priors())
    diagnosis = Diagnostician().diagnose(case)
    suspect = next(one for one in diagnosis.suspects if one.faults and one.faults[0].name == name and len(one.faults) == 1)
    return suspect, reasons_for(case, diagnosis, suspect)


class Figures(unittest.TestCase):
    LINES = ("clip+ to gnd 1.35 V", "sw to gnd 80 mV")

    def volts_with(self, ohm: float, part: str = "Rwred", node: str = "sw") -> float:
        parts = tuple(replace(one, value=ohm) if one.name == part else one for one in SERIES.parts)
        stands = as_it_stands(SERIES.with_parts(parts), usual_setting(SERIES))
        meter = Part("Rvoltmeter", "R", (node, "0"), 10e6)
        return operating_point(stands.with_parts((*stands.parts, meter))).voltages[node]

    def test_the_range_that_is_needed_brackets_the_reading(self) -> None:
        _, reasons = told(self.LINES, "Rwred high resistance")
        sentence = next(one for one in reasons.pro if "needs" in one)
        found = re.search(r"needs ([\d.]+) to ([\d.]+) kΩ in series: red wire could be that", sentence)
        assert found is not None, sentence
        low, high = (1e3 * float(one) for one in found.groups())
        self.assertGreater(self.volts_with(low), 0.08)
        self.assertLess(self.volts_with(high), 0.08)
        # Two standard deviations of a sketch's reading (10 mV and 2 %) and of the parts' tolerances: not much wider.
        self.assertLess(self.volts_with(low), 0.16)
        self.assertGreater(self.volts_with(high), 0.03)

    def test_a_leak_is_from_it_to_chassis(self) -> None:
        _, reasons = told(("swo to gnd 1.35 V", "cell+ to gnd 0.6 V"), "Rwblue leaks to chassis")
        self.assertTrue(all("to chassis" in one for one in reasons.pro if "needs" in one))


class Sides(unittest.TestCase):
    def test_for_and_against(self) -> None:
        _, pro = told(("clip+ to gnd 1.35 V", "lead to gnd 1.35 V", "sw to gnd 0 V"), "Rwred open")
        self.assertTrue(any(one.startswith("sw to gnd 0 V") and "a healthy one shows 1.3" in one for one in pro.pro))
        self.assertEqual(pro.con, ())
        _, con = told(("clip+ to gnd 1.35 V", "lead to gnd 1.35 V", "sw to gnd 0 V"), "Rclip open")
        self.assertTrue(any("lead to gnd 1.35 V" in one and "this fault would show 0.0" in one for one in con.con))

    def test_what_was_found_nearby_is_said_with_its_factor(self) -> None:
        _, reasons = told(("needle dead",), "Rclip open", Priors(raised=(("rclip", 8.0),)))
        self.assertIn("found near plus clip: 8 times as likely beforehand", reasons.pro)

    def test_a_beep_speaks_too(self) -> None:
        suspect, reasons = told(("lead to sw no beep",), "Rwred open")
        self.assertGreater(suspect.probability, 0.25)
        self.assertEqual(reasons.pro, ("lead to sw no beep: a healthy one shows beep, this fault no beep",))


class Words(unittest.TestCase):
    def test_parts_are_called_what_the_technician_calls_them(self) -> None:
        plain = read_spice("t\nV1 a 0 1\nR1 a 0 1k\nR2 a 0 1\n*: R2 kind=wire colour=green\n.end\n")
        self.assertEqual(short_words(SERIES, "Rclip"), "plus clip")
        self.assertEqual(short_words(plain, "R1"), "R1")
        self.assertEqual(short_words(plain, "R2"), "green wire")
        self.assertEqual(spoken(SERIES, "Rclip open and Rmeter open coil"), "plus clip: open, with movement: open coil")
        self.assertEqual(spoken(SERIES, "no fault"), "no fault")
        self.assertEqual(
            evidence_said(SERIES, evidence(SERIES, "S1 on", "Rser 12 uA")[0]), "series resistor 12 µA (S1 on, 1000 lx)"
        )

    def test_a_suspect_carries_its_figure(self) -> None:
        suspect, _ = told(("clip+ to gnd 1.35 V", "sw to gnd 80 mV"), "Rwred high resistance")
        self.assertRegex(suspect_words(SERIES, suspect), r"^red wire: high resistance, about [\d.]+ kΩ$")
