"""What the reading bar does: understands both fields, shows the needle, takes the reading, follows Next."""

from PySide6.QtCore import QObject, Signal, Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import UNIT_TYPED, reference_light
from violet_dial.core.quantities import format_signed, parse_number
from violet_dial.gui.widgets.reading_bar import BarState, ReadingBar
from violet_dial.job.document import Job
from violet_dial.services.acts import TypedReading, implied_direction, take_reading, understand_reading
from violet_dial.services.progress import NextAct, next_act, reference_text

SOURCE_WORDS = {
    "trusted meter": "Trusted meter reads, EV100",
    "lux meter": "Lux meter reads, lx",
    "luminance panel": "Luminance panel, cd/m²",
    "lamp at a distance": "Lamp at a distance, m",
}


class BarControl(QObject):
    """Joins the reading bar to the job."""

    act_asked = Signal(object)
    now_changed = Signal(object)
    said = Signal(str)

    def __init__(self, bar: ReadingBar, parent: QObject) -> None:
        super().__init__(parent)
        self._bar = bar
        self._job: Job | None = None
        self._aimed = ""
        bar.typed.connect(self._understand)
        bar.take_asked.connect(self.take)

    def show_job(self, job: Job) -> None:
        self._job = job
        self._bar.set_source(SOURCE_WORDS[job.light.setup.chain.source.kind])
        self._understand()

    def follow(self, act: NextAct | None) -> None:
        """Put in the light Next asks for, unless the person typed another."""
        if act is not None and act.kind == "read" and self._bar.reference.text() in ("", self._aimed):
            self._aimed = act.reference
            self._bar.set_reference(act.reference, act.direction)

    @Slot(float)
    def aim_at(self, ev100: float) -> None:
        """Put in a chosen light, ready for its reading."""
        if self._job is None:
            return
        try:
            self._aimed = reference_text(self._job, ev100)
        except InvalidInput as error:
            self.said.emit(str(error))
            return
        self._bar.set_reference(self._aimed, "")
        self._bar.focus_reading()

    def _typed(self) -> TypedReading:
        return TypedReading(
            self._bar.reference.text(),
            self._bar.reading.text(),
            self._bar.chosen_direction,  # type: ignore[arg-type]
            self._bar.chosen_attitude,
        )

    @Slot()
    def _understand(self) -> None:
        if self._job is None:
            return
        reference, reference_wrong, ev100 = self._understand_reference(self._job)
        reading, reading_wrong, indicated = self._understand_reading(ev100)
        ready = ev100 is not None and indicated is not None
        self._bar.show_state(BarState(reference, reading, reference_wrong, reading_wrong, ready))
        self.now_changed.emit(indicated if not reading_wrong else None)

    def _understand_reference(self, job: Job) -> tuple[str, bool, float | None]:
        text = self._bar.reference.text().strip()
        if not text:
            return "type the light", False, None
        try:
            light = reference_light(job.light.setup.chain, text)
        except InvalidInput as error:
            return f"expected {error.expected}", True, None
        chosen = self._bar.chosen_direction
        way = implied_direction(job, light.ev100) if chosen is None else chosen
        unit = UNIT_TYPED[job.light.setup.chain.source.kind]
        understood = "" if unit == "EV100" else f"{light.understood}\n"
        return f"{understood}= Ev {light.ev100:.2f} ± {2 * light.u_stops:.2f} {way}", False, light.ev100

    def _understand_reading(self, ev100: float | None) -> tuple[str, bool, float | None]:
        text = self._bar.reading.text().strip()
        if not text:
            return "type what it shows", False, None
        try:
            indicated = parse_number(text.lower().removeprefix("ev").strip(), "Reading")
        except InvalidInput as error:
            return f"expected {error.expected}", True, None
        error_text = "" if ev100 is None else f"  {format_signed(indicated - ev100)}"
        return f"= Ev {indicated:.2f}{error_text}", False, indicated

    @Slot()
    def take(self) -> None:
        """Take the reading; what cannot be understood is said and kept in the field."""
        if self._job is None:
            return
        typed = self._typed()
        try:
            understand_reading(self._job, typed)
        except InvalidInput as error:
            self.said.emit(str(error))
            (self._bar.focus_reference if error.field == "Reference" else self._bar.focus_reading)()
            return
        before = self._job
        self.act_asked.emit(lambda job, at: take_reading(job, typed, at))
        if self._job is not before:
            self._aimed = self._bar.reference.text()
            self._bar.clear_reading()
            self._bar.set_reference(self._aimed, "")
            self.follow(next_act(self._job))
            self._bar.focus_reading()
