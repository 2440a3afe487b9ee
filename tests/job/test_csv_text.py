"""Tables as text: quotes, line ends and separators as the standard reader has them."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from violet_dial.core.errors import InvalidInput
from violet_dial.core.opening.steps import Step
from violet_dial.job.csv_text import MOST_ROWS, Names, table_of
from violet_dial.stations.open.table import read_strip, write_strip

KNOWN = Names(("kind", "home"), ("note",), {"place": "home"})


def rows_of(text: str) -> list[tuple[str, str, str]]:
    table = table_of(text.encode(), "Table", KNOWN)
    return list(table.offer(lambda cell: (cell("kind"), cell("home"), cell("note"))).found)


class Quotes(unittest.TestCase):
    def test_a_cell_in_quotes_holds_separators_quotes_and_line_ends(self) -> None:
        text = 'kind,home,note\nscrew,"top cover, left","first\nsecond ""line"""\nknob,rewind,\n'
        self.assertEqual(rows_of(text), [("screw", "top cover, left", 'first\nsecond "line"'), ("knob", "rewind", "")])

    def test_a_header_in_quotes(self) -> None:
        self.assertEqual(rows_of('"kind";"Place";"a; b"\nscrew;top;x\n'), [("screw", "top", "")])
        self.assertEqual(rows_of('"kind","home","no\nte"\nscrew,top,x\n'), [("screw", "top", "")])
        table = table_of(b'"kind","home","odd, and long"\nscrew,top,x\n', "Table", KNOWN)
        self.assertEqual((table.separator, table.ignored), (",", ("odd, and long",)))

    def test_rejected_rows_are_named_by_the_line_they_begin_in(self) -> None:
        table = table_of(b'kind,home,note\nscrew,top,"a\nb\nc"\n\nknob,bad,x\n', "Table", KNOWN)

        def make(cell):  # type: ignore[no-untyped-def]
            if cell("home") == "bad":
                raise InvalidInput("home", "bad", "a good one")
            return cell("home")

        self.assertEqual([row.line for row in table.offer(make).rejected], [6])

    def test_a_row_with_more_cells_than_the_first_line_was_cut_in_two(self) -> None:
        """+0,7 in a file parted by commas is two figures: nothing of such a row is taken."""
        table = table_of(b"kind,home,note\nscrew,0,7,x\nknob,top,x,\n", "Table", KNOWN)
        offered = table.offer(lambda cell: cell("home"))
        self.assertEqual(offered.found, ("top",))
        self.assertRegex(offered.rejected[0].reason, "4 cells.*decimal commas")
        self.assertEqual(offered.rejected[0].line, 2)

    def test_limits(self) -> None:
        with self.assertRaisesRegex(InvalidInput, "at most"):
            table_of(b"kind,home\n" + b"a,b\n" * (MOST_ROWS + 1), "Table", KNOWN)
        table_of(b"kind,home\n" + b"a,b\n" * MOST_ROWS, "Table", KNOWN)
        self.assertEqual(rows_of("kind,home\n" + "x" * 200_000 + ",b\nscrew,top\n"), [("screw", "top", "")])
        for data in (b"", b"\n\n", b"\0", b"a,b\n"):
            with self.assertRaises(InvalidInput):
                table_of(data, "Table", KNOWN)

    @settings(max_examples=150, deadline=None)
    @given(st.lists(st.text("ab\"',;\n =+-", min_size=1, max_size=12).map(str.strip).filter(bool), min_size=1, max_size=4))
    def test_notes_of_any_kind_come_back(self, notes: list[str]) -> None:
        steps = tuple(Step(f"s{n}", "screw", "top", note=note) for n, note in enumerate(notes, 1))
        read = read_strip(write_strip(steps).encode())
        self.assertEqual(read.rejected, ())
        self.assertEqual([step.note for step in read.steps], notes)


if __name__ == "__main__":
    unittest.main()
