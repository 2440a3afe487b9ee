"""What the page Colour shows: the error, lamp and cell and their product over wavelength, the best at hand; the error opened to
its arithmetic.
"""

from dataclasses import dataclass

from violet_dial.core.colour.mismatch import seen
from violet_dial.core.colour.spectra import GRID_NM, Array
from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.services.colours import cell_of, error_said, worked
from violet_dial.services.spectra import eye
from violet_dial.services.station import Section
from violet_dial.stations.light.colour_acts import in_chain

TITLE = "How the colour of the light was judged"


def colour_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """The four integrals, the band, and whence each curve is."""
    try:
        found = worked(job)
    except VioletDialError as error:
        return TITLE, (("Nothing yet", (str(error),)),)
    lux = eye().values
    sums = {
        name: (float(seen(light, found.response.values)), float(seen(light, lux)))
        for name, light in (("used", found.lamp), ("meant", found.meant_for))
    }
    (a, b), (c, d) = sums["used"], sums["meant"]
    off = found.error
    rows = (
        f"{found.lamp.name}\t∫ S s = {a:.5g}, ∫ S V = {b:.5g}: {a / b:.5g} for each lux",
        f"{found.meant_for.name}\t∫ S s = {c:.5g}, ∫ S V = {d:.5g}: {c / d:.5g} for each lux",
        f"error\tlog2({a / b:.5g} / {c / d:.5g}) = {off.stops:+.3f} stop; positive: it reads high, pictures come out dark",
    )
    band = (
        (f"over the family of {cell_of(job)}: u = {off.u_stops:.3f} stop, 95 % from {off.low:+.3f} to {off.high:+.3f}",)
        if off.u_stops
        else ("a curve, no band",)
    )
    sources = tuple(
        f"{name}\t{one.source or 'not said'}, {one.known_nm[0]:.0f} to {one.known_nm[1]:.0f} nm"
        for name, one in (("lamp", found.lamp), ("meant for", found.meant_for), ("cell", found.response))
    )
    choices = tuple(
        f"{choice.lamp}, {choice.filter or 'bare'}\t{choice.mismatch.stops:+.3f} ± {2 * choice.mismatch.u_stops:.3f} stop"
        for choice in found.choices
    )
    return TITLE, (("Sums on 5 nm", rows), ("Band", band), ("Curves", sources), ("At hand", choices))


MOST_CHOICES = 4
SHOWN_NM = (350.0, 1000.0)
Curve = tuple[float, ...]


@dataclass(frozen=True)
class Curves:
    """Over the wavelengths of the grid that are shown: lights for as many lux, the highest of both 1; the cell; what it sees of
    either, the highest of both 1; the areas of both, that of the light it is meant for being 1."""

    nm: Curve
    lamp: Curve
    meant_for: Curve
    cell: Curve
    sees_lamp: Curve
    sees_meant: Curve
    area: float
    names: tuple[str, str, str]


@dataclass(frozen=True)
class ColourShown:
    """All the page shows; no curves where the cell is not known."""

    headline: str
    reason: str
    stands: str
    curves: Curves | None
    choices: tuple[tuple[str, ...], ...]
    sentence: str


def colour_shown(job: Job) -> ColourShown:
    """The page as the job stands."""
    try:
        found = worked(job)
    except VioletDialError as error:
        return ColourShown("Which cell is it?", str(error), stands_said(job), None, (), "")
    rows = tuple(
        (
            choice.lamp,
            choice.filter or "bare",
            error_said(choice.mismatch),
            f"{choice.loss_stops:.1f} stop" if choice.loss_stops > 0.05 else "",
        )
        for choice in found.choices[:MOST_CHOICES]
    )
    family = "a band: its family is known, not this cell" if found.family is not None else "by its curve"
    headline = f"Under {found.lamp.name} it reads {error_said(found.error)}"
    chain = "In the chain." if in_chain(job) else "Not in the chain: correct puts it there."
    best = f"A lamp of {found.best_k:.0f} K would leave {abs(found.best_left):.2f} stop." if abs(found.best_left) < 1 else ""
    reason = f"Against {found.meant_for.name}, at as many lux; {cell_of(job)}, {family}. {chain} {best}"
    return ColourShown(headline, reason.strip(), stands_said(job), _curves(job), rows, sentence(job))


def stands_said(job: Job) -> str:
    """What is set."""
    colour = job.light.colour
    said = [f"lamp {colour.lamp}" + (f" behind {', '.join(colour.behind)}" if colour.behind else "")]
    said.append(f"meant for {colour.meant_for}")
    said.append(f"cell {cell_of(job) or 'not known'}" + (f" under {', '.join(colour.over)}" if colour.over else ""))
    said.append(f"at hand {', '.join(colour.lamps)}" + (f" with {', '.join(colour.filters)}" if colour.filters else ""))
    return " · ".join(said)


def sentence(job: Job) -> str:
    """What daylight reads after this check, for the sheet; empty where the cell is not known or the light is the one meant."""
    try:
        found = worked(job)
    except VioletDialError:
        return ""
    if found.lamp.name == found.meant_for.name:
        return ""
    if in_chain(job):
        return (
            f"Checked under {found.lamp.name}; the colour of that light is corrected for {found.meant_for.name} by "
            f"{found.error.stops:+.2f} ± {2 * found.error.u_stops:.2f} stop."
        ).replace("-", "−")
    off = -found.error.stops
    way = "higher" if off > 0 else "lower"
    return (
        f"Checked under {found.lamp.name}: in {found.meant_for.name} it reads {abs(off):.2f} ± "
        f"{2 * found.error.u_stops:.2f} stop "
        f"{way} than said here."
    )


def _curves(job: Job) -> Curves:
    found = worked(job)
    at = (SHOWN_NM[0] <= GRID_NM) & (SHOWN_NM[1] >= GRID_NM)
    lux = eye().values
    lamp = found.lamp.values / float(found.lamp.values @ lux)
    meant = found.meant_for.values / float(found.meant_for.values @ lux)
    cell = found.response.values
    sees_lamp, sees_meant = lamp * cell, meant * cell
    area = float(sees_lamp.sum() / sees_meant.sum())
    high = max(float(lamp[at].max()), float(meant[at].max()))
    seen = max(float(sees_lamp.max()), float(sees_meant.max()))

    def held(values: Array, most: float) -> Curve:
        return tuple((values[at] / most).tolist())

    return Curves(
        tuple(GRID_NM[at].tolist()), held(lamp, high), held(meant, high), held(cell, float(cell.max())), held(sees_lamp, seen),
        held(sees_meant, seen), area, (found.lamp.name, found.meant_for.name, cell_of(job)),
    )  # fmt: skip
