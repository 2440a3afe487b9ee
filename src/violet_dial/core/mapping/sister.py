"""A working unit beside the sick one: at which spots they part, where along the way from the supply, and what to compare next.

It works on a map with nothing but spots, and gets sharper with each join that is known: the way from the supply then follows
the joins, and what lies between two spots is named.

Source: Halving along a way (bisection). How far two good units differ: common practice, no source.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from violet_dial.core.circuit.text import checked_circuit
from violet_dial.core.errors import InvalidInput, VioletDialError
from violet_dial.core.mapping.alone import APART, FLOOR_V, UNIT_SHARE, SpotVolts, alone_words, ways_apart
from violet_dial.core.mapping.board import CHASSIS, Board, Item, key_of, node_of
from violet_dial.core.mapping.compiled import compiled
from violet_dial.core.mapping.differing import ENOUGH_BITS, DifferenceJudgement, DifferenceReading, Differing, Opened
from violet_dial.core.mapping.names import resolved
from violet_dial.core.records.circuit import Setting
from violet_dial.core.task import Task

SHOWN, MOST_SUSPECTS, SURE = 0.02, 8, 0.95
LOST = 0.5  # chance of what is on no list, from which the circuit is no guide
DOUBTED, MOST_DOUBTS = 4.0, 3  # standard deviations from which a good unit is doubted itself
LEAD_V = 0.06  # across a lead of a good unit, beyond which the sister is in doubt itself
TOUCH_MIN = 0.3


@dataclass(frozen=True)
class SisterPair:
    """Volts against the chassis at one spot of a good unit and of the sick one."""

    spot: str
    good_v: float
    sick_v: float
    setting: Setting = field(default_factory=Setting)
    third_v: float | None = None  # of another good unit


@dataclass(frozen=True)
class SisterRanking:
    """A spot: how far the two are apart, in units of what two good ones differ."""

    spot: str
    score: float

    @property
    def is_apart(self) -> bool:
        return self.score >= APART


@dataclass(frozen=True)
class SisterFound:
    """Spots ranked, farthest apart first; the last alike and the first apart along the way and what lies between; the spot to
    compare next; what makes the sister itself doubtful. ``suspects`` likeliest first, with their ``chances`` where a circuit
    tells them; ``first_at``: parts or points of the first."""

    ranking: tuple[SisterRanking, ...]
    between: tuple[str, str] | None
    suspects: tuple[str, ...]
    next: str | None
    doubts: tuple[str, ...]
    words: str
    chances: tuple[float, ...] = ()
    first_at: tuple[str, ...] = ()


def compare(
    board: Board,
    pairs: Sequence[SisterPair],
    differing: Differing | None = None,
    now: Setting | None = None,
    task: Task | None = None,
) -> SisterFound:
    """What the pairs say.

    Raises InvalidInput: a spot the map has not, or a figure that is not finite.

    Parameters
    ----------
    board : the map; its spots in the order of the way where nothing else is known
    pairs : volts taken so far, of both units
    differing : the map's circuit and how two units of it differ, where it is known far enough
    now : how both stand for the next comparison
    """
    now = now or (pairs[-1].setting if pairs else Setting())
    worst = _apart(board, pairs, differing)
    ranking = tuple(sorted(worst.values(), key=lambda one: -one.score))
    way = way_from_supply(board)
    between, suspects = _between(board, way, worst)
    doubts = (*_doubts(board, pairs), *_of_third(pairs))
    if differing is None and not way.before:
        return _without_joins(board, pairs, way, worst, SisterFound(ranking, between, (), None, doubts, ""))
    if differing is None:
        following = _next(board, way, worst, between)
        plain = SisterFound(ranking, between, suspects, following, doubts, "")
        return replace(plain, words=_words(plain, suspects))
    judged = differing.judge(_readings(board, pairs), now, task)
    if pairs and judged.unlisted > LOST:  # the circuit does not explain it: halving along the way goes on
        judged = replace(judged, bits={node_of(_next(board, way, worst, between) or ""): 1.0})
    return _by_circuit(board, SisterFound(ranking, between, suspects, None, doubts, ""), judged, differing, pairs)


def _apart(board: Board, pairs: Sequence[SisterPair], differing: Differing | None) -> dict[str, SisterRanking]:
    """How far apart the two are at each spot, by its key; the farthest of several settings."""
    worst: dict[str, SisterRanking] = {}
    for pair in pairs:
        spot = board.found_spot(resolved(board, pair.spot)).name
        if not (math.isfinite(pair.good_v) and math.isfinite(pair.sick_v)):
            raise InvalidInput("Volts", f"{pair.good_v}, {pair.sick_v}", "finite figures")
        known = differing.unit_v(pair.setting) if differing is not None else {}
        own = known.get(node_of(spot), UNIT_SHARE * abs(pair.good_v))
        unit = math.hypot(math.sqrt(2.0) * own, FLOOR_V)
        one = SisterRanking(spot, abs(pair.good_v - pair.sick_v) / unit)
        if key_of(spot) not in worst or one.score > worst[key_of(spot)].score:
            worst[key_of(spot)] = one
    return worst


def differing_of(board: Board) -> Differing | None:
    """How two sound units of a map's circuit differ; None where the circuit is not whole yet."""
    whole = compiled(board)
    if whole.missing or not board.items:
        return None
    try:
        circuit = checked_circuit(whole.text)
        found = Differing(circuit, [node_of(spot.name) for spot in board.spots])
        found.unit_v(Setting())
    except VioletDialError:  # it has no operating point yet
        return None
    return found


def opened_pairs(board: Board, pairs: Sequence[SisterPair], differing: Differing | None) -> tuple[Opened, ...]:
    """The arithmetic behind what pairs say of the likeliest faults; nothing where no circuit tells.

    Parameters
    ----------
    pairs : volts taken so far, of both units
    differing : the map's circuit and how two units of it differ
    """
    return differing.opened(_readings(board, pairs)) if differing is not None else ()


def _readings(board: Board, pairs: Sequence[SisterPair]) -> list[DifferenceReading]:
    return [DifferenceReading(node_of(resolved(board, pair.spot)), pair.good_v, pair.sick_v, pair.setting) for pair in pairs]


def _by_circuit(
    board: Board, found: SisterFound, judged: DifferenceJudgement, differing: Differing, pairs: Sequence[SisterPair]
) -> SisterFound:
    """With what the circuit knows: suspects by their chance, and the spot that settles most in a minute."""
    leading = [fault for fault in judged.faults if fault[2] >= SHOWN][:MOST_SUSPECTS]
    names = {node_of(spot.name): spot.name for spot in board.spots}
    worth = {
        names[node]: bits / _minutes(board, names[node])
        for node, bits in judged.bits.items()
        if bits >= ENOUGH_BITS and node in names
    }
    chances = tuple(chance for _, _, chance in leading)
    sure = bool(pairs) and (judged.none > SURE or (bool(chances) and chances[0] > SURE))
    following = max(worth, key=lambda name: worth[name]) if worth and not sure else None
    words = _words(found, ())
    odd = _off_the_sketch(pairs, differing, board)
    if pairs and judged.unlisted > LOST:
        words += "; no fault on the list makes this difference"
    elif pairs and leading and chances[0] > judged.none and found.between is None:
        words += f"; no spot is apart by itself, together they fit {leading[0][0]} best: compare once more first"
    elif pairs and leading and chances[0] > judged.none:
        words += f"; likeliest {leading[0][0]}, {100 * chances[0]:.0f} %"
    elif pairs:
        words += f"; no fault that volts show, {100 * judged.none:.0f} %"
    first_at = leading[0][1] if leading else ()
    return replace(found, suspects=tuple(name for name, _, _ in leading), chances=chances, next=following, words=words,
                   doubts=(*found.doubts, *odd), first_at=first_at)  # fmt: skip


def _off_the_sketch(pairs: Sequence[SisterPair], differing: Differing, board: Board) -> tuple[str, ...]:
    """Where the good unit is not what the circuit makes of a sound one."""
    found = []
    for pair in pairs:
        node = node_of(resolved(board, pair.spot))
        if node not in differing.nodes:
            continue
        sound = differing.predicted(pair.setting)[differing.nodes.index(node)]
        away = abs(pair.good_v - float(sound.mean[0])) / math.hypot(float(sound.total[0]), FLOOR_V, 0.05 * pair.good_v)
        if away > DOUBTED:
            found.append(
                f"the sister shows {pair.good_v:.3g} V at {pair.spot}, the map makes {float(sound.mean[0]):.3g} V of it: "
                "it may be faulty itself, or the map is wrong"
            )
    return tuple(found[:MOST_DOUBTS])


def _of_third(pairs: Sequence[SisterPair]) -> tuple[str, ...]:
    """Where another good unit sides with the sick one."""
    found = []
    for pair in pairs:
        if pair.third_v is None:
            continue
        unit = math.hypot(math.sqrt(2.0) * UNIT_SHARE * abs(pair.third_v), FLOOR_V)
        from_good, from_sick = abs(pair.third_v - pair.good_v) / unit, abs(pair.third_v - pair.sick_v) / unit
        if from_good >= APART > from_sick:
            found.append(f"at {pair.spot} a third unit is with the sick one: the sister may be faulty itself")
    return tuple(found)


@dataclass(frozen=True)
class SisterWay:
    """Spots in order from the supply; ``before``: from which spot each is reached, and by what; empty where no join is known."""

    order: tuple[str, ...]
    before: dict[str, tuple[str, Item]]

    def up(self, spot: str) -> list[str]:
        """The spots from the supply to this one, itself last."""
        found = [spot]
        while key_of(found[-1]) in self.before and len(found) <= len(self.order):
            found.append(self.before[key_of(found[-1])][0])
        return found[::-1]


def way_from_supply(board: Board) -> SisterWay:
    """The way through a board: by joins and parts from the supply's plus; spots that nothing is known of come last, as listed."""
    sources = [item for item in board.items if item.kind == "battery"] or [
        item for item in board.items if item.kind in ("selenium", "silicon cell", "photocell", "supply")
    ]
    starts = [end.spot for item in sources for end in item.ends if end.leg == "+"] or [spot.name for spot in board.spots[:1]]
    before: dict[str, tuple[str, Item]] = {}
    order: list[str] = []
    seen = {key_of(CHASSIS)}
    waiting = [name for name in dict.fromkeys(starts) if key_of(name) not in seen]
    seen |= {key_of(name) for name in waiting}
    while waiting:
        at = waiting.pop(0)
        order.append(at)
        for item in sorted(board.at(at), key=lambda one: not one.is_lead):
            for other in item.spots:
                if key_of(other) not in seen:
                    seen.add(key_of(other))
                    before[key_of(other)] = (at, item)
                    waiting.append(other)
    order += [spot.name for spot in board.spots if key_of(spot.name) not in seen]
    return SisterWay(tuple(order), before)


def _between(board: Board, way: SisterWay, worst: dict[str, SisterRanking]) -> tuple[tuple[str, str] | None, tuple[str, ...]]:
    """The first spot apart that has no spot apart before it on its way, and the last alike before it."""
    apart = [name for name in way.order if key_of(name) in worst and worst[key_of(name)].is_apart]
    if not apart:
        return None, ()
    if not way.before:
        return _on_a_line(way, worst, apart[0]), ()
    first = min(
        apart, key=lambda name: (sum(key_of(one) in map(key_of, apart) for one in way.up(name)[:-1]), way.order.index(name))
    )
    up = way.up(first)
    alike = [name for name in up[:-1] if key_of(name) in worst and not worst[key_of(name)].is_apart]
    last = alike[-1] if alike else up[0]
    inside = up[up.index(last) + 1 :] if last in up else up
    suspects = [way.before[key_of(name)][1].name for name in inside if key_of(name) in way.before]
    beside = [item.name for item in board.at(first) if not item.is_lead]
    return (last, first), tuple(dict.fromkeys([*suspects, *beside]))


def _on_a_line(way: SisterWay, worst: dict[str, SisterRanking], first: str) -> tuple[str, str]:
    before = [name for name in way.order[: way.order.index(first)] if key_of(name) in worst]
    return (before[-1] if before else way.order[0]), first


def _without_joins(
    board: Board, pairs: Sequence[SisterPair], way: SisterWay, worst: dict[str, SisterRanking], found: SisterFound
) -> SisterFound:
    """Spots alone: halved as a line, then all the others; where they part by their volts."""
    last = {key_of(pair.spot): pair for pair in pairs}
    spots = [SpotVolts(name, last[key_of(name)].good_v, last[key_of(name)].sick_v) for name in way.order if key_of(name) in last]
    ways = ways_apart(spots) if spots and found.ranking[0].is_apart else ()
    following = _next(board, way, worst, found.between)
    if following is None:
        following = next((name for name in way.order if key_of(name) not in worst and key_of(name) != key_of(CHASSIS)), None)
    if not ways or following is not None:
        return replace(found, next=following, words=_words(found, ()))
    named = tuple(f"between {one} and {other}" for one, other in ways)
    words = f"{_words(found, ())}; {alone_words(ways, {spot.name: spot.sick_v for spot in spots})}"
    return replace(found, between=ways[0], suspects=named, words=words)


def _next(board: Board, way: SisterWay, worst: dict[str, SisterRanking], between: tuple[str, str] | None) -> str | None:
    """The spot that halves what is left, cheaper ones rather."""
    if between is not None:
        up = way.up(between[1]) if way.before else list(way.order)
        names = [key_of(name) for name in up]
        first = names.index(key_of(between[0])) if key_of(between[0]) in names else 0
        left = up[first + 1 : names.index(key_of(between[1]))]
        if not left and key_of(between[0]) not in worst:
            left = [between[0]]
    else:
        left = _after_alike(way, worst)
    left = [name for name in left if key_of(name) not in worst]
    if not left:
        return None
    middle = (len(left) - 1) / 2.0
    return min(left, key=lambda name: abs(left.index(name) - middle) + _minutes(board, name) / TOUCH_MIN * 0.02 * len(left))


def _after_alike(way: SisterWay, worst: dict[str, SisterRanking]) -> list[str]:
    """Spots not compared that lie behind none that is alike with them: what hangs on an alike end is alike up to there."""
    settled: set[str] = set()
    for name in way.order:
        if key_of(name) in worst:
            settled |= {key_of(one) for one in way.up(name)}
    return [name for name in way.order if key_of(name) not in settled]


def _minutes(board: Board, name: str) -> float:
    spot = board.found_spot(name)
    return TOUCH_MIN + (spot.minutes or 3.0 if spot.behind else 0.0)


def _doubts(board: Board, pairs: Sequence[SisterPair]) -> tuple[str, ...]:
    """Where the sister's own readings disagree with physics: two ends of a lead that are not alike."""
    good: dict[tuple[str, Setting], float] = {(key_of(resolved(board, pair.spot)), pair.setting): pair.good_v for pair in pairs}
    found = []
    for item in board.items:
        if not item.is_lead or len(item.spots) != 2:
            continue
        for setting in {pair.setting for pair in pairs}:
            one, other = (good.get((key_of(spot), setting)) for spot in item.spots)
            if one is not None and other is not None and abs(one - other) > LEAD_V + 0.02 * abs(one):
                found.append(f"the sister drops {abs(one - other):.2f} V across {item.name}: it may be faulty itself")
    return tuple(dict.fromkeys(found))


def _words(found: SisterFound, suspects: tuple[str, ...]) -> str:
    if not found.ranking:
        return "nothing compared yet"
    if found.between is None:
        return f"alike at all {len(found.ranking)} spots that were compared"
    last, first = found.between
    was_compared = any(one.spot == last and one.spot != first for one in found.ranking)
    lie = f": between them lie {', '.join(suspects[:4])}" if suspects else ""
    return f"{f'alike up to {last}, ' if was_compared else ''}apart from {first} on{lie}"
