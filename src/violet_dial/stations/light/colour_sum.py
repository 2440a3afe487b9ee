"""The error by the colour of the light, opened to its arithmetic."""

from violet_dial.core.colour.mismatch import seen
from violet_dial.core.errors import VioletDialError
from violet_dial.job.document import Job
from violet_dial.services.colours import cell_of, worked
from violet_dial.services.spectra import eye
from violet_dial.services.station import Section

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
