"""What was described, seen and tried in the demo jobs. All of it is invented."""

from dataclasses import replace

from violet_dial.core.receiving.gate import Gate
from violet_dial.job.act import Act
from violet_dial.job.document import Device, Intake
from violet_dial.job.receiving import TakenTrial
from violet_dial.services.doing import Doing
from violet_dial.services.trials import record_trial
from violet_dial.stations.receive.acts import FindingSeen, answer_gate, describe_device, note_screw, place_finding


def describe(on: Doing, device: Device, intake: Intake) -> None:
    """What came in and how."""
    on.do(lambda job, at: describe_device(job, device, intake, at))


def _placing(seen: FindingSeen) -> Act:
    return lambda job, at: place_finding(job, seen, at)


def _trying(trial: TakenTrial) -> Act:
    return lambda job, at: record_trial(job, trial, at)


def _gate(gate: Gate) -> Act:
    return lambda job, at: answer_gate(job, gate, at)


def looked_and_tried(on: Doing, seen: tuple[FindingSeen, ...], trials: tuple[TakenTrial, ...]) -> None:
    """Looked over, its gate answered, walked through."""
    on.each(_placing, seen)
    on.do(_gate(replace(on.job.receiving.gate, film="nothing inside", battery="out")))
    on.each(_trying, trials)


def kittiwake(on: Doing) -> None:
    """The hand meter with the slipped cord, looked over and tried."""
    photo = on.job.photos[0].sha256
    on.each(_placing, (
        FindingSeen("green crust", "back", 0.80, 0.84, "a patch", "under the base screw, creeping along the seam", photo),
        FindingSeen("wear", "front", 0.50, 0.75, "a spot", "dial forced past its stop"),
        FindingSeen("white crust", "bottom", 0.50, 0.50, "a spot", "dry, at the contact"),
    ))  # fmt: skip
    on.do(_gate(replace(on.job.receiving.gate, battery="has none")))
    on.each(_trying, (
        TakenTrial("needle under light", "Ev 6", "no battery", "works"),
        TakenTrial("needle under light", "Ev 12", "no battery", "wrong", "reads high"),
        TakenTrial("needle under a cap", "", "no battery", "works"),
        TakenTrial("dial and rings", "", "no battery", "wrong", "goes past its stop"),
    ))  # fmt: skip


def compact(on: Doing) -> None:
    """The compact: a blow on the shoe, a screw missing, lamps that are dead on cells alone."""
    on.each(_placing, (
        FindingSeen("dent", "top", 0.44, 0.40, "a spot", "a blow on the shoe"),
        FindingSeen("missing screw", "top", 0.58, 0.62, "a spot", "cross, chrome, M1.4x3"),
        FindingSeen("black copper", "bottom", 0.28, 0.50, "a patch", "lead brittle at the clip"),
        FindingSeen("sticky", "front", 0.52, 0.62, "a spot", "blades hang at 1/30"),
    ))  # fmt: skip
    on.do(_gate(replace(
        on.job.receiving.gate, film="nothing inside", battery="out", has_flash=True, capacitance_f=160e-6, measured_v=2.4
    )))  # fmt: skip
    on.each(_trying, (
        TakenTrial("battery test", "", "battery", "dead"),
        TakenTrial("needle under light", "Ev 6", "battery", "works"),
        TakenTrial("needle under light", "Ev 12", "battery", "works"),
        TakenTrial("needle under a cap", "", "battery", "works"),
        TakenTrial("lamps", "slow", "battery", "dead"),
        TakenTrial("lamps", "slow", "bench supply", "works", "4.5 V from the bench"),
        TakenTrial("release", "1/30", "no battery", "wrong", "hangs, then fires"),
        TakenTrial("release", "1/125", "no battery", "works"),
        TakenTrial("self-timer", "", "no battery", "works", "11 s"),
    ))  # fmt: skip


def screw_hunted(on: Doing) -> None:
    """Where the compact's missing screw was looked for so far."""
    looked = ("case, bag and wrapping it came in", "magnet along every seam", "under the base plate")
    screw = replace(on.job.receiving.missing[0], looked=looked)
    on.do(lambda job, at: note_screw(job, screw, at))


def just_in(on: Doing) -> None:
    """The reflex just in: a few findings, the gate still open."""
    on.each(_placing, (
        FindingSeen("green crust", "bottom", 0.28, 0.50, "all over", "cell leaked into the compartment"),
        FindingSeen("liquid", "bottom", 0.33, 0.62, "a spot", "runs towards the tripod bush"),
        FindingSeen("loose part", "front", 0.68, 0.82, "a spot", "stop-down lever wobbles"),
    ))  # fmt: skip


def corroded(on: Doing) -> None:
    """The reflex with a dead needle: crust at the battery cover."""
    on.each(_placing, (
        FindingSeen("green crust", "bottom", 0.28, 0.50, "a patch", "at the clip, going on under the plate"),
        FindingSeen("white crust", "bottom", 0.30, 0.58, "a spot", "dry"),
    ))  # fmt: skip
