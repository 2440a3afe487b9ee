"""Strip-downs, findings and walks of the demo jobs, typed as at the bench. All of it is invented."""

from collections.abc import Callable
from dataclasses import replace

from violet_dial.core.opening.steps import Step
from violet_dial.job.document import Job, MissingScrew, ShorterWay, TakenTrial
from violet_dial.services import opening, receiving
from violet_dial.services.acts import Done
from violet_dial.services.receiving import Seen
from violet_dial.services.workshop import Workshop

KITTIWAKE = (
    "screw x4 back plate M1.7x4 cross nickel rh -> A1",
    "back plate -> A2; hides cell contacts; note felt strip glued along the top edge",
    "knob film-speed dial lh -> A3; preset ISO 400 and bulb; marks top tooth in notch 1, bottom tooth in notch 5",
    "spring detent -> A3; under film-speed dial; no fingers",
    "ball detent x2 -> A3; under film-speed dial",
    "screw x2 drum M1.4x2.5 slotted brass -> A4; under back plate",
    "cord drum -> A4; marks front tail to small pulley, back tail to large pulley; under back plate",
    "wire cell lead -> A5; wire red cell ring to movement +; under back plate; no bath",
    "shim x2 cell ring -> A5; under back plate",
)
COMPACT = (
    "screw x3 top cover M1.4x3 cross chrome rh -> A1; under rewind knob + counter dial",
    "knob rewind knob -> A2; note hold the fork from inside",
    "knob counter dial lh -> A3; marks dot to index; hides counter spring",
    "spring counter -> A3; under counter dial; no fingers",
    "washer x2 advance lever -> A4; under counter dial",
    "lever advance lever -> A4; back outside the release post; marks notch to peg",
    "top cover -> B1; hides meter cell; test needle and lamps",
    "screw x2 meter cell holder M1.2x2 JIS black -> B2; under top cover",
    "wire meter cell; wire blue cell to pin 3; under top cover; no bath",
    "assembly meter cell holder -> B2; under top cover; no fingers",
    "screw x4 front frame M1.7x5 cross nickel rh -> B3",
    "covering front frame left side -> B4; note soft glue, peel from the lens side",
    "shim x8 lens mount -> B5; under front frame; note eight counted twice",
    "assembly front frame -> B4; back turn into the slot before the screws",
)
SPARE = (*KITTIWAKE[:4], *KITTIWAKE[5:7])


Act = Callable[[Job, str], Done]


def _taking(line: str) -> Act:
    return lambda job, at: opening.take_step(job, line, at)


def _placing(seen: Seen) -> Act:
    return lambda job, at: receiving.place_finding(job, seen, at)


def _trying(trial: TakenTrial) -> Act:
    return lambda job, at: receiving.record_trial(job, trial, at)


def _do(workshop: Workshop, job_id: str, lines: tuple[str, ...]) -> None:
    for line in lines:
        workshop.perform(job_id, _taking(line))


def _end(workshop: Workshop, job_id: str, ending: opening.Ending) -> None:
    workshop.perform(job_id, lambda job, at: opening.end_step(job, ending, at))


def _see(workshop: Workshop, job_id: str, *found: Seen) -> None:
    for seen in found:
        workshop.perform(job_id, _placing(seen))


def _try(workshop: Workshop, job_id: str, *trials: TakenTrial) -> None:
    for trial in trials:
        workshop.perform(job_id, _trying(trial))


def open_kittiwake(workshop: Workshop, job_id: str) -> None:
    """The hand meter with the slipped cord: looked over, opened to its drum."""
    photo = workshop.view(job_id).job.photos[0].sha256
    _see(
        workshop, job_id,
        Seen("green crust", "back", 0.80, 0.84, "a patch", "under the base screw, creeping along the seam", photo),
        Seen("wear", "front", 0.50, 0.75, "a spot", "dial forced past its stop"),
        Seen("white crust", "bottom", 0.50, 0.50, "a spot", "dry, at the contact"),
    )  # fmt: skip
    workshop.perform(
        job_id, lambda job, at: receiving.answer_gate(job, replace(job.receiving.gate, battery="has none"), at)
    )
    _try(
        workshop, job_id,
        TakenTrial("needle under light", "Ev 6", "no battery", "works"),
        TakenTrial("needle under light", "Ev 12", "no battery", "wrong", "reads high"),
        TakenTrial("needle under a cap", "", "no battery", "works"),
        TakenTrial("dial and rings", "", "no battery", "wrong", "goes past its stop"),
    )  # fmt: skip


def open_spare_kittiwake(workshop: Workshop, job_id: str) -> None:
    """An earlier one of the same model: opened, closed again, and a shorter way noted."""
    _do(workshop, job_id, SPARE)
    for item in opening.back_of(workshop.view(job_id).job):
        if item.kind == "refit":
            step = workshop.view(job_id).job.opening.steps[item.place]
            _end(workshop, job_id, opening.Ending(step.step_id))
    way = ShorterWay("drum cord", ("back plate",), 5.0, "the dial can stay on")
    workshop.perform(job_id, lambda job, at: opening.note_shorter_way(job, way, at))


def open_compact(workshop: Workshop, job_id: str) -> None:
    """The compact: a long strip-down, half way back, one shim short and one screw found at last."""
    _see(
        workshop, job_id,
        Seen("dent", "top", 0.44, 0.40, "a spot", "a blow on the shoe"),
        Seen("missing screw", "top", 0.58, 0.62, "a spot", "cross, chrome, M1.4x3"),
        Seen("black copper", "bottom", 0.28, 0.50, "a patch", "lead brittle at the clip"),
        Seen("sticky", "front", 0.52, 0.62, "a spot", "blades hang at 1/30"),
    )  # fmt: skip
    workshop.perform(job_id, _gate)
    _try(
        workshop, job_id,
        TakenTrial("battery test", "", "battery", "dead"),
        TakenTrial("needle under light", "Ev 6", "battery", "works"),
        TakenTrial("needle under light", "Ev 12", "battery", "works"),
        TakenTrial("needle under a cap", "", "battery", "works"),
        TakenTrial("lamps", "slow", "battery", "dead"),
        TakenTrial("lamps", "slow", "bench supply", "works", "4.5 V from the bench"),
        TakenTrial("release", "1/30", "no battery", "wrong", "hangs, then fires"),
        TakenTrial("release", "1/125", "no battery", "works"),
        TakenTrial("self-timer", "", "no battery", "works", "11 s"),
    )  # fmt: skip
    _do(workshop, job_id, COMPACT)
    workshop.perform(job_id, _looked)
    steps = {step.name: step for step in workshop.view(job_id).job.opening.steps}
    _end(workshop, job_id, opening.Ending(_id(steps, "8 shims of lens mount"), "refitted", 7))
    _end(workshop, job_id, opening.Ending(_id(steps, "front frame assembly")))
    _end(workshop, job_id, opening.Ending(_id(steps, "4 screws of front frame"), "refitted", 3))
    _end(
        workshop,
        job_id,
        opening.Ending(_id(steps, "4 screws of front frame"), "replaced", 1, "one from the spares box, head chewed"),
    )
    _end(workshop, job_id, opening.Ending(_id(steps, "meter cell holder assembly")))


def _id(steps: dict[str, Step], name: str) -> str:
    return steps[name].step_id


def _gate(job: Job, at: str) -> Done:
    gate = replace(
        job.receiving.gate, film="nothing inside", battery="out", has_flash=True, capacitance_f=160e-6, measured_v=2.4
    )
    return receiving.answer_gate(job, gate, at)


def _looked(job: Job, at: str) -> Done:
    screw: MissingScrew = job.receiving.missing[0]
    looked = ("case, bag and wrapping it came in", "magnet along every seam", "under the base plate")
    return receiving.note_screw(job, replace(screw, looked=looked), at)


def receive_reflex(workshop: Workshop, job_id: str) -> None:
    """The reflex just in: a few findings, the gate still open."""
    _see(
        workshop, job_id,
        Seen("green crust", "bottom", 0.28, 0.50, "all over", "cell leaked into the compartment"),
        Seen("liquid", "bottom", 0.33, 0.62, "a spot", "runs towards the tripod bush"),
        Seen("loose part", "front", 0.68, 0.82, "a spot", "stop-down lever wobbles"),
    )  # fmt: skip
