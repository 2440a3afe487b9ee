"""The sound card before a shutter: armed or not, what it says of itself, and firings on their way to where they are counted."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal, Slot

from violet_dial.core.errors import VioletDialError
from violet_dial.instruments.simulated.shutter import SimulatedCard
from violet_dial.instruments.sound_card import SoundSource
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.services.job_shutter import card_channels, channels_of, speeds_of, works_of
from violet_dial.services.listening import Listener, Taken
from violet_dial.services.recordings import wav_of
from violet_dial.services.shutter import Channels

POLL_MS = 10
OFF = "F8 arms the sound card; each firing is then taken by itself"


class Hearing(QObject):
    """One card for the job at hand. ``taken`` carries what was heard, ``changed`` when it says something else of itself."""

    taken = Signal(object)
    changed = Signal()

    def __init__(self, parent: QObject, card_for: Callable[[Job], SoundSource]) -> None:
        super().__init__(parent)
        self._card_for = card_for
        self._job: Job | None = None
        self._listener: Listener | None = None
        self._stands = (False, False)  # ready, open: as it was said last
        self._timer = QTimer(self, interval=POLL_MS)
        self._timer.timeout.connect(self.poll)

    @property
    def armed(self) -> bool:
        return self._listener is not None and self._listener.listening

    @property
    def words(self) -> str:
        """What the card does now."""
        if self._listener is None or not self.armed:
            return OFF
        ready, open_ = self._stands
        if open_:
            return "open…"
        return f"{self._listener.card.name} listens" if ready else "a moment: it learns what rest is…"

    def show_job(self, job: Job) -> None:
        """The job whose shutter is before the card."""
        self._job = job

    def arm(self) -> None:
        """Listen. Raises InvalidInput: there is no card."""
        if self._job is None or self.armed:
            return
        card = self._card_for(self._job)
        listener = Listener(card, self._channels)
        listener.start()
        self._listener = listener
        self._timer.start()
        self.changed.emit()

    def disarm(self) -> None:
        """Listen no more."""
        self._timer.stop()
        if self._listener is not None:
            self._listener.stop()
        self._stands = (False, False)
        self.changed.emit()

    def _channels(self) -> Channels:
        job, listener = self._job, self._listener
        if job is None or listener is None:
            return Channels(("light",))
        return channels_of(job, listener.card.channels)

    @Slot()
    def poll(self) -> None:
        """Fetch what was taken."""
        listener = self._listener
        if listener is None:
            return
        stands = (listener.is_ready, listener.is_open)
        if stands != self._stands:
            self._stands = stands
            self.changed.emit()
        for one in listener.drain():
            self.taken.emit(one)

    def fire(self, marked_s: float, fastest_s: float) -> bool:
        """Fire the simulated shutter; False with a real card."""
        card = self._listener.card if self._listener is not None and self.armed else None
        if not isinstance(card, SimulatedCard):
            return False
        card.fire(marked_s, fastest_s)
        return True

    def recorded(self) -> bytes | None:
        """What was recorded last, as WAV; None where nothing was."""
        if self._listener is None:
            return None
        samples = self._listener.recorded()
        return wav_of(samples, self._listener.card.rate_hz) if len(samples) else None


class HeardPage(StationPage):
    """A page before whose shutter the sound card listens; ``listens`` is where the card's own words stand."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.hearing = Hearing(self, lambda job: context.instruments.sound_card(job, works_of(job), card_channels(job)))
        self.listens = labelled("", "small", True)
        self.heard_last = ""  # what was taken last by the card
        self.hearing.taken.connect(self.heard)
        self.hearing.changed.connect(self.draw_listens)

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.hearing.disarm()
        self.heard_last = ""

    @Slot(object)
    def heard(self, taken: Taken) -> None:
        """A firing was heard, or why none could be read."""

    @Slot()
    def draw_listens(self) -> None:
        """Say what the card does."""

    def armed(self) -> bool:
        """Have the card listen; False where there is none, which is said."""
        try:
            self.hearing.arm()
        except VioletDialError as error:
            self._context.say(str(error))
            return False
        return True

    def toggle(self) -> None:
        """Arm the sound card, or let go of it."""
        if self.hearing.armed:
            self.hearing.disarm()
        elif self.armed():
            self.draw_listens()

    def fired(self, time_s: float) -> bool:
        """Simulated hands fire the shutter so that it should be open for a time."""
        if not self.hearing.armed and not self.armed():
            return True
        return self.hearing.fire(time_s, min(speeds_of(self._known()) or (time_s,)))

    def hands_changed(self, is_free: bool) -> None:
        if is_free != self.hearing.armed:
            self.toggle()

    def close_workers(self) -> None:
        self.hearing.disarm()
        super().close_workers()

    @property
    def typed_ready(self) -> bool:
        return self.isVisible()  # only where it is in view: nothing lies typed here
