"""One job on the bench: header, line of stations, the station's page, Next, log and reading bar."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Signal, Slot
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from violet_dial.core.errors import VioletDialError
from violet_dial.gui.bar_control import BarControl
from violet_dial.gui.spoken import spoken_time
from violet_dial.gui.stations.light import LightStation
from violet_dial.gui.stations.opening.station import OpenStation
from violet_dial.gui.stations.receive.station import ReceiveStation
from violet_dial.gui.stations.return_sheet import ReturnStation
from violet_dial.gui.stations.trace.station import TraceStation
from violet_dial.gui.theme.look import Look
from violet_dial.gui.widgets.cards import ElidedLabel, LogCard, NextCard, labelled, scrolled
from violet_dial.gui.widgets.reading_bar import ReadingBar
from violet_dial.gui.widgets.station_line import StationLine
from violet_dial.job.document import Job, Photo
from violet_dial.services.acts import Done, record_adjustment, record_repair
from violet_dial.services.judge import judge
from violet_dial.services.lessons import offer_for
from violet_dial.services.photos import check_photo, thumbnail
from violet_dial.services.progress import STATIONS, NextAct, StationName, next_act, station_states
from violet_dial.services.workshop import JobView, Workshop

Act = Callable[[Job, str], Done]
Station = ReceiveStation | OpenStation | TraceStation | LightStation | ReturnStation


class JobPage(QWidget):
    """Holds the frozen view of one job, sends acts to the workshop and shows what comes back."""

    said = Signal(str)
    arithmetic_asked = Signal()
    setup_asked = Signal()
    photos_asked = Signal()
    print_asked = Signal()
    turned = Signal()  # what is asked for may have changed: another job, station, act or test
    light_wanted = Signal()

    def __init__(self, look: Look, workshop: Workshop) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._look = look
        self._workshop = workshop
        self.view: JobView | None = None
        self.next: NextAct | None = None
        self.title = labelled("", "title")
        self.headline = ElidedLabel()
        self.kept = labelled("", "quiet")
        self.line = StationLine(look)
        self.receive = ReceiveStation(look, self._thumbnail)
        self.opening = OpenStation(look)
        self.trace = TraceStation(look)
        self.light = LightStation(look)
        self.back = ReturnStation(look)
        self.pages: dict[StationName, Station] = {
            "Receive": self.receive,
            "Open": self.opening,
            "Trace": self.trace,
            "Light": self.light,
            "Return": self.back,
        }
        self.stack = QStackedWidget()
        self.next_card = NextCard()
        self.log = LogCard(look)
        self.bar = ReadingBar(look)
        self.bar_control = BarControl(self.bar, self)
        self.station: StationName = "Receive"
        self._build()
        self._connect()

    def _build(self) -> None:
        for page in self.pages.values():
            self.stack.addWidget(page)
        head = QHBoxLayout()
        head.setSpacing(16)
        head.addWidget(self.title)
        head.addWidget(self.headline, 1)
        head.addWidget(self.kept)
        self.side = QWidget()
        side = QVBoxLayout(self.side)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(12)
        side.addWidget(self.next_card)
        self.below_next = QStackedWidget()
        self.below_next.addWidget(self.log)
        self.below_next.addWidget(scrolled(self.trace.next))
        side.addWidget(self.below_next, 1)
        middle = QHBoxLayout()
        middle.setSpacing(14)
        middle.addWidget(self.stack, 2)
        middle.addWidget(self.side, 1)
        top = QVBoxLayout()
        top.setContentsMargins(24, 12, 24, 12)
        top.setSpacing(8)
        top.addLayout(head)
        top.addWidget(self.line)
        top.addLayout(middle, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(top, 1)
        layout.addWidget(self.bar)

    def _connect(self) -> None:
        self.line.chosen.connect(self.go)
        self.next_card.wanted.connect(self.do_next)
        self.next_card.arithmetic_asked.connect(self.arithmetic_asked)
        self.log.wanted.connect(self.stand_at)
        self.receive.photos_asked.connect(self.photos_asked)
        self.receive.photos_dropped.connect(self.attach_photos)
        self.light.setup_asked.connect(self.setup_asked)
        self.light.light_chosen.connect(self.bar_control.aim_at)
        self.back.print_asked.connect(self.print_asked)
        self.opening.said.connect(self.said)
        self.trace.circuit_asked.connect(self.setup_asked)
        self.trace.next_found.connect(self._show_next_test)
        self.trace.worked_out.connect(self.turned)
        for station in (self.receive, self.opening, self.trace, self.light, self.back, self.bar_control):
            station.act_asked.connect(self.perform)
        self.bar_control.now_changed.connect(self.light.show_now)
        self.bar_control.said.connect(self.said)
        self.bar_control.aimed.connect(self.turned)

    # what the page shows

    def open(self, view: JobView) -> None:
        """Show a job from its first page that still wants something."""
        self.view = None
        self.bar.reset()
        self.show_view(view)
        act = self.next
        self.go(act.station if act else "Receive")
        self.bar_control.follow(act)

    def show_view(self, view: JobView) -> None:
        """Show the job as it now stands."""
        self.view = view
        job = view.job
        self.next = next_act(job)
        self.title.setText(job.device.name or "Not described yet")
        parts = (
            f"Job {job.label}",
            job.intake.headline_fault,
            f"came in {job.intake.received_on}" * bool(job.intake.received_on),
        )
        aside = f"waits for {job.waits_for}" if job.waits_for else ""
        self.headline.setText(" · ".join(part for part in (*parts, aside) if part))
        self.kept.setText(self._workshop.read_only_reason or f"kept {spoken_time(view.kept_at)}")
        self.line.show_states(station_states(job), self.station)
        self.next_card.show_act(self.next)
        self.log.show_log(view.log)
        self.bar_control.show_job(job)
        self.light.show_job(job)  # the sum (F3) opens from every station
        if self.station != "Light":
            self.pages[self.station].show_job(job)
        self.turned.emit()

    @Slot(str)
    def go(self, name: StationName) -> None:
        """To a station; only the one in view is drawn after an act, so it is shown the job now."""
        self.keep_typed()
        self.station = name
        self.stack.setCurrentWidget(self.pages[name])
        self.below_next.setCurrentIndex(int(name == "Trace"))
        self.bar.show_typed(name == "Light")
        if self.view:
            self.line.show_states(station_states(self.view.job), name)
            if name == "Open":
                offer = offer_for(self._workshop, self.view.job)
                self.opening.show_offer(offer if not self.view.job.opening.steps else replace(offer, steps=()))
            self.pages[name].show_job(self.view.job)
        page = self.pages[name]
        if isinstance(page, LightStation):
            self.bar.focus_reading()
        else:
            page.focus_first()
        self.turned.emit()

    @Slot(object)
    def _show_next_test(self, act: NextAct) -> None:
        """The test the Trace station found, on the Next card while tracing goes on."""
        if self.station == "Trace" or (self.next and self.next.kind == "test"):
            self.next = act
            self.next_card.show_act(act)

    def to_picture(self) -> None:
        """The keys to the station's own picture: the dial, the outline or the list of what is off."""
        if self.station == "Receive":
            self.receive.pages.turn_to(1)
        elif self.station == "Open":
            self.opening.off.table.setFocus()
        elif self.station == "Trace":
            self.trace.map.setFocus()
        else:
            self.light.dial.setFocus()

    def to_fields(self, focus: Callable[[], None]) -> None:
        """To the typed fields of the bar, which belong to Light."""
        if self.station != "Light":
            self.go("Light")
        focus()

    def turn(self, step: int) -> None:
        """To the next page of the station, where it has several."""
        pages = getattr(self.pages[self.station], "pages", None)
        if pages is not None:
            pages.turn(step)

    def go_number(self, number: int) -> None:
        """To the station with this place on the line, from 0."""
        self.go(STATIONS[number])

    # acts

    @Slot(object)
    def perform(self, act: Act) -> bool:
        """Send one act; on failure say why and change nothing. True when it was kept."""
        return self._changed(lambda job_id: self._workshop.perform(job_id, act))

    def undo(self) -> None:
        self.keep_typed()
        self._changed(self._workshop.undo)

    @Slot(int, str)
    def stand_at(self, version_id: int, reason: str) -> None:
        """The job as it stood after an act of its log, also one that was undone and left aside."""
        self.keep_typed()
        if self._changed(lambda job_id: self._workshop.stand_at(job_id, version_id)):
            self.said.emit(f"The job stands as after: {reason}. What came later is still in the log.")

    def to_log(self) -> None:
        """The keys to the job log; at Trace it comes in place of what the test shows."""
        self.below_next.setCurrentIndex(0)
        self.log.focus_list()

    def redo(self) -> None:
        self._changed(self._workshop.redo)

    def _changed(self, change: Callable[[str], JobView]) -> bool:
        if self.view is None:
            return False
        try:
            view = change(self.view.job.job_id)
        except VioletDialError as error:
            self.said.emit(str(error))
            return False
        self.said.emit("")
        self.show_view(view)
        return True

    def keep_typed(self) -> None:
        """Keep what was typed but not yet kept."""
        if self.view is not None and not self._workshop.read_only_reason:
            self.receive.keep()
            self.back.keep()

    @Slot()
    def do_next(self) -> None:
        """Do what Next says, as far as a key can."""
        act = self.next
        if act is None or self.view is None:
            return
        if act.kind == "adjust":
            shift = judge(self.view.job).assessment.shift.stops
            self._begin_run(lambda job, at: record_adjustment(job, shift, act.title, at))
            return
        if act.kind == "repair":
            what = judge(self.view.job).verdict.repair
            self._begin_run(lambda job, at: record_repair(job, what, at))
            return
        self.go(act.station)
        if act.kind == "read":
            self.bar_control.follow(act)
            self.light_wanted.emit()
            self.bar.focus_reading()
        elif act.kind == "test":
            self.below_next.setCurrentIndex(1)
            self.trace.focus_first()
        elif act.kind == "refit":
            self.opening.pages.turn_to(1)
        elif act.kind == "hand over":
            self.print_asked.emit()

    def _begin_run(self, act: Act) -> None:
        """Perform an act that begins a new run, and get ready for its first reading."""
        if self.perform(act):
            self.go("Light")
            self.bar_control.follow(self.next)

    def _thumbnail(self, photo: Photo) -> bytes:
        try:
            return thumbnail(self._workshop.photo(photo.sha256))
        except VioletDialError as error:
            self.said.emit(str(error))
            return b""

    @Slot(list)
    def attach_photos(self, paths: list[str]) -> None:
        """Photos from files, each kept or refused with its reason."""
        for path in paths:
            try:
                checked = check_photo(Path(path).read_bytes(), Path(path).name)
            except OSError as error:
                self.said.emit(f"{path}: {error.strerror}. The photo was not attached.")
            except VioletDialError as error:
                self.said.emit(str(error))
            else:
                self._changed(lambda job_id, checked=checked: self._workshop.attach_photo(job_id, checked))  # type: ignore[misc]

    def close_workers(self) -> None:
        """Stop what runs in the background."""
        self.keep_typed()
        self.back.runner.close()
        self.trace.runner.close()
