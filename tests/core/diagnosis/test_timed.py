"""The time of an electronic shutter as evidence: that of a sound one beside Power's timer, and which parts another time
points to."""

import unittest

import numpy as np

from violet_dial.core.circuit.trade import usual_setting
from violet_dial.core.diagnosis.case import Case
from violet_dial.core.diagnosis.evidence import how_long, understand_evidence
from violet_dial.core.diagnosis.hypotheses import Hypothesis
from violet_dial.core.diagnosis.posterior import Diagnostician
from violet_dial.core.diagnosis.predict import Predictor
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.device import Points, Timer, device_of
from violet_dial.core.records.circuit import Evidence, Fault
from violet_dial.core.records.light import DEFAULT_C_FLAT
from violet_dial.core.task import SilentTask
from violet_dial.services.circuits import circuit_from, templates

CIRCUIT = circuit_from(next(one.text for one in templates() if one.stem == "silicon-shutter"))
LIGHT_LX = 1000.0
STANDS = usual_setting(CIRCUIT).with_switch("s2", "pressed")
ASK = Evidence("time", 0.0, part="Ct", setting=STANDS)


class Times(unittest.TestCase):
    def predicted(self, *faults: Fault) -> float:
        several = tuple(Hypothesis(one, 0.0) for one in ((), *((fault,) for fault in faults)))
        return float(10 ** Predictor(CIRCUIT, several, draws=0).of(ASK).mean[-1])

    def test_a_sound_one_beside_the_timer_of_power(self) -> None:
        # Power's timer stands beside ngspice's transient in tests/core/power.
        timer = Timer(device_of(CIRCUIT), "Ct")
        ev100 = np.array([np.log2(LIGHT_LX / DEFAULT_C_FLAT * 100)])
        wanted = 1.0 / float(timer.per_second(Points(ev100, np.array([6.0])), SilentTask())[0])
        self.assertAlmostEqual(self.predicted() / wanted, 1.0, delta=0.03)

    def test_parts_change_it_as_the_formula_says(self) -> None:
        sound = self.predicted()
        self.assertAlmostEqual(self.predicted(Fault("Ct", "too high", 2.0)) / sound, 2.0, delta=0.02)
        self.assertAlmostEqual(self.predicted(Fault("Iph", "tired", 0.25)) / sound, 4.0, delta=0.3)
        self.assertLess(self.predicted(Fault("Ct", "open")), sound / 100)
        self.assertGreaterEqual(self.predicted(Fault("Iph", "dead", 0.0)), 50.0)

    def test_a_long_time_points_to_the_cell_and_the_capacitor(self) -> None:
        typed = understand_evidence(CIRCUIT, "time 500 ms", STANDS).evidence
        assert typed is not None
        found = Diagnostician().diagnose(Case(CIRCUIT, ((typed,),)))
        self.assertEqual({one.name for one in found.suspects[:2]}, {"Iph tired", "Ct too high"})

    def test_a_magnet_that_never_lets_go_or_never_holds(self) -> None:
        for line, first in (("time never lets go", ("Iph",)), ("time never holds", ("Rclip", "Rs2", "Vbat", "Rwred"))):
            typed = understand_evidence(CIRCUIT, line, STANDS)
            assert typed.evidence is not None
            self.assertIn(line.removeprefix("time "), typed.words)
            found = Diagnostician().diagnose(Case(CIRCUIT, ((typed.evidence,),)))
            self.assertIn(found.suspects[0].faults[0].part, first)
            self.assertNotIn("Ct too", found.suspects[0].name)
        self.assertEqual([how_long(one) for one in (1e-4, 0.0411, 100.0)], ["never holds", "41.1 ms", "never lets go"])

    def test_what_cannot_be_is_said(self) -> None:
        other = circuit_from(next(one.text for one in templates() if one.stem == "cds-series"))
        for circuit, line in ((other, "time 41 ms"), (CIRCUIT, "time at 1/30 41 ms"), (CIRCUIT, "time 4 V")):
            with self.subTest(line), self.assertRaises(InvalidInput):
                understand_evidence(circuit, line, usual_setting(circuit))


if __name__ == "__main__":
    unittest.main()
