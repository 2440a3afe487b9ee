"""Spectra and errors beside the tables and integrals of the colour-science package."""

import itertools
import unittest
import warnings

import numpy as np

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

from violet_dial.core.colour.cells import FAMILIES, drawn, middle
from violet_dial.core.colour.mismatch import best_temperature, choices, loss_stops, mismatch, ratio, through
from violet_dial.core.colour.spectra import GRID_NM, Spectrum, conversion, density, illuminant_a, planck, tabled, yellowed
from violet_dial.core.errors import InvalidInput
from violet_dial.services.spectra import cell_named, eye, filter_named, light_named, spectrum_of

LIGHTS = ("A", "D50", "D55", "D65", "FL2", "FL7", "FL11", "LED-B1", "LED-B3", "LED-B5", "LED-V1")
SEEN = np.arange(380.0, 781.0, 1.0)


def theirs(name: str) -> "colour.SpectralDistribution":
    """A light of the package each nanometre, as it interpolates its table."""
    return colour.SDS_ILLUMINANTS[name].copy().interpolate(colour.SpectralShape(380, 780, 1))


class Lights(unittest.TestCase):
    def test_planck_is_theirs(self) -> None:
        for kelvin in (2000.0, 2856.0, 3200.0, 5500.0, 10_000.0):
            wanted = colour.sd_blackbody(kelvin, colour.SpectralShape(300, 1100, 5)).values
            ours = planck(kelvin).values
            np.testing.assert_allclose(ours / ours[52], wanted / wanted[52], rtol=2e-4)  # their constants are CIE's older ones

    def test_illuminant_a_is_the_cie_table(self) -> None:
        """ISO/CIE 11664-2, as the colour-science package has it, to its six figures."""
        table = colour.SDS_ILLUMINANTS["A"]
        ours = np.interp(table.wavelengths, GRID_NM, illuminant_a().values)
        np.testing.assert_allclose(ours, table.values, rtol=2e-5)

    def test_daylight_is_the_cie_table(self) -> None:
        for name in ("D50", "D55", "D65"):
            table = colour.SDS_ILLUMINANTS[name]
            ours = np.interp(table.wavelengths, GRID_NM, light_named(name).values)
            at = table.wavelengths >= 380
            np.testing.assert_allclose(
                ours[at] / ours[at].max(), table.values[at] / table.values[at].max(), atol=2e-3, err_msg=name
            )

    def test_a_filter_of_so_many_mired_shifts_by_so_many(self) -> None:
        """A at 2856 K (350 mired) less 131 is 4566 K: the ratio of blue to red as Planck's law has it, within what "
        "Wien's leaves out."""
        light = through(planck(2856.0), conversion(-131.0))
        blue, red = np.searchsorted(GRID_NM, 450.0), np.searchsorted(GRID_NM, 650.0)
        wanted = planck(1e6 / (1e6 / 2856.0 - 131.0)).values
        self.assertAlmostEqual(light.values[blue] / light.values[red] / (wanted[blue] / wanted[red]), 1.0, delta=0.02)
        self.assertAlmostEqual(loss_stops(planck(2856.0), density(0.9), eye()), 0.9 / 0.30103, places=4)
        self.assertGreater(loss_stops(planck(2856.0), filter_named("80A"), eye()), 1.5)


class Errors(unittest.TestCase):
    def test_every_pair_of_lights_and_cells_is_within_a_thousandth_or_five(self) -> None:
        """The integrals of the package (1 nm, its own interpolation) beside ours; cells as their curves each nanometre."""
        v = colour.SDS_LEFS["CIE 1924 Photopic Standard Observer"].copy().align(colour.SpectralShape(380, 780, 1))
        worst = 0.0
        for family in FAMILIES:
            bell = family.bell
            assert bell is not None
            wide = np.where(bell.peak_nm > SEEN, bell.left_nm, bell.right_nm)
            curve = np.exp(-np.log(2.0) * ((SEEN - bell.peak_nm) / wide) ** 2)
            share = np.where((GRID_NM == 380) | (GRID_NM == 780), 0.5, (GRID_NM > 380) & (GRID_NM < 780))  # what both have
            held = Spectrum(family.name, middle(family).values * share)
            their_ratio, our_ratio = {}, {}
            for name in LIGHTS:
                light = theirs(name)
                cell = colour.SpectralDistribution(dict(zip(SEEN, light.values * curve, strict=True)))
                lux = colour.SpectralDistribution(dict(zip(SEEN, light.values * v.values, strict=True)))
                their_ratio[name] = np.trapezoid(cell.values, SEEN) / np.trapezoid(lux.values, SEEN)
                our_ratio[name] = float(ratio(light_named(name), held.values, eye()))
            for used, calibrated in itertools.permutations(LIGHTS, 2):
                wanted = np.log2(their_ratio[used] / their_ratio[calibrated])
                got = np.log2(our_ratio[used] / our_ratio[calibrated])
                worst = max(worst, abs(wanted - got))
        self.assertLess(worst, 0.005)

    def test_the_eye_itself_errs_nowhere(self) -> None:
        for used in LIGHTS:
            self.assertAlmostEqual(mismatch(eye(), light_named(used), light_named("D55"), eye()).stops, 0.0, places=12)

    def test_there_and_back_is_nothing_and_the_band_holds_its_share(self) -> None:
        cell = cell_named("silicon")
        there = mismatch(cell, light_named("A"), light_named("D55"), eye())
        back = mismatch(cell, light_named("D55"), light_named("A"), eye())
        self.assertAlmostEqual(there.stops, -back.stops, places=12)
        self.assertGreater(there.stops, 1.0)  # bare silicon sees the red that a lamp is full of
        self.assertAlmostEqual(there.high - there.low, 4 * there.u_stops, delta=there.u_stops)
        rng = np.random.default_rng(8)
        bell = FAMILIES[0].bell
        assert bell is not None
        inside = 0
        found = mismatch(FAMILIES[0], light_named("A"), light_named("D55"), eye())
        for _one in range(400):
            peak, left, right = np.array([bell.peak_nm, bell.left_nm, bell.right_nm]) + rng.normal(size=3) * np.array(
                [bell.u_peak_nm, bell.u_left_nm, bell.u_right_nm]
            )
            wide = np.where(peak > GRID_NM, left, right)
            other = Spectrum("one", np.exp(-np.log(2.0) * ((GRID_NM - peak) / wide) ** 2))
            inside += found.low <= mismatch(other, light_named("A"), light_named("D55"), eye()).stops <= found.high
        self.assertGreaterEqual(inside / 400, 0.92)

    def test_the_best_at_hand(self) -> None:
        lamps, filters = (light_named("A"), light_named("LED-B3")), (filter_named("80A"), filter_named("80B"))
        found = choices(cell_named("cds 620"), light_named("D55"), lamps, filters, eye())
        self.assertEqual((found[0].lamp, found[0].filter, len(found)), ("A", "80A", 6))
        kelvin, left = best_temperature(cell_named("cds 620"), light_named("D55"), eye())
        self.assertAlmostEqual(left, 0.0, delta=0.01)
        self.assertTrue(4500 < kelvin < 6500, kelvin)
        self.assertEqual(drawn(FAMILIES[0]).shape, (240, len(GRID_NM)))


class Bad(unittest.TestCase):
    def test_spectra_that_are_none(self) -> None:
        for text, word in (
            ("wavelength_nm,value\n400,1\n390,2\n500,1\n", "rising"),
            ("wavelength_nm,value\n400,1\n500,-2\n600,1\n", "0 or more"),
            ("wavelength_nm,value\n400,1\n500,1\n", "3 to"), ("a,b\n1,2\n", "wavelength_nm"),
            ("wavelength_nm,value\n400,x\n", "line 2"),
            ("wavelength_nm,value\n1400,1\n1500,1\n1600,1\n", "300 and 1100"), ("nm,value\n100,1\n500,1\n600,1\n", "200 to 2500"),
        ):  # fmt: skip
            with self.subTest(word), self.assertRaisesRegex(InvalidInput, word):
                spectrum_of(text.encode(), "lamp.csv")
        self.assertEqual(spectrum_of(b"nm,power\n400,1\n500,2\n600,1\n", "lamp.csv").name, "lamp")
        for name in ("moon", "100 K", "daylight 2000 K"):
            with self.assertRaises(InvalidInput):
                light_named(name)
        for name in ("99Z", "density 9", "yellowed 120 %", "mired 900"):
            with self.assertRaises(InvalidInput):
                filter_named(name)
        with self.assertRaises(InvalidInput):
            mismatch(eye(), tabled("far", np.array([900.0, 950.0, 1000.0]), np.ones(3)), light_named("A"), eye())
        self.assertLess(yellowed(0.4).values[np.searchsorted(GRID_NM, 450.0)], 0.61)


if __name__ == "__main__":
    unittest.main()
