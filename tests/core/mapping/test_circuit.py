"""The circuit that is made of a map, and what an ohmmeter shows on it, beside ngspice."""

import re
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from bench.boards import drawn
from tests.core.circuit.test_against_ngspice import ngspice
from tests.core.mapping.boards import said
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.mapping.board import Touch, node_of
from violet_dial.core.mapping.boxes import cannot_tell
from violet_dial.core.mapping.change import rename, say, take_out
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.ohms import expected_ohm, network
from violet_dial.core.mapping.switches import truth_table
from violet_dial.core.mapping.taken import reading_of
from violet_dial.core.records.circuit import LEADS_OHM, Setting

ROOT = Path(__file__).parents[3]
CIRCUITS = sorted([*(ROOT / "src/violet_dial/assets/circuits").glob("*.cir"), *(ROOT / "bench/circuits").glob("*.cir")])


class Compiles(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def theirs(self, text: str) -> dict[str, float]:
        printed = ngspice(text, "op\nset numdgt=9\nprint all", self.folder)
        return {name.lower(): float(value) for name, value in re.findall(r"^(\S+) = (\S+)$", printed, re.MULTILINE)}

    def test_the_same_operating_point_in_ngspice(self) -> None:
        text = compiled(said()).text
        ours, theirs = operating_point(checked_circuit(text)).voltages, self.theirs(text)
        self.assertGreater(len(ours), 9)
        for node, volts in ours.items():
            self.assertAlmostEqual(volts, theirs[node], delta=max(1e-3 * abs(volts), 1e-3), msg=node)

    def test_ohms_in_the_circuit_as_ngspice_has_them(self) -> None:
        """A microampere from spot to spot (ngspice), within 1 % or a tenth of an ohm, on invented boards."""
        for seed in (12_000, 12_003, 12_004):
            board = drawn(seed).true
            plain = replace(board, items=tuple(replace(one, measured_ohm=None) for one in board.items))
            text = compiled(plain).text
            there = network(checked_circuit(text), Setting())
            rng = np.random.default_rng(seed)
            names = [one.name for one in plain.spots if plain.at(one.name)]
            for _ in range(6):
                a, b = (node_of(names[int(n)]) for n in rng.choice(len(names), 2, replace=False))
                ohm = expected_ohm(there, a, b).ohm - LEADS_OHM
                if ohm > 1e6:
                    continue
                theirs = self.theirs(text.replace("\n.end", f"\nItest {b} {a} 1u\n.end"))
                read = (theirs.get(a, 0.0) - theirs.get(b, 0.0)) / 1e-6
                self.assertAlmostEqual(ohm, read, delta=max(0.01 * read, 0.1), msg=f"{seed}: {a} to {b}")

    def test_circuits_become_maps_and_the_same_circuits_again(self) -> None:
        for path in CIRCUITS:
            with self.subTest(path.stem):
                text = path.read_text(encoding="utf-8")
                board = board_from_spice(text)
                one, other = checked_circuit(text), checked_circuit(compiled(board, "x").text)
                self.assertEqual([part.name for part in one.parts], [part.name for part in other.parts])
                self.assertEqual(one.notes, other.notes)
                self.assertEqual(operating_point(one), operating_point(other))
                name = next(spot.name for spot in board.spots if spot.name != "chassis")
                renamed = checked_circuit(compiled(rename(board, name, "new spot")[0], "x").text)
                self.assertIn("new_spot", renamed.nodes)

    def test_what_is_missing_and_what_cannot_be_told_is_said(self) -> None:
        self.assertIn("nothing feeds the map", compiled(said("track a to b")).missing[0])
        self.assertIn("nothing feeds far", " ".join(compiled(said("battery a to chassis\ntrack far to off")).missing))
        self.assertIn("pin 9", cannot_tell(said())[0])

    def test_a_box_gives_no_more_than_it_is_fed(self) -> None:
        fed = operating_point(checked_circuit(compiled(said()).text)).voltages
        flat, _ = say(take_out(said(), "battery"), "battery 0.01 clip+ to chassis")
        starved = operating_point(checked_circuit(compiled(flat).text)).voltages
        self.assertGreater(fed["ctl"], 2.0)
        self.assertLess(starved["ctl"], 0.2)


class Readings(unittest.TestCase):
    def test_what_does_not_fit_says_what_would(self) -> None:
        board = said("battery clip+ to chassis\nR1 2k2 from clip+ to x\nR2 10k x to chassis")
        odd = reading_of(board, Touch("clip+", "x", 1100.0))
        self.assertTrue(odd.is_odd)
        self.assertIn("something of about 2.2 kΩ lies beside it; nothing on the map does", odd.words)
        self.assertFalse(reading_of(board, Touch("clip+", "x", 2190.0)).is_odd)
        self.assertIn("not there, broken", reading_of(board, Touch("clip+", "x", 5e7)).words)

    def test_what_only_looks_like_a_fault_is_said_before_it_counts(self) -> None:
        on = Setting(switches=(("s1", "on"),))
        board = said("battery clip+ to chassis\nS1 off/on: clip+ to -, run\nmotor run to chassis 6 ohm\nR1 1k run to chassis")
        self.assertIn("a switch joins them", reading_of(board, Touch("clip+", "run", 0.2, setting=on)).words)
        self.assertIn("few ohms by itself", reading_of(board, Touch("run", "chassis", 6.1, setting=on)).words)
        parallel = said("R1 2k2 from a to b\nR2 2k2 from a to b")
        self.assertIn("lies beside it", reading_of(parallel, Touch("a", "b", 1100.0)).words)

    def test_switch_truth_is_filled_from_touches(self) -> None:
        board = said("S1 off/on: common to -, run\nspot x")
        off = replace(Touch("S1 common", "run", 0.2), setting=Setting(switches=(("s1", "off"),)))
        table = truth_table(replace(board, touches=(off,)))
        self.assertEqual([(one.position, one.said, one.touched) for one in table], [("off", False, True), ("on", True, None)])
        self.assertTrue(table[0].is_wrong)


class HalfSaid(unittest.TestCase):
    def test_what_nothing_feeds_yet_has_an_operating_point_all_the_same(self) -> None:
        """A regulator only looks at its input: where nothing else is there, insulation holds it."""
        board = said("battery 1.35 clip+ to chassis\nregulator in rail0 out rail gnd sw- 2.6 V\nR1 1k rail to clip+\nspot far")
        point = operating_point(checked_circuit(compiled(board).text))
        self.assertAlmostEqual(point.voltages["rail0"], 0.0, places=3)
        self.assertIn("far", point.voltages)


if __name__ == "__main__":
    unittest.main()
