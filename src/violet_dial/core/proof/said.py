"""Firings, claims and plans in words."""

from violet_dial.core.proof.counting import Better, Rate
from violet_dial.core.proof.follows import Followed
from violet_dial.core.proof.log import MORNING_H
from violet_dial.core.proof.plan import ProofPlan, Provoked

LOW = 0.001


def share_said(share: float) -> str:
    """A share of failures as it is spoken.

    ``share``: float, 0 to 1.

    Example
    -------
    >>> share_said(0.05), share_said(0.013), share_said(0.4)
    ('1 in 20', '1 in 77', '40 %')
    """
    return f"1 in {1 / share:.0f}" if 0 < share <= 0.25 else f"{100 * share:.0f} %"


def percent(share: float) -> str:
    """A chance in per cent, small ones not as nothing and large ones not as all.

    ``share``: float, 0 to 1.

    Example
    -------
    >>> percent(0.0), percent(0.0004), percent(0.0316), percent(0.42), percent(0.9996)
    ('0 %', 'under 0.1 %', '3.2 %', '42 %', 'over 99.9 %')
    """
    if 1 - LOW < share < 1:
        return "over 99.9 %"
    if 0 < share < LOW:
        return "under 0.1 %"
    return f"{100 * share:.1f} %" if 0 < share < 0.1 or 0.99 < share < 1 else f"{100 * share:.0f} %"


def rate_said(one: Rate) -> str:
    """Failures, firings and the interval."""
    small = ", a small number" if one.is_small else ""
    return f"{one.failed} of {one.n} failed{small}: {percent(one.low)} to {percent(one.high)}"


def better_said(one: Better) -> str:
    """Before against after."""
    return (
        f"Before {one.before.failed} of {one.before.n}, now {one.after.failed} of {one.after.n}. Had nothing changed, so few "
        f"would come by luck in {percent(one.by_luck)}; it fails less often now with {percent(one.chance)}."
    )


def followed_said(one: Followed) -> str:
    """What failures follow."""
    where = f"in the position {one.detail}" if one.factor == "position" else one.detail
    (bad, n), (bad_else, n_else) = one.rate_in, one.rate_out
    return f"Fails {where}: {bad} of {n}, else {bad_else} of {n_else}; by luck {percent(one.p)}."


def provoked_said(one: Provoked) -> str:
    """How a fault used to show itself, as it is asked for."""
    words = []
    if one.setting:
        words.append(f"at {one.setting}")
    if one.rest_h >= MORNING_H:
        words.append("first of the morning")
    elif one.rest_h:
        words.append(f"after a rest of {one.rest_h:.2g} h")
    if one.battery_v:
        words.append(f"on {one.battery_v:.2f} V or less")
    if one.cold:
        words.append("in the cold")
    if one.position:
        words.append(f"in the position {one.position}")
    return ", ".join(words)


def plan_said(one: ProofPlan) -> str:
    """What is left, or that it is proved or not to be proved."""
    claim = f"fewer than {share_said(one.claim.share)} fail"
    if one.verdict == "proved":
        return f"Proved: {claim}, with {100 * one.claim.confidence:.4g} % confidence, after {one.n} firings."
    if one.verdict == "failed" and not one.after:
        return f"{one.failed} of {one.n} failed as it came. Put it right (after ...), then it is counted anew."
    if one.verdict == "failed":
        return f"Not proved: {one.failed} of {one.n} failed since the repair. Find out why before firing on."
    how = provoked_said(one.provoked) if one.provoked_left else ""
    some = "all" if one.provoked_left == one.left else str(one.provoked_left)
    clean = "clean firing" if one.left == 1 else "clean firings"
    more = f", {some} of them {how}" if how else ""
    over = f", over {one.days} days" if one.days > 1 else ""
    return f"{one.left} more {clean}{more}{over}."
