"""Acts at Firings: a firing counted, a roll taken in, a repair said, what the device stands on, what is to be claimed."""

import re
from collections.abc import Callable
from dataclasses import replace

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.said import measured_said, time_said
from violet_dial.core.light.marks import parse_time
from violet_dial.core.proof.log import KINDS
from violet_dial.core.proof.plan import SCHOOLS, plan
from violet_dial.core.proof.said import share_said
from violet_dial.core.quantities import parse_number
from violet_dial.job.act import ActResult, Understood
from violet_dial.job.document import Job
from violet_dial.job.proving import Logged, NamedRepair, Proving
from violet_dial.services.repairs import repairs_of
from violet_dial.stations.prove.bench import claim_of, failed_by, hours_between, logged_of

EXPECTED = (
    "1/250 (stands there now) · clean · failed · mirror up · 1/250 clean 8 · roll 12 failed 2 at 1/250 · after cleaned "
    "contacts · "
    "battery 2.95 · rested 14 h · cold · position lens down · claim 1 in 20 at 95 % · school fixed · settings 1/60 1/250"
)
MOST, MOST_AT_ONCE = 5_000, 500
UNSAID = "failed"  # where the kind is not said
LONGEST = 60
SETTING = re.compile(r"[\w./+-]+( s)?")


def with_proving(job: Job, proving: Proving, reason: str) -> ActResult:
    """The job with another share of this station's."""
    return ActResult(replace(job, proving=proving), "Prove", reason[:300])


def setting_said(text: str) -> str:
    """A setting as it is written: speeds as their marks, other words as they are.

    Raises InvalidInput: nothing, too long, or signs that no setting has.
    """
    said = text.strip()
    if not SETTING.fullmatch(said) or len(said) > 20:
        raise InvalidInput("Setting", text, "a speed such as 1/250, or one word such as B or auto, at most 20 letters")
    if re.fullmatch(r"\d+", said) and int(said) > 1:
        said = f"1/{said}"
    if re.fullmatch(r"1/\d+|[\d.]+ ?s|1", said):
        try:
            return time_said(parse_time(said if "/" in said or "s" in said else f"{said} s")[0])
        except InvalidInput:
            return said
    return said


def understand(job: Job, text: str) -> Understood:
    """A line typed at Firings. Raises InvalidInput: not understood."""
    low = " ".join(text.strip().split())
    word, _, rest = low.partition(" ")
    for pattern, read in _LINES:
        if match := re.fullmatch(pattern, low, re.IGNORECASE):
            return read(job, match)
    if not low:
        raise InvalidInput("Firings", "nothing", EXPECTED)
    result, setting = _result(low), ""
    if result is None:
        setting = setting_said(f"{word} s" if rest[:2] in ("s ", "s") else word)
        rest = rest.removeprefix("s").strip() if rest[:2] in ("s ", "s") else rest
        if not rest:
            return Understood(f"= stands at {setting} now", lambda job, at: stand_at(job, setting))
        result = _result(rest)
    if result is None:
        raise InvalidInput("Firings", low, EXPECTED)
    failed, count = result
    where = setting or job.proving.stand.setting
    if not where:
        raise InvalidInput("Setting", "none yet", "the setting first, for instance: 1/250")
    said = f"= {count} clean at {where}" if not failed else f"= failed at {where}: {failed}"
    return Understood(said, lambda job, at: count_firings(job, at, failed, count, setting))


def _result(text: str) -> tuple[str, int] | None:
    """How it went and how often: ``clean``, ``clean 8``, ``8 clean``, ``failed``, ``failed crept open``, a kind of failure."""
    if match := re.fullmatch(r"clean(?: (\d+))?|(\d+) clean", text, re.IGNORECASE):
        count = int(match[1] or match[2] or 1)
        if not 1 <= count <= MOST_AT_ONCE:
            raise InvalidInput("Firings", count, f"1 to {MOST_AT_ONCE} at once")
        return "", count
    if text.lower() in KINDS:
        return text.lower(), 1
    if match := re.fullmatch(r"failed(?: (.+))?", text, re.IGNORECASE):
        return (match[1] or UNSAID)[:LONGEST], 1
    return None


# what stands from now on


def stand_at(job: Job, setting: str) -> ActResult:
    """The device is set so from now on."""
    stand = replace(job.proving.stand, setting=setting)
    return with_proving(job, replace(job.proving, stand=stand), f"Stands at {setting}")


def _standing(change: dict[str, object], words: str) -> Understood:
    def act(job: Job, at: str) -> ActResult:
        stand = replace(job.proving.stand, **change)  # type: ignore[arg-type]
        return with_proving(job, replace(job.proving, stand=stand), words.capitalize())

    return Understood(f"= {words}", act)


def _battery(job: Job, match: re.Match[str]) -> Understood:
    if match[1] in ("-", "none", "not known"):
        return _standing({"battery_v": None}, "volts not known")
    volts = parse_number(match[1].removesuffix("V").removesuffix("v").strip(), "Battery")
    if not 0 <= volts <= 1000:
        raise InvalidInput("Battery", match[1], "0 to 1000 V")
    return _standing({"battery_v": volts, "supply": job.proving.stand.supply or "battery"}, f"battery {volts:g} V")


def _supply(job: Job, match: re.Match[str]) -> Understood:
    said = {"bench": "bench supply", "not known": ""}.get(match[1].lower(), match[1].lower())
    return _standing({"supply": said}, f"supply: {said or 'not known'}")


def _warmth(job: Job, match: re.Match[str]) -> Understood:
    return _standing({"cold": match[0].lower() == "cold"}, match[0].lower())


def _position(job: Job, match: re.Match[str]) -> Understood:
    said = "" if match[1].lower() in ("as usual", "none") else match[1][:LONGEST]
    return _standing({"position": said}, f"position: {said or 'as usual'}")


def _lens(job: Job, match: re.Match[str]) -> Understood:
    said = match[1].lower()
    return _standing({"lens": None if said == "not known" else said == "on"}, f"lens {said}")


def _rested(job: Job, match: re.Match[str]) -> Understood:
    units = {"min": 1 / 60, "h": 1.0, "days": 24.0, "day": 24.0}
    hours = parse_number(match[1], "Rest") * units[match[2].lower()]
    if not 0 <= hours <= 100_000:
        raise InvalidInput("Rest", match[0], "0 min to some years")
    words = f"rested {match[1]} {match[2]} before the next firing"
    return Understood(f"= {words}", lambda job, at: with_proving(job, replace(job.proving, rested_h=hours), words))


# a repair, a claim


def _after(job: Job, match: re.Match[str]) -> Understood:
    words = match[1].strip()[:LONGEST]

    def act(job: Job, at: str) -> ActResult:
        return with_proving(job, replace(job.proving, mends=(*job.proving.mends, NamedRepair(words, at))), f"After: {words}")

    return Understood(f"= put right: {words}; firings from now on are counted anew", act)


def _wished(job: Job, words: str, **change: object) -> Understood:
    wish = replace(job.proving.wish, **change)  # type: ignore[arg-type]
    plan((), claim_of(wish))  # what no plan can be made for is said while it is typed

    def act(job: Job, at: str) -> ActResult:
        now = replace(job.proving.wish, **change)  # type: ignore[arg-type]
        return with_proving(job, replace(job.proving, wish=now), words.capitalize())

    return Understood(f"= {words}", act)


def _claim(job: Job, match: re.Match[str]) -> Understood:
    share = 1 / max(parse_number(match[1], "Claim"), 1e-9) if match[1] else parse_number(match[2], "Claim") / 100
    confidence = parse_number(match[3], "Confidence") / 100 if match[3] else job.proving.wish.confidence
    words = f"to be claimed: fewer than {share_said(share)} fail, with {100 * confidence:.4g} %"
    return _wished(job, words, share=share, confidence=confidence)


def _school(job: Job, match: re.Match[str]) -> Understood:
    if match[1].lower() not in SCHOOLS:
        raise InvalidInput("School", match[1], " or ".join(SCHOOLS))
    return _wished(job, f"school: {match[1].lower()}", school=match[1].lower())


def _film(job: Job, match: re.Match[str]) -> Understood:
    return _wished(job, f"{int(match[1])} frames on a film", frames=int(match[1]))


def _settings(job: Job, match: re.Match[str]) -> Understood:
    names = tuple(dict.fromkeys(setting_said(word) for word in match[1].replace(",", " ").split()))
    if len(names) > 40:
        raise InvalidInput("Settings", len(names), "at most 40")
    return _wished(job, f"to be fired at {', '.join(names)}", settings=names)


# firings


def count_firings(job: Job, at: str, failed: str = "", count: int = 1, setting: str = "") -> ActResult:
    """Firings counted by hand: the first with the rest before it, the others in a row."""
    proving = job.proving
    stand = replace(proving.stand, setting=setting) if setting else proving.stand
    if not stand.setting:
        raise InvalidInput("Setting", "none yet", "the setting first, for instance: 1/250")
    first = Logged(stand, failed, _newest(job), _rest(job, at), source="hand", at=at)
    rest = tuple(replace(first, rest_h=0.0) for _one in range(count - 1))
    said = failed or (f"{count} clean" if count > 1 else "clean")
    return _counted(job, replace(proving, stand=stand, rested_h=None), (first, *rest), f"{stand.setting}: {said}")


def count_heard(job: Job, at: str, marked_s: float, time_s: float) -> ActResult:
    """A firing heard: with its time, failed where that is more than a stop off."""
    stand = replace(job.proving.stand, setting=time_said(marked_s))
    one = Logged(stand, failed_by(marked_s, time_s), _newest(job), _rest(job, at), time_s, "heard", at)
    words = f"{stand.setting}: heard, {measured_said(time_s)}" + f", {one.failed}" * bool(one.failed)
    return _counted(job, replace(job.proving, rested_h=None), (one,), words)


def _roll(job: Job, match: re.Match[str]) -> Understood:
    """A roll with its failures spread over it: their order is not known, so no bunches are made up."""
    count, bad = int(match[1]), int(match[2])
    setting, kind = setting_said(match[3]), (match[4] or "").strip().lower() or KINDS[0]
    if not 1 <= count <= MOST_AT_ONCE or not 0 <= bad <= count:
        raise InvalidInput("Roll", f"{bad} of {count}", f"1 to {MOST_AT_ONCE} frames, not more failed than there are")
    failed = {round((place + 0.5) * count / bad - 0.5) for place in range(bad)} if bad else set()

    def act(job: Job, at: str) -> ActResult:
        stand = replace(job.proving.stand, setting=setting)
        new = tuple(
            Logged(stand, kind if place in failed else "", _newest(job), None, source="film", at=at) for place in range(count)
        )
        return _counted(job, job.proving, new, f"A roll at {setting}: {bad} of {count} failed")

    return Understood(f"= {count} frames on film at {setting}, {bad} of them: {kind}", act)


def _newest(job: Job) -> str:
    mends = repairs_of(job)
    return mends[-1].words if mends else ""


def _rest(job: Job, at: str) -> float | None:
    """Hours of rest: as said for this firing, else since the last one."""
    if job.proving.rested_h is not None:
        return job.proving.rested_h
    known = logged_of(job)
    return hours_between(known[-1].at, at) if known else None


def _counted(job: Job, proving: Proving, new: tuple[Logged, ...], words: str) -> ActResult:
    if len(proving.log) + len(new) > MOST:
        raise InvalidInput("Firings", len(proving.log) + len(new), f"at most {MOST} of one device")
    return with_proving(job, replace(proving, log=(*proving.log, *new)), words)


def drop_last(job: Job, at: str, setting: str) -> ActResult:
    """The last firing counted here at a setting, left out."""
    places = [place for place, one in enumerate(job.proving.log) if one.stand.setting == setting]
    if not places:
        raise InvalidInput("Firing", setting, "a setting with firings counted here; those of Expose are left out there")
    log = job.proving.log[: places[-1]] + job.proving.log[places[-1] + 1 :]
    return with_proving(job, replace(job.proving, log=log), f"Left out: the last firing at {setting}")


def take_log(job: Job, at: str, new: tuple[Logged, ...], name: str) -> ActResult:
    """Firings of a table; repairs it names stand before their first firing."""
    known = {repair.words for repair in repairs_of(job)}
    named = dict.fromkeys(one.after for one in new if one.after and one.after not in known)
    proving = replace(job.proving, mends=(*job.proving.mends, *(NamedRepair(one, at) for one in named)))
    return _counted(job, proving, tuple(replace(one, at=one.at or at) for one in new), f"{len(new)} firings from {name}")


Read = Callable[[Job, re.Match[str]], Understood]
_LINES: tuple[tuple[str, Read], ...] = (
    (r"after (.+)", _after),
    (r"roll (\d+) failed (\d+) at (\S+)(?: (.+))?", _roll),
    (r"battery (.+)", _battery),
    (r"supply (battery|bench|bench supply|not known)", _supply),
    (r"cold|warm", _warmth),
    (r"position (.+)", _position),
    (r"lens (on|off|not known)", _lens),
    (r"rested (\S+) ?(min|h|days?)", _rested),
    (r"claim (?:1 in (\S+)|(\S+) ?%)(?: (?:at|with) (\S+) ?%)?", _claim),
    (r"school (.+)", _school),
    (r"film (\d+)(?: frames)?", _film),
    (r"settings (.+)", _settings),
)
