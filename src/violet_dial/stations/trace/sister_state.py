"""What the Sister page shows, as one frozen value: pairs of volts out of the job's own evidence, and what they say."""

from dataclasses import dataclass, replace
from typing import Literal

from violet_dial.core.circuit.netlist import GROUND
from violet_dial.core.diagnosis.evidence import THIRD
from violet_dial.core.mapping.alone import APART
from violet_dial.core.mapping.board import Board, key_of, node_of
from violet_dial.core.mapping.differing import Opened
from violet_dial.core.mapping.sister import SisterFound, SisterPair, way_from_supply
from violet_dial.core.quantities import format_engineering
from violet_dial.core.records.circuit import Evidence, Setting
from violet_dial.job.document import Job
from violet_dial.services.station import Section

Unit = Literal["working", "sick", "third"]
Order = Literal["spot by spot", "working unit first"]
NOTHING_YET = (
    "With a working unit beside the sick one: volts against the chassis at the same spots, in the same settings. The map asks "
    "for the spots, each halves what is left. A map with nothing but spots will do."
)
MOST_SUSPECTS = 5


@dataclass(frozen=True)
class Volts:
    """What was read at a spot: of the working unit, of the sick one, of another working one; None where nothing was yet."""

    spot: str
    working: float | None = None
    sick: float | None = None
    third: float | None = None


@dataclass(frozen=True)
class PairShown:
    """A spot on the way: both figures, how far they are apart in units of what two good ones differ; ``asked`` which unit is
    to be touched there next."""

    spot: str
    working: float | None
    sick: float | None
    apart: float | None
    asked: str = ""

    @property
    def is_apart(self) -> bool:
        return self.apart is not None and self.apart >= APART

    @property
    def words(self) -> str:
        """The row said."""
        said = [f"working {self.working:.3g} V" if self.working is not None else "working not read",
                f"sick {self.sick:.3g} V" if self.sick is not None else "sick not read"]  # fmt: skip
        away = "" if self.apart is None else f", {'apart' if self.is_apart else 'alike'}, {self.apart:.1f} units"
        return f"{self.spot}: {', '.join(said)}{away}"


@dataclass(frozen=True)
class AskShown:
    """Which unit is to be touched where, and why."""

    unit: Unit
    spot: str
    why: str


@dataclass(frozen=True)
class SisterShown:
    """All that the page shows."""

    rows: tuple[PairShown, ...]
    ask: AskShown | None
    words: str
    suspects: tuple[tuple[str, float], ...]
    doubts: tuple[str, ...]
    stands: str
    nothing: str = ""


def volts_of(job: Job, board: Board) -> tuple[Volts, ...]:
    """What was read at each spot as the device stands now, in the order of the way from the supply; the latest figure counts."""
    names = {node_of(spot.name): spot.name for spot in board.spots}
    found: dict[str, Volts] = {}
    for evidence in _readings(job):
        if evidence.plus in names and evidence.setting == job.tracing.setting:
            before, volts = found.get(evidence.plus, Volts(names[evidence.plus])), evidence.value
            if not evidence.sister:
                found[evidence.plus] = replace(before, sick=volts)
            elif evidence.note == THIRD:
                found[evidence.plus] = replace(before, third=volts)
            else:
                found[evidence.plus] = replace(before, working=volts)
    order = [key_of(name) for name in way_from_supply(board).order]
    place = {key: n for n, key in enumerate(order)}
    return tuple(sorted(found.values(), key=lambda one: place.get(key_of(one.spot), len(order))))


def _readings(job: Job) -> list[Evidence]:
    """Volts against the chassis: of good units ever, of the sick one since the last repair."""
    every = [(taken.evidence, epoch is job.tracing.epochs[-1]) for epoch in job.tracing.epochs for taken in epoch]
    return [one for one, is_now in every if one.test == "volt" and one.minus == GROUND and (one.sister or is_now)]


def pairs_of(volts: tuple[Volts, ...], setting: Setting) -> tuple[SisterPair, ...]:
    """Spots of which both figures are known."""
    return tuple(
        SisterPair(volt.spot, volt.working, volt.sick, setting, volt.third)
        for volt in volts
        if volt.working is not None and volt.sick is not None
    )


def ask_of(board: Board, volts: tuple[Volts, ...], found: SisterFound, order: Order, last: Unit) -> AskShown | None:
    """What to touch next: a spot begun is ended first; else the spot that halves what is left, first the unit touched last."""
    half = next((volt for volt in volts if (volt.working is None) != (volt.sick is None)), None)
    if order == "working unit first":
        read = {key_of(volt.spot) for volt in volts if volt.working is not None}
        left = [name for name in way_from_supply(board).order if key_of(name) not in read]
        if left:
            return AskShown("working", left[0], f"the working unit all along first: {len(left)} left")
    elif half is not None:
        unit: Unit = "sick" if half.sick is None else "working"
        return AskShown(unit, half.spot, "the same spot on the other unit")
    if found.next is None:
        return None
    known = next((volt for volt in volts if key_of(volt.spot) == key_of(found.next)), Volts(found.next))
    if known.working is not None:
        return AskShown("sick", found.next, "it settles most of what is left")
    first: Unit = "working" if order == "working unit first" or last == "third" else last
    return AskShown(first, found.next, "it settles most of what is left")


def sister_shown(job: Job, board: Board, found: SisterFound | None, order: Order, last: Unit, failure: str = "") -> SisterShown:
    """What the page shows of a job, with what was worked out for its very pairs."""
    stands = f"Both stand: {job.tracing.setting.words or 'as usual'}"
    if failure or not board.spots:
        return SisterShown((), None, "", (), (), stands, failure or "Nothing is on the map yet: a spot at least.")
    volts = volts_of(job, board)
    by_spot = {key_of(volt.spot): volt for volt in volts}
    score = {key_of(one.spot): one.score for one in found.ranking} if found is not None else {}
    ask = ask_of(board, volts, found, order, last) if found is not None else None
    rows = []
    for name in way_from_supply(board).order:
        one = by_spot.get(key_of(name), Volts(name))
        asked = ask.unit if ask is not None and key_of(ask.spot) == key_of(name) else ""
        rows.append(PairShown(name, one.working, one.sick, score.get(key_of(name)), asked))
    suspects = tuple(zip(found.suspects, found.chances, strict=False))[:MOST_SUSPECTS] if found is not None else ()
    return SisterShown(
        tuple(rows), ask, _words(found, volts), suspects, found.doubts if found is not None else (), stands,
        "" if volts else NOTHING_YET,
    )  # fmt: skip


def opened_sister(shown: SisterShown, opened: tuple[Opened, ...]) -> tuple[Section, ...]:
    """The sums behind the page: each spot compared, and what each likely fault predicts of the differences."""
    both = tuple(row.words for row in shown.rows if row.working is not None and row.sick is not None)
    compared = both or ("Nothing was compared yet.",)
    found: list[Section] = [("Spots, in units of what two good ones differ (from 3 on they are apart)", compared)]
    for one in opened:
        lines = [
            f"{node}: sick less working {read:+.3g} V; this makes {mean:+.3g} ± {sigma:.2g} V, {abs(read - mean) / sigma:.1f} off"
            for node, read, mean, sigma in one.rows
        ]
        found.append((f"{one.name}: {one.before:.1%} beforehand, {one.chance:.1%} now", tuple(lines)))
    return tuple(found)


def _words(found: SisterFound | None, volts: tuple[Volts, ...]) -> str:
    if found is None:
        return "working it out…"
    return f"{found.words[0].upper()}{found.words[1:]}." if volts and found.ranking else ""


def figure(volts: float | None) -> str:
    """Volts as the page shows them."""
    return "" if volts is None else f"{format_engineering(volts, 3)}V"
