"""Reference chains: EV100 and its uncertainty, opened to the sum."""

import math
import unittest

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import ReferenceLight, reference_figure, reference_light, typed_for
from violet_dial.core.records.light import Chain, Correction, DensityStep, LampAtDistance, LuminancePanel, LuxMeter, TrustedMeter


def light_typed(chain: Chain, text: str) -> ReferenceLight:
    """What a typed reference gives."""
    return reference_light(chain, reference_figure(chain, text))


class Sums(unittest.TestCase):
    def test_trusted_meter_less_its_error(self) -> None:
        light = light_typed(Chain(TrustedMeter(known_error_stops=-0.1, u_stops=0.05)), "11.9")
        self.assertAlmostEqual(light.ev100, 12.0)
        self.assertAlmostEqual(light.u_stops, 0.05)

    def test_lux_meter(self) -> None:
        light = light_typed(Chain(LuxMeter(u_relative=0.03)), "10 240 lx")
        self.assertAlmostEqual(light.ev100, 12.0)
        self.assertAlmostEqual(light.u_stops, 0.03 / math.log(2))

    def test_panel_through_density_with_correction(self) -> None:
        chain = Chain(
            LuminancePanel(u_relative=0.02), (DensityStep(density=0.9, u_density=0.02), Correction(stops=0.15, u_stops=0.04))
        )
        light = light_typed(chain, "4096")
        self.assertAlmostEqual(light.ev100, 15 - 0.9 / 0.30103 + 0.15, places=4)
        parts = (0.02 / math.log(2), 0.02 * math.log2(10), 0.04)
        self.assertAlmostEqual(light.u_stops, math.sqrt(sum(part**2 for part in parts)))
        self.assertEqual(len(light.terms), 3)
        self.assertAlmostEqual(sum(term.stops for term in light.terms), light.ev100)
        self.assertIn("√(", light.opened()[-1])

    def test_lamp_point_and_disc(self) -> None:
        point = light_typed(Chain(LampAtDistance(strength=100.0, u_relative=0.0, u_distance_m=0.01)), "1")
        self.assertAlmostEqual(point.ev100, math.log2(40.0))
        self.assertAlmostEqual(point.u_stops, 2 * 0.01 / math.log(2))
        far = light_typed(Chain(LampAtDistance(strength=500.0, radius_m=0.02)), "1.5").ev100
        alike = light_typed(Chain(LampAtDistance(strength=500.0 * math.pi * 0.02**2)), "1.5").ev100
        self.assertAlmostEqual(far, alike, places=3)

    def test_uncertainty_of_a_lamp_against_a_finite_difference(self) -> None:
        source = LampAtDistance(strength=800.0, radius_m=0.1, u_relative=0.0, u_distance_m=0.001)
        light = light_typed(Chain(source), "0.3")
        step = light_typed(Chain(source), "0.301").ev100 - light_typed(Chain(source), "0.299").ev100
        self.assertAlmostEqual(light.u_stops, abs(step) / 2, places=5)

    def test_what_to_set_gives_the_wanted_light(self) -> None:
        chains = (
            Chain(TrustedMeter(known_error_stops=0.2)),
            Chain(LuxMeter(), (DensityStep(density=0.6),)),
            Chain(LuminancePanel(), (Correction(stops=-0.3),)),
            Chain(LampAtDistance(strength=50.0)),
            Chain(LampAtDistance(strength=9000.0, radius_m=0.05)),
        )
        for chain in chains:
            with self.subTest(chain.source.kind):
                self.assertAlmostEqual(light_typed(chain, f"{typed_for(chain, 7.0):.9f}").ev100, 7.0, places=5)


class BadInput(unittest.TestCase):
    def test_refused(self) -> None:
        cases = (
            (Chain(LuxMeter()), "-3"),
            (Chain(LuxMeter()), "512 cd/m2"),
            (Chain(TrustedMeter()), "800 lx"),
            (Chain(TrustedMeter()), "bright"),
            (Chain(LampAtDistance()), "0"),
        )
        for chain, text in cases:
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                light_typed(chain, text)
            self.assertEqual(caught.exception.field, "Reference")

    def test_a_lamp_too_dim(self) -> None:
        with self.assertRaises(InvalidInput):
            typed_for(Chain(LampAtDistance(strength=1.0, radius_m=0.05)), 15.0)
