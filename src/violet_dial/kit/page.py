"""What the house asks of a station's page, and what a page may ask of the house.

A page shows one frozen value made by a plain function of its station's ``state`` module, and drawing it draws all of it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from violet_dial.core.records.circuit import Evidence
from violet_dial.core.steady.samples import Capture, Function
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.sound_card import SoundSource
from violet_dial.job.act import Act
from violet_dial.job.document import Job, Photo
from violet_dial.job.light import DialSetUp
from violet_dial.job.power import OwnCell
from violet_dial.kit.bar import Bar
from violet_dial.kit.sub_pages import SubPages
from violet_dial.kit.theme.look import Look
from violet_dial.report.blocks import Paper
from violet_dial.services.camera import FrameSource
from violet_dial.services.lessons import Offer
from violet_dial.services.live import Slot
from violet_dial.services.next import NextAct
from violet_dial.services.station import FileIn, Section
from violet_dial.store.records import LogRow


@dataclass(frozen=True)
class PageInstruments:
    """The bench's instruments, for pages that measure."""

    meter_on: Callable[[], str]  # the function of the meter in front; empty without one
    sound_card: Callable[[Job, str, int], SoundSource]  # to record a shutter that works so with so many sensors
    camera: Callable[[Job], FrameSource]  # before the job's dial
    camera_chosen: Callable[[], str]  # which that is; another word for another
    use_camera: Callable[[str], None]  # another one by its address; empty lets it go
    light: Callable[[], Capture | None]  # as a lux meter shows it
    lux: Callable[[], float | None]  # the same as a figure
    set_lux: Callable[[float], bool]  # a light from a lamp that can be set; False where there is none
    scope: Callable[[], Kept | None]  # an oscilloscope that is at hand without being said
    hands_free: Callable[[], bool]  # whether readings are taken by themselves
    hear: Callable[[bool], None]  # the sound of what was taken, or refused


@dataclass(frozen=True)
class PageRecords:
    """What the workshop holds beside the job as it stands, for pages that show or use it."""

    thumbnail: Callable[[Photo], bytes]
    photo: Callable[[Photo], bytes]  # large enough to be worked on; empty until it has come
    attach_photos: Callable[[list[str]], None]
    choose_many: Callable[[str, str, Callable[[list[str]], None]], object]
    lessons: Callable[[Job], Offer]
    own_cells: Callable[[Job], tuple[OwnCell, ...]]
    known_dial: Callable[[Job], DialSetUp]  # of the same model, as it was set up last
    log: Callable[[], tuple[LogRow, ...]]  # of the job in view, newest first
    workshop_path: Callable[[], Path]


@dataclass(frozen=True)
class PagePapers:
    """What is printed, for pages that print."""

    sheet: Callable[[Job], Paper]
    card: Callable[[Job], Paper]
    turn_paper: Callable[[], str]  # another size of paper; its name
    print_made: Callable[[str, Callable[[], bytes]], None]  # a PDF by its name
    print_sheet: Callable[[], None]
    write_sheet: Callable[[], None]


@dataclass(frozen=True)
class PageContext:
    """What every page may ask for, and by what it works, what more. ``perform`` is True when the act was kept; else why not was
    said, and nothing changed; ``perform_coalesced`` is the same for what is typed on and on: with the same name and number it is
    one act that grows."""

    look: Look
    bar: Bar
    perform: Callable[[Act], bool]
    perform_coalesced: Callable[[Act, str, int], bool]
    say: Callable[[str], None]
    instruments: PageInstruments
    records: PageRecords
    papers: PagePapers


class StationPage(QWidget):
    """A station's page: its own pages under a line of names, and nothing to it but being shown; stations override what they have
    more of."""

    pages: SubPages
    sets_up = False  # whether there is a window that sets this station up

    changed = Signal()  # what was worked out, or what is asked for, is another now

    def begin(self, job: Job) -> None:
        """Another job comes to the bench: nothing typed, chosen or turned to in the last one is left."""

    def show_job(self, job: Job) -> None:
        """Draw all of what the station has to show of the job."""

    def keep(self) -> bool:
        """Keep what was typed and not kept yet; False when it was refused."""
        return True

    def focus_first(self) -> None:
        """The keys to where the work of this page begins."""
        self.setFocus()

    def follow(self, act: NextAct) -> None:
        """Get ready for what Next asks, and give it the keys."""
        self.focus_first()

    def to_picture(self) -> None:
        """The keys to the station's own picture."""

    def turn(self, step: int) -> None:
        """To the next page of the station, or as many on."""
        self.pages.turn(step)

    def turn_to(self, page: int) -> None:
        """To a page of the station by its place."""
        self.pages.turn_to(page)

    def turn_view(self) -> None:
        """To the next view of the same, where the page has several."""

    def set_up(self) -> None:
        """The window that sets this station up."""

    def opened(self) -> tuple[str, tuple[Section, ...]] | None:
        """The judgement opened to its arithmetic: a title and sections; None when there is none."""
        return None

    @property
    def part(self) -> Any:
        """The part of the job in view, where only that is written into a file; None for all."""
        return None

    @property
    def file_in(self) -> FileIn | None:
        """What the page in view takes from a file, where that is another than its station's."""
        return None

    @property
    def result(self) -> Any:
        """What was worked out for the job as it stands; None when nothing was."""
        return None

    @property
    def settled(self) -> bool:
        """Whether nothing is being worked out or drawn."""
        return True

    @property
    def side(self) -> QWidget | None:
        """What stands below the Next card in place of the log; None for the log."""
        return None

    def close_workers(self) -> None:
        """Stop what runs in the background."""

    # the reading bar and live instruments

    def understand(self) -> None:
        """The bar's fields changed: say what was understood."""

    def take_typed(self) -> None:
        """Take what was typed in the bar."""

    @property
    def typed_ready(self) -> bool:
        """Whether what was typed in the bar may be taken."""
        return False

    @property
    def slot(self) -> Slot | None:
        """Where the next reading of an instrument goes; None when none is asked for."""
        return None

    @property
    def slot_missing(self) -> str:
        """Why no reading of an instrument is asked for here."""
        return "no reading is asked for here"

    @property
    def asks(self) -> Evidence | None:
        """The test whose spots are to be touched; None when none is asked for."""
        return None

    @property
    def looks_at(self) -> Function:
        """What instruments of this station show where nothing is asked for."""
        return "volt"

    def put_capture(self, capture: Capture) -> bool:
        """A reading of an instrument into its place; False when it was refused."""
        return False

    def drop_capture(self) -> bool:
        """Take back a reading of an instrument that is not part of the job yet; False when there is none."""
        return False

    def hands_changed(self, is_free: bool) -> None:
        """Readings are taken by themselves from now on, or no more."""

    def by_hand(self) -> bool:
        """Simulated hands do what the page waits for, where that is no touch of probes; False when it is none."""
        return False

    @property
    def awaits(self) -> str:
        """What is waited for before the next reading of an instrument goes anywhere; empty for nothing."""
        return ""
