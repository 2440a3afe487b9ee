"""Prove: firings and what they prove, contacts round by round, exercise, light seals, readings over time."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from functools import partial

from PySide6.QtCore import QTimer, Slot
from PySide6.QtWidgets import QVBoxLayout, QWidget

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.contacts import MOST_OHM
from violet_dial.core.steady.samples import UNITS, Capture, Function, Measured
from violet_dial.job.act import Understood
from violet_dial.job.document import Job
from violet_dial.job.proving import ContactRead
from violet_dial.kit.page import PageContext, StationPage
from violet_dial.kit.said_page import RowsPage, line
from violet_dial.kit.side_panel import SidePanel
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.next import NextAct
from violet_dial.services.station import FileIn, Section
from violet_dial.stations.prove import rounds_acts, seals_acts
from violet_dial.stations.prove.bench import hours_between
from violet_dial.stations.prove.firings_page import FiringsPage
from violet_dial.stations.prove.firings_state import kinds_said, said_rows
from violet_dial.stations.prove.rounds_state import contacts_shown, exercise_shown, next_position, soak_shown
from violet_dial.stations.prove.seals_state import seals_shown
from violet_dial.stations.prove.seals_view import SealsPage
from violet_dial.stations.prove.state import CONTACTS, EXERCISE, FIRINGS, SEALS, SOAK
from violet_dial.stations.prove.sum import OPENED

NAMES = ("Firings", "Contacts", "Exercise", "Seals", "Soak")
FIRING_KEYS = (
    "On the lanes (F5): Enter or F8 counts a clean firing, F or Shift+F8 a failure, 1 to 7 its kind, Del takes the last "
    "one out; up and down choose the setting. Lines: roll 12 failed 2 at 1/250 · after cleaned contacts · battery 2.95 · "
    "rested 14 h · cold · claim 1 in 20 at 95 % · school fixed. F10 arms the sound card: each firing then counts itself."
)
CONTACT_KEYS = (
    "1/250 4.2 · swab (a new round) · black · no black · 1/250 beside its mark · switch s1. Hands-free (F10) takes the "
    "ohms."
)
EXERCISE_KEYS = (
    "5 days 15 a day rest 3 · done · done 15 failed 1. Ctrl+E writes the days as a calendar; Ctrl+Shift+X at the jobs "
    "screen ticks today off."
)
SEAL_KEYS = (
    "roll 24 · 3 edge top perforations · 4 clean · 5 open hinge streak left · hinge left. Ctrl+I takes the scan of a "
    "frame."
)
SOAK_KEYS = (
    "4.2 uA · 2026-11-20 12.1 Ev · allow 0.5 uA · every 10 min. Hands-free (F10) takes a reading each time it is due."
)
TICK_MS = 1_000


class ProvePage(StationPage):
    """Each page shows one frozen value; what its side panel says follows the page in view."""

    def __init__(self, context: PageContext) -> None:
        super().__init__()
        self._context = context
        self._job: Job | None = None
        look = context.look
        self.firings = FiringsPage(context)
        self.contacts = RowsPage(
            look,
            "1/250 4.2",
            self._line("Ohms of a position", rounds_acts.understand_contact),
            ("Contacts", CONTACT_KEYS),
        )
        self.exercise = RowsPage(
            look, "5 days 15 a day rest 3", self._line("Exercise", self._exercise), ("Exercise", EXERCISE_KEYS)
        )
        self.seals = SealsPage(look, self._line("A frame of the seal roll", seals_acts.understand))
        self.soak = RowsPage(
            look, "4.2 uA", self._line("A reading over time", rounds_acts.understand_soak), ("Readings", SOAK_KEYS)
        )
        self._side = SidePanel(look)
        self._each = (self.firings, self.contacts, self.exercise, self.seals, self.soak)
        draws = tuple(partial(self._draw, place) for place in range(len(NAMES)))
        self.pages = SubPages(tuple(zip(NAMES, self._each, strict=True)), draws)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.pages)
        self.pages.turned.connect(self._turned)
        self._due = QTimer(self, interval=TICK_MS)  # whether the next reading over time is due
        self._due.timeout.connect(self._look_due)
        self._was_due = False

    def _line(self, name: str, understand: Callable[[Job, str], Understood]) -> TypedLine:
        def understood(text: str) -> str:
            return understand(self._known(), text).words

        return line(name, understood, lambda text: self._context.perform(understand(self._known(), text).act))

    def _exercise(self, job: Job, text: str) -> Understood:
        return rounds_acts.understand_exercise(job, text, date.today())

    def _known(self) -> Job:
        if self._job is None:
            raise InvalidInput("Job", "none", "a job at the bench")
        return self._job

    # what is shown

    def begin(self, job: Job) -> None:
        self._job = None
        self._due.stop()
        self.firings.begin(job)
        for typed in (self.contacts.typed, self.exercise.typed, self.seals.typed, self.soak.typed):
            typed.clear()
        self.pages.begin()

    def show_job(self, job: Job) -> None:
        """Draw the job on the page in view."""
        self._job = job
        self.pages.draw()
        self._draw_side()

    def _draw(self, place: int) -> None:
        job = self._job
        if job is None:
            return
        if place == FIRINGS:
            self.firings.show_job(job)
        elif place == CONTACTS:
            self.contacts.draw(contacts_shown(job))
        elif place == EXERCISE:
            self.exercise.draw(exercise_shown(job, date.today()))
        elif place == SEALS:
            self.seals.draw(seals_shown(job))
        else:
            self.soak.draw(soak_shown(job))

    def _draw_side(self) -> None:
        job, place = self._job, self.pages.place
        if job is None:
            return
        if place == FIRINGS:
            rows = said_rows(job)
            title = "What the firings say" if rows else "What they say shows with the first firing"
            self._side.show_panel(title, rows, kinds_said(job), "", FIRING_KEYS)
        elif place == SEALS:
            shown = seals_shown(job)
            rows = shown.suspects or tuple(
                (where, f"{material}, {thick}: {mind}") for where, material, thick, mind in shown.seals
            )
            title = "Where it gets in" if shown.suspects else "Seals, where they go and how thick"
            seal = ""
            if shown.suspects:
                first = shown.chances[0][0]
                seal = next(
                    (f"Seal it with {m}, {t}: {mind}." for where, m, t, mind in shown.seals if where == first), ""
                )
            self._side.show_panel(title, rows, seal, shown.under, SEAL_KEYS)
        else:
            title, words = SIDES[place]
            self._side.show_panel(title, (), words, "", "")

    @property
    def side(self) -> QWidget:
        return self._side

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        return None if self._job is None else OPENED[self.pages.place](self._job)

    @property
    def part(self) -> int:
        """The page in view: what it holds is what is written into a file."""
        return self.pages.place

    @property
    def file_in(self) -> FileIn | None:
        return seals_acts.FILE_IN if self.pages.place == SEALS else None

    def close_workers(self) -> None:
        self._due.stop()
        self.firings.hearing.disarm()

    # pages and keys

    @Slot(int)
    def _turned(self, place: int) -> None:
        if place != FIRINGS:
            self.firings.hearing.disarm()
        self._draw_side()
        self.focus_first()
        self.changed.emit()

    def focus_first(self) -> None:
        """To where the page in view begins."""
        self._each[self.pages.place].focus_first()

    def to_picture(self) -> None:
        self.pages.turn_to(FIRINGS)
        self.firings.view.setFocus()

    def follow(self, act: NextAct) -> None:
        self.pages.turn_to(act.page)

    def fail(self) -> None:
        """The second foot switch: it failed."""
        if self.pages.place == FIRINGS:
            self.firings.count("failed")

    # the bar's instrument, the sound card

    @property
    def typed_ready(self) -> bool:
        return self.isVisible() and self.pages.place == FIRINGS

    def take_typed(self) -> None:
        if self.pages.place == FIRINGS:
            self.firings.count("")

    @property
    def slot(self) -> live.Slot | None:
        job, place = self._job, self.pages.place
        if job is None:
            return None
        if place == CONTACTS and (where := next_position(job)):
            return live.Slot(f"ohms at {where}", "ohm")
        if place == SOAK and self._is_due(job):
            return live.Slot("the next reading over time", self.looks_at)
        return None

    @property
    def slot_missing(self) -> str:
        return {
            CONTACTS: "every position is read: say the next round, for instance swab",
            SOAK: "the next reading over time is not due yet",
            FIRINGS: "no reading is asked for here: F8 counts a clean firing",
        }.get(self.pages.place, "no reading is asked for here")

    @property
    def looks_at(self) -> Function:
        if self.pages.place == SOAK and self._job is not None:
            unit = self._job.proving.soak.unit
            return next((name for name, one in UNITS.items() if one == unit), "amp")
        return "ohm" if self.pages.place == CONTACTS else "volt"

    def _is_due(self, job: Job) -> bool:
        soak = job.proving.soak
        if not self._context.instruments.hands_free() or not soak.readings:
            return True
        since = hours_between(soak.readings[-1].at, datetime.now().astimezone().isoformat())
        return since is None or 60 * since >= soak.every_min

    @Slot()
    def _look_due(self) -> None:
        due = self._job is not None and self.pages.place == SOAK and self._is_due(self._job)
        if due != self._was_due:
            self._was_due = due
            self.changed.emit()

    def put_capture(self, capture: Capture) -> bool:
        job, place = self._job, self.pages.place
        if job is None:
            return False
        if place == CONTACTS and (where := next_position(job)):
            ohm = min(abs(capture.value), MOST_OHM)
            reads = (ContactRead(where, ohm, replace(capture, value=min(capture.value, MOST_OHM))),)
            return self._context.perform(lambda job, at: rounds_acts.read_contact(job, reads, at))
        if place == SOAK:
            read = Measured.of(capture)
            return self._context.perform(lambda job, at: rounds_acts.read_soak(job, read, at))
        return False

    def hands_changed(self, is_free: bool) -> None:
        if is_free:
            self._due.start()
        else:
            self._due.stop()
        if self.pages.place == FIRINGS and is_free != self.firings.hearing.armed:
            self.firings.toggle()
        self.changed.emit()

    def by_hand(self) -> bool:
        return self.pages.place == FIRINGS and self.firings.fire()


SIDES = {
    CONTACTS: (
        "How contacts are cleaned",
        "Read every position before anything touches it. Then swab with contact cleaner, turn through all positions, read again; "
        "a round that leaves more than four fifths of the ohms has gained nothing there, and the next dearer way is due: "
        "fluid, then "
        "paper or glass fibre, last the bent finger. Swab until no black comes off.",
    ),
    EXERCISE: (
        "Why exercise",
        "A magnet or a governor that lay still sticks with old oil and comes free by use; if it only sticks again after the next "
        "rest, it was not put right. So it is fired again after a rest as long as the one it came in with. Two clean "
        "days in a row "
        "may end it early; failures that go on call for cleaning.",
    ),
    SOAK: (
        "What it is for",
        "Run current over hours shows a leak that comes with warmth; a meter's reading over days shows whether it stays "
        "where it was "
        "set. Drift is the slope with its 95 % interval; a jump beyond it is said with its moment, and from there on it "
        "is not the same "
        "device. The re-check date is when the fastest drift the readings allow has used up what you allow.",
    ),
}  # fmt: skip
