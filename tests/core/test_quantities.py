"""Numbers as people type them."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, format_grouped, format_signed, parse_number, parse_with_unit
from violet_dial.core.units import Unit, is_overload, prefixed_unit

UNDERSTOOD = {
    "1/125": 1 / 125,
    "2k2": 2200.0,
    "4R7": 4.7,
    "4r7": 4.7,
    "38k": 38_000.0,
    "38 k": 38_000.0,
    "0,31": 0.31,
    "10 240": 10_240.0,
    "10\u00a0240,5": 10_240.5,
    "10,240.5": 10_240.5,
    "1.234,5": 1234.5,
    "-0.7": -0.7,
    "−0.7": -0.7,
    "+3": 3.0,
    "2½": 2.5,
    "2 1/2": 2.5,
    "-2½": -2.5,
    "⅓": 1 / 3,
    "1e3": 1000.0,
    "5m": 0.005,
    "5M": 5e6,
    "47µ": 47e-6,
    "100n": 100e-9,
    "0,125": 0.125,
    ".5": 0.5,
    "12.": 12.0,
}
REFUSED = (
    "", "   ", "abc", "nan", "inf", "-inf", "1,234", "12..3", "1.2.3", "1/0", "1,2,3", "--3", "1e999", "0x10", "1_000",
    "2 3/2", "5 5", "1/2/3", "k", "½½", "9" * 70, "1,23.4", "²",
)  # fmt: skip


class TypedNumbers(unittest.TestCase):
    def test_understood(self) -> None:
        for text, value in UNDERSTOOD.items():
            with self.subTest(text):
                self.assertAlmostEqual(parse_number(text), value, delta=abs(value) * 1e-12)

    def test_refused_with_a_sentence(self) -> None:
        for text in REFUSED:
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                parse_number(text, "Reading")
            if text in REFUSED:
                self.assertIn("Reading", str(caught.exception))
                self.assertIn("expected", str(caught.exception))

    def test_ambiguous_group_names_both_meanings(self) -> None:
        with self.assertRaises(InvalidInput) as caught:
            parse_number("1,234")
        self.assertIn("1 234 or 1.234", str(caught.exception))

    @given(st.text(max_size=80))
    def test_any_text_gives_a_finite_number_or_a_sentence(self, text: str) -> None:
        try:
            value = parse_number(text)
        except InvalidInput:
            return
        self.assertTrue(math.isfinite(value))

    @given(st.floats(-1e6, 1e6, allow_nan=False).map(lambda value: round(value, 4)))
    def test_what_is_written_is_read_back(self, value: float) -> None:
        self.assertAlmostEqual(parse_number(f"{value:.4f}"), value, places=9)

    def test_units(self) -> None:
        units: tuple[Unit, ...] = ("Ω", "V")
        for text, value, unit in (
            ("38 kohm", 38_000.0, "Ω"), ("0,31V", 0.31, "V"), ("47R", 47.0, "Ω"), ("2R2", 2.2, "Ω"), ("4k7 Ω", 4700.0, "Ω"),
            ("3.3 mV", 3.3e-3, "V"), ("2 MOHM", 2e6, "Ω"), ("12 volts", 12.0, "V"), ("5 µV", 5e-6, "V"), ("5 μV", 5e-6, "V"),
            ("10 Ω", 10.0, "Ω"),
        ):  # fmt: skip
            found = parse_with_unit(text, units, "Lead")
            self.assertEqual((round(found.value, 12), found.unit), (value, unit), text)
        self.assertEqual(parse_with_unit("2k2 Ω", units, "Lead").understood, "2.2 kΩ")
        self.assertEqual(parse_with_unit("38", units, "Lead", "Ω").unit, "Ω")
        for wrong in ("38", "38 A", "V", "kΩ", "3 xV"):
            with self.assertRaises(InvalidInput):
                parse_with_unit(wrong, units, "Lead")

    def test_a_unit_in_a_column_of_its_own(self) -> None:
        for text, found in (
            ("kohm", (1e3, "Ω")),
            ("mV", (1e-3, "V")),
            ("µA", (1e-6, "A")),
            ("μF", (1e-6, "F")),
            ("VDC", (1.0, "V")),
        ):
            self.assertEqual(prefixed_unit(text), found)
        for wrong in ("", "k", "furlong", "kk", "xV"):
            with self.assertRaises(InvalidInput):
                prefixed_unit(wrong)
        for word in ("OL", "open", "∞", " inf "):
            self.assertTrue(is_overload(word), word)


class ShownNumbers(unittest.TestCase):
    def test_signed_uses_a_true_minus_and_no_sign_on_zero(self) -> None:
        self.assertEqual(format_signed(0.684), "+0.68")
        self.assertEqual(format_signed(-0.7), "−0.70")
        self.assertEqual(format_signed(-0.001), "0.00")

    def test_engineering(self) -> None:
        for value, text in ((38_000, "38 k"), (0.212e-3, "212 µ"), (0, "0 "), (1.0, "1 "), (1e-13, "0.1 p")):
            self.assertEqual(format_engineering(value), text)

    def test_grouped_reads_back(self) -> None:
        self.assertEqual(parse_number(format_grouped(10_240)), 10_240)
