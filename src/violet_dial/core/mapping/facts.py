"""Lines beside the parts: spots, what is known of a box, touches of the meter; and how long leads are, from a photo whose
scale is known. Over an ohm, or over ten times what its length and copper come to, a lead is a suspect before anything else is
known.
"""

import math
import re
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.mapping.board import BOX, CHASSIS_NAMES, Board, Fact, Ground, Item, SolderPoint, Touch, key_of
from violet_dial.core.mapping.kinds import BY_WORD, COLOURS, DESIGNATOR, USUAL_WIDE_MM, track_ohm
from violet_dial.core.mapping.names import Said, resolved, switch_positions
from violet_dial.core.quantities import format_engineering, parse_number, parse_with_unit
from violet_dial.core.records.circuit import BOARD_GROUND, OVERLOAD_OHM, Setting
from violet_dial.core.units import is_overload, parted

LEAD_OHM = 0.05  # a lead of which no length is known
SUSPECT_OHM, SUSPECT_TIMES, LEAST_OHM = 1.0, 10.0, 0.3  # the last: what a pocket meter tells from its own leads
TRACKS = ("track", "flex")  # what runs along the board as the photo shows it


def with_scale(board: Board, a: str, b: str, distance_mm: float) -> tuple[Board, str]:
    """The board with the scale of a photo that shows both spots, and which that is.

    ``distance_mm``: between them, mm. Raises InvalidInput: a spot it has not, none of its photos shows both, or a distance
    that is none.
    """
    pins = [{pin.photo: (pin.x, pin.y) for pin in board.found_spot(resolved(board, name)).pins} for name in (a, b)]
    if not (math.isfinite(distance_mm) and 0 < distance_mm <= 10_000):
        raise InvalidInput("Distance", distance_mm, "more than 0 mm, at most 10 000 mm")
    ground = next((one for one in board.grounds if one.photo in pins[0] and one.photo in pins[1]), None)
    if ground is None or pins[0][ground.photo] == pins[1][ground.photo]:
        raise InvalidInput("Scale", f"{a} to {b}", "two spots that lie apart on one photo; put them on it first")
    new = replace(ground, scale_from=pins[0][ground.photo], scale_to=pins[1][ground.photo], scale_mm=distance_mm)
    rest = tuple(new if one is ground else one for one in board.grounds)
    return replace(board, grounds=rest), ground.name


def length_mm(board: Board, item: Item) -> float | None:
    """How long a lead is: as said, else as the crow flies on a photo with a scale; None where neither is known.

    ``item``: a lead of it.
    """
    said = item.figure("mm")
    if said is not None:
        return said.value
    if item.kind not in TRACKS or len(item.spots) != 2:
        return None
    for ground in board.grounds:
        ends = [(pin.x, pin.y) for name in item.spots for pin in board.found_spot(name).pins if pin.photo == ground.photo]
        if ground.scale_mm and len(ends) == 2:
            return ground.scale_mm * _apart(ground, *ends) / _apart(ground, ground.scale_from, ground.scale_to)
    return None


def _apart(ground: Ground, one: tuple[float, float], other: tuple[float, float]) -> float:
    return math.hypot((one[0] - other[0]) * ground.aspect, one[1] - other[1])


def expected_lead_ohm(board: Board, item: Item) -> float:
    """What a lead should measure: by its length and copper where they are known. ``item``: a lead of it."""
    own = item.figure("ohm")
    if own is not None and not own.guessed:
        return own.value
    length = length_mm(board, item)
    if length is not None:
        return max(track_ohm(length, item.value("wide_mm", USUAL_WIDE_MM)), 1e-3)
    return item.value("ohm", LEAD_OHM)


def lead_suspects(board: Board) -> tuple[str, ...]:
    """Leads that measured more than they should, said, the worst first."""
    found = []
    for touch in board.touches:
        ends = {key_of(touch.a), key_of(touch.b)}
        for item in board.at(touch.a):
            if not item.is_lead or {key_of(spot) for spot in item.spots} != ends or touch.beep is not None:
                continue
            should = expected_lead_ohm(board, item)
            ohm = max(touch.ohm - 0.1, 0.0)  # without the meter's own leads
            if ohm > SUSPECT_OHM or ohm > max(SUSPECT_TIMES * should, LEAST_OHM):
                length = length_mm(board, item)
                of = f"{length:.0f} mm of it" if length is not None else "it"
                shown = "open" if touch.ohm >= 1e6 else f"{format_engineering(touch.ohm, 3)}Ω"
                found.append((ohm, f"{item.name} shows {shown}, {of} should show {format_engineering(should, 2)}Ω: a suspect"))
    return tuple(dict.fromkeys(words for _, words in sorted(found, reverse=True)))


BEEP_OHM, SILENT_OHM = 1.0, 30.0  # what a beep, and none, stand for; a meter beeps below some tens of ohms; usual
_SISTER = re.compile(r"^sister\s+(\S+)\s+(?:pin\s+)?(\S+)\s+(\S+\s*m?V)(?:,?\s*asleep\s+(\S+\s*m?V))?$", re.IGNORECASE)
_DRIVES = re.compile(r"^(\S+)\s+pin\s+(\S+)\s+drives$", re.IGNORECASE)
_FED = re.compile(r"^(\S+)\s+pin\s+(\S+)\s+is fed from\s+(?:pin\s+)?(\S+)$", re.IGNORECASE)
_CLOCK = re.compile(
    r"^(\S+)\s+(\S+\s*k?Hz)\s+between\s+(?:pins\s+)?(\S+)\s+and\s+(\S+)(?:\s+while awake)?(?:,?\s*nothing when asleep)?$",
    re.IGNORECASE,
)
_APART = re.compile(r"^(?:spot\s+)?(?:gnd|ground),?\s+(?:is\s+)?(?:apart from|not)\s+(?:the\s+)?chassis$", re.IGNORECASE)
_SPOT = re.compile(r"^(?:spot|point)\s+([^,]+)((?:,[^,]+)*)$", re.IGNORECASE)


def read_fact(board: Board, line: str) -> Said | None:
    """What is known of a box; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    if match := _SISTER.match(line):
        volts = parse_with_unit(match[3], ("V",), "Volts").value
        asleep = parse_with_unit(match[4], ("V",), "Volts").value if match[4] else None
        fact = Fact(_box_name(board, match[1]), "volts", match[2], "", volts, asleep, line)
        rest = f", {asleep:g} V asleep" if asleep is not None else ""
        return Said(f"sister: {fact.box} pin {fact.pin} {volts:g} V{rest}", fact=_with_pin(board, fact))
    if match := _DRIVES.match(line):
        fact = Fact(_box_name(board, match[1]), "drives", match[2], line=line)
        return Said(f"{fact.box} pin {fact.pin} drives", fact=_with_pin(board, fact))
    if match := _FED.match(line):
        fact = Fact(_box_name(board, match[1]), "fed from", match[2], match[3], line=line)
        return Said(f"{fact.box} pin {fact.pin} is fed from pin {fact.other}", fact=_with_pin(board, fact))
    if match := _CLOCK.match(line):
        hertz = parse_with_unit(match[2], ("Hz",), "Clock").value
        fact = Fact(_box_name(board, match[1]), "clock", match[3], match[4], hertz, 0.0, line)
        return Said(f"{fact.box}: {hertz:g} Hz between pins {fact.pin} and {fact.other}", fact=_with_pin(board, fact))
    return None


def _box_name(board: Board, name: str) -> str:
    item = board.item(name)
    if item is None or item.kind != BOX:
        boxes = ", ".join(one.name for one in board.items if one.kind == BOX) or "none yet: IC3 pins 1 plus, 2 chassis, 7 run"
        raise InvalidInput("Box", name, f"a box of this board: {boxes}")
    return item.name


def _with_pin(board: Board, fact: Fact) -> Fact:
    box = board.found_item(fact.box)
    for pin in (fact.pin, fact.other):
        if pin and box.at(pin) is None:
            raise InvalidInput(f"Pin of {box.name}", pin, f"one of {', '.join(end.leg for end in box.ends)}")
    return fact


def read_spot(board: Board, line: str) -> Said | None:
    """A spot: where it is, behind what; None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    if _APART.match(line):
        return Said(f"spot {BOARD_GROUND}, apart from the chassis; gnd means it from here on", spot=SolderPoint(BOARD_GROUND))
    match = _SPOT.match(line)
    if match is None:
        return None
    name = resolved(board, match[1].strip())
    there = board.spot(name) or SolderPoint(name)
    for clause in filter(None, (part.strip() for part in match[2].split(","))):
        key, _, rest = clause.partition(" ")
        if key.lower() == "behind" and rest:
            there = replace(there, behind=rest)
        elif clause.lower().endswith(" min"):
            there = replace(there, minutes=parse_number(clause[:-4], "Minutes"))
        else:
            there = replace(there, place=rest if key.lower() in ("at", "in") and rest else clause)
    said = ", ".join(word for word in (there.place, f"behind {there.behind}" if there.behind else "") if word)
    return Said(f"spot {there.name}{', ' + said if said else ''}", spot=there)


_TOUCH = re.compile(r"^(.+?)\s+to\s+(.+?)\s+(beeps?|no beep|silent|open|OL|ol|inf|∞|\d[\d.,]*\s?[kKMGmRr]?\s?(?:ohms?|Ω)?\d*)$")


def read_touch(board: Board, line: str) -> Said | None:
    """A touch of the meter between two spots, or of a lead drawn along several (``chassis to p1, p4, p9 no beep``), with how
    switches stood behind it (``clip+ to S1 beep, S1 on``); None when the line is none.

    Raises InvalidInput: it is one, and something of it is not understood.
    """
    bare, stood = _stood(board, line)
    match = _TOUCH.match(bare)
    if match is None or " from " in bare:
        return None
    one, *others = (name.strip() for name in (match[1], *match[2].split(",")))
    is_word = not match[3][0].isdigit() or parted(match[3], ("Ω",))[1] is not None  # no part is said so
    known = [_is_known(board, name) for name in (one, *others)]
    if not (all(known) or (is_word and one.split()[0].lower() not in BY_WORD and not _starts_a_part(one))):
        return None
    a, along = resolved(board, one), [resolved(board, name) for name in others]
    if not all(along) or len({key_of(name) for name in (a, *along)}) < 1 + len(along):
        raise InvalidInput("Touch", line, f"different spots, each once; understood {a} to {', '.join(along)}")
    ohm, beep, words = _reading(match[3])
    if len(along) > 1 and beep is None and ohm < OVERLOAD_OHM:
        raise InvalidInput("Touch", line, "a beep, no beep or open along several spots; a figure is of two")
    setting = Setting(switches=tuple(sorted(stood.items())))
    where = f" with {setting.words}" if stood else ""
    touches = tuple(Touch(a, b, ohm, beep, setting, line=line) for b in along)
    return Said(f"{a} to {', '.join(along)}: {words}{where}", touches=touches)


_STOOD = re.compile(r"^(.*?\S),?\s+(?:(?:with|when|at|and)\s+)?(\S+)\s+(?:at\s+|in\s+|is\s+)?(\S+)$", re.IGNORECASE)


def _stood(board: Board, line: str) -> tuple[str, dict[str, str]]:
    """A line without how switches stood at its end, and that: position by the name of the switch.

    Raises InvalidInput: a position that the switch has not.
    """
    switches, stood, bare = switch_positions(board), dict[str, str](), line
    while (match := _STOOD.match(bare)) and match[2].lower() in switches and _TOUCH.match(match[1].rstrip(" ,")):
        name, position = match[2].lower(), match[3].lower()
        if position not in switches[name]:
            raise InvalidInput(f"Position of {match[2]}", match[3], f"one of {', '.join(switches[name])}")
        stood[name] = position
        bare = match[1].rstrip(" ,")
    return bare, stood


def _is_known(board: Board, name: str) -> bool:
    return board.spot(resolved(board, name)) is not None or key_of(name) in CHASSIS_NAMES


def _starts_a_part(text: str) -> bool:
    words = text.split()
    return len(words) > 2 and (words[0].lower() in COLOURS or bool(DESIGNATOR.match(words[0])))


def _reading(text: str) -> tuple[float, bool | None, str]:
    low = text.lower()
    if low.startswith("beep"):
        return BEEP_OHM, True, "a beep"
    if low in ("no beep", "silent"):
        return SILENT_OHM, False, "no beep"
    if is_overload(low):
        return OVERLOAD_OHM, None, "open"
    number, _ = parted(text, ("Ω",))
    value = parse_number(number.replace(" ", ""), "Ohms")
    return min(value, OVERLOAD_OHM), None, f"{format_engineering(value)}Ω"
