"""Judgements at Prove opened to their arithmetic, a function for each page."""

import math

from violet_dial.core.proof.contacts import ERRATIC, GAIN, GOOD_OHM
from violet_dial.core.proof.counting import Rate, clean_run
from violet_dial.core.proof.follows import every
from violet_dial.core.proof.said import followed_said, percent, share_said
from violet_dial.core.proof.sequential import fixed_plan, sequence
from violet_dial.job.document import Job
from violet_dial.services.station import Section
from violet_dial.stations.prove.bench import judged_of
from violet_dial.stations.prove.firings_state import said_rows
from violet_dial.stations.prove.rounds_state import contacts_shown, series_of, soak_of
from violet_dial.stations.prove.seals_state import suspects_of

Opened = tuple[str, tuple[Section, ...]]


def firings_opened(job: Job) -> Opened:
    """Counts to intervals, before against after, the plan's two errors."""
    judged = judged_of(job)
    title = "What the firings prove"
    if not judged.log:
        return title, (("Nothing yet", ("No firing was counted.",)),)
    stretches = tuple(
        f"after {stretch.name}\t{_interval(stretch)}" if stretch.name else f"as it came\t{_interval(stretch)}"
        for stretch in judged.stretches
    )
    settings = tuple(f"{one.name}\t{_interval(one)}" for one in judged.now)
    tried = tuple(f"{one.factor}\t{followed_said(one)} (corrected)" for one in every(judged.log))
    said = tuple("\t".join(row) for row in said_rows(job))
    return title, (
        ("Stretches between repairs", stretches),
        ("Settings since the newest repair", settings or ("not fired since",)),
        ("What failures were held against", tried or ("no failure, or nothing that differed between firings",)),
        ("Said", said),
        ("The plan", plan_opened(job)),
    )


def _interval(one: Rate) -> str:
    return (
        f"{one.failed} of {one.n}; Clopper-Pearson: B({one.failed}, {one.n - one.failed + 1}) to "
        f"B({one.failed + 1}, {one.n - one.failed}) = {percent(one.low)} to {percent(one.high)}"
    )


def plan_opened(job: Job) -> tuple[str, ...]:
    """How many firings the claim takes, by the school that was chosen."""
    one = judged_of(job).plan
    share, confidence = one.claim.share, one.claim.confidence
    fixed = clean_run(share, confidence)
    said = [
        f"Claim: fewer than {share_said(share)} fail, with {100 * confidence:.4g} %.",
        f"Fixed number: (1 − {share:g})^n ≤ {1 - confidence:.3g} gives n = ln {1 - confidence:.3g} / ln {1 - share:g} = "
        f"{math.log(1 - confidence) / math.log(1 - share):.1f}: {fixed} clean in a row.",
    ]
    if one.claim.school == "sequential":
        test, both = sequence(share, confidence), fixed_plan(share, confidence)
        said += [
            f"Sequential (Wald's boundaries, errors summed over every course): proved at "
            f"{', '.join(f'{n} with {f}' for f, n in enumerate(test.prove_at[:4]))} failures.",
            f"A device just as bad as the claim is proved wrongly in {percent(test.false_claim)}; one that fails a tenth "
            "as often "
            f"is proved in {percent(test.power)}, after {test.expected:.0f} firings on average. A fixed number that does "
            "both takes "
            f"{both.n} with at most {both.allowed} failures.",
        ]
    if one.provoked.failed:
        said.append(
            f"As it used to fail: {one.provoked.failed} of {one.provoked.n} before. So many clean ones that the old fault "
            "would have "
            f"stayed quiet in fewer than {percent(1 - confidence)}: {one.provoked_left} of them are left."
        )
    return tuple(said)


def contacts_opened(job: Job) -> Opened:
    """The rules, every position round by round."""
    shown = contacts_shown(job)
    rules = (
        f"Good: up to {GOOD_OHM:g} Ω. Erratic: the most of several readings above {ERRATIC:g} times the least.",
        f"A round gains where a bad position falls to {GAIN:.0%} of its ohms or less. Common practice, no source.",
    )
    return "Contacts, round by round", (
        ("Rules", rules), ("Positions", tuple("\t".join((row[0], " → ".join(row[1:]))) for row in shown.rows) or ("none read",)),
    )  # fmt: skip


def exercise_opened(job: Job) -> Opened:
    """How the days were reckoned."""
    return "How the days are reckoned", (
        ("Rules", (
            "Missed days move the rest on; nothing is caught up by firing twice as much.",
            "It may end early after three days, the last two clean with 20 firings or more, where it failed before.",
            "The check after the rest is a claim of its own: n clean ones leave an upper limit of 1 − 0.05^(1/n) "
            "(Clopper-Pearson).",
        )),
    )  # fmt: skip


def seals_opened(job: Job) -> Opened:
    """Every way in with its chance, what speaks for it and against."""
    found = suspects_of(job)
    rows = tuple(
        f"{one.cause}  {percent(one.chance)}\tfor: {'; '.join(one.speaks_for) or 'nothing'}. Against: "
        f"{'; '.join(one.speaks_against) or 'nothing'}."
        for one in found
    )
    how = (
        "The lens turns the picture by half a turn: the top of the picture is the bottom of the gate.",
        "Bayes: chance beforehand × chance of the shape × of the side × of the border × of fog with what was taped. The "
        "look of the "
        "second frame and each after counts for a quarter; each taping counts whole. Tables: common practice, no source.",
    )
    return "Where light gets in", (("How", how), ("Ways in", rows or ("No fogged frame yet.",)))


def soak_opened(job: Job) -> Opened:
    """The slope and the step."""
    found = soak_of(job)
    title = "Readings over time"
    if found is None:
        return title, (("Nothing yet", ("Four readings are needed.",)),)
    times, _values, by_day = series_of(job.proving.soak)
    unit, per = job.proving.soak.unit, "day" if by_day else "hour"
    return title, ((
        "Least squares", (
            f"{len(times)} readings over {times[-1]:.3g} {per}s, mean {found.mean:.6g} {unit}",
            f"slope {found.drift:.4g} {unit} a {per}, 95 % from {found.drift_low:.4g} to {found.drift_high:.4g}",
            f"scatter about the line {found.scatter:.4g} {unit}",
            "a step is told by the largest t over all places, its chance times the number of places under 1 %",
        ),
    ),)  # fmt: skip
