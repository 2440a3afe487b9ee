"""What the Map page shows, as one frozen value."""

from dataclasses import dataclass

from violet_dial.core.mapping.board import Board, Ground, Item, Touch, key_of
from violet_dial.core.mapping.boxes import cannot_tell
from violet_dial.core.mapping.compiled import missing_of
from violet_dial.core.mapping.drawing import BoardDrawing
from violet_dial.core.mapping.facts import lead_suspects, length_mm
from violet_dial.core.mapping.lines import item_words
from violet_dial.core.mapping.possible import NextTouch
from violet_dial.core.mapping.switches import ContactTruth, truth_table
from violet_dial.core.mapping.taken import touch_words
from violet_dial.core.mapping.touching import Proof
from violet_dial.job.document import Job, Photo
from violet_dial.report.dial import MarkState
from violet_dial.stations.trace.map_acts import drawing_of, seen_board

NOTHING_YET = (
    "Nothing is on the map yet. Say what you see, a line at a time: battery 1.35 clip+ to chassis, then red wire clip+ to S1. "
    "Photos of the job can be laid down below it."
)
MOST_SAID = 5
HOW_MARKS: dict[str, MarkState] = {"seen": "undecided", "measured": "inside", "guessed": "empty"}


@dataclass(frozen=True)
class PinShown:
    """A spot on a photo: is it one of the two to be touched next (1, 2), and what stands beside it."""

    name: str
    x: float
    y: float
    probe: int = 0


@dataclass(frozen=True)
class JoinShown:
    """A join between two spots that are on the same photo: places, colour, how it is known, whether it is believed broken."""

    start: tuple[float, float]
    end: tuple[float, float]
    colour: str
    how: str
    is_suspect: bool


@dataclass(frozen=True)
class PhotoShown:
    """A photo with what lies on it."""

    ground: Ground
    photo: Photo | None
    pins: tuple[PinShown, ...]
    joins: tuple[JoinShown, ...]


@dataclass(frozen=True)
class TouchShown:
    """The touch to make next, said large, what is expected, and why: a spot, and one or those along which a lead is drawn."""

    spots: tuple[str, str] | None
    expects: str = ""
    why: str = ""


@dataclass(frozen=True)
class MapShown:
    """All that the page shows."""

    rows: tuple[tuple[str, ...], ...]
    marks: tuple[MarkState, ...]
    photos: tuple[PhotoShown, ...]
    drawing: BoardDrawing
    next: TouchShown
    touches: tuple[tuple[str, ...], ...]
    touch_marks: tuple[MarkState, ...]
    proof: str
    said: str
    stands: str
    switches: tuple[tuple[str, ...], ...]
    switch_marks: tuple[MarkState, ...]


def map_shown(job: Job, proof: Proof | None, draws: bool = True) -> MapShown:
    """What the page shows of a job, with what was worked out for its very map; the drawing only where it ``draws``."""
    board = seen_board(job)
    touch = proof.next if proof is not None else None
    suspects = {one.item for one in proof.judged.believed if one.item} if proof is not None else set()
    odd = set(map(id, proof.judged.odd)) if proof is not None else set()
    return MapShown(
        tuple((item.name, _words(board, item), item.how) for item in board.items),
        tuple(HOW_MARKS[item.how] for item in board.items),
        tuple(_photo(job, board, ground, touch, suspects) for ground in board.grounds),
        drawing_of(job) if draws else BoardDrawing(),
        _touch(board, proof), tuple(_touch_row(one) for one in board.touches),
        tuple("high" if id(one) in odd else "inside" for one in board.touches), _proof(board, proof), _said(board, proof),
        f"Stands now: {job.tracing.setting.words or 'as usual'}",
        tuple(_contact_row(one) for one in truth_table(board)),
        tuple("empty" if one.touched is None else "high" if one.is_wrong else "inside" for one in truth_table(board)),
    )  # fmt: skip


def _contact_row(one: ContactTruth) -> tuple[str, ...]:
    by_meter = "not touched" if one.touched is None else "joined" if one.touched else "apart"
    return f"{one.switch} {one.position}", f"{one.common} to {one.other}", "joined" if one.said else "apart", by_meter


def _words(board: Board, item: Item) -> str:
    """Something on the map said, a track with its length on the photo."""
    length = length_mm(board, item) if item.is_lead and item.figure("mm") is None else None
    return f"{item_words(item)}{'' if length is None else f', {length:.0f} mm on the photo'}"


def _photo(job: Job, board: Board, ground: Ground, touch: NextTouch | None, suspects: set[str]) -> PhotoShown:
    ends = [key_of(touch.a), key_of(touch.b)] if touch is not None else []
    at = {key_of(spot.name): pin for spot in board.spots for pin in spot.pins if pin.photo == ground.photo}
    pins = tuple(
        PinShown(spot.name, at[key_of(spot.name)].x, at[key_of(spot.name)].y,
                 ends.index(key_of(spot.name)) + 1 if key_of(spot.name) in ends else 0)
        for spot in board.spots if key_of(spot.name) in at
    )  # fmt: skip
    joins = []
    for item in board.items:
        here = [at[key_of(spot)] for spot in item.spots if key_of(spot) in at]
        if item.is_lead and len(here) == 2:
            one, other = here
            joins.append(JoinShown((one.x, one.y), (other.x, other.y), item.colour, item.how, item.name in suspects))
    photo = next((one for one in job.photos if one.sha256 == ground.photo), None)
    return PhotoShown(ground, photo, pins, tuple(joins))


def _touch(board: Board, proof: Proof | None) -> TouchShown:
    if board.is_empty:
        return TouchShown(None, why=NOTHING_YET)
    if proof is None:
        return TouchShown(None, why="working out the next touch…")
    touch = proof.next
    if touch is None:
        return TouchShown(None, why="Every join is measured." if proof.is_proved else "No touch would settle more.")
    stands = f"; with {touch.setting.words}" if touch.setting.words else ""
    why = "proves what is believed" if touch.settles == ("proof",) else f"settles: {'; '.join(touch.settles[:2])}"
    along = f"along {', '.join(touch.along)}" if touch.over else touch.b
    return TouchShown((touch.a, along), f"expects {touch.expects}{stands}", why)


def _touch_row(touch: Touch) -> tuple[str, ...]:
    return f"{touch.a} to {touch.b}", touch_words(touch), touch.setting.words


def _proof(board: Board, proof: Proof | None) -> str:
    if proof is None or board.is_empty:
        return ""
    proved = sum(net.is_proved for net in proof.nets)
    left = f"; {proof.left} touches to the proof of all" if proof.left else ""
    return f"{proved} of {len(proof.nets)} nets proved{left}"


def _said(board: Board, proof: Proof | None) -> str:
    """What the meter says otherwise than the eye, what is missing, what cannot be told."""
    lines: list[str] = []
    if proof is not None:
        lines += [f"The meter says: {one.words}" for one in proof.judged.believed[:MOST_SAID]]
        lines += [f"Nothing on the map explains {one.a} to {one.b}" for one in proof.judged.odd[:2]]
    lines += [
        f"{one.switch} at {one.position}: {one.common} and {one.other} are {'joined' if one.touched else 'apart'}, said otherwise"
        for one in truth_table(board) if one.is_wrong
    ]  # fmt: skip
    lines += lead_suspects(board)[:2]
    lines += missing_of(board)[:MOST_SAID] if board.items else ()
    lines += cannot_tell(board)[:2]
    return "\n".join(lines)
