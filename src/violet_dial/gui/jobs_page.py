"""The first screen: job cards, grouped by what each job waits for, and a search over everything written."""

from collections import Counter
from pathlib import Path

from PySide6.QtCore import QModelIndex, Qt, QTimer, Signal, Slot
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QPushButton, QStackedLayout, QVBoxLayout, QWidget

from violet_dial.gui.jobs_cards import CARD_ROLE, CardPainter, CardsModel, CardView
from violet_dial.kit.form import line_edit
from violet_dial.kit.runner import Runner
from violet_dial.kit.theme.look import Look
from violet_dial.services.describing import describe_pending, unreadable_jobs
from violet_dial.services.keys import scanned_number
from violet_dial.services.workshop import Workshop
from violet_dial.store.records import DELETED, SHELVES, Card

SEARCH_PAUSE_MS = 120
WORK_ORDER = (
    "describing", "a look at the battery", "a look for film", "looking over", "function walk", "opening", "tracing",
    "reference readings", "repair", "adjusting", "readings after the work", "firings to be counted", "the fault that came back",
    "its proof", "its contacts", "its exercise", "its seal roll", "closing up", "signing",
)  # fmt: skip
UNREADABLE = "cannot be read"
EVERYTHING, WASTEBASKET = "On the bench", "wastebasket"
INVITATION = (
    "Nothing on the bench yet",
    "Open the first job and say what came in and what is wrong with it,",
    "or look round the demo workshop: an island observatory's meters, back from a wet season.",
)
PRACTICE_INVITATION = (
    "No exercise yet",
    "A simulated device with a hidden fault, worked with the real stations: measure, say what you suspect and how sure you are,",
    "put it right. Afterwards each step stands beside the best one. Nothing here touches your jobs.",
)
HINTS = "All keys  F1     ·     Collected  Ctrl+Shift+C     ·     Backups  Ctrl+Shift+B     ·     Leave  Ctrl+Q"


def group_of(card: Card) -> str:
    """What a job is listed under: its shelf, or what it waits for."""
    return card.shelf or card.waits_for


def group_counts(cards: tuple[Card, ...]) -> tuple[tuple[str, int], ...]:
    """Groups with counts: bench work in the order of the work, then what is awaited, then collection, then the shelves."""
    counts = Counter(map(group_of, cards))
    return tuple((group, counts[group]) for group in sorted(counts, key=_rank))


def _rank(group: str) -> tuple[int, str]:
    if group in WORK_ORDER:
        return (WORK_ORDER.index(group), "")
    if group in SHELVES:
        return (len(WORK_ORDER) + 2 + SHELVES.index(group), "")
    return (len(WORK_ORDER) + (group == "collection"), group)


class JobsPage(QWidget):
    """Search, groups, cards, and the three ways in: a new job, a bundle, the demo workshop."""

    open_asked = Signal(str)
    new_asked = Signal()
    import_asked = Signal()
    demo_asked = Signal()
    practice_asked = Signal()
    search_changed = Signal(str)
    said = Signal(str)
    described = Signal()  # cards of other versions are told anew

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._look = look
        self._cards: tuple[Card, ...] = ()
        self._groups: tuple[str, ...] = ()
        self._unreadable: dict[str, str] = {}  # why, by job
        self._searched = False
        self.model = CardsModel()
        self.view = CardView()
        self.painter = CardPainter(look, self.view)
        self.groups = QListWidget()
        self.groups.setObjectName("groups")
        self.groups.setAccessibleName("What jobs wait for")
        self.search = line_edit("Search jobs")
        self.search.setPlaceholderText("Search every word in every job   (/)")
        self.title = QLabel("Jobs")
        self.title.setProperty("role", "title")
        self._reader, self._describer = Runner(self), Runner(self)
        self._reader.succeeded.connect(self._looked_through)
        self._describer.succeeded.connect(self.described)
        self._tried: frozenset[str] = frozenset()  # jobs that were to be described; none is tried for ever
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(SEARCH_PAUSE_MS)
        self._build()
        self.say_where(False)
        self._connect()
        self._restyle()

    def _build(self) -> None:
        self.view.setModel(self.model)
        self.view.setItemDelegate(self.painter)
        top = QHBoxLayout()
        top.addWidget(self.title)
        top.addWidget(self.search, 1)
        self.new, self.practise = QPushButton(), QPushButton()
        ways = (
            (self.new, self.new_asked),
            (QPushButton("Import  Ctrl+I"), self.import_asked),
            (self.practise, self.practice_asked),
            (QPushButton("Demo  Ctrl+D"), self.demo_asked),
        )
        for button, signal in ways:
            button.clicked.connect(signal)
            top.addWidget(button)
        found = QWidget()
        sides = QHBoxLayout(found)
        sides.setContentsMargins(0, 0, 0, 0)
        sides.setSpacing(18)
        sides.addWidget(self.groups)
        sides.addWidget(self.view, 1)
        self.nothing = QLabel("")
        self.nothing.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.nothing.setTextFormat(Qt.TextFormat.PlainText)
        self.nothing.setProperty("role", "quiet")
        self._stack = QStackedLayout()
        for page in (found, self.nothing, self._invitation()):
            self._stack.addWidget(page)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 18, 24, 8)
        layout.setSpacing(14)
        layout.addLayout(top)
        layout.addLayout(self._stack, 1)
        hints = QLabel(HINTS)
        hints.setWordWrap(True)
        hints.setProperty("role", "small")
        layout.addWidget(hints)

    def _invitation(self) -> QWidget:
        page = QWidget()
        self.invites = tuple(QLabel() for _line in INVITATION)
        self.first = QPushButton()
        self.first.setProperty("role", "main")
        self.first.setDefault(True)
        self.first.setAutoDefault(True)
        self.first.clicked.connect(self.new_asked)
        demo = QPushButton("Open the demo workshop  Ctrl+D")
        demo.clicked.connect(self.demo_asked)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.first)
        row.addWidget(demo)
        row.addStretch(1)
        layout = QVBoxLayout(page)
        layout.addStretch(2)
        for label, role in zip(self.invites, ("title", "quiet", "quiet"), strict=True):
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            label.setWordWrap(True)
            label.setProperty("role", role)
            layout.addWidget(label)
        layout.addSpacing(16)
        layout.addLayout(row)
        layout.addStretch(3)
        return page

    def _connect(self) -> None:
        self.view.resized.connect(self.painter.measure)
        self.view.chosen.connect(self._open)
        self.view.typed.connect(self._search_with)
        self.groups.currentRowChanged.connect(self._choose_group)
        self.groups.itemActivated.connect(lambda _: self.view.setFocus())
        self._look.changed.connect(self._restyle)
        self._pause.timeout.connect(lambda: self.search_changed.emit(self.search.text()))
        self.search.textChanged.connect(self._pause.start)
        self.search.returnPressed.connect(self._to_cards)

    def show_cards(self, cards: tuple[Card, ...]) -> None:
        """Show what the store found for the present search; the group chosen stays chosen while it has cards."""
        kept = self._groups[self.groups.currentRow()] if 0 <= self.groups.currentRow() < len(self._groups) else ""
        self._cards = tuple(map(self._told, cards)) if self._unreadable else cards
        cards = self._cards
        counts = group_counts(cards)
        self._groups = ("", *(group for group, _ in counts))
        self.groups.blockSignals(True)
        self.groups.clear()
        on_bench = sum(not card.shelf for card in cards)
        self.groups.addItem(f"{EVERYTHING}   {on_bench}")
        self.groups.addItems([f"{WASTEBASKET if group == DELETED else group}   {count}" for group, count in counts])
        self.groups.setCurrentRow(self._groups.index(kept) if kept in self._groups else 0)
        self.groups.blockSignals(False)
        searched = self.search.text().strip()
        self._searched = bool(searched)
        self._stack.setCurrentIndex(0 if cards else 1 if searched else 2)
        self.nothing.setText(f"No job has “{searched}” in it.")
        self._choose_group(self.groups.currentRow())
        if not cards and not searched:
            self.first.setFocus()

    @Slot(int)
    def _choose_group(self, row: int) -> None:
        wanted = self._groups[row] if 0 <= row < len(self._groups) else ""
        if wanted:
            shown = tuple(card for card in self._cards if group_of(card) == wanted)
        else:  # a search looks on the shelves too, but not into the wastebasket
            among = [card for card in self._cards if not card.shelf or (self._searched and card.shelf != DELETED)]
            order = {group: place for place, (group, _) in enumerate(group_counts(tuple(among)))}
            shown = tuple(sorted(among, key=lambda card: order[card.shelf or card.waits_for]))
        self.painter.measure()
        self.model.show(shown)
        self.view.setCurrentIndex(self.model.index_of(""))

    def _told(self, card: Card) -> Card:
        """A card, saying so where its job cannot be read."""
        why = self._unreadable.get(card.job_id)
        return card._replace(waits_for=UNREADABLE, finding=why) if why else card

    def mark_unreadable(self, job_id: str, why: str) -> None:
        """A job that cannot be read is listed as such; with an empty reason it can be again."""
        if self._unreadable.get(job_id, "") != why:
            self._mark({job_id: why}, job_id)

    def _mark(self, whys: dict[str, str], job_id: str) -> None:
        """List the jobs anew with what is known of them, the cursor on one."""
        self._unreadable.update(whys)
        self.search_changed.emit(self.search.text())
        self.select(job_id)

    def list_again(self) -> None:
        """List the jobs anew, the cursor where it was."""
        card = self.view.currentIndex().data(CARD_ROLE)
        self._mark({}, card.job_id if card is not None else "")

    def look_through(self, path: Path) -> None:
        """Read every job beside the work, so that one that cannot be read is listed as such before it is wanted."""
        self._reader.start(lambda task: unreadable_jobs(path, task))

    @Slot(object)
    def _looked_through(self, found: object) -> None:
        if isinstance(found, dict) and found:
            self._unreadable.update(found)
            self.list_again()

    def describe(self, workshop: Workshop) -> None:
        """Describe beside the work what was kept and not described yet: an act before the last Esc, or before a power cut."""
        waiting = frozenset(workshop.undescribed()) - self._tried
        if waiting:
            self._tried |= waiting
            path, stations = workshop.path, workshop.stations
            self._describer.start(lambda task: describe_pending(path, stations, task))

    @property
    def settled(self) -> bool:
        """Whether every card is of its job as it stands."""
        return not self._describer.busy

    def close_workers(self) -> None:
        """Stop reading."""
        self._reader.close()
        self._describer.close()
        self._tried = frozenset()

    def begin(self, is_practice: bool) -> None:
        """Another workshop: no search, nothing known of its jobs; its words, as one of jobs or of exercises."""
        self.say_where(is_practice)
        self.close_workers()
        self._unreadable.clear()
        self.search.clear()

    def take_keys(self) -> None:
        """The keys to the cards; where there are none to the button that makes the first."""
        is_empty = not self._cards and not self._searched
        (self.first if is_empty else self.view).setFocus()

    def say_where(self, is_practice: bool) -> None:
        """Whether jobs are listed, or exercises."""
        self.title.setText("Practise" if is_practice else "Jobs")
        self.new.setText("New exercise  Ctrl+N" if is_practice else "New job  Ctrl+N")
        self.practise.setText("Back to the jobs  Ctrl+Shift+P" if is_practice else "Practise  Ctrl+Shift+P")
        self.first.setText("Begin the first exercise  ⏎" if is_practice else "Open the first job  ⏎")
        for label, text in zip(self.invites, PRACTICE_INVITATION if is_practice else INVITATION, strict=True):
            label.setText(text)

    def select(self, job_id: str) -> None:
        """Put the cursor on a job's card."""
        self.view.setCurrentIndex(self.model.index_of(job_id))

    def select_row(self, row: int) -> None:
        """Put the cursor where it was in the list."""
        self.view.setCurrentIndex(self.model.index(max(min(row, self.model.rowCount() - 1), 0)))

    @Slot(str)
    def _search_with(self, text: str) -> None:
        """Letters typed on the cards, or by a scanner, go to the search."""
        self.search.setFocus()
        self.search.insert(text)

    @Slot()
    def _to_cards(self) -> None:
        """Enter in the search opens the job of a label that was scanned, or the only card found, else goes to the cards."""
        self._pause.stop()
        number = scanned_number(self.search.text())
        if number is not None:
            self.search.clear()
            self._pause.stop()
            self.search_changed.emit("")
            card = next((one for one in self._cards if one.number == number), None)
            if card is not None:
                self.open_asked.emit(card.job_id)
            else:
                self.said.emit(f"No job {number:04d} in this workshop.")
            return
        self.search_changed.emit(self.search.text())
        if self.model.rowCount() == 1:
            self._open(self.model.index(0))
            return
        self.view.setFocus()

    @Slot(QModelIndex)
    def _open(self, index: QModelIndex) -> None:
        if index.isValid():
            self.open_asked.emit(self.model.cards[index.row()].job_id)

    @Slot()
    def _restyle(self) -> None:
        self.groups.setFixedWidth(self._look.px(230))
        self.painter.measure()
        self.view.scheduleDelayedItemsLayout()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text() == "/":
            self.search.setFocus()
            return
        super().keyPressEvent(event)
