"""How a meter is checked, said in a line: for the sheet, the page and the set-up."""

from violet_dial.core.quantities import format_signed
from violet_dial.core.records.light import Chain, Tolerance, TrustedMeter


def describe_tolerance(tolerance: Tolerance) -> str:
    """The tolerance in one line."""
    ends = f"±{tolerance.ends_stops:.2f} stop within {tolerance.end_width_ev:g} EV of the ends"
    return f"±{tolerance.mid_stops:.2f} stop, {ends}"


def describe_chain(chain: Chain) -> str:
    """The reference chain in one line."""
    source = chain.source
    if isinstance(source, TrustedMeter):
        first = f"trusted meter, own error {format_signed(source.known_error_stops)} stop, u {source.u_stops:g} stop"
    else:
        first = f"{source.kind}, u {source.u_relative * 100:g} %"
    links = [
        f"density {link.density:g}" if link.kind == "density" else f"{link.reason} {format_signed(link.stops)} stop"
        for link in chain.links
    ]
    return "; then ".join([first, *links])
