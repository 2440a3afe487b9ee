"""The board as the circuit that is computed with: SPICE text with notes, and what is missing for it in bench words.

Models of cells, junctions and regulators are those of the circuits that ship. A box is not modelled: its pins are held where a
working sister unit has them, as far as it is fed, or left free.
"""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from violet_dial.core.mapping.board import BOX, CHASSIS, NOTHING, WIPER, Board, Figure, Item, ItemEnd, key_of, node_of
from violet_dial.core.mapping.boxes import box_lines
from violet_dial.core.mapping.facts import expected_lead_ohm

CLOSED, OPEN = "0.05", "1g"
MODELS = {
    "dsi": ".model dsi D(IS=1e-14 N=1.1)", "dschottky": ".model dschottky D(IS=1e-7 N=1.05)",
    "dgermanium": ".model dgermanium D(IS=1e-6 N=1.2)", "dled": ".model dled D(IS=1e-18 N=1.9)",
    "sel": ".model sel D(IS=4e-7 N=2.2)", "sicell": ".model sicell D(IS=1e-11 N=1.2)",
    "qnpn": ".model qnpn NPN(IS=1e-14 BF=120)", "qpnp": ".model qpnp PNP(IS=1e-14 BF=100)",
}  # fmt: skip
CELL_OHM = {"selenium": "25k", "silicon cell": "10meg"}
NOTED = {"fuse": "joint", "silicon cell": "photocell", "selenium": "photocell"}  # kinds the circuit knows under another name
OWN_NOTES = ("sub", "code", "rating")  # of an item, that the circuit does not know
GAMMA = "0.7"


@dataclass(frozen=True)
class Compiled:
    """The circuit of a board: ``text`` SPICE with notes; ``missing`` what it lacks."""

    text: str
    missing: tuple[str, ...]


@dataclass(frozen=True)
class _Part:
    """One line and its note."""

    name: str
    line: str
    note: str = ""


def as_found(board: Board) -> Board:
    """The board with each lead as it was measured in this very device, in place of how it should be."""
    return replace(board, items=tuple(item if item.measured_ohm is None else _found(item) for item in board.items))


def _found(item: Item) -> Item:
    ohm = Figure("ohm", max(item.measured_ohm or 0.0, 1e-3))
    return replace(item, figures=(*(figure for figure in item.figures if figure.key not in ("ohm", "mm")), ohm), spice="")


def compiled(board: Board, title: str = "Traced board") -> Compiled:
    """The circuit of a board."""
    lines: list[str] = []
    models: dict[str, str] = {}
    for item in board.items:
        for part in _parts_of(board, item):
            lines.append(part.line)
            if part.note:
                lines.append(part.note)
        models.update({name: MODELS[name] for name in _models_of(item)})
    for count, spot in enumerate(_in_the_air(board), start=1):
        lines.append(f"Rair{count} {node_of(spot)} 0 1g\n*: Rair{count} kind=leak healthy_always=yes name=insulation")
    words = " ".join(title.split())[:200]
    text = "\n".join([f"* {words}", *filter(None, [board.preface]), *lines, *models.values(), ".end", ""])
    return Compiled(text, missing_of(board))


def _slug(letter: str, name: str) -> str:
    plain = re.sub(r"[^A-Za-z0-9_]", "_", name)
    return plain if plain[:1].upper() == letter and re.match(r"^[A-Za-z]+\d", plain) else f"{letter}{plain}"


def _quoted(words: str) -> str:
    return '"' + words.replace('"', "'") + '"'


def _note(item: Item, name: str, kind: str, more: Iterable[tuple[str, str]] = ()) -> str:
    fields = [("kind", kind)]
    if item.colour:
        fields.append(("colour", item.colour))
    if key_of(name) != key_of(item.name):
        fields.append(("name", _quoted(item.name)))
    if item.place:
        fields.append(("place", _quoted(item.place)))
    if item.behind:
        fields.append(("behind", _quoted(item.behind)))
        fields.append(("minutes", f"{item.minutes or 5:g}"))
    fields += [(key, _quoted(value) if " " in value else value) for key, value in (*more, *item.notes) if key not in OWN_NOTES]
    return f"*: {name} " + " ".join(f"{key}={value}" for key, value in fields)


def _parts_of(board: Board, item: Item) -> tuple[_Part, ...]:
    if item.spice:
        first = item.spice.split("\n", 1)[0]
        return (_Part(first.split()[0], item.spice),)
    maker = _MAKERS.get(item.kind)
    if maker is not None:
        return maker(board, item)
    if item.kind == BOX:
        return tuple(_Part(line.split()[0], line, note) for line, note in box_lines(board, item))
    return _resistance(board, item)


def _nodes(item: Item) -> str:
    return " ".join(node_of(end.spot) for end in item.ends)


def _resistance(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("R", item.name)
    ohm = expected_lead_ohm(board, item) if item.is_lead else item.value("ohm", 10e3)
    more = [(key, f"{item.value(key, 0.0):.6g}") for key in ("full_a", "on_a") if item.figure(key)]
    kind = NOTED.get(item.kind, item.kind)
    return (_Part(name, f"{name} {_nodes(item)} {ohm:.6g}", _note(item, name, kind, more)),)


def _trimmer(board: Board, item: Item) -> tuple[_Part, ...]:
    """Two resistances where its wiper is at a spot of its own, one where that is at an end; it stands in the middle."""
    wiper = item.at(WIPER)
    if wiper is None:
        return _resistance(board, item)
    halves: list[_Part] = []
    for end in item.ends[:2]:
        if key_of(end.spot) != key_of(wiper):
            half = replace(item, name=f"{item.name} {end.leg}", figures=(Figure("ohm", item.value("ohm", 10e3) / 2),))
            halves += _resistance(board, replace(half, ends=(end, ItemEnd(WIPER, wiper))))
    return tuple(halves)


def _cds(board: Board, item: Item) -> tuple[_Part, ...]:
    name, r10 = _slug("R", item.name), item.value("r10", 200e3)
    more = [("r10", f"{r10:.6g}"), ("gamma", GAMMA)]
    return (_Part(name, f"{name} {_nodes(item)} {r10 * 100 ** -float(GAMMA):.6g}", _note(item, name, "cds", more)),)


def _capacitor(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("C", item.name)
    return (_Part(name, f"{name} {_nodes(item)} {item.value('farad', 1e-6):.6g}", _note(item, name, "capacitor")),)


def _diode(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("D", item.name)
    more = [("on_a", f"{item.value('on_a', 0):.6g}")] if item.figure("on_a") else []
    model = _models_of(item)[0]
    return (_Part(name, f"{name} {_nodes(item)} {model}", _note(item, name, item.kind, more)),)


def _transistor(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("Q", item.name)
    legs = [node_of(item.at(leg) or CHASSIS) for leg in "cbe"]
    return (_Part(name, f"{name} {' '.join(legs)} {_models_of(item)[0]}", _note(item, name, "transistor")),)


def _models_of(item: Item) -> tuple[str, ...]:
    sub = dict(item.notes).get("sub", "")
    if item.spice:
        return ()
    if item.kind == "diode":
        return (f"d{sub if sub in ('schottky', 'germanium') else 'si'}",)
    return {"led": ("dled",), "transistor": (f"q{sub or 'npn'}",), "selenium": ("sel",), "silicon cell": ("sicell",)}.get(
        item.kind, ()
    )


def _cell(board: Board, item: Item) -> tuple[_Part, ...]:
    plus, minus = (node_of(end.spot) for end in item.ends)
    per_lx = item.value("a_per_lx", 1e-7)
    source, junction, leak = (_slug(letter, item.name) for letter in "IDR")
    model = _models_of(item)[0]
    return (
        _Part(
            source, f"{source} {minus} {plus} {per_lx * 1000:.6g}",
            _note(item, source, "photocell", [("a_per_lx", f"{per_lx:.6g}")]),
        ),
        _Part(
            junction, f"{junction} {plus} {minus} {model}",
            f"*: {junction} kind=junction healthy_always=yes name={_quoted('junction of ' + item.name)}",
        ),
        _Part(
            leak, f"{leak} {plus} {minus} {CELL_OHM[item.kind]}",
            f"*: {leak} kind=leak name={_quoted('edge of ' + item.name)}",
        ),
    )  # fmt: skip


def _battery(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("V", item.name)
    return (_Part(name, f"{name} {_nodes(item)} {item.value('volt', 1.5):.6g}", _note(item, name, "battery")),)


def _regulator(board: Board, item: Item) -> tuple[_Part, ...]:
    name = _slug("B", item.name)
    into, out, low = (node_of(item.at(leg) or CHASSIS) for leg in ("in", "out", "gnd"))
    volts = item.value("volt", 3.0)
    inside = f"{node_of(item.name)}_in"
    across = f"V({into})" if low == "0" else f"V({into},{low})"
    law = f"{volts / 2:.6g}*(1+tanh(1.6*({across}-{volts * 0.77:.6g})))"
    joint = _slug("R", f"{item.name} out")
    return (
        _Part(name, f"{name} {inside} {low} V={{{law}}}", _note(item, name, "regulator")),
        _Part(joint, f"{joint} {inside} {out} 0.5", f"*: {joint} kind=joint name={_quoted(item.name + ' joint')}"),
    )


def stands_at(item: Item) -> str:
    """The position in which a switch is drawn: the first that closes something and is not called off. ``item``: a switch."""
    closing = [where for where, leg in item.closes if leg != NOTHING]
    return next((where for where in closing if where != "off"), closing[0] if closing else item.closes[0][0])


def _switch(board: Board, item: Item) -> tuple[_Part, ...]:
    stands = stands_at(item)
    positions = "|".join(where for where, _ in item.closes)
    common = node_of(item.ends[0].spot)
    found = []
    for end in item.ends[1:]:
        closed = [where for where, leg in item.closes if key_of(leg) == key_of(end.leg)]
        name = _slug("R", f"{item.name} {end.leg}")
        more = [("switch", re.sub(r"\s", "_", item.name)), ("closed", "|".join(closed)), ("positions", positions)]
        value = CLOSED if stands in closed else OPEN
        note = _note(item, name, "switch", more).replace(
            f"name={_quoted(item.name)}", f"name={_quoted(f'{item.name} {end.leg}')}"
        )
        found.append(_Part(name, f"{name} {common} {node_of(end.spot)} {value}", note))
    return tuple(found)


_MAKERS = {
    "cds": _cds, "trimmer": _trimmer, "capacitor": _capacitor, "diode": _diode, "led": _diode, "transistor": _transistor,
    "selenium": _cell, "silicon cell": _cell, "battery": _battery, "regulator": _regulator, "switch": _switch,
}  # fmt: skip
SOURCES = ("battery", "selenium", "silicon cell")
MOST_MISSING = 12


def missing_of(board: Board) -> tuple[str, ...]:
    """What a board lacks to be a circuit, in bench words."""
    found = []
    if not any(_feeds(item) for item in board.items):
        found.append("nothing feeds the map: say its battery or cell, for instance battery 1.35 clip+ to chassis")
    if board.items and board.spot(CHASSIS) is None:
        found.append("nothing goes to the chassis yet")
    for island in _islands(board, lambda item, at: item.spots):
        if not any(_feeds(item) for spot in island for item in board.at(spot)) and len(found) < MOST_MISSING:
            spots = ", ".join(island[:4]) + (f" and {len(island) - 4} more" if len(island) > 4 else "")
            found.append(f"nothing feeds {spots}")
    for item in board.items:
        loose = [end for end in item.ends if _is_loose(board, item, end)]
        if loose and len(found) < MOST_MISSING:
            found.append(f"{item.name} leads nowhere from {loose[0].spot}")
    return tuple(found)


def _feeds(item: Item) -> bool:
    is_source = item.spice[:1].upper() in ("V", "I") and "kind=" in item.spice
    return item.kind in (*SOURCES, "block") or is_source


def _is_loose(board: Board, item: Item, end: ItemEnd) -> bool:
    """Whether nothing else is at the spot of a leg: not said of what is free by its nature."""
    if end.spot in (CHASSIS, NOTHING) or item.kind in (BOX, "switch") or item.spice:
        return False
    return len(board.at(end.spot)) == 1


def _islands(board: Board, carried: Callable[[Item, str], tuple[str, ...]]) -> list[list[str]]:
    """Spots that items join, without the chassis, which joins all; ``carried``: where an item leads to from a spot."""
    left = {key_of(spot.name): spot.name for spot in board.spots if key_of(spot.name) != CHASSIS and board.at(spot.name)}
    found = []
    while left:
        first = next(iter(left.values()))
        waiting, island = [left.pop(key_of(first))], []
        while waiting:
            at = waiting.pop()
            island.append(at)
            for item in board.at(at):
                waiting += [left.pop(key_of(spot)) for spot in carried(item, at) if key_of(spot) in left]
        found.append(island)
    return found


def _in_the_air(board: Board) -> list[str]:
    """A spot of each island that no direct current reaches from the chassis: insulation holds it."""

    def to_chassis(spot: str) -> bool:
        return any(item.kind == BOX or any(key_of(other) == CHASSIS for other in _carried(item, spot)) for item in board.at(spot))

    islands = _islands(board, _carried)
    alone = [one.name for one in board.spots if key_of(one.name) != CHASSIS and not board.at(one.name)]
    return [*(island[0] for island in islands if not any(to_chassis(spot) for spot in island)), *alone]


def _carried(item: Item, at: str) -> tuple[str, ...]:
    """Where direct current goes on to from a spot of an item: nowhere over a capacitor or a box, nor from what a regulator only
    looks at."""
    if item.kind in ("capacitor", BOX):
        return ()
    if item.kind == "regulator":
        ends = tuple(spot for spot in (item.at("out"), item.at("gnd")) if spot is not None)
        return ends if key_of(at) in {key_of(spot) for spot in ends} else ()
    return item.spots
