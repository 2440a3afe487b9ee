"""The evidence opened: the suspects' sums, unit beside sister, what was typed, what instruments gave, and why the next test
is the next."""

from violet_dial.core.diagnosis.evidence import TEST_UNITS, evidence_words
from violet_dial.core.diagnosis.explain import Difference, evidence_said, suspect_words
from violet_dial.core.errors import VioletDialError
from violet_dial.core.mapping.doubts import Networks
from violet_dial.core.mapping.taken import TouchReading, reading_of, touch_words
from violet_dial.core.quantities import format_engineering
from violet_dial.job.document import Job
from violet_dial.services.evidence import capture_lines
from violet_dial.services.next import NextAct
from violet_dial.services.station import Section
from violet_dial.stations.trace.work import TraceResult

MOST_SUMS = 3
MOST_TOUCHES = 40


def opened(job: Job, act: NextAct | None, result: TraceResult | None) -> tuple[Section, ...]:
    """The next test with its sum, the leading suspects with theirs, then every piece of evidence since the last repair."""
    first = (("Next", (act.reason, act.arithmetic)),) if act is not None and act.arithmetic else ()
    return (*first, *explain_suspects(result), *explain_touches(job), *explain_evidence(job))


def explain_suspects(result: TraceResult | None) -> tuple[Section, ...]:
    """Each leading suspect's chance, reading by reading; unit beside sister where there are readings of one."""
    if result is None:
        return ()
    circuit = result.case.circuit
    pairs = zip(result.diagnosis.suspects, result.sums, strict=False)
    sums = [(f"{suspect_words(circuit, one)}: {one.probability:.0%}", lines) for one, lines in list(pairs)[:MOST_SUMS]]
    if result.differences:
        sums.append(("Beside the sister unit", tuple(_beside(result, difference) for difference in result.differences)))
    return tuple(sums)


def _beside(result: TraceResult, one: Difference) -> str:
    verdict = "more than two healthy units differ" if one.is_apart else "as two healthy units may differ"
    here = evidence_said(result.case.circuit, one.here)
    if one.here.test in ("ohm", "capacitance"):
        apart = f"{10**one.difference:.3g} times hers, two healthy ones within {10 ** (2 * one.sigma):.3g} times"
    elif one.here.test == "seen":
        apart = f"{one.difference:+.0%} of hers, two healthy ones ±{2 * one.sigma:.0%}"
    else:
        unit = TEST_UNITS.get(one.here.test, "")
        apart = (
            f"{format_engineering(one.difference, 3)}{unit} from hers, "
            f"two healthy ones ±{format_engineering(2 * one.sigma, 3)}{unit}"
        )
    return f"{here}: {apart}: {verdict}".replace("-", "−")


def explain_touches(job: Job) -> tuple[Section, ...]:
    """The touches of the map, newest first: what was read beside what the map expects there, and what that says."""
    board = job.tracing.board
    if not board.touches:
        return ()
    try:
        networks = Networks(board)
        found = [reading_of(board, touch, networks) for touch in board.touches[: -MOST_TOUCHES - 1 : -1]]
    except VioletDialError as error:
        return (("Touches of the map", (str(error),)),)
    return (("Touches of the map", tuple(_touch_line(one) for one in found)),)


def _touch_line(one: TouchReading) -> str:
    touch, expected = one.touch, one.expected
    read = touch_words(touch)
    should = "open" if expected.is_open else f"{format_engineering(expected.ohm, 3)}Ω ± {format_engineering(expected.u_ohm, 2)}Ω"
    return f"{touch.a} to {touch.b}: {read}\tthe map has {should}; {one.words}"


def explain_evidence(job: Job) -> tuple[Section, ...]:
    """Every piece of evidence since the last repair, newest first, with what an instrument gave for it."""
    sections = []
    for place, taken in reversed(tuple(enumerate(job.tracing.now, start=1))):
        behind = capture_lines(taken.capture) if taken.capture else (f"typed: {taken.typed}" if taken.typed else "typed",)
        sections.append((f"{place}: {evidence_words(taken.evidence)}", (f"taken {taken.at}", *behind)))
    return tuple(sections) or (("Evidence", ("None was taken yet.",)),)
