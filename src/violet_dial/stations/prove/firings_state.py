"""What the page Firings shows: a lane for each setting with every firing on it, what is proved, what is left."""

from dataclasses import dataclass

from violet_dial.core.proof.counting import Rate
from violet_dial.core.proof.log import KINDS, failures
from violet_dial.core.proof.plan import ProofPlan
from violet_dial.core.proof.said import better_said, followed_said, percent, plan_said, provoked_said, rate_said, share_said
from violet_dial.job.document import Job
from violet_dial.job.proving import Stand
from violet_dial.report.dial import MarkState
from violet_dial.services.job_shutter import has_shutter, speeds_of
from violet_dial.services.repairs import repairs_of
from violet_dial.stations.prove.bench import ProofJudgement, judged_of, logged_of

DIGITS = {kind: f"{place}" for place, kind in enumerate(KINDS, start=1)}  # the key of a kind, beside its failures
OTHER = "F"
BUNCHED = 0.05


@dataclass(frozen=True)
class SettingRow:
    """One setting: places of its clean firings along the log, its failures with the key of their kind, what is said at its end,
    how many are left, its mark."""

    setting: str
    clean: tuple[int, ...]
    failed: tuple[tuple[int, str], ...]
    said: str
    left: int
    state: MarkState
    is_now: bool
    is_next: bool
    sentence: str


@dataclass(frozen=True)
class FiringsShown:
    """All the page shows. ``stretches`` are the places where a repair stands, with its name; ``count`` firings along
    the lanes."""

    headline: str
    reason: str
    stands: str
    lanes: tuple[SettingRow, ...]
    stretches: tuple[tuple[int, str], ...]
    count: int
    kinds: tuple[tuple[str, str], ...]  # digit, words
    asks: str


def firings_shown(job: Job) -> FiringsShown:
    """The page as the job stands."""
    judged = judged_of(job)
    log = judged.log
    stretches, last = [], ""
    for place, one in enumerate(log):
        if one.after != last:
            stretches.append((place, one.after))
            last = one.after
    if judged.after != last:
        stretches.append((len(log), judged.after))
    return FiringsShown(
        headline(job, judged), _reason(job, judged), stands_said(job), _lanes(job, judged), tuple(stretches), len(log),
        tuple((digit, kind) for kind, digit in DIGITS.items()), next_said(judged.plan),
    )  # fmt: skip


def headline(job: Job, judged: ProofJudgement) -> str:
    """What is proved or left."""
    if not judged.log:
        return "Does it fail, at which setting, and how often?"
    return plan_said(judged.plan)


def _reason(job: Job, judged: ProofJudgement) -> str:
    if not judged.log:
        wish = judged.plan.claim
        return (
            f"Type a setting and fire: Enter counts a clean one, F a failure. Nothing being known, {judged.plan.left} clean ones "
            f"would claim it at {100 * wish.confidence:.4g} %."
        )
    if judged.plan.verdict == "proved":
        share = percent(judged.plan.upper)
        sure = f"{100 * judged.plan.claim.confidence:.4g} %"
        return f"No more than {share} fail, with {sure}; {rate_said(judged.whole)} since."
    wish = judged.plan.claim
    claim = (
        f" Then fewer than {share_said(wish.share)} fail, with {100 * wish.confidence:.4g} %."
        if judged.plan.verdict == "going"
        else ""
    )
    return f"{next_said(judged.plan)}{claim}".strip()


def next_said(one: ProofPlan) -> str:
    """What to fire now, and how it should stand."""
    if one.verdict != "going" or not one.left:
        return ""
    how = provoked_said(one.provoked) if one.now_provoked else ""
    at = f" at {one.now}" if one.now and f"at {one.now}" not in how else ""
    return f"Next: fire it{at}{', ' + how if how else ''}."


def stands_said(job: Job) -> str:
    """What the device stands on."""
    proving = job.proving
    said = [_stand_said(proving.stand)]
    if proving.rested_h is not None:
        said.append(f"rested {hours_said(proving.rested_h)}")
    mends = repairs_of(job)
    said.append(f"after {mends[-1].words}" if mends else "as it came")
    return "Stands: " + " · ".join(one for one in said if one)


def _stand_said(one: Stand) -> str:
    words = [one.setting or "no setting yet"]
    if one.supply:
        words.append(one.supply)
    if one.battery_v is not None:
        words.append(f"{one.battery_v:g} V")
    if one.cold:
        words.append("cold")
    if one.position:
        words.append(one.position)
    if one.lens is not None:
        words.append("lens on" if one.lens else "without the lens")
    return " · ".join(words)


def hours_said(hours: float) -> str:
    """Hours of rest, spoken."""
    if hours < 1:
        return f"{60 * hours:.0f} min"
    return f"{hours:.0f} h" if hours < 72 else f"{hours / 24:.0f} days"


def settings_of(job: Job) -> tuple[str, ...]:
    """Lanes in order: slow speeds of the dial first, then what else was fired or wished."""
    from violet_dial.core.exposure.said import time_said

    proving = job.proving
    used = {one.stand.setting for one in logged_of(job)} | set(proving.wish.settings)
    used |= {proving.stand.setting} if proving.stand.setting else set()
    dial = [time_said(speed) for speed in speeds_of(job)] if has_shutter(job) else []
    first = [name for name in dial if name in used]
    return (*first, *sorted(used - set(first), key=rank_of))


def rank_of(setting: str) -> tuple[float, str]:
    """Speeds from slow to fast, words behind."""
    if setting.startswith("1/") and setting[2:].isdigit():
        return (float(setting[2:]), setting)
    head = setting.removesuffix(" s")
    return (-float(head), setting) if head.replace(".", "", 1).isdigit() and head else (1e9, setting)


def _lanes(job: Job, judged: ProofJudgement) -> tuple[SettingRow, ...]:
    clean: dict[str, list[int]] = {}
    failed: dict[str, list[tuple[int, str]]] = {}
    for place, one in enumerate(judged.log):
        if one.failed:
            failed.setdefault(one.setting, []).append((place, DIGITS.get(one.failed, OTHER)))
        else:
            clean.setdefault(one.setting, []).append(place)
    rates = {one.name: one for one in judged.now}
    left = dict(judged.plan.by_setting)
    found = []
    for name in settings_of(job):
        now = rates.get(name)
        more = left.get(name, 0)
        said = _lane_said(now, more)
        worst = judged.worse is not None and judged.worse.setting == name
        found.append(
            SettingRow(
                name, tuple(clean.get(name, ())), tuple(failed.get(name, ())), said, more, _mark(now, more, judged.plan),
                name == job.proving.stand.setting, name == judged.plan.now and judged.plan.verdict == "going",
                f"{name}: {said}{', used to fail more than the others' if worst else ''}",
            )
        )  # fmt: skip
    return tuple(found)


def _lane_said(now: Rate | None, left: int) -> str:
    if now is None or not now.n:
        return f"not fired since, {left} to go" if left else "not fired since"
    said = f"{now.failed} of {now.n} · {100 * now.low:.0f} to {100 * now.high:.0f} %"
    return f"{said} · {left} to go" if left else said


def _mark(now: Rate | None, left: int, plan: ProofPlan) -> MarkState:
    if now is None or not now.n:
        return "empty"
    if now.failed:
        return "high"
    return "inside" if plan.verdict == "proved" else "undecided"


def said_rows(job: Job) -> tuple[tuple[str, str], ...]:
    """What the log says, row by row: each setting and all of them, before and after, what it follows, bunches."""
    judged = judged_of(job)
    rows: list[tuple[str, str]] = []
    if judged.whole.n:
        rows.append(("Now, altogether", rate_said(judged.whole)))
    rows += [(f"After {one.after.name}", better_said(one)) for one in judged.better if one.before.failed]
    told = f" ({judged.told})" if judged.told else " (as it came)"
    if judged.worse is not None:
        one = judged.worse
        rows.append((
            f"Worse at {one.setting}",
            f"{one.rate.failed} of {one.rate.n}, the others {one.others.failed} of {one.others.n}{told}; by luck "
            f"{percent(one.p)}, corrected for so many settings.",
        ))  # fmt: skip
    rows += [("Follows", followed_said(one)) for one in judged.follows]
    if judged.log and failures(judged.log) and not judged.follows:
        rows.append(("Follows", "nothing that was written down, beyond luck"))
    if judged.bunched < BUNCHED:
        rows.append(("In bunches", f"failures stand together; by luck {percent(judged.bunched)}"))
    return tuple(rows)


def kinds_said(job: Job) -> str:
    """How often each kind of failure came."""
    counts: dict[str, int] = {}
    for one in judged_of(job).log:
        if one.failed:
            counts[one.failed] = counts.get(one.failed, 0) + 1
    return " · ".join(f"{kind} {count}" for kind, count in sorted(counts.items(), key=lambda one: -one[1]))
