"""A reading of an instrument opened: what it was, and the raw samples behind it."""

from violet_dial.core.steady.samples import FUNCTION_WORDS, UNITS, Capture


def capture_lines(capture: Capture) -> tuple[str, ...]:
    """A captured reading to be looked at again: instrument, range, value, and the raw samples behind it."""
    unit = UNITS[capture.function]
    scale = f", range {capture.full_scale:g} {unit}" if capture.full_scale else ""
    samples = "; ".join(f"{at:+.2f} s {value:.6g}" for at, value in capture.window)
    return (
        f"{capture.instrument}, {FUNCTION_WORDS[capture.function]}{scale}, {capture.at}",
        f"{capture.value:.6g} {unit}, u = {capture.u:.2g} {unit} (noise, drift and stated accuracy)",
        f"raw window, {unit}: {samples or 'one sample'}",
    )
