"""Strip-down lists in and out."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.opening.test_typed import STEPS
from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import Step
from violet_dial.stations.open.table import read_strip, write_strip


class StripCsv(unittest.TestCase):
    @settings(max_examples=100, deadline=None)
    @given(st.lists(STEPS, min_size=1, max_size=6))
    def test_out_and_in_is_the_same(self, steps: list[Step]) -> None:
        read = read_strip(write_strip(tuple(steps)).encode())
        self.assertEqual(read.rejected_count, 0, read.rejected)
        again = [Step(**{**vars(step), "step_id": "s1"}) for step in read.steps]
        self.assertEqual(again, steps)

    def test_formulas_are_defused_and_come_back(self) -> None:
        step = Step("s1", "screw", "=HYPERLINK(1)", note="@home")
        text = write_strip((step,))
        self.assertIn("'=HYPERLINK", text)
        self.assertEqual(read_strip(text.encode()).steps, (step,))

    def test_wrong_rows_are_listed_with_their_reason(self) -> None:
        data = b"kind;home;count;head\nscrew;top cover;3;cross\nwibble;x;1;\nscrew;lid;2,5;\nscrew;;1;\nnut;lid;1;star\n"
        read = read_strip(data)
        self.assertEqual([step.count for step in read.steps], [3])
        self.assertEqual([row.line for row in read.rejected], [3, 4, 5, 6])
        for row, word in zip(read.rejected, ("kind", "whole number", "belongs", "slotted"), strict=True):
            self.assertIn(word, row.reason)

    @settings(max_examples=150, deadline=None)
    @given(st.binary(max_size=400))
    def test_any_bytes_give_steps_or_a_sentence(self, data: bytes) -> None:
        for head in (b"", b"kind,home,count\n"):
            try:
                read_strip(head + data)
            except InvalidInput as error:
                self.assertIn("expected", str(error))


if __name__ == "__main__":
    unittest.main()
