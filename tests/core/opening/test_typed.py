"""Steps as typed in one line."""

import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import FINISHES, HANDS, HEADS, KINDS, SEALANTS, Step
from violet_dial.core.opening.typed import Vocabulary, complete_line, next_compartment, typed_form, understand_step

HOMES = st.sampled_from(("top cover", "lens mount", "base plate", "advance lever", "Auk & Daughters plate"))
STEPS = st.builds(
    Step,
    step_id=st.just("s1"), kind=st.sampled_from(KINDS), home=HOMES, count=st.integers(1, 40),
    size=st.sampled_from(("", "M1.4x3", "M2", "2x5x3mm")), head=st.sampled_from(HEADS), finish=st.sampled_from(FINISHES),
    hand=st.sampled_from(tuple(hand for hand in HANDS if hand)), tray=st.sampled_from(("", "A1", "B12")),
    under=st.sampled_from(((), ("rewind knob",), ("a knob", "counter dial"))), preset=st.sampled_from(("", "ISO 400, bulb")),
    marks=st.sampled_from(("", "top tooth in notch 1, bottom in 5")), sealant=st.sampled_from(SEALANTS),
    no_bath=st.booleans(), no_fingers=st.booleans(), minutes=st.sampled_from((0.0, 5.0, 2.5)),
)  # fmt: skip


class Typed(unittest.TestCase):
    def test_the_line_of_the_guide(self) -> None:
        step = understand_step("screw x3 top cover M1.4x3 cross chrome lh? -> tray B2; under rewind knob", "s1")
        expected = Step("s1", "screw", "top cover", 3, "M1.4x3", "cross", "chrome", "unknown", tray="B2", under=("rewind knob",))
        self.assertEqual(step, expected)
        self.assertIn("never force", step.caution)  # said before the act

    def test_other_ways_of_saying_it(self) -> None:
        self.assertEqual(understand_step("3 screws top cover", "s1").count, 3)
        self.assertEqual(understand_step("top cover -> b1", "s1"), Step("s1", "cover", "top cover", tray="B1"))
        self.assertEqual(understand_step("circlip advance lever", "s1").kind, "snap ring")
        for said in ("JIS cross", "jis", "cross JIS"):
            self.assertEqual(understand_step(f"screw top cover M1.7x4 {said} chrome", "s1").head, "JIS cross", said)
        self.assertEqual(understand_step("base plate", "s1").name, "base plate")
        wire = understand_step("wire meter cell; wire red clip+ to switch 1", "s1")
        self.assertEqual((wire.wire_colour, wire.wire_from, wire.wire_to), ("red", "clip+", "switch 1"))
        self.assertEqual(understand_step("knob rewind", "s1").hand, "unknown")  # knobs differ; screws rarely do

    def test_refusals_say_what_to_type(self) -> None:
        for text, word in (
            ("", "kind first"), ("wibble top", "kind first"), ("screw x3", "what it holds"), ("screw lid; wobble", "clause"),
            ("screw lid; seal glue", "soft, hard or none"), ("screw lid; wire red", "both ends"), ("screw x0 lid", "1 to 999"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(InvalidInput, word):
                understand_step(text, "s1")

    @settings(max_examples=200, deadline=None)
    @given(STEPS)
    def test_typed_form_gives_the_step_back(self, step: Step) -> None:
        again = understand_step(typed_form(step), "s1")
        self.assertEqual(again, replace(step, sealant=step.sealant))

    @settings(max_examples=200, deadline=None)
    @given(st.text(max_size=80))
    def test_any_text_is_a_step_or_a_sentence(self, text: str) -> None:
        try:
            self.assertIsInstance(understand_step(text, "s1"), Step)
        except InvalidInput as error:
            self.assertIn("expected", str(error))


class Completion(unittest.TestCase):
    WORDS = Vocabulary(("top cover", "top screw post", "lens mount"), ("A1", "B2"))

    def test_each_place_of_the_line(self) -> None:
        self.assertIn("screw", complete_line("scr", self.WORDS))
        self.assertEqual(complete_line("screw x3 top c", self.WORDS), ("screw x3 top cover",))
        self.assertEqual(complete_line("screw x3 lens mount cro", self.WORDS), ("screw x3 lens mount cross",))
        self.assertEqual(complete_line("screw lens mount -> ", self.WORDS)[0], "screw lens mount -> B3")
        self.assertEqual(complete_line("screw lens mount; no b", self.WORDS), ("screw lens mount; no bath",))
        self.assertEqual(complete_line("screw lens mount; und", self.WORDS), ("screw lens mount; under",))
        self.assertEqual(complete_line("cover lid; under top c", self.WORDS), ("cover lid; under top cover",))

    def test_compartments_follow_each_other(self) -> None:
        self.assertEqual([next_compartment(one) for one in ("A1", "A9", "Z9", "?")], ["A2", "B1", "A1", "A1"])


if __name__ == "__main__":
    unittest.main()
