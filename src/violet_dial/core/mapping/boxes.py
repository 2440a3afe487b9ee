"""A box nobody has papers for: what its pins are to the rest, and what can and cannot be told across it."""

from violet_dial.core.mapping.board import CHASSIS, Board, Fact, Item, key_of, node_of
from violet_dial.core.mapping.kinds import BY_NAME

HELD_OHM, DRIVEN_OHM = 10e3, 100.0  # behind a pin that is held, and one that drives; common practice, no source
FED_OHM = 50.0
SUPPLY_LOAD_OHM = 12e3  # what a control chip draws; common practice, no source
SUPPLY_KINDS = ("battery", "regulator")


def box_lines(board: Board, box: Item) -> list[tuple[str, str]]:
    """Lines and notes of a box: its supply is a load, known pins are held as far as it is fed, others are left free."""
    found, plus = [], supply_pin(board, box)
    facts = [fact for fact in board.facts if key_of(fact.box) == key_of(box.name)]
    if plus is not None:
        name = f"R{node_of(box.name)}_load"
        found.append(
            (f"{name} {node_of(plus[0])} 0 {SUPPLY_LOAD_OHM:g}", f'*: {name} kind=leak healthy_always=yes name="{box.name}"')
        )
    for end in box.ends:
        if key_of(end.spot) == CHASSIS or (plus is not None and key_of(end.spot) == key_of(plus[0])):
            continue
        found += _pin_lines(box, end.leg, end.spot, facts, plus)
    for fact in facts:
        one, other = box.at(fact.pin), box.at(fact.other)
        if fact.kind == "fed from" and one and other and key_of(one) != key_of(other):
            name = f"R{node_of(box.name)}_{fact.other}_{fact.pin}"
            found.append(
                (f"{name} {node_of(other)} {node_of(one)} {FED_OHM:g}", f'*: {name} kind=joint name="inside {box.name}"')
            )
    return found


def _pin_lines(box: Item, pin: str, spot: str, facts: list[Fact], plus: tuple[str, float] | None) -> list[tuple[str, str]]:
    volts = next((fact.value for fact in facts if fact.kind == "volts" and fact.pin == pin), None)
    stem, node = f"{node_of(box.name)}_{pin}", node_of(spot)
    if volts is None:
        name = f"R{stem}"
        return [(f"{name} {node} 0 10meg", f'*: {name} kind=leak healthy_always=yes name="{box.name} pin {pin}"')]
    drives = any(fact.kind == "drives" and fact.pin == pin for fact in facts)
    law = f"{volts:g}" if plus is None else f"{volts:g}*max(0,min(1,V({node_of(plus[0])})/{plus[1]:g}))"
    source, behind = f"B{stem}", f"R{stem}"
    return [
        (f"{source} {stem} 0 V={{{law}}}", f'*: {source} kind=block name="{box.name} pin {pin}"'),
        (
            f"{behind} {stem} {node} {DRIVEN_OHM if drives else HELD_OHM:g}",
            f'*: {behind} kind=leak healthy_always=yes name="{box.name} pin {pin}"',
        ),
    ]


def supply_pin(board: Board, box: Item) -> tuple[str, float] | None:
    """The spot that feeds a box and its volts: on a battery or regulator by way of leads and switches; None when none is."""
    known = {fact.pin: fact.value for fact in board.facts if key_of(fact.box) == key_of(box.name) and fact.kind == "volts"}
    best: tuple[str, float] | None = None
    for end in box.ends:
        if key_of(end.spot) == CHASSIS:
            continue
        volts = fed_with(board, end.spot)
        if volts is not None and (best is None or known.get(end.leg, volts) > best[1]):
            best = (end.spot, known.get(end.leg, volts))
    return best


def fed_with(board: Board, spot: str) -> float | None:
    """Volts of the battery or regulator that leads, switches and flying leads join to a spot; None for none."""
    seen, waiting = {key_of(spot)}, [spot]
    while waiting:
        at = waiting.pop()
        for item in board.at(at):
            if item.kind in SUPPLY_KINDS:
                out = item.at("out") or item.at("+")
                usual = dict(BY_NAME["battery"].usual)["volt"] if item.kind == "battery" else 3.0
                if out is not None and key_of(out) == key_of(at):
                    return item.value("volt", usual)
            if item.is_lead or item.kind in ("switch", "fuse"):
                for other in item.spots:
                    if key_of(other) not in seen and key_of(other) != CHASSIS:
                        seen.add(key_of(other))
                        waiting.append(other)
    return None


def cannot_tell(board: Board) -> tuple[str, ...]:
    """What cannot be told across the boxes of a board, in bench words."""
    found = []
    for box in (item for item in board.items if item.kind == "box"):
        known = {fact.pin for fact in board.facts if key_of(fact.box) == key_of(box.name) and fact.kind in ("volts", "fed from")}
        plus = supply_pin(board, box)
        own = {key_of(CHASSIS), key_of(plus[0]) if plus else ""}
        free = [end.leg for end in box.ends if end.leg not in known and key_of(end.spot) not in own]
        fed = f"{box.name} is fed at {plus[0]}" if plus else f"nothing on the map feeds {box.name}"
        if free:
            pins = f"pin{'s' if len(free) > 1 else ''} {', '.join(free)}"
            found.append(f"{fed}; nothing can be told across its {pins}: take them on a working sister unit")
        elif not plus:
            found.append(fed)
    return tuple(found)
