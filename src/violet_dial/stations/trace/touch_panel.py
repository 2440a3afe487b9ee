"""The touch that the map asks for: its two spots large, what is expected, the field for what the meter shows, and the proof."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import Touch
from violet_dial.core.mapping.facts import BEEP_OHM, SILENT_OHM
from violet_dial.core.mapping.touching import NextTouch
from violet_dial.core.quantities import format_engineering, parse_with_unit
from violet_dial.core.records.circuit import OVERLOAD_OHM
from violet_dial.core.units import is_overload
from violet_dial.kit.cards import card, fill, labelled
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.trace.map_state import MapShown

BEEPS = ("beep", "beeps", "b")
SILENT = ("no beep", "silent", "n")


class TouchPanel(QWidget):
    """It stands below the Next card; Enter in the field takes the touch."""

    def __init__(self, look: Look, take: Callable[[Touch], bool]) -> None:
        super().__init__()
        self._take_touch = take
        self._asked: NextTouch | None = None
        frame, inside = card("Touch next")
        self.spots = labelled("", "huge", True)
        self.spots.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.expects = labelled("", "head", True)
        self.why = labelled("", "small", True)
        self.typed = TypedLine("What the meter shows", None, self._understood, self._take)
        self.typed.edit.setPlaceholderText("shows: 0.3, 2k2, beep, open")
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
        self.proof.setText(shown.proof)
        self.model.show(shown.touches, shown.touch_marks)

    def _read(self, text: str) -> Touch:
        if self._asked is None:
            raise InvalidInput("Touch", text, "a touch that is asked for; others are typed in the line: clip+ to S1 beep")
        low = " ".join(text.lower().split())
        ask = self._asked
        if low in BEEPS:
            return Touch(ask.a, ask.b, BEEP_OHM, True, ask.setting)
        if low in SILENT:
            return Touch(ask.a, ask.b, SILENT_OHM, False, ask.setting)
        value = OVERLOAD_OHM if is_overload(low) else parse_with_unit(text, ("Ω",), "Ohms", "Ω").value
        if value < 0:
            raise InvalidInput("Ohms", text, "a figure of 0 or more, beep, no beep, or open")
        return Touch(ask.a, ask.b, min(value, OVERLOAD_OHM), None, ask.setting)

    def _understood(self, text: str) -> str:
        touch = self._read(text)
        if touch.beep is not None:
            return "= a beep" if touch.beep else "= no beep"
        return "= open" if touch.ohm >= OVERLOAD_OHM else f"= {format_engineering(touch.ohm)}Ω"

    def _take(self, text: str) -> bool:
        return self._take_touch(self._read(text))
