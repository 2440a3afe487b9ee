"""Acts on the map: lines said, touches, spots on photos; each makes the circuit anew."""

import re
from dataclasses import dataclass, replace
from functools import lru_cache

from violet_dial.core.circuit.trade import set_circuit, usual_setting
from violet_dial.core.diagnosis.evidence import understand_evidence
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.mapping import change
from violet_dial.core.mapping.asked import asks_first
from violet_dial.core.mapping.board import Board, Ground, Pin, Touch, node_of
from violet_dial.core.mapping.drawing import BoardDrawing, drawn
from violet_dial.core.mapping.facts import BEEP_OHM, SILENT_OHM, with_scale
from violet_dial.core.mapping.from_spice import board_from_spice
from violet_dial.core.mapping.lines import understand_line
from violet_dial.core.mapping.names import resolved
from violet_dial.core.mapping.taken import touch_words
from violet_dial.core.quantities import parse_number
from violet_dial.core.records.circuit import Setting
from violet_dial.job.act import ActResult
from violet_dial.job.document import Job
from violet_dial.services.circuits import TRACED, circuit_from, circuit_of, circuit_text_of, has_circuit
from violet_dial.services.evidence import check_fits
from violet_dial.services.lessons import Offer
from violet_dial.services.remembered import remembered
from violet_dial.stations.trace.acts import strike_evidence


@lru_cache(maxsize=8)
def _drawn(text: str, pinned: tuple[tuple[str, float, float], ...]) -> BoardDrawing:
    return drawn(circuit_from(text), {node: (column, row) for node, column, row in pinned})


def drawing_of(job: Job) -> BoardDrawing:
    """The drawing; an empty one where there is no circuit that can be read."""
    pinned = tuple((spot.node, spot.column, spot.row) for spot in job.tracing.pinned)
    try:
        return _drawn(circuit_text_of(job), pinned) if has_circuit(job) else BoardDrawing()
    except VioletDialError:
        return BoardDrawing()


_RENAME = re.compile(r"^rename\s+(.+?)\s+to\s+(.+)$", re.IGNORECASE)
_JOIN = re.compile(r"^join\s+(.+?)\s+and\s+(.+)$", re.IGNORECASE)
_PART = re.compile(r"^part\s+(.+?)\s+at\s+(.+?)\s+as\s+(.+)$", re.IGNORECASE)
_OUT = re.compile(r"^take out\s+(.+)$", re.IGNORECASE)
_HOW = re.compile(r"^(.+?)\s+is\s+(seen|measured|guessed)$", re.IGNORECASE)
_SCALE = re.compile(r"^scale\s+(.+?)\s+to\s+(.+?)\s+([\d.,]+)\s*mm$", re.IGNORECASE)
_BETTER = re.compile(r"^(.+?):=\s*(.+)$")
COMMANDS = ("rename A to B", "join A and B", "part PART at SPOT as NEW", "take out NAME", "NAME is seen", "scale A to B 40 mm")


@dataclass(frozen=True)
class MapChange:
    """What a typed line would make of a job's map: the board, how it stands, in words; ``asks`` what is asked once before."""

    board: Board
    setting: Setting
    words: str
    asks: str = ""


@lru_cache(maxsize=16)
def _from_text(text: str) -> Board:
    return board_from_spice(text)


def board_of(job: Job) -> Board:
    """The map of a job: the one that was traced, or that of the circuit it has.

    Raises InvalidInput: the circuit's text is not understood.
    """
    tracing = job.tracing
    if tracing.board.is_empty and tracing.circuit_text:
        return _from_text(tracing.circuit_text)
    return tracing.board


@remembered(lambda job: (job.tracing.board, job.tracing.circuit_text, job.tracing.epochs))
def seen_board(job: Job) -> Board:
    """The map with all that is known between its spots: its own touches, and ohms and beeps taken at Trace since the last repair
    between points that are spots of it, after them. Raises InvalidInput: as `board_of`.
    """
    board = board_of(job)
    return replace(board, touches=(*board.touches, *(touch for _place, touch in taken_touches(job, board))))


def taken_touches(job: Job, board: Board) -> tuple[tuple[int, Touch], ...]:
    """Evidence at Trace that is a touch of the map: its place in the evidence, and the touch."""
    spots = {node_of(spot.name): spot.name for spot in board.spots}
    found = []
    for place, taken in enumerate(job.tracing.now):
        one = taken.evidence
        if one.test in ("ohm", "continuity") and not one.sister and one.plus in spots and one.minus in spots:
            beep = bool(one.value) if one.test == "continuity" else None
            ohm = one.value if beep is None else BEEP_OHM if beep else SILENT_OHM
            touch = Touch(spots[one.plus], spots[one.minus], ohm, beep, _dry(one.setting), taken.typed, taken.at, taken.capture)
            found.append((place, touch))
    return tuple(found)


def understand_change(job: Job, text: str) -> MapChange:
    """What a line typed at the map means. Raises InvalidInput: it is not understood, or does not fit."""
    board, setting = board_of(job), job.tracing.setting
    line = " ".join(text.split())
    if match := _RENAME.match(line):
        return MapChange(*_of(change.rename(board, match[1], match[2]), setting))
    if match := _JOIN.match(line):
        return MapChange(*_of(change.join(board, match[1], match[2]), setting))
    if match := _PART.match(line):
        return MapChange(*_of(change.part(board, match[2], match[1], "", match[3]), setting))
    if match := _SCALE.match(line):
        distance = parse_number(match[3], "Distance")
        scaled, name = with_scale(board, match[1], match[2], distance)
        return MapChange(scaled, setting, f"{match[1]} to {match[2]} are {distance:g} mm apart on {name}")
    if match := _OUT.match(line):
        return MapChange(change.take_out(board, match[1]), setting, f"{match[1]} taken out")
    if (match := _HOW.match(line)) and board.item(match[1]) is not None:
        how = match[2].lower()
        return MapChange(change.mark(board, match[1], how), setting, f"{match[1]} is {how}")  # type: ignore[arg-type]
    stands = _setting_said(job, line)
    if stands is not None:
        return MapChange(board, stands, f"Stands now: {stands.words or 'as usual'}")
    if match := _BETTER.match(line):
        before = change.take_out(board, match[1].strip())
        said = understand_line(before, match[2])
        found, words = change.kept(before, said)
        return MapChange(found, setting, f"{match[1].strip()} said better: {words}", asks_first(before, said))
    said = understand_line(board, line)
    if said.touches:
        stands = _dry(setting)
        for name, position in said.touches[0].setting.switches:
            stands = stands.with_switch(name, position)
        said = replace(said, touches=tuple(replace(touch, setting=stands) for touch in said.touches))
    found, words = change.kept(board, said)
    return MapChange(found, setting, words, asks_first(board, said))


def _of(pair: tuple[Board, str], setting: Setting) -> tuple[Board, Setting, str]:
    return pair[0], setting, pair[1]


def _setting_said(job: Job, line: str) -> Setting | None:
    """How the device stands now, where a line says that."""
    if not has_circuit(job):
        return None
    try:
        typed = understand_evidence(circuit_of(job), line, job.tracing.setting)
    except VioletDialError:
        return None
    return typed.setting if typed.evidence is None else None


def _dry(setting: Setting) -> Setting:
    """How the switches stand while the ohms are taken."""
    return Setting(switches=setting.switches, state=setting.state)


def with_board(job: Job, board: Board, words: str, setting: Setting | None = None) -> ActResult:
    """The job with its map, and the circuit made of it; evidence stays where its points do.

    Raises InvalidInput: evidence was taken at a point that would be gone.
    """
    tracing = job.tracing
    stands = tracing.setting if setting is None else setting
    name = tracing.circuit_name or TRACED
    after = replace(tracing, board=board, circuit_text="", circuit_name=name)
    if not has_circuit(replace(job, tracing=after)):
        after = replace(after, circuit_name=tracing.circuit_name)
    else:
        circuit = circuit_of(replace(job, tracing=after))
        for epoch in tracing.epochs:
            for taken in epoch:
                check_fits(circuit, taken.evidence)
        try:
            set_circuit(circuit, stands)
        except InvalidInput:  # a switch that stood so is not on the map any more
            stands = usual_setting(circuit)
    return ActResult(replace(job, tracing=replace(after, setting=stands)), "Trace", words)


def say_line(job: Job, text: str, at: str) -> ActResult:
    """A line said of the board."""
    found = understand_change(job, text)
    return with_board(job, found.board, found.words, found.setting)


def take_touches(job: Job, touches: tuple[Touch, ...], at: str) -> ActResult:
    """A touch that the map asked for, or a lead drawn along: all of them, or none is kept."""
    found, more = change.touched(board_of(job), tuple(replace(touch, at=at) for touch in touches), asked=True)
    said = "; ".join(f"{touch.a} to {touch.b}: {touch_words(touch)}" for touch in touches)
    return with_board(job, found, f"{said}{more}", replace(job.tracing.setting, switches=touches[0].setting.switches))


def pin_on_photo(job: Job, name: str, pin: Pin, at: str) -> ActResult:
    """A spot put on a photo."""
    board = board_of(job)
    spot = resolved(board, " ".join(name.split()))
    if not spot or len(spot) > 80:
        raise InvalidInput("Spot", name, "a name of 1 to 80 characters")
    return with_board(job, change.pin(board, spot, pin, pin.photo), f"{spot} put on the photo")


def lay_photo(job: Job, ground: Ground, at: str) -> ActResult:
    """A photo laid down as ground."""
    return with_board(job, change.lay(board_of(job), ground), f"Photo laid down as {ground.name}")


def take_map(job: Job, board: Board, name: str, at: str) -> ActResult:
    """A map from a file in place of the one there is; undo brings that back."""
    return with_board(replace(job, tracing=replace(job.tracing, circuit_name=name)), board, f"Map from {name}")


def adopt_board(job: Job, offer: Offer, at: str) -> ActResult:
    """Begin from the map of an earlier job on this model; its photos come along, its touches and faults stay there.

    Raises InvalidInput: something is on the map already.
    """
    if not board_of(job).is_empty:
        raise InvalidInput("Map", f"{len(board_of(job).items)} parts", "an empty map to begin from another")
    there = {photo.sha256 for photo in job.photos}
    photos = (*job.photos, *(photo for photo in offer.board_photos if photo.sha256 not in there))
    return with_board(replace(job, photos=photos), offer.board, f"Map taken from {offer.board_source}")


def strike_touch(job: Job, place: int, at: str) -> ActResult:
    """A touch left out; the log and undo still have it."""
    board = board_of(job)
    own = len(board.touches)
    others = taken_touches(job, board)
    if own <= place < own + len(others):
        return strike_evidence(job, others[place - own][0], at)
    if not 0 <= place < own:
        raise InvalidInput("Touch", place + 1, f"1 to {own + len(others)}")
    gone = board.touches[place]
    rest = board.touches[:place] + board.touches[place + 1 :]
    return with_board(job, replace(board, touches=rest), f"Struck out: {gone.a} to {gone.b}")
