"""One job on the bench: header, line of stations, the station's page, Next, log and reading bar."""

import importlib
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QApplication

from violet_dial.core.errors import StoreError, VioletDialError
from violet_dial.gui.appraising import Appraising
from violet_dial.gui.faults import note
from violet_dial.gui.job_frame import JobFrame
from violet_dial.gui.side_cards import JobPhotos
from violet_dial.job.act import Act
from violet_dial.job.spoken import spoken_time
from violet_dial.kit.cards import scrolled_back
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import PagedStation
from violet_dial.kit.theme.look import Look
from violet_dial.services.appraisal import Appraisal, fault_said
from violet_dial.services.next import NextAct
from violet_dial.services.photos import CheckedPhoto
from violet_dial.services.station import Station
from violet_dial.services.workshop import JobView, Workshop


class JobPage(JobFrame):
    """Holds the frozen view of one job, sends acts to the workshop and shows what comes back. What the stations say of it
    (Next, the line, the card) is worked out beside, once it is kept, and shown for the version it belongs to.

    A station's page is made when it is first shown; every page is told when another job comes to the bench.
    """

    said = Signal(str)
    titled = Signal(str)  # what the window is called
    turned = Signal()  # what is asked for may have changed: another job, station, act or test
    light_wanted = Signal()
    live_take_asked = Signal()
    arithmetic_asked = Signal()

    def __init__(self, look: Look, workshop: Workshop, context: Callable[["JobPage"], PageContext]) -> None:
        super().__init__(look, tuple(station.name for station in workshop.stations))
        self._workshop = workshop
        self.stations = workshop.stations
        self.view: JobView | None = None
        self._at_bench = False  # a job that was left is judged no more: its workshop may be closed by then
        self.fallback = next(station for station in self.stations if station.fallback)
        self.station = self.stations[0].name
        self._pages: dict[str, PagedStation] = {}
        self._begun: set[str] = set()  # pages that were told of the job on the bench
        self._unkept = ""  # why what was typed could not be kept, said once before it is left behind
        self.disk_fails = False  # the last act was right, but could not be kept
        self.photos = JobPhotos(self, workshop.blob)
        self._stations_say = Appraising(self, self.stations, lambda: (self.view, self._worked_out))
        self._context = context(self)
        self._connect()

    def _connect(self) -> None:
        self._stations_say.slow.connect(self.next_card.show_waiting)
        self._stations_say.appraised.connect(self._appraised)
        self._stations_say.said.connect(self.said)
        self.photos.checked.connect(self.keep_photos)
        self.photos.ready.connect(self._photos_ready)
        self.photos.said.connect(self.said)
        self.line.chosen.connect(self.go)
        self.next_card.wanted.connect(self.do_next)
        self.next_card.arithmetic_asked.connect(self.arithmetic_asked)
        self.log.wanted.connect(self.stand_at)
        self.bar.typed.connect(self._understand)
        self.bar.take_asked.connect(self._take_typed)
        self.bar.any_take_asked.connect(self.take)

    @Slot()
    def _understand(self) -> None:
        self.page.understand()

    @Slot()
    def _take_typed(self) -> None:
        self.page.take_typed()

    # stations

    def at(self, name: str) -> PagedStation:
        """A station's page, made on first use and told of the job on the bench."""
        page = self._pages.get(name)
        if page is None:
            module, _, made = self._described(name).page.partition(":")
            page = getattr(importlib.import_module(module), made)(self._context)
            self._pages[name] = page
            self.stack.addWidget(page)
            if page.side is not None:
                self.below_next.addWidget(page.side)
            page.changed.connect(self._page_changed)
        if self.view is not None and name not in self._begun:
            self._begun.add(name)
            scrolled_back(page)
            page.begin(self.view.job)
        return page

    def _described(self, name: str) -> Station:
        return next(station for station in self.stations if station.name == name)

    @property
    def described(self) -> Station:
        """The station in view, as it is described."""
        return self._described(self.station)

    @property
    def page(self) -> PagedStation:
        """The page in view."""
        return self.at(self.station)

    def open(self, view: JobView) -> None:
        """Show a job at the station that Next is about."""
        self._begun.clear()
        self.view, self._at_bench = view, True
        self.close_workers()
        self._unkept = ""
        then = self._stations_say.begin(view).next
        self._show_head()
        self.go(then.station)
        if then.kind == "read":
            self.page.follow(then)

    def show_view(self, view: JobView) -> None:
        """Draw the job as it now stands: the head and the station in view; Next follows when it was worked out."""
        self.view = view
        self._show_page()
        self._show_head()
        self._appraise()
        self.turned.emit()

    def _show_page(self) -> None:
        """Draw the station in view; where it cannot, what was kept is kept, and the fault is said."""
        if self.view is None:
            return
        try:
            self.page.show_job(self.view.job)
        except Exception as error:  # noqa: BLE001 - a fault of one station stops nothing else
            self.said.emit(fault_said(self.station, "what it shows", error))
        if self._at_bench:
            self._stations_say.ask_where_worked_out()

    def _show_head(self) -> None:
        """Draw all that is said of the job outside the station's page."""
        if self.view is None:
            return
        job = self.view.job
        self.title.setText(job.device.name or "Not described yet")
        parts = (
            f"Job {job.label}",
            job.intake.headline_fault,
            f"came in {job.intake.received_on}" * bool(job.intake.received_on),
            f"waits for {job.waits_for}" * bool(job.waits_for),
        )
        self.headline.setText(" · ".join(part for part in parts if part))
        self.kept.setText(self._workshop.read_only_reason or f"kept {spoken_time(self.view.kept_at)}")
        self.log.show_log(self.view.log)
        self.titled.emit(f"Job {job.label} · {job.device.name or 'not described'} · Violet Dial")
        self._show_appraisal()

    # what the stations say, worked out beside

    @property
    def appraisal(self) -> Appraisal | None:
        """What they say of the version in view; of the one before while that is worked out."""
        return self._stations_say.latest

    @property
    def appraising(self) -> bool:
        """Whether that is still being worked out."""
        return self._stations_say.is_on

    @property
    def next(self) -> NextAct | None:
        """The act that is next; that of the version before while it is worked out."""
        return self.appraisal.next if self.appraisal is not None else None

    def _show_appraisal(self) -> None:
        """The line of stations, and Next with what failed."""
        if self.appraisal is not None:
            self.line.show_states(self.appraisal.states, self.station)
            self.next_card.show_act(self.appraisal.next, "\n".join(self.appraisal.faults))

    @property
    def _worked_out(self) -> dict[str, Any]:
        """What the pages have worked out for the version in view, by station."""
        return {name: page.result for name, page in self._pages.items() if name in self._begun}

    def _appraise(self) -> None:
        if self._at_bench:
            self._stations_say.ask()

    @Slot()
    def _appraised(self) -> None:
        self._show_appraisal()
        if self.view is not None and self.appraisal is not None and not self._workshop.read_only_reason:
            try:
                self._workshop.describe(self.view.job.job_id, self.appraisal)
            except StoreError as error:
                self.said.emit(str(error))
        self._stations_say.go_on()
        self.turned.emit()

    @Slot()
    def _page_changed(self) -> None:
        self._appraise()
        self.turned.emit()

    @Slot(str)
    def go(self, name: str) -> None:
        """To a station; only the one in view is drawn after an act, so it is shown the job now."""
        if not self.keep_typed():
            return
        self.station = name
        note(f"to {name}")
        page = self.at(name)
        self.stack.setCurrentWidget(page)
        self.below_next.setCurrentWidget(page.side or self.log)
        if self.view:
            self.bar.show_bar(None)
            self._show_page()
            self._show_head()
        page.focus_first()
        self.turned.emit()

    def go_number(self, number: int) -> None:
        """To the station with this place on the line, from 0."""
        if number < len(self.stations):
            self.go(self.stations[number].name)

    def to_picture(self) -> None:
        """The keys to the picture of the station in view."""
        self.page.to_picture()

    def turn_on(self) -> None:
        """To the next page of the station in view."""
        self.page.turn(1)

    def turn_back(self) -> None:
        """To the page before."""
        self.page.turn(-1)

    def call(self, station: str, act: str, anywhere: bool) -> None:
        """A station's key: its page's method, here, or after going there where the key works from anywhere."""
        if self.station != station:
            if not anywhere:
                return
            self.go(station)
        if self.station == station:
            getattr(self.page, act)()

    # acts

    def perform(self, act: Act) -> bool:
        """Send one act; on failure say why and change nothing. True when it was kept."""
        note(f"an act at {self.station}")
        return self._changed(lambda job_id: self._workshop.perform(job_id, act))

    def perform_coalesced(self, act: Act, name: str, number: int) -> bool:
        """The same for what is typed on and on: one act that grows while name and number stay."""
        note(f"an act at {self.station}, typed on")
        return self._changed(lambda job_id: self._workshop.perform(job_id, act, f"{name} {number}"))

    def undo(self) -> None:
        if self.keep_typed():
            self._changed(self._workshop.undo)

    def redo(self) -> None:
        self._changed(self._workshop.redo)

    @Slot(int, str)
    def stand_at(self, version_id: int, reason: str) -> None:
        """The job as it stood after an act of its log, also one that was undone and left aside."""
        if self.keep_typed() and self._changed(lambda job_id: self._workshop.stand_at(job_id, version_id)):
            self.said.emit(f"The job stands as after: {reason}. What came later is still in the log.")

    def to_log(self) -> None:
        """The keys to the job log; it comes in place of what a station shows there."""
        self.below_next.setCurrentWidget(self.log)
        self.log.focus_list()

    def _changed(self, change: Callable[[str], JobView]) -> bool:
        if self.view is None:
            return False
        try:
            view = change(self.view.job.job_id)
        except VioletDialError as error:
            self.disk_fails = isinstance(error, StoreError)
            self.said.emit(str(error))
            return False
        self.said.emit(self._workshop.notice)
        self._unkept, self.disk_fails = "", False
        self.show_view(view)
        return True

    def keep_typed(self) -> bool:
        """Keep what was typed but not yet kept. False when it was refused: it is said, and stays in its field; asked a
        second time for the same text, it is left behind, but never when only the disk refused it."""
        if self.view is None or self._workshop.read_only_reason:
            return True
        for name in tuple(self._begun):
            page = self._pages[name]
            if not page.keep():
                again = f"{name} {self.view.version_id}"
                if self._unkept == again and not self.disk_fails:
                    page.begin(self.view.job)
                    continue
                self._unkept = again
                return False
        return True

    @Slot()
    def do_next(self) -> None:
        """Do what Next says, as far as a key can; where that is still being worked out, as soon as it is known."""
        if self.view is None or not self.keep_typed():
            return
        if self.appraising:
            self._stations_say.then(self.do_next)
            return
        act = self.next
        if act is None:
            return
        before = self._stands
        if act.act is None:
            self._follow(act, act, before)
        elif self.perform(act.act):
            self._stations_say.then(lambda: self._follow(act, self.next or act, before))

    def _follow(self, act: NextAct, then: NextAct, before: tuple[object, ...]) -> None:
        """To the station of an act, ready for what is next there after it."""
        self.go(act.station)
        self.below_next.setCurrentWidget(self.page.side or self.log)
        self.page.follow(then)
        if act.kind in ("read", "adjust", "repair"):
            self.light_wanted.emit()
            self.page.focus_first()
        if self._stands == before:
            self.said.emit(f"Here Next waits for your hands: {act.title}. {act.reason}")

    @property
    def _stands(self) -> tuple[object, ...]:
        """What a key can have changed: the job, the place in it, where the keys go, a window over it."""
        app = QApplication.instance()
        over = app.activeModalWidget() if isinstance(app, QApplication) else None
        return self.view and self.view.version_id, self.station, self.page.part, QApplication.focusWidget(), over

    @Slot()
    def take(self) -> None:
        """Take what belongs to the station in view: what was typed in the bar, else what the instrument shows; with
        neither, a reading that was typed at another station and left there."""
        if self.bar.live_ready and not self.page.typed_ready and self.page.slot is not None:
            self.live_take_asked.emit()
            return
        for page in (self.page, *self._pages.values()):
            if page.typed_ready:
                page.take_typed()
                return
        if self.bar.shows_fields:
            self.page.take_typed()  # it says what is missing
        else:
            self.live_take_asked.emit()

    # photos

    @Slot(object)
    def keep_photos(self, checked: tuple[CheckedPhoto, ...]) -> None:
        """Photos that were checked, into the job; such as are there already are let be."""
        there = {photo.sha256 for photo in self.view.job.photos} if self.view is not None else set()
        for one in checked:
            if one.record.sha256 not in there:
                self._changed(lambda job_id, one=one: self._workshop.attach_photo(job_id, one))  # type: ignore[misc]

    @Slot()
    def _photos_ready(self) -> None:
        if self.view is not None:
            self.page.show_job(self.view.job)

    @property
    def settled(self) -> bool:
        """Whether nothing is being worked out or drawn on any page of this job."""
        return not self.appraising and self.photos.settled and all(self._pages[name].settled for name in self._begun)

    def leave(self) -> bool:
        """The job goes out of sight: what was typed is kept, what runs is stopped. False when something was refused."""
        if not self.keep_typed():
            return False
        self._at_bench = False
        self.close_workers()
        return True

    def close_workers(self) -> None:
        """Stop what is being worked out or drawn."""
        self._stations_say.close()
        self.photos.close()
        for page in self._pages.values():
            page.close_workers()
