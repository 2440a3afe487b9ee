"""What a page may ask of the house, by what it works."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from violet_dial.core.steady.samples import Capture
from violet_dial.instruments.kept import Kept
from violet_dial.instruments.sound_card import SoundSource
from violet_dial.job.act import Act
from violet_dial.job.document import Job, Photo
from violet_dial.job.light import DialSetUp
from violet_dial.job.power import OwnCell
from violet_dial.kit.bar import Bar
from violet_dial.kit.theme.look import Look
from violet_dial.report.blocks import Paper
from violet_dial.services.camera import FrameSource
from violet_dial.services.lessons import Offer
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
