"""The touch that the map asks for: its two spots large, what is expected, the field for what the meter shows, and the proof."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Touch
from violet_dial.core.mapping.possible import NextTouch
from violet_dial.core.mapping.rows import BEEPS, SILENT, read_row, touched, touches_words
from violet_dial.core.quantities import parse_with_unit
from violet_dial.core.records.circuit import OVERLOAD_OHM
from violet_dial.core.units import is_overload
from violet_dial.kit.cards import card, fill, labelled
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.trace.map_state import MapShown


class TouchPanel(QWidget):
    """It stands below the Next card; Enter in the field takes the touch."""

    def __init__(self, look: Look, take: Callable[[tuple[Touch, ...]], bool]) -> None:
        super().__init__()
        self._take_touches = take
        self._asked: NextTouch | None = None
        frame, inside = card("Touch next")
        self.spots = labelled("", "huge", True)
        self.spots.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.expects = labelled("", "head", True)
        self.why = labelled("", "small", True)
        self.typed = TypedLine("What the meter shows", None, self._understood, self._take)
        self.proof = labelled("", "small", True)
        self.model = RowsModel(look, ("between", "shows", "with"))
        self.table = RowsTable(look, "Touches; Del strikes out", 1)
        self.table.setModel(self.model)
        self.table.set_widths(150, 70, 70)
        self.table.drop_when_narrow(2, 280)
        for item in (self.spots, self.expects, self.why, self.typed, self.proof):
            inside.addWidget(item)
        inside.addWidget(self.table, 1)
        fill(self, frame)

    @property
    def asked(self) -> NextTouch | None:
        """The touch that is asked for."""
        return self._asked

    def begin(self) -> None:
        """Another job: nothing typed."""
        self._asked = None
        self.typed.clear()
        self.model.show(())

    def draw(self, shown: MapShown, asked: NextTouch | None) -> None:
        """Draw all of the panel; another touch than before begins with an empty field."""
        if asked != self._asked:
            self.typed.clear()
        self._asked = asked
        spots = shown.next.spots
        self.spots.setText(f"{spots[0]}\n{spots[1]}" if spots else "")
        self.spots.setVisible(spots is not None)
        self.spots.setAccessibleName(f"Touch {spots[0]} and {spots[1]}" if spots else "No touch is asked for")
        self.expects.setText(shown.next.expects)
        self.expects.setVisible(bool(shown.next.expects))
        self.why.setText(shown.next.why)
        self.typed.setVisible(asked is not None)
        is_row = asked is not None and asked.over
        self.typed.edit.setPlaceholderText("shows: beep, no beep, or where: p4 beep" if is_row else "shows: 0.3, 2k2, beep, open")
        self.proof.setText(shown.proof)
        self.model.show(shown.touches, shown.touch_marks)

    def _read(self, text: str) -> tuple[Touch, ...]:
        ask = self._asked
        if ask is None:
            raise InvalidInput("Touch", text, "a touch that is asked for; others are typed in the line: clip+ to S1 beep")
        if ask.over:
            return read_row(ask, text)
        low = " ".join(text.lower().split())
        if low in BEEPS or low in SILENT:
            return (touched(ask, ask.b, low in BEEPS),)
        value = OVERLOAD_OHM if is_overload(low) else parse_with_unit(text, ("Ω",), "Ohms", "Ω").value
        if value < 0:
            raise InvalidInput("Ohms", text, "a figure of 0 or more, beep, no beep, or open")
        return (Touch(ask.a, ask.b, min(value, OVERLOAD_OHM), None, ask.setting),)

    def _understood(self, text: str) -> str:
        return f"= {touches_words(self._read(text))}"

    def _take(self, text: str) -> bool:
        return self._take_touches(self._read(text))
