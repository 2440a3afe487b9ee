"""Strip-downs of the demo jobs, typed as at the bench. All of it is invented."""

from violet_dial.job.act import Act
from violet_dial.job.opening import ShorterWay
from violet_dial.services.doing import Doing
from violet_dial.services.shorter_way import note_shorter_way
from violet_dial.stations.open.acts import Ending, back_of, end_step, take_step

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
REFLEX = ("screw x3 base plate M1.7x4 cross black rh -> A1", "base plate -> A2")


def _taking(line: str) -> Act:
    return lambda job, at: take_step(job, line, at)


def _ending(ending: Ending) -> Act:
    return lambda job, at: end_step(job, ending, at)


def spare_kittiwake(on: Doing) -> None:
    """An earlier one of the same model: opened, closed again, and a shorter way noted."""
    on.each(_taking, SPARE)
    steps = on.job.opening.steps
    on.each(_ending, [Ending(steps[item.place].step_id) for item in back_of(on.job) if item.kind == "refit"])
    way = ShorterWay("drum cord", ("back plate",), 5.0, "the dial can stay on")
    on.do(lambda job, at: note_shorter_way(job, way, at))


def compact(on: Doing) -> None:
    """The compact: a long strip-down."""
    on.each(_taking, COMPACT)


def compact_half_back(on: Doing) -> None:
    """The compact half way back, one shim short and one screw replaced."""
    ids = {step.name: step.step_id for step in on.job.opening.steps}
    on.each(_ending, (
        Ending(ids["8 shims of lens mount"], "refitted", 7),
        Ending(ids["front frame assembly"]),
        Ending(ids["4 screws of front frame"], "refitted", 3),
        Ending(ids["4 screws of front frame"], "replaced", 1, "one from the spares box, head chewed"),
        Ending(ids["meter cell holder assembly"]),
    ))  # fmt: skip


def reflex(on: Doing) -> None:
    """The cover off the reflex, as far as tracing needs it."""
    on.each(_taking, REFLEX)
