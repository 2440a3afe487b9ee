"""Prove: firings and what they prove, contacts round by round, exercise, light seals, readings over time."""

from dataclasses import replace
from datetime import date, datetime

from PySide6.QtCore import QTimer, Slot

from violet_dial.core.proof.contacts import MOST_OHM
from violet_dial.core.steady.samples import UNITS, Capture, Function, Measured
from violet_dial.job.document import Job
from violet_dial.job.proving import ContactRead
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import PagedStation
from violet_dial.kit.said_page import RowsPage
from violet_dial.kit.side_panel import SideSaid
from violet_dial.services import live
from violet_dial.stations.prove import rounds_acts
from violet_dial.stations.prove.bench import hours_between
from violet_dial.stations.prove.firings_page import FiringsPage
from violet_dial.stations.prove.rounds_state import contacts_shown, exercise_shown, next_position, soak_shown
from violet_dial.stations.prove.seals_view import SealsPage
from violet_dial.stations.prove.state import FIRINGS
from violet_dial.stations.prove.sum import contacts_opened, exercise_opened, soak_opened

CONTACT_KEYS = (
    "1/250 4.2 · swab (a new round) · black · no black · 1/250 beside its mark · switch s1. Hands-free (F10) takes the ohms."
)
EXERCISE_KEYS = (
    "5 days 15 a day rest 3 · done · done 15 failed 1. Ctrl+E writes the days as a calendar; Ctrl+Shift+X at the jobs "
    "screen ticks today off."
)
SOAK_KEYS = "4.2 uA · 2026-11-20 12.1 Ev · allow 0.5 uA · every 10 min. Hands-free (F10) takes a reading each time it is due."
CLEANING = (
    "Read every position before anything touches it. Then swab with contact cleaner, turn through all positions, read again; "
    "a round that leaves more than four fifths of the ohms has gained nothing there, and the next dearer way is due: fluid, "
    "then paper or glass fibre, last the bent finger. Swab until no black comes off."
)
EXERCISE = (
    "A magnet or a governor that lay still sticks with old oil and comes free by use; if it only sticks again after the next "
    "rest, it was not put right. So it is fired again after a rest as long as the one it came in with. Two clean days in a "
    "row may end it early; failures that go on call for cleaning."
)
SOAK = (
    "Run current over hours shows a leak that comes with warmth; a meter's reading over days shows whether it stays where it "
    "was set. Drift is the slope with its 95 % interval; a jump beyond it is said with its moment, and from there on it is "
    "not the same device. The re-check date is when the fastest drift the readings allow has used up what you allow."
)
TICK_MS = 1_000


class ContactsPage(RowsPage):
    """The meter's ohms go to the next position."""

    says_beside = True
    opens = staticmethod(contacts_opened)
    beside = SideSaid("How contacts are cleaned", (), CLEANING)
    looks_at: Function = "ohm"
    slot_missing = "every position is read: say the next round, for instance swab"

    def __init__(self, context: PageContext) -> None:
        typed = self._line("Ohms of a position", rounds_acts.understand_contact)
        super().__init__(context, "1/250 4.2", typed, ("Contacts", CONTACT_KEYS), contacts_shown)

    @property
    def slot(self) -> live.Slot | None:
        where = next_position(self._job) if self._job is not None else ""
        return live.Slot(f"ohms at {where}", "ohm") if where else None

    def put_capture(self, capture: Capture) -> bool:
        where = next_position(self._known())
        if not where:
            return False
        ohm = min(abs(capture.value), MOST_OHM)
        reads = (ContactRead(where, ohm, replace(capture, value=min(capture.value, MOST_OHM))),)
        return self._context.perform(lambda job, at: rounds_acts.read_contact(job, reads, at))


class RunInPage(RowsPage):
    """Days and what failed on each."""

    says_beside = True
    opens = staticmethod(exercise_opened)
    beside = SideSaid("Why exercise", (), EXERCISE)

    def __init__(self, context: PageContext) -> None:
        typed = self._line("Exercise", lambda job, text: rounds_acts.understand_exercise(job, text, date.today()))
        said = ("Exercise", EXERCISE_KEYS)
        super().__init__(context, "5 days 15 a day rest 3", typed, said, lambda job: exercise_shown(job, date.today()))


class SoakPage(RowsPage):
    """Hands-free a reading is taken each time it is due."""

    says_beside = True
    opens = staticmethod(soak_opened)
    beside = SideSaid("What it is for", (), SOAK)
    slot_missing = "the next reading over time is not due yet"

    def __init__(self, context: PageContext) -> None:
        typed = self._line("A reading over time", rounds_acts.understand_soak)
        super().__init__(context, "4.2 uA", typed, ("Readings", SOAK_KEYS), soak_shown)
        self._ticking = QTimer(self, interval=TICK_MS)  # whether the next reading is due
        self._ticking.timeout.connect(self._look_due)
        self._was_due = False

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._ticking.stop()

    def close_workers(self) -> None:
        self._ticking.stop()

    def hands_changed(self, is_free: bool) -> None:
        if is_free:
            self._ticking.start()
        else:
            self._ticking.stop()
        self.changed.emit()

    @property
    def looks_at(self) -> Function:
        unit = self._job.proving.soak.unit if self._job is not None else ""
        return next((function for function, its_unit in UNITS.items() if its_unit == unit), "amp")

    @property
    def _is_due(self) -> bool:
        soak = self._known().proving.soak
        if not self._context.instruments.hands_free() or not soak.readings:
            return True
        since = hours_between(soak.readings[-1].at, datetime.now().astimezone().isoformat())
        return since is None or 60 * since >= soak.every_min

    @Slot()
    def _look_due(self) -> None:
        due = self._job is not None and self.isVisible() and self._is_due
        if due != self._was_due:
            self._was_due = due
            self.changed.emit()

    @property
    def slot(self) -> live.Slot | None:
        due = self._job is not None and self._is_due
        return live.Slot("the next reading over time", self.looks_at) if due else None

    def put_capture(self, capture: Capture) -> bool:
        read = Measured.of(capture)
        return self._context.perform(lambda job, at: rounds_acts.read_soak(job, read, at))


class ProvePage(PagedStation):
    """Firings are in front."""

    def __init__(self, context: PageContext) -> None:
        self.firings, self.contacts, self.exercise = FiringsPage(context), ContactsPage(context), RunInPage(context)
        self.seals, self.soak = SealsPage(context), SoakPage(context)
        super().__init__(
            context,
            (
                ("Firings", self.firings), ("Contacts", self.contacts), ("Exercise", self.exercise), ("Seals", self.seals),
                ("Soak", self.soak),
            ),
        )  # fmt: skip

    @property
    def part(self) -> int:
        """The page in view: what it holds is what is written into a file."""
        return self.pages.place

    @Slot(int)
    def _turned(self, place: int) -> None:
        if place != FIRINGS:
            self.firings.hearing.disarm()
        super()._turned(place)

    def to_picture(self) -> None:
        self.pages.turn_to(FIRINGS)
        self.here.to_picture()

    def fail(self) -> None:
        """The second foot switch: it failed."""
        if self.pages.place == FIRINGS:
            self.firings.count("failed")

    def hands_changed(self, is_free: bool) -> None:
        super().hands_changed(is_free)
        if self.here is not self.soak:
            self.soak.hands_changed(is_free)
