"""What instruments answer: whatever comes, it is a figure or a failure with its name; nothing else comes through."""

import math
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.errors import BadAnswer, InvalidInput
from violet_dial.instruments.dialects import (
    LinesOfText,
    ScpiLightMeter,
    ScpiMultimeter,
    ScpiSupply,
    Speaker,
    number_of,
    speaker_of,
)
from violet_dial.instruments.kept import Kept, understood_address
from violet_dial.instruments.pattern import USUAL_PATTERN, LinePattern

ANSWERS = st.one_of(
    st.text(max_size=40),
    st.floats().map(repr),
    st.sampled_from(
        ("+9.9E37", "9.91E37", "-9.9E37", "1.5", '"VOLT:DC +2.0E0"', "VOLT", '"CONT"', "1", "OL", "", "nan", "inf", "1e999")
    ),
)
NEVER = ["0xFF", "1,5", "1_000", "١", "½", "1.2.3", "--1", "+-2", "1e", "0b1"]


class Scripted:
    """A channel that answers what the test says, in order, and keeps what was asked."""

    address = "scripted"

    def __init__(self, *answers: str) -> None:
        self._answers = list(answers)
        self.asked: list[str] = []

    def query(self, command: str) -> str:
        self.asked.append(command)
        return self.read_line(command)

    def write(self, command: str) -> None:
        self.asked.append(command)

    def read_line(self, command: str = "") -> str:
        return self._answers.pop(0) if self._answers else ""


def scripted(*answers: str) -> Any:
    return Scripted(*answers)


class Figures(unittest.TestCase):
    def test_scpi_s_own_signs(self) -> None:
        self.assertEqual(number_of("+1.35E+00", scripted(), "READ?"), 1.35)
        self.assertEqual(number_of("9.9E37", scripted(), "READ?"), math.inf)
        self.assertEqual(number_of("-9.9E37", scripted(), "READ?"), -math.inf)
        for text in ("9.91E37", "nan", "", "volts", *NEVER):
            with self.subTest(text), self.assertRaises(BadAnswer):
                number_of(text, scripted(), "READ?")

    def test_the_function_a_figure_was_taken_with_comes_with_it(self) -> None:
        for stands, function, full in (
            ('"VOLT:DC +2.0E+00,+1.0E-06"', "volt", 2.0), ('"RES"', "ohm", 0.0), ("CURR:DC 0.2", "amp", 0.2),
            ('"CONT"', "continuity", 0.0), ('"CAP 1E-6"', "capacitance", 1e-6), ('"DIOD"', "diode", 0.0),
        ):  # fmt: skip
            with self.subTest(stands):
                self.assertEqual(ScpiMultimeter().read(scripted("1.5", stands)), (1.5, function, full))
        for stands in ('"FREQ"', "VOLT:AC", "1.5", "", "VOLT:DC two"):
            with self.subTest(stands), self.assertRaises(BadAnswer):
                ScpiMultimeter().read(scripted("1.5", stands))

    def test_a_late_answer_is_no_figure(self) -> None:
        """The answer before comes once more: what should say the function is a figure, what should be a 1 is not."""
        with self.assertRaises(BadAnswer):
            ScpiMultimeter().read(scripted("1.5", "1.5"))
        with self.assertRaises(BadAnswer):
            ScpiLightMeter().read(scripted("1000", "1000"))
        self.assertEqual(ScpiLightMeter().read(scripted("1000", "1")), (1000.0, "lux", 0.0))

    def test_a_meter_is_set_and_a_supply_never(self) -> None:
        channel = scripted()
        ScpiMultimeter().set_function(channel, "ohm")
        self.assertEqual(channel.asked, ["CONF:RES"])
        supply, asked = ScpiSupply("volt"), scripted("1.5", "1", "0.02", "1")
        self.assertEqual(supply.read(asked), (1.5, "volt", 0.0))
        supply.set_function(asked, "amp")
        self.assertEqual(supply.read(asked), (0.02, "amp", 0.0))
        self.assertTrue(all(one.endswith("?") for one in asked.asked))  # questions alone
        with self.assertRaisesRegex(InvalidInput, "own knob"):
            LinesOfText(USUAL_PATTERN, "volt").set_function(channel, "ohm")

    @settings(max_examples=400, deadline=None)
    @given(ANSWERS, ANSWERS, st.sampled_from(("multimeter", "light", "supply", "lines")))
    def test_any_answers_give_a_figure_or_a_failure(self, first: str, second: str, who: str) -> None:
        speakers: dict[str, Speaker] = {
            "multimeter": ScpiMultimeter(), "light": ScpiLightMeter(), "supply": ScpiSupply("amp"),
            "lines": LinesOfText(USUAL_PATTERN, "volt"),
        }  # fmt: skip
        try:
            value, function, full_scale = speakers[who].read(scripted(first, second))
        except BadAnswer as error:
            self.assertTrue(str(error))
            return
        self.assertFalse(math.isnan(value))
        self.assertIn(function, (*ScpiMultimeter.functions, "lux"))
        self.assertGreaterEqual(full_scale, 0.0)

    @settings(max_examples=150, deadline=None)
    @given(ANSWERS)
    def test_any_greeting_is_a_name_or_a_failure(self, said: str) -> None:
        for dialect in (ScpiMultimeter(), ScpiLightMeter(), ScpiSupply("volt")):
            try:
                self.assertLessEqual(len(dialect.begin(scripted(said))), 120)
            except BadAnswer:
                self.assertNotIn(",", said)


class Typed(unittest.TestCase):
    def test_who_speaks_what(self) -> None:
        for speaks, kind in (
            ("SCPI multimeter", ScpiMultimeter), ("SCPI light meter", ScpiLightMeter), ("SCPI bench supply", ScpiSupply),
            ("lines of text", LinesOfText),
        ):  # fmt: skip
            kept = Kept("one", "TCPIP::127.0.0.1::5025::SOCKET", speaks)
            self.assertIsInstance(speaker_of(kept), kind)

    @settings(max_examples=200, deadline=None)
    @given(st.text(max_size=60))
    def test_any_pattern_is_one_or_a_sentence(self, pattern: str) -> None:
        try:
            self.assertIsNone(LinePattern(pattern).search(""))
        except InvalidInput as error:
            self.assertIn("expected", str(error))

    @settings(max_examples=200, deadline=None)
    @given(st.text(max_size=60))
    def test_any_address_is_one_or_a_sentence(self, typed: str) -> None:
        try:
            Kept("one", understood_address(typed))
        except InvalidInput as error:
            self.assertIn("expected", str(error))


if __name__ == "__main__":
    unittest.main()
