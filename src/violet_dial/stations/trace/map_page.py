"""Map: the board traced spot by spot, said a line at a time, confirmed by the fewest touches."""

from dataclasses import replace

from PySide6.QtCore import Qt, Slot
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.board import Board, Ground, Pin, Touch, node_of
from violet_dial.core.mapping.kinds import BY_WORD, COLOURS
from violet_dial.core.mapping.possible import NextTouch
from violet_dial.core.mapping.touching import Proof, proof_of
from violet_dial.core.records.circuit import OVERLOAD_OHM, Evidence, Setting
from violet_dial.core.steady.samples import Capture
from violet_dial.job.document import Job
from violet_dial.kit.answer import PageAnswer
from violet_dial.kit.cards import card, labelled, scrolled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.rows_table import RowsModel, RowsTable
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.typed_line import TypedLine
from violet_dial.services import live
from violet_dial.services.lessons import Offer
from violet_dial.services.next import NextAct
from violet_dial.services.remembered import Answers
from violet_dial.stations.trace.board_view import BoardView
from violet_dial.stations.trace.circuit_view import CircuitView
from violet_dial.stations.trace.map_acts import (
    COMMANDS,
    adopt_board,
    lay_photo,
    pin_on_photo,
    say_line,
    seen_board,
    strike_touch,
    take_touches,
    understand_change,
)
from violet_dial.stations.trace.map_state import MapShown, PhotoShown, map_shown
from violet_dial.stations.trace.state import MapState
from violet_dial.stations.trace.touch_panel import TouchPanel
from violet_dial.stations.trace.work import opened_of, within_reach

PHOTO, DRAWING, LIST = range(3)
KINDS = "Photos (*.jpg *.jpeg *.png *.webp)"
BRIGHTER = 0.15
KNOWN = Answers(4)  # what is to be touched, on the maps that were at the bench last


class MapPage(StationPage):
    """A line at a time; the same map as photo, drawing and list. ``changed`` when another touch is asked for."""

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        look = context.look
        self._board: Board | None = None
        self._pending: tuple[float, float] | None = None  # where a spot was asked for on the photo
        self._asked_once = ""
        self._failure = ""
        self._sheet = 0  # which photo is in view
        self._offer: Offer | None = None
        self.shown: MapShown | None = None
        self.answer = PageAnswer(self, KNOWN)
        self.workers = (self.answer,)
        self.answer.came.connect(self._came)
        self.photo, self.drawing = BoardView(look), CircuitView(look)
        self.model = RowsModel(look, ("name", "what it is", "known"))
        self.table = RowsTable(look, "What is on the map; Enter says it better, Del takes it out", 1)
        self.table.setModel(self.model)
        self.table.set_widths(130, 380, 80)
        self.contacts = RowsModel(look, ("stands", "contact", "said", "by the meter"))
        self.switches = RowsTable(look, "What each switch joins; Enter types a touch of it", 1)
        self.switches.setModel(self.contacts)
        self.switches.set_widths(120, 260, 90, 110)
        views = (("Photo", self.photo), ("Drawing", scrolled(self.drawing)), ("List", self.table))
        self.views = SubPages((*views, ("Switches", self.switches)))
        self.typed = TypedLine("What is on the board", self._offers, self._understood, self._take)
        self.typed.edit.setPlaceholderText("red wire clip+ to S1")
        self.said = labelled("", "small", True)
        self.sheet = labelled("", "quiet")
        self.adopt = QPushButton()
        self.adopt.setProperty("role", "link")
        self.laying = QPushButton("Lay a photo down")
        self.laying.setProperty("role", "link")
        self.next = TouchPanel(look, self._take_touches)
        self.panel = scrolled(self.next)
        self._build()

    def _build(self) -> None:
        frame, inside = card()
        self.views.extra.addWidget(self.sheet)
        self.views.extra.addWidget(self.adopt)
        self.views.extra.addWidget(self.laying)
        inside.addWidget(self.views, 1)
        line, below = card()
        below.addWidget(self.typed)
        more = scrolled(self.said)
        more.setMaximumHeight(self._context.look.px(86))
        below.addWidget(more)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        inside.setContentsMargins(14, 8, 14, 8)
        below.setContentsMargins(14, 8, 14, 8)
        layout.addWidget(frame, 1)
        layout.addWidget(line)
        self.laying.clicked.connect(self.lay_down)
        self.adopt.clicked.connect(self._adopt)
        self.typed.edit.returnPressed.connect(self._let_be)
        self.views.turned.connect(self._draw)
        self.photo.put.connect(self._put)
        self.photo.laid.connect(self._laid)
        self.table.entered_row.connect(self._say_better)
        self.table.struck_row.connect(self._take_out)
        self.switches.entered_row.connect(self._touch_contact)
        self.next.table.struck_row.connect(self._strike_touch)

    # what is shown

    def begin(self, job: Job) -> None:
        super().begin(job)
        self._board = None
        self._pending, self._asked_once, self._failure, self.shown = None, "", "", None
        self._sheet = 0
        self.next.begin()
        self.photo.begin()
        self.drawing.begin()
        self.model.show(())
        self.contacts.show(())
        self.views.turn_to(PHOTO if job.tracing.board.grounds else DRAWING)

    def draw(self, job: Job) -> None:
        """Draw the map; what is to be touched next is worked out beside."""
        try:
            self._board, self._failure = seen_board(job), ""
        except VioletDialError as error:
            self._board, self._failure = Board(), str(error)
        self._offer = self._context.records.lessons(job) if self._board.is_empty else None
        setting = job.tracing.setting
        now = Setting(switches=setting.switches, state=setting.state)
        question = (job.job_id, self._board, now, opened_of(job))
        open_now, before = within_reach(job, self._board), self.answer.last
        if self._board.items:
            self.answer.ask(question, lambda task: proof_of(open_now, now, before.judged if before else None, task))
        else:
            self.answer.stop()
        self._draw()

    @Slot()
    def _came(self) -> None:
        self._draw()
        self.changed.emit()

    @property
    def _proof(self) -> Proof | None:
        """What to touch next, for the map as it stands; None while it is worked out."""
        proof: Proof | None = self.answer.result
        return proof

    @Slot()
    def _draw(self) -> None:
        if self._job is None:
            return
        try:
            one = map_shown(self._job, self._proof, self.views.place == DRAWING)
        except VioletDialError as error:
            self.said.setText(str(error))
            return
        self.shown = one
        asked = self._proof.next if self._proof is not None else None
        self._draw_view(one, asked)
        self.next.draw(one, asked)
        offered = self._offer is not None and bool(self._offer.board.items)
        self.adopt.setText(f"Begin from the map of {self._offer.board_source}" if self._offer and offered else "")
        self.adopt.setVisible(offered)
        self.said.setText(self._failure or self.answer.failure or f"{one.stands}\n{one.said}".strip())

    def _draw_view(self, one: MapShown, asked: NextTouch | None) -> None:
        """The view of the map that is in view."""
        first = self._photo_in_view()
        self.sheet.setText(f"{first.ground.name}, {self._sheet + 1} of {len(one.photos)}" if first else "")
        if self.views.place == PHOTO:
            self.photo.show_photo(first, self._context.records.photo(first.photo) if first and first.photo is not None else b"")
        elif self.views.place == DRAWING:
            plus, minus = (node_of(asked.a), node_of(asked.b)) if asked is not None else ("", "")
            state = MapState(plus="" if plus == "0" else plus, minus="" if minus == "0" else minus)
            self.drawing.show_map(one.drawing, state)
        elif self.views.place == LIST:
            self.model.show(one.rows, one.marks)
        else:
            self.contacts.show(one.switches, one.switch_marks)

    def _photo_in_view(self) -> PhotoShown | None:
        photos = self.shown.photos if self.shown is not None else ()
        self._sheet = self._sheet % len(photos) if photos else 0
        return photos[self._sheet] if photos else None

    # the line

    def _offers(self, text: str) -> tuple[str, ...]:
        board = self._board or Board()
        last = text.rsplit(" ", maxsplit=1)[-1].lower()
        stem = text[: len(text) - len(last)]
        names = [*(spot.name for spot in board.spots), *(item.name for item in board.items), *BY_WORD, *COLOURS, *COMMANDS]
        tails = [stem + name for name in names if last and name.lower().startswith(last) and name.lower() != last]
        return tuple(dict.fromkeys(tails))[:8]

    def _understood(self, text: str) -> str:
        if self._job is None:
            return ""
        if self._pending is not None:
            return f"spot {text.strip()} where the cross is"
        found = understand_change(self._job, text)
        return found.asks if found.asks and text != self._asked_once else found.words

    def _take(self, text: str) -> bool:
        if self._job is None:
            return False
        if self._pending is not None:
            return self._take_spot(text)
        if understand_change(self._job, text).asks and text != self._asked_once:
            self._asked_once = text
            self._context.say("Enter once more if it is so.")
            return False
        self._asked_once = ""
        return self._context.perform(lambda job, at: say_line(job, text, at))

    def _take_spot(self, text: str) -> bool:
        photo = self._photo_in_view()
        if self._pending is None or photo is None:
            self._pending = None
            return False
        pin = Pin(photo.ground.photo, *self._pending)
        kept = self._context.perform(lambda job, at: pin_on_photo(job, text, pin, at))
        if kept:
            self._end_pending()
            self.photo.setFocus()
        return kept

    def _end_pending(self) -> None:
        self._pending = None
        self.typed.edit.setPlaceholderText("red wire clip+ to S1")

    @Slot(float, float)
    def _put(self, x: float, y: float) -> None:
        self._pending = (x, y)
        self.typed.edit.setPlaceholderText("name of the spot at the cross; Enter puts it, an empty line lets it be")
        self.typed.edit.setFocus()

    @Slot()
    def _let_be(self) -> None:
        """Enter in an empty line: no spot there after all."""
        if self._pending is not None and not self.typed.edit.text().strip():
            self._end_pending()
            self.photo.setFocus()

    # acts

    @Slot(str)
    def _laid(self, what: str) -> None:
        photo = self._photo_in_view()
        if photo is None:
            return
        if what == "next":
            self._sheet += 1
            self._draw()
            return
        ground = photo.ground
        turned = {0: 90, 90: 180, 180: 270, 270: 0}[ground.turned]
        by = {"brighter": BRIGHTER, "darker": -BRIGHTER}.get(what, 0.0)
        new = replace(ground, brightness=round(min(max(ground.brightness + by, -0.9), 0.9), 2))
        if what == "mirror":
            new = replace(new, mirrored=not ground.mirrored)
        elif what == "turn":
            new = replace(new, turned=turned, aspect=1.0 / ground.aspect)  # type: ignore[arg-type]
        self._context.perform(lambda job, at: lay_photo(job, new, at))

    @Slot()
    def lay_down(self) -> None:
        """The next of the job's photos that does not lie yet; a chooser where there is none."""
        if self._job is None or self._board is None:
            return
        lying = {one.photo for one in self._board.grounds}
        photo = next((one for one in self._job.photos if one.sha256 not in lying), None)
        if photo is None:
            self._context.records.choose_many("Photos of the board", KINDS, self._context.records.attach_photos)
            return
        size = QImage.fromData(self._context.records.thumbnail(photo)).size()
        aspect = size.width() / size.height() if not size.isEmpty() else 1.5
        ground = Ground(photo.sha256, photo.caption or photo.file_name[:60], aspect=aspect)
        if self._context.perform(lambda job, at: lay_photo(job, ground, at)):
            self.views.turn_to(PHOTO)

    @Slot()
    def _adopt(self) -> None:
        offer = self._offer
        if offer is not None:
            self._context.perform(lambda job, at: adopt_board(job, offer, at))

    @Slot(int)
    def _say_better(self, row: int) -> None:
        item = (self._board or Board()).items[row]
        self.typed.edit.setText(f"{item.name}:= {item.line}")
        self.typed.edit.setFocus()

    @Slot(int)
    def _touch_contact(self, row: int) -> None:
        if self.shown is not None:
            self.typed.edit.setText(f"{self.shown.switches[row][1]} ")
            self.typed.edit.setFocus()

    @Slot(int)
    def _take_out(self, row: int) -> None:
        name = (self._board or Board()).items[row].name
        self._context.perform(lambda job, at: say_line(job, f"take out {name}", at))

    @Slot(int)
    def _strike_touch(self, row: int) -> None:
        self._context.perform(lambda job, at: strike_touch(job, row, at))

    def _take_touches(self, touches: tuple[Touch, ...]) -> bool:
        return self._context.perform(lambda job, at: take_touches(job, touches, at))

    # keys

    def turn_view(self) -> None:
        self.views.turn(1)

    def follow(self, act: NextAct) -> None:
        """To the field of the next touch, or to the line where none is asked for."""
        (self.next.typed.edit if self.next.asked is not None else self.typed.edit).setFocus(Qt.FocusReason.OtherFocusReason)

    def to_picture(self) -> None:
        (self.photo, self.drawing, self.table, self.switches)[self.views.place].setFocus()

    # live instruments

    @property
    def asks(self) -> Evidence | None:
        """The touch as a test, for whoever stands at the spots."""
        touch = self.next.asked
        if touch is None:
            return None
        return Evidence("ohm", 0.0, node_of(touch.a), node_of(touch.b), setting=replace(touch.setting, supply="off"))

    @property
    def slot(self) -> live.Slot | None:
        touch = self.next.asked
        return live.Slot(f"{touch.a} to {touch.b}", "ohm") if touch is not None else None

    def put_capture(self, capture: Capture) -> bool:
        """A steady figure of the meter is the touch."""
        touch = self.next.asked
        if touch is None:
            return False
        ohm = min(abs(capture.value), OVERLOAD_OHM)
        kept = replace(capture, value=min(capture.value, OVERLOAD_OHM))  # a document holds no figure without end
        return self._take_touches((Touch(touch.a, touch.b, ohm, None, touch.setting, capture=kept),))
