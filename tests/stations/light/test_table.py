"""Readings as CSV: what is recognised, what is refused, and that hostile files do no harm."""

import math
import time
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.errors import InvalidInput
from violet_dial.core.records.light import LightReading
from violet_dial.job.csv_text import defused
from violet_dial.stations.light.table import Defaults, read_readings, write_readings

HEAD = "reference_ev100,indicated_ev100"


class Recognised(unittest.TestCase):
    def test_separators_and_decimal_comma(self) -> None:
        files = {
            "comma": f"{HEAD}\n12,12.6\n",
            "semicolon, decimal comma": "reference_ev100;indicated_ev100\n12,0;12,6\n",
            "tab": "reference_ev100\tindicated_ev100\n12\t12.6\n",
            "columns swapped, spaces, capitals": "Indicated EV100 , Reference EV100\n12.6, 12\n",
            "byte order mark, CRLF": f"\ufeff{HEAD}\r\n12,12.6\r\n",
            "quoted": '"reference_ev100","indicated_ev100"\n"12","12.6"\n',
            "empty lines": f"\n{HEAD}\n\n12,12.6\n\n",
        }
        for name, text in files.items():
            with self.subTest(name):
                read = read_readings(text.encode())
                self.assertEqual([(one.reference_ev100, one.indicated_ev100) for one in read.readings], [(12.0, 12.6)])
                self.assertEqual(read.rejected_count, 0)

    def test_optional_columns_and_defaults(self) -> None:
        text = f"{HEAD},direction,attitude,u_reading,colour\n12,12.6,falling,upright,0.1,red\n9,9.1,,,,\n"
        read = read_readings(text.encode(), Defaults(0.02, 0.03))
        first, second = read.readings
        self.assertEqual((first.direction, first.attitude, first.u_reading, first.u_reference), ("falling", "upright", 0.1, 0.02))
        self.assertEqual((second.direction, second.u_reading), ("", 0.03))
        self.assertEqual(read.ignored_columns, ("colour",))

    def test_bad_rows_are_listed_and_good_ones_offered(self) -> None:
        text = f"{HEAD},direction\n12,12.6,\n13,nan,\n14,bright,\n15,15.1,sideways\n99,3,\n8,8.2,rising\n5\n"
        read = read_readings(text.encode())
        self.assertEqual(len(read.readings), 2)
        self.assertEqual([row.line for row in read.rejected], [3, 4, 5, 6, 8])
        self.assertIn("'bright' came", read.rejected[1].reason)

    def test_written_reads_back_equal(self) -> None:
        readings = (LightReading(12.0, 12.6, "rising", "=1+1", 0.05, 0.06), LightReading(-1.25, -1.5, "", "flat"))
        self.assertEqual(read_readings(write_readings(readings).encode()).readings, readings)

    def test_formulas_are_defused(self) -> None:
        for text in ("=1+1", "+A1", "-A1", "@x", "\tx"):
            self.assertEqual(defused(text), f"'{text}")
        self.assertEqual(defused("flat"), "flat")
        self.assertIn("'=HYPERLINK", write_readings((LightReading(9.0, 9.0, "", "=HYPERLINK(1)"),)))


class Hostile(unittest.TestCase):
    def test_refused_whole(self) -> None:
        cases = (
            b"", b"\n\n", b"PK\x03\x04\0\0", b"a,b\n1,2\n", b"reference_ev100\n1\n", b"x" * 6_000_000,
            (HEAD + "\n" + "1,1\n" * 6000).encode(), b"reference_ev100,reference,indicated_ev100\n1,2,3\n",
        )  # fmt: skip
        for data in cases:
            with self.subTest(data[:20]), self.assertRaises(InvalidInput):
                read_readings(data)

    def test_ten_million_characters_in_a_cell(self) -> None:
        began = time.perf_counter()
        with self.assertRaises(InvalidInput):
            read_readings(f"{HEAD}\n".encode() + b"9" * 10_000_000 + b",1\n")
        read = read_readings(f"{HEAD}\n12,12.6\n".encode() + b"9" * 4_000_000 + b",1\n")
        self.assertEqual((len(read.readings), read.rejected_count), (1, 1))
        self.assertLess(time.perf_counter() - began, 5.0)  # bounded, with room for a slow machine

    @settings(deadline=None, max_examples=150)
    @given(st.one_of(st.binary(max_size=400), st.text(max_size=300).map(lambda body: f"{HEAD},attitude\n{body}".encode())))
    def test_anything_gives_readings_or_a_sentence(self, data: bytes) -> None:
        try:
            read = read_readings(data)
        except InvalidInput as error:
            self.assertIn("expected", str(error))
            return
        for one in read.readings:
            self.assertTrue(math.isfinite(one.reference_ev100) and math.isfinite(one.indicated_ev100))
