"""What a battery lasts in use: sums done by hand, lines as they are said, states by the circuit beside its operating point."""

import unittest
from dataclasses import replace

from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.trade import set_circuit
from violet_dial.core.errors import InvalidInput
from violet_dial.core.power.budget import HOURS_A_MONTH, Use, budget, currents, understand_use
from violet_dial.core.power.cells import SIZES
from violet_dial.core.power.device import device_of, lux_of
from violet_dial.core.power.states import states_of
from violet_dial.services.circuits import circuit_from, templates

TEXTS = {one.stem: one.text for one in templates()}


class Sums(unittest.TestCase):
    def test_charge_a_month_by_hand(self) -> None:
        use = Use(rolls_a_month=2.0, hours_a_roll=(("metering", 0.5),), leak_a=2e-6)
        cell = SIZES["LR44"]
        found = budget(cell, use, {"metering": 100e-6, "asleep": 1e-6})
        month = 100e-6 * 1.0 + 1e-6 * (HOURS_A_MONTH - 1.0) + 2e-6 * HOURS_A_MONTH + cell.ah * 0.03 / 12
        self.assertAlmostEqual(sum(one.ah for one in found.shares), month)
        self.assertAlmostEqual(found.weeks, 0.9 * cell.ah / month * HOURS_A_MONTH / 168)
        self.assertAlmostEqual(found.rolls, found.weeks * 2 * 168 / HOURS_A_MONTH)
        self.assertTrue(found.weeks_low < found.weeks < found.weeks_high)
        self.assertAlmostEqual(sum(one.share for one in found.shares), 1.0)

    def test_air_and_years_on_the_shelf_end_it_too(self) -> None:
        idle = Use(rolls_a_month=0.1)
        air = budget(SIZES["PR44"], idle, {"asleep": 1e-9})
        self.assertEqual((air.weeks_low, air.weeks_high), (6.0, 10.0))
        self.assertLessEqual(budget(SIZES["SR44"], idle, {"asleep": 1e-9}).weeks_high, 10.1 * 52.2)

    def test_a_shutter_held_open(self) -> None:
        use = replace(Use(), longest_open_s=7200.0)
        found = budget(SIZES["4LR44"], use, {"magnet held": 30e-3}, gives_up=0.2)
        self.assertAlmostEqual(found.open_hours or 0.0, 0.8 * 0.12 / 30e-3)
        self.assertIn("Held open 7200 s", found.warnings[0])
        self.assertIn("Left on magnet held", found.warnings[1])

    def test_the_cold_takes_its_share(self) -> None:
        warm, cold = (
            budget(SIZES["LR44"], replace(Use(), cold_c=at, rolls_a_month=30.0), {"metering": 5e-3}).weeks for at in (20.0, -10.0)
        )
        self.assertAlmostEqual(cold / warm, 0.7)


class Lines(unittest.TestCase):
    def test_as_they_are_said(self) -> None:
        use = Use()
        for line in ("3 rolls a month", "metering 20 min a roll", "magnet held 40 s a roll", "metering 120 uA", "leak 3 µA",
                     "longest open 30 s", "cold -5 C", "metering 10 min a roll"):  # fmt: skip
            use = understand_use(use, line)
        self.assertEqual(use.rolls_a_month, 3.0)
        self.assertAlmostEqual(dict(use.hours_a_roll)["metering"], 1 / 6)
        self.assertAlmostEqual(dict(use.hours_a_roll)["magnet held"], 40 / 3600)
        self.assertAlmostEqual(dict(use.typed_a)["metering"], 120e-6)
        self.assertEqual((use.longest_open_s, use.cold_c), (30.0, -5.0))
        self.assertAlmostEqual(use.leak_a, 3e-6)

    def test_what_is_not_understood(self) -> None:
        for line in ("often", "-2 rolls a month", "cold 99 C", "metering 5 ohm", "leak 5 A"):
            self.assertRaises(InvalidInput, understand_use, Use(), line)


class States(unittest.TestCase):
    def test_each_position_as_its_operating_point_has_it(self) -> None:
        for stem, volts in (("cds-two-range", 1.4), ("silicon-lamps", 5.8)):
            device = device_of(circuit_from(TEXTS[stem]))
            for state in states_of(device, volts, 8.0):
                stands = set_circuit(device.circuit, replace(state.setting, light_lx=float(lux_of(8.0))))  # type: ignore[arg-type]
                stands = replace(stands, temperature_c=20.0)
                parts = tuple(replace(one, value=volts) if one.name == device.battery else one for one in stands.parts)
                amp = -operating_point(stands.with_parts(parts)).currents[device.battery]
                self.assertAlmostEqual(state.amp, amp, delta=1e-4 * abs(amp) + 1e-8)

    def test_what_is_on_gives_the_name(self) -> None:
        found = currents(states_of(device_of(circuit_from(TEXTS["silicon-lamps"])), 5.8, 8.0))
        self.assertEqual(set(found), {"magnet held", "asleep"})
        self.assertEqual(set(currents(states_of(device_of(circuit_from(TEXTS["cds-series"])), 1.4, 8.0))), {"metering", "asleep"})


if __name__ == "__main__":
    unittest.main()
