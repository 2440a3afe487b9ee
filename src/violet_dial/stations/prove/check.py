"""The commands ``prove``: what a log of firings proves; and ``exercise``: its days as a calendar."""

from argparse import Namespace
from dataclasses import asdict
from datetime import date, datetime
from pathlib import Path
from typing import Any

from violet_dial.core.errors import InvalidInput
from violet_dial.core.proof.counting import Rate, rate
from violet_dial.core.proof.log import by_setting, epochs
from violet_dial.core.proof.plan import SCHOOLS, Claim
from violet_dial.core.proof.run_in import RunInPlan, course
from violet_dial.core.proof.said import better_said, followed_said, percent, plan_said, provoked_said, rate_said
from violet_dial.core.quantities import parse_number
from violet_dial.services.files import read_given, write_file
from violet_dial.services.station import JSON, Command, Option, as_json, say_rejected
from violet_dial.stations.prove.acts import setting_said
from violet_dial.stations.prove.bench import ProofJudgement, as_firing, judge_log
from violet_dial.stations.prove.table import calendar_of, read_log

MOST_BYTES = 5_000_000


ARGUMENTS = (
    Option(
        "file",
        "a CSV of time, setting, result (clean, failed or a kind of failure), battery_v, rest_h, after; - is standard input",
        type=Path,
    ),
    Option("--claim", "fewer than this share fail (default 0.05)", "SHARE", "0.05"),
    Option("--confidence", "with this confidence (default 0.95)", "SHARE", "0.95"),
    Option("--school", "how it is proved (default sequential)", "", "sequential", choices=SCHOOLS),
    Option("--settings", "to be fired (default: those of the log)", "A,B,..", ""),
    JSON,
)


def _run(options: Namespace) -> int:
    settings = tuple(setting_said(part) for part in options.settings.split(",") if part.strip())
    claim = Claim(
        parse_number(options.claim, "--claim"), parse_number(options.confidence, "--confidence"), options.school, settings
    )
    offered = read_log(read_given(options.file, "Firings", MOST_BYTES))
    if not offered.found:
        why = f" ({offered.rejected[0].reason})" if offered.rejected else ""
        raise InvalidInput("Firings", "no rows that can be used", f"at least one firing{why}")
    judged = judge_log(tuple(as_firing(one) for one in offered.found), claim)
    rejected = [asdict(one) for one in offered.rejected]
    if options.json:
        print(as_json({**_plain(judged), "rejected": rejected}))
        return 0
    say_rejected({"rejected": rejected, "rejected_count": offered.rejected_count})
    for line in _said(judged):
        print(line)
    return 0


def _said(judged: ProofJudgement) -> tuple[str, ...]:
    lines = [plan_said(judged.plan), f"Now: {rate_said(judged.whole)}."]
    lines += [f"{one.name}: {rate_said(one)}." for one in judged.now if len(judged.now) > 1]
    lines += [better_said(one) for one in judged.better if one.before.failed]
    if judged.worse is not None:
        lines.append(f"Worse at {judged.worse.setting}; by luck {percent(judged.worse.p)}.")
    return (*lines, *(followed_said(one) for one in judged.follows))


def _plain(judged: ProofJudgement) -> dict[str, Any]:
    one, confidence = judged.plan, judged.plan.claim.confidence
    every = [rate(name, several, confidence) for name, several in by_setting(judged.log).items()]
    return {
        "settings": [_rate(each) for each in every],
        "stretches": [
            {"after": name, **_counts(rate(name, several, confidence)),
             "settings": [_rate(rate(at, own, confidence)) for at, own in by_setting(several).items()]}
            for name, several in epochs(judged.log)
        ],
        "better": [
            {"before": each.before.name, "after": each.after.name, "by_luck": each.by_luck, "chance": each.chance}
            for each in judged.better
        ],
        "worse": None if judged.worse is None else {"setting": judged.worse.setting, "p": judged.worse.p},
        "follows": [
            {"factor": each.factor, "detail": each.detail, "p": each.p, "failed_in": list(each.rate_in),
             "failed_out": list(each.rate_out), "words": followed_said(each)}
            for each in judged.follows
        ],
        "bunched_p": judged.bunched,
        "plan": {
            "verdict": one.verdict, "claim": one.claim.share, "confidence": confidence, "school": one.claim.school,
            "after": one.after, "n": one.n, "failed": one.failed, "upper": one.upper, "left": one.left,
            "provoked_left": one.provoked_left, "provoked": provoked_said(one.provoked), "days": one.days, "rolls": one.rolls,
            "by_setting": [{"setting": name, "left": count} for name, count in one.by_setting], "next": one.now or None,
            "next_provoked": one.now_provoked, "false_claim": one.false_claim, "power": one.power, "expected": one.expected,
            "words": plan_said(one),
        },
    }  # fmt: skip


def _counts(one: Rate) -> dict[str, Any]:
    return {"n": one.n, "failed": one.failed, "interval": [one.low, one.high]}


def _rate(one: Rate) -> dict[str, Any]:
    return {"setting": one.name, **_counts(one)}


EXERCISE_ARGUMENTS = (
    Option("--days", "days of exercise (default 5)", "N", "5"),
    Option("--a-day", "firings a day (default 15)", "N", "15"),
    Option("--rest", "days of rest before it is fired again (default 3)", "N", "3"),
    Option("--begins", "first day, such as 2026-11-30 (default today)", "DATE", ""),
    Option("--name", "what is exercised", "WORDS", "device"),
    Option("--ics", "the calendar to write", "OUT.ics", type=Path, required=True),
)


def _whole(text: str, field: str) -> int:
    value = parse_number(text, field)
    if value != int(value):
        raise InvalidInput(field, text, "a whole number")
    return int(value)


def _exercise(options: Namespace) -> int:
    try:
        begins = date.fromisoformat(options.begins) if options.begins else date.today()
    except ValueError as error:
        raise InvalidInput("--begins", options.begins, "a day such as 2026-11-30") from error
    wanted = RunInPlan(
        begins.toordinal(), _whole(options.days, "--days"), _whole(options.a_day, "--a-day"), _whole(options.rest, "--rest")
    )
    found = course(wanted, (), begins.toordinal())
    half = wanted.a_day // 2
    said = {
        "exercise": f"{half} firings, ten minutes of rest, {wanted.a_day - half} more; write down what failed.",
        "check": f"After its rest: {wanted.a_day} firings, the first one counts most.",
    }
    days = tuple(
        (date.fromordinal(day.on), f"{day.kind.capitalize()}: {options.name[:100]}", said[day.kind]) for day in found.days
    )
    now = datetime.now().astimezone()
    write_file(options.ics, calendar_of(days, f"exercise-{now:%Y%m%d%H%M%S}", now))
    print(f"Written: {options.ics}, {len(days)} days from {days[0][0].isoformat()} to {days[-1][0].isoformat()}.")
    return 0


COMMANDS = (
    Command("prove", "what a log of firings proves, and what to fire next", ARGUMENTS, _run),
    Command("exercise", "the days of an exercise as a calendar", EXERCISE_ARGUMENTS, _exercise),
)
