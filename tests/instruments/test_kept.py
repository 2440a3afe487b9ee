"""Instruments as they are typed: addresses, patterns, stated accuracy."""

import math
import unittest

from violet_dial.core.errors import InvalidInput
from violet_dial.core.steady.samples import Accuracy
from violet_dial.instruments.kept import Kept, accuracy_words, understood_accuracy, understood_address
from violet_dial.instruments.lamp_curve import understood_curve
from violet_dial.instruments.pattern import LinePattern


class Typed(unittest.TestCase):
    def test_addresses(self) -> None:
        for typed, meant in (
            ("192.168.1.20:5025", "TCPIP::192.168.1.20::5025::SOCKET"),
            (" bench.local:5025 ", "TCPIP::bench.local::5025::SOCKET"),
            ("/dev/ttyUSB0", "ASRL/dev/ttyUSB0::INSTR"),
            ("USB0::0x1234::0x5678::SN1::INSTR", "USB0::0x1234::0x5678::SN1::INSTR"),
        ):
            self.assertEqual(understood_address(typed), meant)
        for wrong in ("", "bench", "host:99999", "host:0", "ttyUSB0", "http://x:80"):
            with self.assertRaises(InvalidInput, msg=wrong):
                understood_address(wrong)

    def test_stated_accuracy_there_and_back(self) -> None:
        stated = understood_accuracy("volt 0.5 % + 2m; lux 3 %")
        self.assertEqual(stated, (("volt", Accuracy(0.005, 0.002)), ("lux", Accuracy(0.03))))
        self.assertEqual(understood_accuracy(accuracy_words(stated)), stated)
        for wrong in ("volt 0.5", "speed 1 %", "volt x %", "volt 90 %"):
            with self.assertRaises(InvalidInput, msg=wrong):
                understood_accuracy(wrong)

    def test_a_lamp_s_curve_is_checked(self) -> None:
        for typed in ("3 V 40 lx; 4.5 V 160 lx; 6 V 420 lx", "0.1 A 80; 200 mA 900"):
            curve = understood_curve(typed)
            for fed, lux in zip(curve.fed, curve.lux, strict=True):
                self.assertAlmostEqual(curve.light(fed), lux)
                self.assertAlmostEqual(curve.setting(lux), fed)
            self.assertEqual(curve.light(0.0), 0.0)
            self.assertEqual((curve.light(curve.fed[-1] * 1.1), curve.light(curve.fed[0] / 2)), (math.inf, math.inf))
            self.assertEqual(curve.setting(1e9), curve.fed[-1])  # never fed more than was measured
        for wrong in ("", "3 V 40 lx", "3 V 40 lx; 2 V 60 lx", "3 V 40 lx; 4 V 30 lx", "3 V 40 lx; 1 A 80 lx", "3 V; 4 V",
                      "0 V 1 lx; 3 V 9 lx", "12 V 40 lx; 230 V 9000 lx"):  # fmt: skip
            with self.subTest(wrong), self.assertRaises(InvalidInput):
                Kept("lamp", "TCPIP::h::1::SOCKET", "SCPI supply of the lamp", curve=wrong)

    def test_patterns_and_names_are_checked(self) -> None:
        for wrong in ("(", r"\d+", "(?P<value>x)" * 40):
            with self.assertRaises(InvalidInput):
                LinePattern(wrong)
        with self.assertRaises(InvalidInput):
            Kept(" ", "TCPIP::h::1::SOCKET")
        with self.assertRaises(InvalidInput):
            Kept("meter", "nowhere")
        with self.assertRaises(InvalidInput):
            Kept("meter", "ASRL/dev/ttyS0::INSTR", baud=1)
