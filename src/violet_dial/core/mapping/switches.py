"""What is connected in which position of a switch: as said, and as touched."""

from dataclasses import dataclass

from violet_dial.core.mapping.board import NOTHING, Board, Item, key_of
from violet_dial.core.mapping.doubts import groups_of
from violet_dial.core.mapping.taken import NO_LEAD_OHM, is_low, is_whole


@dataclass(frozen=True)
class ContactTruth:
    """The common spot of a switch and another, in one position: ``said`` to be joined; ``touched`` joined, apart, or None."""

    switch: str
    position: str
    common: str
    other: str
    said: bool
    touched: bool | None

    @property
    def is_wrong(self) -> bool:
        """Whether the meter says otherwise."""
        return self.touched is not None and self.touched != self.said


def truth_table(board: Board) -> tuple[ContactTruth, ...]:
    """Each contact of each switch in each position."""
    joins = [item.spots for item in board.items if is_whole(item)]
    keys = [key_of(spot.name) for spot in board.spots]
    nets = groups_of(keys, [(key_of(one), key_of(other)) for one, other in joins])
    return tuple(
        _contact(board, nets, item, position, end.leg, end.spot)
        for item in board.items if item.kind == "switch" and item.closes
        for position, _ in item.closes
        for end in item.ends[1:]
    )  # fmt: skip


def _contact(board: Board, nets: dict[str, int], item: Item, position: str, leg: str, other: str) -> ContactTruth:
    """Touches at any spots that leads join to both sides count."""
    common = item.ends[0].spot
    wanted = {nets.get(key_of(common)), nets.get(key_of(other))}
    closed = dict(item.closes).get(position, NOTHING)
    touched: bool | None = None
    for touch in board.touches:
        stands = {name.lower(): where for name, where in touch.setting.switches}
        if {nets.get(key_of(touch.a)), nets.get(key_of(touch.b))} == wanted and stands.get(item.name.lower()) == position:
            high = touch.beep is False or touch.ohm >= NO_LEAD_OHM
            touched = True if is_low(touch) else False if high else touched
    return ContactTruth(item.name, position, common, other, key_of(closed) == key_of(leg), touched)
