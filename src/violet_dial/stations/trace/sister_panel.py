"""The spot to be touched next, and on which unit: said large, with the field for what the meter shows."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.quantities import format_engineering, parse_with_unit
from violet_dial.kit.cards import card, labelled
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import TypedLine
from violet_dial.stations.trace.sister_state import AskShown, Order, SisterShown, Unit

UNITS: dict[Unit, str] = {"working": "Working unit", "sick": "Sick unit", "third": "Third unit"}


class SisterPanel(QWidget):
    """It stands below the Next card; Enter in the field takes the figure for the unit and spot that are asked for. ``third``
    before a figure takes it for another working unit."""

    order_turned = Signal()

    def __init__(self, look: Look, take: Callable[[Unit, str, float], bool]) -> None:
        super().__init__()
        self._take_volts = take
        self._asked: AskShown | None = None
        self._last = ""  # the spot read last: a third unit is read there
        frame, inside = card()
        self.order = QPushButton()
        self.order.setProperty("role", "link")
        self.order.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.order.setToolTip("Ctrl+R turns to the other order")
        self.order.clicked.connect(self.order_turned)
        head = QHBoxLayout()
        head.addWidget(labelled("Touch next", "head"))
        head.addStretch(1)
        head.addWidget(self.order)
        inside.addLayout(head)
        self.unit = labelled("", "head", True)
        self.spot = labelled("", "huge", True)
        self.why = labelled("", "small", True)
        self.typed = TypedLine("Volts against the chassis", lambda text: (), self._understood, self._take)
        self.typed.edit.setPlaceholderText("shows: 2.61, 80 mV")
        self.words = labelled("", "", True)
        self.suspects = labelled("", "small", True)
        self.doubts = labelled("", "small", True)
        for item in (self.unit, self.spot, self.why, self.typed, self.words, self.suspects, self.doubts):
            inside.addWidget(item)
        inside.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)

    @property
    def asked(self) -> AskShown | None:
        """The touch that is asked for."""
        return self._asked

    def begin(self) -> None:
        """Another job: nothing typed."""
        self._asked, self._last = None, ""
        self.typed.clear()

    def draw(self, shown: SisterShown, order: Order) -> None:
        """Draw all of the panel; another touch than before begins with an empty field."""
        ask = shown.ask
        if ask != self._asked:
            self.typed.clear()
        self._asked = ask
        self.order.setText(order)
        self.order.setAccessibleName(f"Order: {order}; turn to the other")
        for label in (self.unit, self.spot):
            label.setVisible(ask is not None)
        self.unit.setText(UNITS[ask.unit] if ask is not None else "")
        self.spot.setText(ask.spot if ask is not None else "")
        self.spot.setAccessibleName(f"{UNITS[ask.unit]}, touch {ask.spot} and the chassis" if ask is not None else "")
        nothing_left = "" if shown.nothing or not shown.words else "No comparison would settle more."
        self.why.setText(ask.why if ask is not None else nothing_left)
        self.typed.setVisible(ask is not None or bool(self._last))
        self.typed.edit.setPlaceholderText("shows: 2.61, 80 mV" if ask is not None else "of a third unit: third 2.61")
        self.words.setText(shown.words or shown.nothing)
        self.suspects.setText("\n".join(f"{chance:.0%}  {name}" for name, chance in shown.suspects))
        self.suspects.setVisible(bool(shown.suspects))
        self.doubts.setText("\n".join(f"Mind: {one}." for one in shown.doubts))
        self.doubts.setVisible(bool(shown.doubts))

    def _read(self, text: str) -> tuple[Unit, float]:
        third = text.strip().lower().startswith("third ")
        value = parse_with_unit(text.strip()[6:] if third else text, ("V",), "Volts", "V").value
        unit: Unit = "third" if third else self._asked.unit if self._asked is not None else "sick"
        return unit, value

    def _understood(self, text: str) -> str:
        unit, value = self._read(text)
        where = self._third_spot() if unit == "third" else self._spot()
        return f"= {UNITS[unit].lower()}, {where}: {format_engineering(value)}V"

    def _third_spot(self) -> str:
        return self._last or self._spot()

    def _take(self, text: str) -> bool:
        unit, value = self._read(text)
        if unit != "third" and self._asked is None:
            raise InvalidInput("Volts", text, "a spot that is asked for; of a third unit: third 2.61")
        return self._take_volts(unit, self._third_spot() if unit == "third" else self._spot(), value)

    def read_at(self, spot: str) -> None:
        """A spot was read: a third unit is read there."""
        self._last = spot

    def _spot(self) -> str:
        return self._asked.spot if self._asked is not None else ""
