"""Names on a board: which spot a word means, and new names for what has none."""

from dataclasses import dataclass

from violet_dial.core.mapping.board import CHASSIS, CHASSIS_NAMES, NOTHING, Board, Fact, Item, SolderPoint, Touch, key_of, leg_of
from violet_dial.core.records.circuit import BOARD_GROUND

GROUND_WORDS = ("gnd", "ground", "0")  # the circuit's; "chassis", "body" and "earth" are the metal of the device


@dataclass(frozen=True)
class Said:
    """What a line says: something on the board, a spot, something known of a box, or touches; in ``words``."""

    words: str
    item: Item | None = None
    spot: SolderPoint | None = None
    fact: Fact | None = None
    touches: tuple[Touch, ...] = ()


def resolved(board: Board, text: str) -> str:
    """The name of the spot that is meant: one of the board's, a leg of a part (``R4 right``, ``Q1 base``, ``S1``), or as it
    was said, when it is new.
    """
    name = " ".join(text.split())
    if key_of(name) in CHASSIS_NAMES:
        return BOARD_GROUND if name.lower() in GROUND_WORDS and board.spot(BOARD_GROUND) is not None else CHASSIS
    there = board.spot(name)
    if there is not None:
        return there.name
    item = board.item(name)
    if item is not None and item.kind == "switch" and item.ends:
        return item.ends[0].spot
    whose, _, leg = name.rpartition(" ")
    item = board.item(whose) if whose else None
    if item is not None:
        end = leg_of(item, leg)
        if end is not None and end.spot != NOTHING:
            return end.spot
    return name


def new_name(board: Board, wanted: str) -> str:
    """A name that nothing on the board has yet: ``red wire``, ``red wire 2``. ``wanted``: what it would be called alone."""
    if board.item(wanted) is None:
        return wanted
    count = 2
    while board.item(f"{wanted} {count}") is not None:
        count += 1
    return f"{wanted} {count}"


def switch_positions(board: Board) -> dict[str, tuple[str, ...]]:
    """The positions of each switch, by its name as the circuit has it."""
    found: dict[str, tuple[str, ...]] = {}
    for item in board.items:
        notes = dict(item.notes)
        if item.kind == "switch" and item.closes:
            found["_".join(item.name.lower().split())] = tuple(where.lower() for where, _ in item.closes)
        elif "switch" in notes:  # of SPICE text
            name = notes["switch"].lower()
            said = notes.get("positions") or notes.get("closed", "on")
            found[name] = tuple(dict.fromkeys((*found.get(name, ()), *said.lower().split("|"))))
    return {name: where if len(where) > 1 else ("off", *where) for name, where in found.items()}
