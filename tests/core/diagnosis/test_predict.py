"""Predicted readings against the same circuit with the instrument built in as a part, on every circuit that ships.

Source
------
The operating point solver, itself checked against ngspice; a meter in the circuit is ordinary network theory (Thevenin).
"""

import math
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

import violet_dial
from violet_dial.core.circuit.netlist import Circuit, Part
from violet_dial.core.circuit.operating import OperatingPoint, operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import set_circuit, usual_setting, with_inner
from violet_dial.core.diagnosis.hypotheses import Hypothesis, Priors, singles_of
from violet_dial.core.diagnosis.predict import Meter, Predictor
from violet_dial.core.diagnosis.standing import LEAK_S
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import LEADS_OHM, Fault, Setting

CIRCUITS = sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))
HEALTHY = (Hypothesis((), 0.0),)


def as_it_stands(circuit: Circuit, setting: Setting) -> Circuit:
    """The circuit in a setting, with the leaks and the cells' resistance that predictions take for granted, as parts."""
    stands = set_circuit(circuit, setting)
    leaks = [Part(f"Rleak{node}", "R", (node, "0"), 1.0 / LEAK_S) for node in stands.nodes]
    return stands.with_parts((*with_inner(stands).parts, *leaks))


def with_series(circuit: Circuit, name: str, ohm: float) -> OperatingPoint:
    """The operating point with a resistance put between a part and its first node."""
    parts = [replace(part, nodes=("probe", *part.nodes[1:])) if part.name == name else part for part in circuit.parts]
    first = circuit.part(name).nodes[0]
    return operating_point(circuit.with_parts((*parts, Part("Rammeter", "R", (first, "probe"), ohm))))


class InstrumentsAsParts(unittest.TestCase):
    def each(self) -> list[tuple[str, Circuit, Setting, Predictor]]:
        found = []
        for path in CIRCUITS:
            circuit = read_spice(path.read_text(encoding="utf-8"))
            found.append((path.stem, circuit, usual_setting(circuit), Predictor(circuit, HEALTHY)))
        self.assertGreaterEqual(len(found), 8)
        return found

    def test_voltmeter_loads_what_it_measures(self) -> None:
        for stem, circuit, setting, predictor in self.each():
            stands = as_it_stands(circuit, setting)
            for node in set_circuit(circuit, setting).nodes:
                with self.subTest(stem, node=node):
                    meter = Part("Rvoltmeter", "R", (node, "0"), predictor.meter.input_ohm)
                    shown = operating_point(stands.with_parts((*stands.parts, meter))).voltages[node]
                    self.assertAlmostEqual(
                        float(predictor.volts(node, "0", setting).mean[0]), shown, delta=0.001 + 0.001 * abs(shown)
                    )

    def test_ammeter_takes_its_share_of_the_loop(self) -> None:
        checked = changed = 0
        for stem, circuit, setting, predictor in self.each():
            stands = as_it_stands(circuit, setting)
            plain = operating_point(stands)
            for part in set_circuit(circuit, setting).parts:
                through = abs(plain.currents[part.name]) if part.letter in "RD" else 0.0
                if through < 1e-7:
                    continue
                with self.subTest(stem, part=part.name):
                    ohm = float(predictor.meter.burden_ohm(np.array([through]))[0])
                    shown = abs(with_series(stands, part.name, ohm).currents["Rammeter"])
                    predicted = predictor.amps(part.name, setting)
                    self.assertAlmostEqual(abs(float(predicted.mean[0])), shown, delta=2 * float(predicted.sigma[0]))
                    checked += 1
                    changed += shown < 0.95 * through
        self.assertGreater(checked, 40)
        self.assertGreater(changed, 5)  # where it matters at all

    def test_ammeter_in_a_resistive_loop_is_exact(self) -> None:
        circuit = read_spice("loop\nV1 a 0 1.5\n*: V1 kind=battery ri=2\nR1 a b 800\nR2 b 0 1.2k\nR3 b 0 3k\n.end\n")
        predictor = Predictor(circuit, HEALTHY)
        stands = as_it_stands(circuit, Setting())
        for name in ("R1", "R2", "R3"):
            through = abs(operating_point(stands).currents[name])
            ohm = float(predictor.meter.burden_ohm(np.array([through]))[0])
            shown = abs(with_series(stands, name, ohm).currents["Rammeter"])
            self.assertAlmostEqual(float(predictor.amps(name, Setting()).mean[0]), shown, delta=1e-4 * shown)
        battery = -float(predictor.amps("V1", Setting()).mean[0])  # in series with the cell: as with R1
        self.assertAlmostEqual(battery, float(predictor.amps("R1", Setting()).mean[0]), delta=1e-8)

    def test_the_range_that_fits_sets_the_burden(self) -> None:
        currents = np.array([50e-6, 200e-6, 201e-6, 15e-3, 0.15, 3.0, 50.0])
        self.assertEqual([round(ohm, 3) for ohm in Meter().burden_ohm(currents)], [1000.0, 1000.0, 100.0, 10.0, 1.0, 0.02, 0.02])

    def test_ohmmeter_drives_a_small_current(self) -> None:
        """One microampere into the circuit with the supply out, by the operating point solver."""
        small_a = 1e-6
        for stem, circuit, setting, predictor in self.each():
            dark = replace(setting, supply="off", light_lx=0.0)
            stands = as_it_stands(circuit, dark)
            before = operating_point(stands).voltages
            for node in set_circuit(circuit, dark).nodes:
                with self.subTest(stem, node=node):
                    driven = Part("Iohmmeter", "I", ("0", node), small_a)
                    volts = operating_point(stands.with_parts((*stands.parts, driven))).voltages[node] - before[node]
                    if abs(volts) > 0.02:  # a junction begins to bend: an ohmmeter's figure depends on its test current
                        continue
                    shown = volts / small_a + LEADS_OHM
                    predicted = predictor.ohms(node, "0", dark)
                    away = math.log10(shown) - float(predicted.mean[0])
                    # a meter that drives more sees junctions
                    self.assertLess(abs(away), 0.01 + 1.01 * float(predicted.bend[0] + predicted.doubt[0]))

    def test_every_fault_leaves_a_state_to_be_predicted(self) -> None:
        """Also a starved regulator: what no solution is found for would count as unknown."""
        for stem, circuit, setting, _ in self.each():
            singles = singles_of(circuit, Priors())
            block = Predictor(circuit, singles).block(setting)
            self.assertEqual([singles[place].name for place in np.flatnonzero(~block.solved)], [], stem)

    def test_starved_regulator_as_the_circuit_with_the_fault_built_in(self) -> None:
        path = next(one for one in CIRCUITS if one.stem == "regulator-clock")
        circuit = read_spice(path.read_text(encoding="utf-8"))
        setting = usual_setting(circuit)
        singles = singles_of(circuit, Priors())
        predictor = Predictor(circuit, singles)
        volts = predictor.block(setting).across("vraw", "0")
        checked = 0
        for place, one in enumerate(singles):
            if one.name == "Rconn high resistance":
                parts = tuple(
                    replace(part, value=one.faults[0].figure) if part.name == "Rconn" else part for part in circuit.parts
                )
                expected = operating_point(as_it_stands(circuit.with_parts(parts), setting)).voltages["vraw"]
                self.assertAlmostEqual(float(volts[place]), expected, delta=0.002 + 0.002 * expected)
                checked += 1
        self.assertGreater(checked, 10)

    def test_an_output_that_is_pulled_gives_way(self) -> None:
        """A blob from the battery onto a regulator's output lifts it: nobody sinks twenty amperes."""
        circuit = read_spice(next(one for one in CIRCUITS if one.stem == "regulator-clock").read_text(encoding="utf-8"))
        blob = Fault("lead", "bridged to vreg0", 0.1, to_node="vreg0")
        block = Predictor(circuit, (*HEALTHY, Hypothesis((blob,), 0.0))).block(usual_setting(circuit))
        sound, lifted = block.across("vreg0", "0")
        self.assertAlmostEqual(sound, 2.6, delta=0.02)
        self.assertGreater(lifted, 4.0)

    def test_points_and_parts_that_are_not_there_are_named(self) -> None:
        circuit = read_spice("t\nV1 a 0 1\nR1 a 0 1k\nE1 b 0 a 0 2\nR2 b 0 1k\nC1 a 0 1u\n.end\n")
        predictor = Predictor(circuit, HEALTHY)
        with self.assertRaisesRegex(InvalidInput, "nowhere"):
            predictor.volts("nowhere", "0", Setting())
        with self.assertRaisesRegex(InvalidInput, "current can be told"):
            predictor.amps("C1", Setting())
