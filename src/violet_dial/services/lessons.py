"""What earlier jobs on the same model, or the same family, teach: strip-down lists, shorter ways, the map of the board."""

from collections import Counter
from dataclasses import dataclass, field, replace

from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.change import of_model
from violet_dial.core.opening.steps import Step
from violet_dial.job.document import Job, Photo
from violet_dial.job.light import DialSetUp
from violet_dial.job.opening import ShorterWay
from violet_dial.job.power import OwnCell
from violet_dial.services.workshop import Workshop

MOST_JOBS_READ = 40


@dataclass(frozen=True)
class Offer:
    """A strip-down list, a map and lessons to begin from: whence, how many jobs, steps with how often each was met."""

    source: str
    jobs: int
    steps: tuple[Step, ...]
    shorter_ways: tuple[ShorterWay, ...]
    lessons: tuple[str, ...]
    board: Board = field(default_factory=Board)
    board_source: str = ""
    board_photos: tuple[Photo, ...] = ()

    @property
    def empty(self) -> bool:
        return not (self.steps or self.shorter_ways or self.lessons)


def _same(job: Job, other: Job) -> bool:
    device, its = job.device, other.device
    model = device.name.strip().lower() == its.name.strip().lower() != ""
    family = device.family.strip().lower() == its.family.strip().lower() != ""
    return model or family


def siblings_of(workshop: Workshop, job: Job) -> tuple[Job, ...]:
    """Other jobs on the same model or family, newest first."""
    found: dict[str, Job] = {}
    for words in (job.device.name, job.device.family):
        if not words.strip():
            continue
        for card in workshop.cards(words)[:MOST_JOBS_READ]:
            if card.job_id == job.job_id or card.job_id in found:
                continue
            try:
                other = workshop.read(card.job_id)
            except VioletDialError:
                continue  # one that cannot be read teaches nothing, and hides nothing else
            if _same(job, other):
                found[card.job_id] = other
    return tuple(found.values())


def offer_for(workshop: Workshop, job: Job) -> Offer:
    """What the bench has learned about this model before."""
    siblings = siblings_of(workshop, job)
    met = Counter(step.thing for sibling in siblings for step in sibling.opening.steps if not step.planned)
    with_list = [sibling for sibling in siblings if sibling.opening.steps]
    steps: tuple[Step, ...] = ()
    source = ""
    if with_list:
        source = f"job {with_list[0].label}"
        steps = tuple(replace(_bare(step), confirmed=met[step.thing]) for step in with_list[0].opening.steps)
    ways = tuple(dict.fromkeys(way for sibling in siblings for way in sibling.opening.shorter_ways))
    said = [sibling.closing.lesson.strip() for sibling in siblings]
    said += [f"Begin with: {sibling.closing.begins.strip()}" for sibling in siblings if sibling.closing.begins.strip()]
    lessons = tuple(dict.fromkeys(words for words in said if words))
    mapped = next((sibling for sibling in siblings if sibling.tracing.board.items), None)
    if mapped is None:
        return Offer(source, len(siblings), steps, ways, lessons)
    board = of_model(mapped.tracing.board)
    lying = {ground.photo for ground in board.grounds}
    photos = tuple(photo for photo in mapped.photos if photo.sha256 in lying)
    return Offer(source, len(siblings), steps, ways, lessons, board, f"job {mapped.label}", photos)


def _bare(step: Step) -> Step:
    """A step without what belonged to the other device's own day."""
    return replace(step, planned=True, ends=(), off_at="", photo="")


MOST_DIALS_READ = 20


def known_dial(workshop: Workshop, job: Job) -> DialSetUp:
    """The dial of the same model as it was set up last in another job; without marks where there is none."""
    name = job.device.name.strip()
    if not name:
        return DialSetUp()
    for card in workshop.cards(name)[:MOST_DIALS_READ]:
        if card.job_id == job.job_id:
            continue
        try:
            other = workshop.read(card.job_id)
        except VioletDialError:
            continue  # one that cannot be read has nothing to give
        if other.device.name.strip().lower() == name.lower() and other.light.dial.marks:
            return other.light.dial
    return DialSetUp()


OWN_CELL_WORDS = "own cell"  # how the Power station writes them for search


def own_cells_of(workshop: Workshop, job: Job) -> tuple[OwnCell, ...]:
    """The cells of the bench's own in other jobs, by name, the newest first."""
    found: dict[str, OwnCell] = {}
    for card in workshop.cards(OWN_CELL_WORDS)[:MOST_JOBS_READ]:
        if card.job_id == job.job_id:
            continue
        try:
            other = workshop.read(card.job_id)
        except VioletDialError:
            continue  # one that cannot be read has nothing to give, and hides nothing else
        for cell in other.power.own_cells:
            found.setdefault(cell.name, cell)
    return tuple(found.values())
