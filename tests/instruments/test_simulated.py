"""The simulated bench: what its device shows, and how it behaves in time, on a clock of the test's own."""

import math
import unittest

import numpy as np
from scipy import optimize

from bench.touches import KINDS, some_touch
from tests.instruments.bench_at_work import CIRCUITS
from violet_dial.core.circuit.netlist import Circuit
from violet_dial.core.circuit.operating import operating_point
from violet_dial.core.circuit.spice import read_spice
from violet_dial.core.circuit.trade import set_circuit, usual_setting, with_inner
from violet_dial.core.errors import InvalidInput
from violet_dial.instruments.simulated.bench import STICKS, Air, Noise, SimulatedBench, full_scale_of, shown
from violet_dial.instruments.simulated.device import BURDEN_OHM, DIODE_TEST_A, DeviceUnderTest, hidden_fault


def circuit_named(stem: str) -> Circuit:
    return read_spice((CIRCUITS / f"{stem}.cir").read_text(encoding="utf-8"))


class Clock:
    """Time as the test says."""

    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now


class Behaving(unittest.TestCase):
    def setUp(self) -> None:
        self.clock = Clock()
        self.bench = SimulatedBench(DeviceUnderTest(circuit_named("cds-series")), 3, self.clock)

    def read(self, command: str = "READ?") -> float:
        answer = self.bench.answer(command)
        assert answer is not None
        return float(answer)

    def over(self, seconds: float, command: str = "READ?") -> np.ndarray:
        """Readings at ten a second."""
        found = []
        for _ in range(round(seconds * 10)):
            self.clock.now += 0.1
            found.append(self.read(command))
        return np.array(found)

    def test_leads_in_the_air_wander_on_volts_and_are_open_on_ohms(self) -> None:
        air = self.over(20)
        self.assertGreater(air.std(), 2e-3)
        self.assertLess(np.abs(air).max(), 0.1)
        self.bench.answer("CONF:RES")
        self.assertTrue((self.over(1) > 9e37).all())

    def test_a_touch_settles_to_the_operating_point(self) -> None:
        self.bench.answer("SIM:TOUCH clip+,gnd")
        first, last = self.over(2)[[0, -1]]
        self.assertLess(first, 1.30)
        self.assertAlmostEqual(last, 1.35, delta=0.003)
        self.bench.answer("SIM:LIFT")
        self.assertLess(abs(self.read()), 0.1)
        self.assertEqual(self.bench.answer("SIM:TOUCH?"), "AIR")

    def test_a_photoresistor_remembers_the_light(self) -> None:
        """After a change of light the reading creeps with its own time constant; at a point before it, it does not."""
        self.bench.answer("SIM:TOUCH m+,gnd")
        self.over(3)
        self.bench.answer("SIM:LIGHT 10")
        seen = self.over(12)
        end = seen[-10:].mean()
        times = np.arange(1, 41) * 0.1
        (tau,), _ = optimize.curve_fit(
            lambda t, tau: np.exp(-t / tau), times, np.log(seen[:40] / end) / math.log(seen[0] / end), p0=[1.0]
        )
        self.assertAlmostEqual(tau, 1.2, delta=0.3)

    def test_the_lamp_takes_its_time_and_the_light_meter_is_noisy(self) -> None:
        self.bench.answer("SOUR:ILL 4000")
        seen = self.over(4, "MEAS:ILL?")
        self.assertLess(seen[0], 2500)
        self.assertAlmostEqual(seen[-10:].mean(), 4000, delta=20)
        self.assertGreater(seen[-20:].std(), 1.0)
        self.assertEqual(self.read("SOUR:ILL?"), 4000)

    def test_a_sticky_pointer_lags(self) -> None:
        for lux in (10, 100, 1000, 100, 10):
            self.bench.answer(f"SIM:LIGHT {lux}")
            pulled = self.bench.device.needle()
            self.assertLessEqual(abs(self.read("SIM:NEEDLE?") - pulled), STICKS + 1e-9)
        rising = self.read("SIM:NEEDLE?")
        self.bench.answer("SIM:LIGHT 10.2")
        self.assertEqual(self.read("SIM:NEEDLE?"), rising, "too small a pull")

    def test_a_switch_turned_off_takes_the_voltage_away(self) -> None:
        self.bench.answer("SIM:TOUCH swo,gnd")
        self.over(2)
        on = self.read()
        self.bench.answer("SIM:SET S1,off")
        self.over(2)
        self.assertGreater(on, 1.0)
        self.assertLess(abs(self.read()), 0.02)

    def test_reset_and_errors_in_order(self) -> None:
        self.bench.answer("CONF:RES")
        self.bench.answer("*RST")
        self.assertIn("VOLT", self.bench.answer("CONF?") or "")
        self.bench.answer("ONE")
        self.bench.answer("TWO?")
        self.assertIn("ONE", self.bench.answer("SYST:ERR?") or "")
        self.assertIn("TWO", self.bench.answer("SYST:ERR?") or "")
        self.assertIn("No error", self.bench.answer("SYST:ERR?") or "")
        self.bench.answer("ONE")
        self.bench.answer("*CLS")
        self.assertIn("No error", self.bench.answer("SYST:ERR?") or "")


class Devices(unittest.TestCase):
    def test_every_circuit_that_ships_shows_its_operating_point(self) -> None:
        """The second way: one operating point of the circuit as it stands; the meter's 10 Mohm loads it a little."""
        for path in sorted(CIRCUITS.glob("*.cir")):
            circuit = circuit_named(path.stem)
            device = DeviceUnderTest(circuit)
            volts = operating_point(with_inner(set_circuit(circuit, usual_setting(circuit)))).voltages
            for node in circuit.nodes[:6]:
                with self.subTest(path.stem, node=node):
                    self.assertAlmostEqual(
                        device.shows("volt", node, "0").value, volts[node], delta=0.03 * abs(volts[node]) + 0.005
                    )

    def test_an_ammeter_takes_part_in_the_circuit(self) -> None:
        """Ohm's law by hand: 1.35 V over 22 kohm, the leads and the meter's own ohm."""
        circuit = circuit_named("cds-series")
        device = DeviceUnderTest(circuit, hidden_fault(circuit, "Rwred:high resistance:22k"))
        by_hand = 1.35 / (22e3 + 0.05 + 0.05 + BURDEN_OHM)
        self.assertAlmostEqual(device.shows("amp", "sw", "0").value, by_hand, delta=0.01 * by_hand)
        self.assertAlmostEqual(device.shows("amp", "0", "sw").value, -by_hand, delta=0.01 * by_hand)
        self.assertEqual(device.shows("amp", "sw", "sw").value, 0.0)

    def test_the_diode_test_shows_the_junction(self) -> None:
        """The drop at what is left of 1 mA beside the meter's 3 kohm, by Shockley's equation solved with SciPy."""
        text = "t\nR1 a 0 1meg\nD1 a 0 d\nR2 a b 1meg\n.model d D(IS=1e-14 N=1.2)\n.end\n"
        circuit = read_spice(text)
        healthy = DeviceUnderTest(circuit)
        drop = optimize.brentq(lambda v: 1e-14 * math.expm1(v / (1.2 * 0.025865)) + v / 3e3 + v / 1e6 - DIODE_TEST_A, 0.1, 1.0)
        self.assertAlmostEqual(healthy.shows("diode", "a", "0").value, drop, delta=1e-3)
        self.assertEqual(healthy.shows("diode", "0", "a").value, math.inf)
        self.assertEqual(DeviceUnderTest(circuit, hidden_fault(circuit, "D1:open")).shows("diode", "a", "0").value, math.inf)
        shorted = DeviceUnderTest(circuit, hidden_fault(circuit, "D1:short"))
        self.assertLess(shorted.shows("diode", "a", "0").value, 0.01)

    def test_capacitance_between_two_points(self) -> None:
        circuit = read_spice("t\nV1 s 0 3\nR0 s b 1meg\nC1 b 0 10u\nC2 b 0 1u\nR2 b c 1meg\nR3 c 0 1k\nC3 c 0 1u\n.end\n")

        def shown(fault: str, plus: str = "b") -> float:
            hidden = hidden_fault(circuit, fault) if fault else None
            return DeviceUnderTest(circuit, hidden).shows("capacitance", plus, "0").value

        self.assertAlmostEqual(shown(""), 11e-6, delta=1e-9)
        self.assertAlmostEqual(shown("C1:open"), 1e-6, delta=1e-8)
        self.assertAlmostEqual(shown("C1:too low:0.1"), 2e-6, delta=1e-8)
        self.assertEqual(shown("C1:short"), math.inf)
        self.assertEqual(shown("", "c"), math.inf)  # a kilohm beside it
        self.assertEqual(shown("", "s"), 0.0)

    def test_faults_are_said_as_part_mode_and_figure(self) -> None:
        circuit = circuit_named("cds-series")
        fault = hidden_fault(circuit, "rwred:HIGH RESISTANCE:4k7")
        self.assertEqual((fault.part, fault.mode, fault.figure), ("Rwred", "high resistance", 4700.0))
        self.assertEqual(hidden_fault(circuit, "Rwred:open").mode, "open")
        for wrong in ("Rwred", "Rwred:tired", "nothing:open", "Rwred:high resistance:x"):
            with self.assertRaises(InvalidInput, msg=wrong):
                hidden_fault(circuit, wrong)

    def test_points_and_settings_that_are_not_there(self) -> None:
        device = DeviceUnderTest(circuit_named("cds-series"))
        self.assertEqual(device.points("CLIP+, gnd"), ("clip+", "0"))
        for wrong in ("clip+", "clip+,nowhere", "a,b,c"):
            with self.assertRaises(InvalidInput, msg=wrong):
                device.points(wrong)
        stood = device.setting
        with self.assertRaises(InvalidInput):
            device.turn("S1,sideways")
        self.assertEqual(device.setting, stood)


class Signals(unittest.TestCase):
    def test_ranges_and_digits_of_the_display(self) -> None:
        for value, scale in ((0.0, 0.2), (0.15, 0.2), (0.25, 2.0), (19.0, 20.0), (21.0, 200.0), (math.inf, 0.2)):
            self.assertAlmostEqual(full_scale_of(value), scale)
        self.assertAlmostEqual(shown(1.234567), 1.2346)
        self.assertEqual(shown(math.inf), math.inf)

    def test_noise_has_the_spread_it_says(self) -> None:
        rng = np.random.default_rng(2)
        values = [Noise(1e-3, 0.0).on(5.0, 0.0, rng) for _ in range(4000)]
        self.assertAlmostEqual(float(np.std(values)), 5e-3, delta=3e-4)
        hum = [Noise(0.0, 0.0, 0.01, 1.0).on(2.0, n / 40, rng) for n in range(40)]
        self.assertAlmostEqual(max(hum) - 2.0, 0.02, delta=1e-3)
        self.assertEqual(Noise().on(math.inf, 0.0, rng), math.inf)

    def test_each_kind_of_touch_is_what_it_says(self) -> None:
        rng = np.random.default_rng(9)
        for kind in KINDS:
            touch = some_touch(kind, rng, 10.0)
            inside = (touch.times_s > touch.settled_s) & (touch.times_s < touch.lifted_s)
            with self.subTest(kind):
                self.assertEqual(len(touch.times_s), len(touch.values))
                self.assertEqual(touch.takeable, kind not in ("open", "overload"))
                if kind == "overload":
                    self.assertTrue(np.isinf(touch.values[inside]).all())
                elif kind != "open":
                    off = np.abs(touch.values[inside] - touch.final)
                    self.assertLess(np.median(off), 0.01 * abs(touch.final) + 2e-3)

    def test_leads_in_the_air_by_function(self) -> None:
        air = Air(np.random.default_rng(1))
        self.assertEqual(air.value("ohm", 0.0), math.inf)
        self.assertLess(abs(air.value("amp", 1.0)), 1e-6)
        self.assertLess(abs(air.value("capacitance", 1.0)), 1e-10)
