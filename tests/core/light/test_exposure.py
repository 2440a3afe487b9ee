"""Exposure relations against published tables, numerical integration and each other."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import dblquad

from tests.reference.exposure_tables import FILM_SPEEDS, ILLUMINANCE_LX, LUMINANCE_CD_M2
from violet_dial.core.errors import InvalidInput
from violet_dial.core.light import exposure


class PublishedTables(unittest.TestCase):
    def test_luminance_against_ev(self) -> None:
        # handbook table rounded to three figures: 1 % allows for its rounding
        for ev, luminance in LUMINANCE_CD_M2.items():
            self.assertAlmostEqual(float(exposure.luminance_from_ev100(float(ev))) / luminance, 1, delta=0.03 if ev < 0 else 1e-9)

    def test_illuminance_against_ev(self) -> None:
        for ev, illuminance in ILLUMINANCE_LX.items():
            self.assertAlmostEqual(float(exposure.illuminance_from_ev100(float(ev))) / illuminance, 1, delta=0.01)

    def test_film_speed_degrees(self) -> None:
        # ISO 5800 rounds to whole degrees
        for speed, degrees in FILM_SPEEDS.items():
            self.assertEqual(round(float(exposure.degrees_from_speed(float(speed)))), degrees)

    def test_equal_readings_reflectance(self) -> None:
        # reflectance at which both agree: 0.157 for K 12.5 and C 250 (pi K / C); a matt surface is rho E / pi bright
        constants = exposure.Constants()
        rho = math.pi * constants.k_cd_s_m2 / constants.c_lx_s
        self.assertAlmostEqual(rho, 0.157, places=3)
        lux = 5000.0
        reflected = exposure.ev100_from_luminance(rho * lux / math.pi)
        self.assertAlmostEqual(float(reflected), float(exposure.ev100_from_illuminance(lux)), places=9)


class Relations(unittest.TestCase):
    def test_settings(self) -> None:
        self.assertAlmostEqual(float(exposure.ev_from_settings(1.0, 1.0)), 0.0)
        self.assertAlmostEqual(float(exposure.ev_from_settings(2**2.5, 1 / 128)), 12.0)
        self.assertAlmostEqual(float(exposure.time_for(12.0, 2**2.5)), 1 / 128)

    @given(st.floats(-6, 24), st.floats(3, 12800))
    def test_film_speed_both_ways(self, ev100: float, speed: float) -> None:
        there = exposure.ev_from_ev100(ev100, speed)
        self.assertAlmostEqual(float(exposure.ev100_from_ev(there, speed)), ev100, places=9)

    @given(st.floats(-6, 24), st.floats(10.6, 14.0), st.floats(240, 540))
    def test_photometry_both_ways(self, ev100: float, k: float, c: float) -> None:
        self.assertAlmostEqual(float(exposure.ev100_from_luminance(exposure.luminance_from_ev100(ev100, k), k)), ev100, places=9)
        self.assertAlmostEqual(
            float(exposure.ev100_from_illuminance(exposure.illuminance_from_ev100(ev100, c), c)), ev100, places=9
        )

    def test_degrees_are_tenths_of_a_decade(self) -> None:
        self.assertAlmostEqual(float(exposure.degrees_from_speed(10**2.6)), 27.0)

    def test_arrays_keep_their_shape(self) -> None:
        luminance = np.array([[0.125, 512.0], [4096.0, 8192.0]])
        np.testing.assert_allclose(exposure.ev100_from_luminance(luminance), [[0, 12], [15, 16]])

    def test_density(self) -> None:
        self.assertAlmostEqual(float(exposure.stops_of_density(0.30103)), 1.0, places=5)
        self.assertAlmostEqual(float(exposure.stops_of_density(3.0)), 3.0 / 0.30103, places=4)


class Lamps(unittest.TestCase):
    def test_distance(self) -> None:
        near, far = (float(exposure.point_source_illuminance(100.0, d)) for d in (1.0, 2.0))
        self.assertAlmostEqual(math.log2(near / far), 2.0)

    def test_disc_against_numerical_integration(self) -> None:
        # E = integral over the disc of L cos^2 / d^2 dA on the axis, both cosines equal d/s
        for radius, distance in ((0.05, 0.1), (0.1, 0.1), (0.02, 0.5)):

            def share(phi: float, r: float, d: float = distance) -> float:
                square = r * r + d * d
                return r * d * d / square**2

            integral, _ = dblquad(share, 0, radius, 0, 2 * math.pi)
            formula = float(exposure.disc_source_illuminance(1000.0, radius, distance))
            self.assertAlmostEqual(formula / (1000.0 * integral), 1.0, places=6)

    def test_disc_is_a_point_from_ten_radii(self) -> None:
        radius, luminance = 0.03, 500.0
        point = float(exposure.point_source_illuminance(luminance * math.pi * radius**2, 0.3))
        self.assertAlmostEqual(float(exposure.disc_source_illuminance(luminance, radius, 0.3)) / point, 1, delta=0.01)


class BadInput(unittest.TestCase):
    def test_named_with_what_was_expected(self) -> None:
        cases = (
            (lambda: exposure.ev100_from_luminance(-1.0), "Luminance"),
            (lambda: exposure.ev100_from_illuminance(math.nan), "Illuminance"),
            (lambda: exposure.ev_from_settings(0.0, 1.0), "Aperture"),
            (lambda: exposure.ev100_from_luminance(1.0, 99.0), "K"),
            (lambda: exposure.Constants(12.5, 100.0), "C"),
            (lambda: exposure.ev_from_ev100(1.0, math.inf), "Film speed"),
        )
        for call, field in cases:
            with self.subTest(field), self.assertRaises(InvalidInput) as caught:
                call()
            self.assertEqual(caught.exception.field, field)
