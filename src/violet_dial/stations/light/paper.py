"""What Light puts on the sheet: the verdict, the first run as found and the last as left, and how it was measured."""

from violet_dial.core.calibration.assess import Assessment
from violet_dial.core.calibration.flags import Flag
from violet_dial.core.calibration.verdict import shape_figures
from violet_dial.core.quantities import format_signed
from violet_dial.core.records.light import Chain, Tolerance, TrustedMeter
from violet_dial.job.document import Job
from violet_dial.job.light import Run
from violet_dial.report.blocks import Block, Grid, Lines, Pairs, Picture, SheetVerdict, Words, present, section
from violet_dial.report.dial import DialRequest, MarkState, draw_dial, mark_state
from violet_dial.services.light_judgement import LightJudgement, judge_run
from violet_dial.stations.light.colour_state import sentence

WORDS: dict[MarkState, str] = {"inside": "within", "high": "high", "low": "low", "undecided": "undecided", "empty": "—"}
HEADS = ("Reference EV100", "Read EV100", "Error, stops", "U, stops", "Tolerance ±", "State", "Note")
WIDTHS = (0.15, 0.13, 0.13, 0.11, 0.13, 0.13, 0.22)
STATE_AT = 5


def paper(job: Job) -> tuple[Block, ...]:
    """The blocks of the light check; where no reading was taken, that is said."""
    runs = [run for run in job.light.runs if run.readings]
    if not runs:
        return section("What it reads", Lines(("Not checked against reference light.", *_watched(job))))
    last = judge_run(job, runs[-1])
    shown = runs if len(runs) == 1 else [runs[0], runs[-1]]
    verdict = SheetVerdict(last.verdict.headline, f"Verdict: {last.verdict.kind}. {last.verdict.reason}")
    tables = [block for run in shown for block in _run(run, judge_run(job, run), len(shown) == 1)]
    return (
        verdict, *tables, *section("What the readings say", Lines(_findings(last.assessment, job))),
        *section("How it was measured", Pairs(_method(job))),
    )  # fmt: skip


def card(job: Job) -> tuple[tuple[str, str], ...]:
    """The verdict, and the light it may be trusted over."""
    runs = [run for run in job.light.runs if run.readings]
    if not runs:
        return ()
    last = judge_run(job, runs[-1])
    usable = last.assessment.as_found
    span = ""
    if usable.usable_from_ev100 is not None:
        span = f"Ev {usable.usable_from_ev100:.1f} to {usable.usable_to_ev100:.1f} at ISO 100"
    return present(("Reads", last.verdict.headline), ("Trust it over", span))


def _run(run: Run, judgement: LightJudgement, show_after: bool) -> tuple[Block, ...]:
    a = judgement.assessment
    ordered = sorted(a.readings, key=lambda one: one.reading.reference_ev100)
    rows = tuple(
        (
            f"{one.reading.reference_ev100:.2f}",
            f"{one.reading.indicated_ev100:.2f}",
            format_signed(one.error_stops),
            f"{one.expanded_uncertainty_stops:.2f}",
            f"{one.tolerance_stops:.2f}",
            WORDS[mark_state(one)],
            ", ".join(part for part in (one.reading.direction, one.reading.attitude) if part),
        )
        for one in ordered
    )
    title = run.name[:1].upper() + run.name[1:]
    states = tuple(mark_state(one) for one in ordered)
    return (
        Words(f"{title}: {judgement.verdict.headline}", "head"),
        Picture(draw_dial(DialRequest(a, show_after=show_after)), title),
        Grid(HEADS, rows, WIDTHS, states, STATE_AT, STATE_AT),
    )


def _findings(a: Assessment, job: Job) -> tuple[str, ...]:
    lines = []
    if a.model and a.described:
        lines.append(f"{shape_figures(a)}.")
    lines += [f"{flag.name.capitalize()}: {flag.arithmetic}." for flag in a.flags.raised()]
    lines += [f"{flag.name.capitalize()} not tested (needs {flag.missing})." for flag in _untold(a)]
    usable = a.as_found
    if usable.usable_from_ev100 is not None:
        span = f"Ev {usable.usable_from_ev100:.1f} to {usable.usable_to_ev100:.1f}"
        lines.append(f"As it reads in this run: within from {span}.")
    if abs(a.shift.stops) > 0.05 and not job.closing.signed_by:
        lines.append(f"Best single shift: {format_signed(a.shift.stops)} stop. {a.travel.text}")
    return (*lines, *_watched(job))


def _watched(job: Job) -> tuple[str, ...]:
    """What the needle did while it was watched: the newest of each kind."""
    return tuple({one.kind: one.words for one in job.light.needle}.values())


def _untold(a: Assessment) -> list[Flag]:
    return [flag for flag in (a.flags.sticky, a.flags.imbalance) if flag.raised is None]


def _method(job: Job) -> tuple[tuple[str, str], ...]:
    setup = job.light.setup
    shifts = [run.name for run in job.light.runs if run.shift_stops]
    return present(
        ("Scale", "; ".join(shifts)),
        ("Reference", describe_chain(setup.chain)),
        ("Light", f"{setup.light_source}; film speed ISO {setup.film_speed:g}"),
        ("Colour", sentence(job)),
        ("Tolerance", describe_tolerance(setup.tolerance)),
        ("Uncertainty", "U = 2u, from the reference and from reading the needle, combined by root sum of squares."),
        ("Sign", "Error = indicated less reference, in stops. Positive: it reads high and pictures come out dark."),
        ("States", "Within: |error| + U inside the tolerance. High or low: |error| − U outside it. Else undecided."),
    )


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
