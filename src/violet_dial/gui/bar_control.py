"""What the reading bar does: understands both fields, shows the needle, takes the reading, follows Next."""

from PySide6.QtCore import QObject, Signal, Slot

from violet_dial.core.errors import InvalidInput
from violet_dial.core.light.chain import reference_light
from violet_dial.core.quantities import format_grouped, format_signed, parse_number
from violet_dial.core.steady.samples import Capture
from violet_dial.gui.widgets.reading_bar import BarState, ReadingBar
from violet_dial.job.document import Job
from violet_dial.services.acts import TypedReading, chain_with, implied_direction, take_reading, understand_reading
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
    aimed = Signal()  # another light is asked for

    def __init__(self, bar: ReadingBar, parent: QObject) -> None:
        super().__init__(parent)
        self._bar = bar
        self._job: Job | None = None
        self._aimed = ""
        self._captured: tuple[str, Capture] | None = None  # what was put in by an instrument, with what it came from
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
            self.aimed.emit()

    @property
    def aimed_lx(self) -> float:
        """The light asked for next, when it is set by a lux meter; 0 when it is not."""
        if self._job is None or self._job.light.setup.chain.source.kind != "lux meter" or not self._aimed:
            return 0.0
        try:
            return parse_number(self._aimed, "Reference")
        except InvalidInput:
            return 0.0

    def put_light(self, capture: Capture) -> None:
        """Put in the light an instrument measured; the needle is typed next."""
        text = format_grouped(capture.value, 0 if capture.value >= 1000 else 2).replace("\u00a0", " ")
        self._captured = (text, capture)
        self._bar.reference.setText(text)
        self._understand()
        self._bar.focus_reading()

    def drop_light(self) -> bool:
        """Take back a light an instrument put in, before the needle was read; False when there is none."""
        if self._capture is None:
            return False
        self._captured = None
        self._bar.reference.setText(self._aimed)
        return True

    @property
    def has_light(self) -> bool:
        """Whether an instrument put the light in and the needle is still to be read."""
        return self._capture is not None

    @property
    def _capture(self) -> Capture | None:
        """The instrument's light, as long as the field still says it."""
        if self._captured is None or self._captured[0] != self._bar.reference.text():
            return None
        return self._captured[1]

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
        self.aimed.emit()
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
            light = reference_light(chain_with(job.light.setup.chain, self._capture), text)
        except InvalidInput as error:
            return f"expected {error.expected}", True, None
        chosen = self._bar.chosen_direction
        way = implied_direction(job, light.ev100) if chosen is None else chosen
        return f"= Ev {light.ev100:.2f} ± {2 * light.u_stops:.2f} {way}", False, light.ev100

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
        typed, capture = self._typed(), self._capture
        try:
            understand_reading(self._job, typed, capture)
        except InvalidInput as error:
            self.said.emit(str(error))
            (self._bar.focus_reference if error.field == "Reference" else self._bar.focus_reading)()
            return
        before = self._job
        self.act_asked.emit(lambda job, at: take_reading(job, typed, at, capture))
        if self._job is not before:
            self._captured = None
            self._aimed = self._bar.reference.text()
            self._bar.clear_reading()
            self._bar.set_reference(self._aimed, "")
            self.follow(next_act(self._job))
            self._bar.focus_reading()
