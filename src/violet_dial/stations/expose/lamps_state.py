"""What the page Lamps shows: the map of aperture against light, what was seen on it, thresholds, causes, times chosen."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

from violet_dial.core.calibration.assess import CheckPlan, assess
from violet_dial.core.calibration.verdict import decide
from violet_dial.core.exposure.lamps import LampObservation, Lamps, Law, Threshold, cause_said, lamps
from violet_dial.core.exposure.said import aperture_said, measured_said, time_said, weight_said
from violet_dial.core.quantities import format_grouped, format_signed
from violet_dial.core.records.light import LightReading
from violet_dial.job.document import Job
from violet_dial.job.exposing import Exposing, LampLaw
from violet_dial.services.repairs import around_repair, since_repair
from violet_dial.stations.expose.lamps_acts import law_of, looks_of

USUAL_APERTURES = (2.0 * 2**0.5, 5.6568542, 16.0)
U_LIGHT, LEAST_CHOSEN = 0.08, 3  # stops, of a light that was read; times chosen, from which they are judged
SHOWN_WEIGHT, MOST_SHOWN = 0.03, 4


@dataclass(frozen=True)
class LampSign:
    """A look or a time on the map: log2 lx, log2 of the aperture squared, its sign, whether it is as meant."""

    lux2: float
    n2: float
    sign: str
    right: bool
    words: str


@dataclass(frozen=True)
class LampsShown:
    """All the page shows; ``edges`` is the reason without what to look at next. Edges of the map are log2 s: where slow and over
    should begin, where they were found (None: not known), where the longest time ends; ``constant`` is log2 s at no aperture and
    no light."""

    headline: str
    reason: str
    lux2: tuple[float, float]
    n2: tuple[float, float]
    constant: float
    slow: float
    over: float
    longest: float
    found_slow: float | None
    found_over: float | None
    spots: tuple[LampSign, ...]
    next: tuple[float, float] | None
    causes: tuple[tuple[str, str], ...]
    stands: str
    edges: str


SIGNS = {"slow": "S", "over": "O", "none": "–", "both": "B", "flicker": "~"}


def apertures_of(exposing: Exposing) -> tuple[float, ...]:
    """Those that can be set: as said, else three."""
    return exposing.law.apertures or USUAL_APERTURES


def lamps_of(job: Job) -> Lamps:
    """What the looks since the newest repair say; the same looks are judged once."""
    return _lamps(since_repair(job))


def _lamps(exposing: Exposing) -> Lamps:
    return _judged(looks_of(exposing), law_of(exposing.law), apertures_of(exposing))


@lru_cache(maxsize=64)
def _judged(looks: tuple[LampObservation, ...], law: Law, apertures: tuple[float, ...]) -> Lamps:
    return lamps(looks, law, apertures)


def lamps_shown(job: Job) -> LampsShown:
    """The page as the job stands: what was seen since the newest repair."""
    sides = around_repair(job)
    was, job = sides.before, replace(job, exposing=sides.since)
    exposing, found = job.exposing, _lamps(job.exposing)
    law = law_of(exposing.law)
    numbers = apertures_of(exposing)
    n2 = (2 * math.log2(min(numbers)) - 0.5, 2 * math.log2(max(numbers)) + 0.5)
    constant = math.log2(law.c_lx_s / law.film_speed)
    slow, over, longest = (math.log2(one) for one in (law.slow_s, law.shortest_s, law.longest_s))
    lux2 = (n2[0] + constant - longest - 1.0, n2[1] + constant - over + 1.5)
    spots = tuple(_spot(look, law) for look in looks_of(exposing))
    causes = tuple((weight_said(cause.weight), cause_said(cause)) for cause in found.causes if cause.weight >= SHOWN_WEIGHT)
    return LampsShown(
        _headline(job, found), _reason(job, found, law), lux2, n2, constant, slow, over, longest, _edge(slow, found.slow),
        _edge(over, found.over), (*spots, *_chosen(exposing, law)),
        None if found.next is None else (math.log2(found.next[1]), 2 * math.log2(found.next[0])),
        causes[:MOST_SHOWN] if exposing.lamps and not job.practising.hides else (), _stands(exposing, was),
        _edges_said(found),
    )  # fmt: skip


def _edge(meant: float, found: Threshold) -> float | None:
    return meant + found.stops if found.known else None


def _spot(one: LampObservation, law: Law) -> LampSign:
    meant = law.meant(one.f_number, one.lux)
    words = f"{aperture_said(one.f_number)}, {format_grouped(one.lux)} lx: {one.seen}, meant {meant}"
    return LampSign(math.log2(one.lux), 2 * math.log2(one.f_number), SIGNS[one.seen], one.seen == meant, words)


def _chosen(exposing: Exposing, law: Law) -> tuple[LampSign, ...]:
    found = []
    for one in exposing.auto:
        off = math.log2(one.time_s / float(law.time_s(one.f_number, one.lux)))
        at = f"{aperture_said(one.f_number)}, {format_grouped(one.lux)} lx"
        words = f"{at}: {measured_said(one.time_s)}, {format_signed(off, 1)} stop"
        found.append(LampSign(math.log2(one.lux), 2 * math.log2(one.f_number), format_signed(off, 1), abs(off) <= 1 / 3, words))
    return tuple(found)


def _headline(job: Job, found: Lamps) -> str:
    if not job.exposing.lamps:
        return "Which lamp is lit, at which aperture and light?"
    if job.practising.hides:
        return f"{len(job.exposing.lamps)} look{'s' * (len(job.exposing.lamps) > 1)} so far"
    return cause_said(found.causes[0])


def _reason(job: Job, found: Lamps, law: Law) -> str:
    if not job.exposing.lamps:
        return "The first look is best between the two edges; then each halves what is open."
    ahead = ""
    if found.next is not None:
        ahead = f" Look next at {aperture_said(found.next[0])} in {format_grouped(found.next[1])} lx."
    return f"{_edges_said(found)}{ahead}".strip()


def _edges_said(found: Lamps) -> str:
    """Where both lamps begin, as far as that is known."""
    said = [
        f"{name} lamp begins {format_signed(one.stops, 1)} ± {2 * one.u_stops:.1f} stop from where it should"
        for name, one in (("slow", found.slow), ("over", found.over))
        if one.known
    ]
    whole = "; ".join(said)
    return f"{whole[:1].upper()}{whole[1:]}." if said else ""


def _stands(exposing: Exposing, was: Exposing) -> str:
    law = exposing.law
    meant = f"ISO {law.film_speed:g} · slow from {time_said(law.slow_s)} · shortest {time_said(law.shortest_s)}"
    looks = f"{len(exposing.lamps)} looks, {len(exposing.auto)} times"
    looks += f", before the repair {len(was.lamps)} and {len(was.auto)}" if was.lamps or was.auto else ""
    own = "" if law.c_lx_s == LampLaw().c_lx_s else f" · C {law.c_lx_s:.0f} lx s"
    return f"{meant} · longest {time_said(law.longest_s)}{own} · {looks}"


def chosen_judged(job: Job) -> str:
    """The times the automatic chose, judged as a meter's readings are: what they say over light; empty with too few."""
    exposing = since_repair(job)
    law = law_of(exposing.law)
    kept = [one for one in exposing.auto if float(law.time_s(one.f_number, one.lux)) < law.longest_s]  # beyond it it is cut short
    if len(kept) < LEAST_CHOSEN:
        return ""
    readings = []
    for one in kept:
        reference = math.log2(one.lux / law.c_lx_s * 100.0)
        shown = math.log2(one.f_number**2 / one.time_s) - math.log2(law.film_speed / 100.0)
        u = max(one.u_s / one.time_s / math.log(2.0), 0.02)
        readings.append(LightReading(reference, shown, u_reference=U_LIGHT, u_reading=u))
    verdict = decide(assess(tuple(readings), CheckPlan()))
    return f"Times it chose, as a meter's readings: {verdict.headline}. {verdict.reason}"
