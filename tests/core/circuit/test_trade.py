"""What the trade adds to a netlist: kinds, switches, light, supply, tolerances, and what it takes to reach a point."""

import unittest
from dataclasses import replace
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

import violet_dial
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import (
    KINDS,
    TOLERANCES,
    access_to,
    check_notes,
    figure,
    kind_of,
    place_of,
    set_circuit,
    switches_of,
    tolerance_of,
    usual_setting,
)
from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.circuit import Setting

CIRCUITS = sorted((Path(violet_dial.__file__).parent / "assets" / "circuits").glob("*.cir"))
TEXT = """A range switch and a cell
V1 a 0 3
*: V1 kind=battery ri=1.5 place="battery cover"
R1 a lo 0.05
*: R1 switch=S1 closed=low|both positions=off|low|high|both
R2 a hi 1g
*: R2 switch=S1 closed=high|both
R3 lo c 1k
R4 hi c 10k
R5 c 0 10k
*: R5 kind=cds r10=100k gamma=0.5 behind="top cover" minutes=12
R6 c 0 22k
*: R6 tol=5% behind="base plate" minutes=3 place=prism
I1 0 d 1m
*: I1 kind=photocell a_per_lx=2u
R7 d 0 1k
*: R7 tol=0.2
.end
"""
CIRCUIT = read_spice(TEXT)


class Standing(unittest.TestCase):
    def test_positions_in_the_order_they_are_noted(self) -> None:
        switch = switches_of(CIRCUIT)["s1"]
        self.assertEqual(switch.positions, ("off", "low", "high", "both"))
        self.assertEqual([name for name, _ in switch.contacts], ["R1", "R2"])
        plain = read_spice("t\nR1 a 0 1\n*: R1 switch=S2\n.end\n")
        self.assertEqual(switches_of(plain)["s2"].positions, ("off", "on"))

    def test_the_netlist_s_own_values_say_how_it_usually_stands(self) -> None:
        self.assertEqual(usual_setting(CIRCUIT).switches, (("s1", "low"),))
        turned = read_spice(TEXT.replace("R1 a lo 0.05", "R1 a lo 1g").replace("R2 a hi 1g", "R2 a hi 0.05"))
        self.assertEqual(usual_setting(turned).switches, (("s1", "high"),))

    def test_each_position_closes_its_contacts(self) -> None:
        for position, low, high in (("off", False, False), ("low", True, False), ("high", False, True), ("both", True, True)):
            stands = set_circuit(CIRCUIT, Setting().with_switch("s1", position))
            self.assertEqual([stands.part(name).value < 1.0 for name in ("R1", "R2")], [low, high], position)

    def test_light_moves_cells_by_their_own_laws(self) -> None:
        """A photoresistor falls by the power of its gamma from its resistance at 10 lx; a photocell's current is even."""
        for light in (1.0, 10.0, 250.0, 10_000.0):
            stands = set_circuit(CIRCUIT, Setting(light_lx=light))
            self.assertAlmostEqual(stands.part("R5").value, 100e3 * (light / 10.0) ** -0.5, delta=1e-6)
            self.assertAlmostEqual(stands.part("I1").value, 2e-6 * light, delta=1e-12)
        dark = set_circuit(CIRCUIT, Setting(light_lx=0.0))
        self.assertLess(dark.part("R5").value, 1e9)  # bounded: a cell is never a perfect insulator
        self.assertEqual(dark.part("I1").value, 0.0)

    def test_cells_out_leaves_their_place_empty(self) -> None:
        out = set_circuit(CIRCUIT, Setting(supply="off"))
        self.assertEqual(out.part("V1").letter, "R")
        self.assertLess(abs(operating_point(out).voltages["a"]), 1e-3)
        self.assertEqual(set_circuit(CIRCUIT, Setting(supply="bench")).part("V1").value, 3.0)

    def test_a_lifted_part_is_not_there(self) -> None:
        stands = set_circuit(CIRCUIT, Setting(disconnected=("r6", "R3")))
        self.assertFalse(stands.has("R6"))
        self.assertFalse(stands.has("R3"))
        self.assertTrue(stands.has("R4"))

    def test_what_is_no_switch_or_position_is_named(self) -> None:
        for name, position in (("s9", "on"), ("s1", "sideways")):
            with self.subTest(name), self.assertRaisesRegex(InvalidInput, "S1 off|low|high|both"):
                set_circuit(CIRCUIT, Setting(switches=((name, position),)))

    def test_a_setting_is_said_shortly(self) -> None:
        self.assertEqual(Setting().words, "")
        setting = Setting((("s1", "low"),), "bench", 10.0, ("R6",), ("bent", "cold"))
        self.assertEqual(setting.words, "S1 low, on the bench supply, 10 lx, R6 lifted, bent, cold")

    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(CIRCUITS), st.sampled_from(("battery", "bench", "off")), st.floats(0.0, 1e5), st.integers(0, 10**6))
    def test_any_setting_of_a_circuit_that_ships_has_an_operating_point(
        self, path: Path, supply: str, light_lx: float, pick: int
    ) -> None:
        circuit = read_spice(path.read_text(encoding="utf-8"))
        setting = replace(usual_setting(circuit), supply=supply, light_lx=light_lx)  # type: ignore[arg-type]
        for name, switch in switches_of(circuit).items():
            setting = setting.with_switch(name, switch.positions[pick % len(switch.positions)])
        stands = set_circuit(circuit, setting)
        most = 1.05 * sum(abs(part.value) for part in stands.parts if part.letter == "V") + 1.0
        for node, volts in operating_point(stands).voltages.items():
            self.assertLess(abs(volts), most + 1e3 * light_lx, f"{path.stem} {node}")


class Noted(unittest.TestCase):
    def test_kinds_by_note_and_by_letter(self) -> None:
        self.assertEqual([kind_of(CIRCUIT, CIRCUIT.part(name)) for name in ("V1", "R5", "R3", "I1")],
                         ["battery", "cds", "resistor", "photocell"])  # fmt: skip
        for path in CIRCUITS:
            circuit = read_spice(path.read_text(encoding="utf-8"))
            check_notes(circuit)
            for part in circuit.parts:
                self.assertIn(kind_of(circuit, part), (*KINDS, "supply", "source", "instrument"), f"{path.stem} {part.name}")

    def test_tolerances_are_limits_taken_as_two_deviations(self) -> None:
        self.assertAlmostEqual(tolerance_of(CIRCUIT, CIRCUIT.part("R6")), 0.025)
        self.assertAlmostEqual(tolerance_of(CIRCUIT, CIRCUIT.part("R7")), 0.1)
        self.assertEqual(tolerance_of(CIRCUIT, CIRCUIT.part("R5")), TOLERANCES["cds"])

    def test_figures_with_suffixes(self) -> None:
        self.assertEqual(figure(CIRCUIT, "R5", "r10", 1.0), 100e3)
        self.assertEqual(figure(CIRCUIT, "R5", "nothing", 7.0), 7.0)
        with self.assertRaisesRegex(InvalidInput, "a number such as"):
            figure(read_spice("t\nR1 a 0 1\n*: R1 r10=much\n.end\n"), "R1", "r10", 1.0)

    def test_the_easiest_part_to_reach_a_point_at(self) -> None:
        self.assertEqual(access_to(CIRCUIT, "c").behind, "")  # R3 and R4 are in the open
        self.assertEqual((access_to(CIRCUIT, "d").minutes, access_to(CIRCUIT, "d").behind), (0.0, ""))
        noted = read_spice(TEXT.replace(".end", '*: c behind="front ring" minutes=4\n.end'))
        self.assertEqual((access_to(noted, "c").minutes, access_to(noted, "c").behind), (4.0, "front ring"))
        self.assertEqual(place_of(CIRCUIT, "R6"), "prism")
        self.assertEqual(place_of(CIRCUIT, "R3"), "")


if __name__ == "__main__":
    unittest.main()
