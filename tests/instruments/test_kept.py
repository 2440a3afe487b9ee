"""Instruments as they are typed: addresses, patterns, stated accuracy."""

import unittest

from violet_dial.core.errors import InvalidInput
from violet_dial.core.steady.samples import Accuracy
from violet_dial.instruments.kept import Kept, accuracy_words, understood_accuracy, understood_address
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
