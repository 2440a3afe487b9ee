"""The sheet's content: every word and figure on it, decided here once and only painted elsewhere."""

from dataclasses import dataclass

from violet_dial.core.calibration.assess import Assessment
from violet_dial.core.calibration.flags import Flag
from violet_dial.core.calibration.readings import Tolerance
from violet_dial.core.calibration.verdict import Verdict, describe_model
from violet_dial.core.light.chain import Chain, TrustedMeter
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job, Run
from violet_dial.report.dial import Dial, DialRequest, MarkState, draw_dial, mark_state

WORDS: dict[MarkState, str] = {"inside": "within", "high": "high", "low": "low", "undecided": "undecided", "empty": "—"}


@dataclass(frozen=True)
class JudgedRun:
    """One run with its judgement, as the services give it."""

    run: Run
    assessment: Assessment
    verdict: Verdict


@dataclass(frozen=True)
class Row:
    """One row of a readings table, ready to print."""

    reference: str
    indicated: str
    error: str
    uncertainty: str
    tolerance: str
    state: MarkState
    word: str
    note: str


@dataclass(frozen=True)
class RunTable:
    """One run's readings, lights ascending, with its dial and its verdict."""

    title: str
    rows: tuple[Row, ...]
    dial: Dial
    verdict: Verdict


@dataclass(frozen=True)
class Sheet:
    """Everything on the sheet, top to bottom. ``facts`` and ``method`` are label and text."""

    number: str
    device: str
    headline_fault: str
    facts: tuple[tuple[str, str], ...]
    verdict: Verdict
    findings: tuple[str, ...]
    tables: tuple[RunTable, ...]
    method: tuple[tuple[str, str], ...]
    story: tuple[tuple[str, str], ...]
    cautions: tuple[tuple[str, str], ...]
    signed_by: str
    signed_on: str
    printed_on: str


@dataclass(frozen=True)
class SheetRequest:
    """What a sheet is made from: the job, its runs judged in order, cautions, and today's date in words."""

    job: Job
    runs: tuple[JudgedRun, ...]
    cautions: tuple[tuple[str, str], ...]
    printed_on: str


def build_sheet(request: SheetRequest) -> Sheet:
    """The sheet of a job: first run as found and last run as left, with what was done between."""
    job = request.job
    last = request.runs[-1]
    shown = request.runs if len(request.runs) == 1 else (request.runs[0], last)
    return Sheet(
        number=job.label,
        device=job.device.name or "Not described",
        headline_fault=job.intake.headline_fault,
        facts=_facts(job),
        verdict=last.verdict,
        findings=_findings(last.assessment, job),
        tables=tuple(_table(run, len(shown) == 1) for run in shown),
        method=_method(job),
        story=_story(job),
        cautions=request.cautions,
        signed_by=job.closing.signed_by,
        signed_on=job.closing.signed_on,
        printed_on=request.printed_on,
    )


def _present(*pairs: tuple[str, str]) -> tuple[tuple[str, str], ...]:
    return tuple((label, text) for label, text in pairs if text.strip())


def _facts(job: Job) -> tuple[tuple[str, str], ...]:
    cell = job.device.cell
    return _present(
        ("Kind", f"{job.device.kind}, {cell} cell" if cell != "not known" else job.device.kind),
        ("Maker", job.device.maker),
        ("Serial number", job.device.serial),
        ("Owner", job.intake.owner),
        ("Came in", job.intake.received_on),
        ("Came with", job.intake.came_with),
    )


def _story(job: Job) -> tuple[tuple[str, str], ...]:
    shifts = [f"{run.name}" for run in job.light.runs if run.shift_stops]
    return _present(
        ("Noticed", job.intake.noticed),
        ("Tried before", job.intake.tried_already),
        ("Scale", "; ".join(shifts)),
        ("Done", job.closing.done),
        ("Left and why", job.closing.left),
        ("Battery", job.closing.battery),
    )


def _findings(a: Assessment, job: Job) -> tuple[str, ...]:
    lines = []
    if a.model and a.described:
        lines.append(f"{describe_model(a.model)}.")
    lines += [f"{flag.name.capitalize()}: {flag.arithmetic}." for flag in a.flags.raised()]
    lines += [f"{flag.name.capitalize()} not tested (needs {flag.missing})." for flag in _untold(a)]
    usable = a.as_found
    if usable.usable_from_ev100 is not None:
        text = (
            f"As it reads in this run: within from Ev {usable.usable_from_ev100:.1f} to {usable.usable_to_ev100:.1f}."
        )
        lines.append(text)
    if abs(a.shift.stops) > 0.05 and not job.closing.signed_by:
        lines.append(f"Best single shift: {format_signed(a.shift.stops)} stop. {a.travel.text}")
    return tuple(lines)


def _untold(a: Assessment) -> list[Flag]:
    return [flag for flag in (a.flags.sticky, a.flags.imbalance) if flag.raised is None]


def _table(judged: JudgedRun, show_after: bool) -> RunTable:
    a = judged.assessment
    ordered = sorted(a.readings, key=lambda one: one.reading.reference_ev100)
    rows = tuple(
        Row(
            reference=f"{one.reading.reference_ev100:.2f}",
            indicated=f"{one.reading.indicated_ev100:.2f}",
            error=format_signed(one.error_stops),
            uncertainty=f"{one.expanded_uncertainty_stops:.2f}",
            tolerance=f"{one.tolerance_stops:.2f}",
            state=mark_state(one),
            word=WORDS[mark_state(one)],
            note=", ".join(part for part in (one.reading.direction, one.reading.attitude) if part),
        )
        for one in ordered
    )
    title = judged.run.name[:1].upper() + judged.run.name[1:]
    return RunTable(title, rows, draw_dial(DialRequest(a, show_after=show_after)), judged.verdict)


def _method(job: Job) -> tuple[tuple[str, str], ...]:
    setup = job.light.setup
    return _present(
        ("Reference", describe_chain(setup.chain)),
        ("Light", f"{setup.light_source}; film speed ISO {setup.film_speed:g}"),
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
