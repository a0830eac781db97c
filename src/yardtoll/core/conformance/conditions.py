"""What a claim's condition asks of a run: a window, a load, a time; and whether a finding fits."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.formatting import format_span

LOAD_SLACK = 0.03
"""A load within this share of the one asked for is that load (common practice, no source)."""
HOLD_SLACK = 0.02
"""Rated power counts as held within this share (common practice, no source)."""
SOC_SLACK = 1.0
CONTINUOUS = "continuous_w"
SURGE_W, SURGE_S = "surge_w", "surge_s"
HELD = (CONTINUOUS,)
"""Kinds that need a load of the claimed watts, held for a time."""
DEFAULT_HOLD_S = 900.0
_LOAD = re.compile(r"\b(?:at\s+)?(\d+(?:\.\d+)?)\s*(k?)W\b")
_TIME = re.compile(r"\b(?:for\s+)?(\d+(?:\.\d+)?)\s*(h|hours?|min|minutes?|s|sec|seconds?)\b")
_WINDOW = re.compile(r"\d{1,3}\s*(?:%\s*)?(?:–|-|→|to)\s*\d{1,3}\s*%")
_UNIT_S = {"h": 3600.0, "m": 60.0, "s": 1.0}


@dataclass(frozen=True, kw_only=True)
class Condition:
    """What a claim's condition asks for; None where it does not.

    Attributes:
        open: what is left of its words and cannot be checked against a run.
    """

    soc: tuple[float, float] | None
    load_w: float | None
    held_s: float | None
    open: str


def read_condition(claim: Claim) -> Condition:
    """The parts of a claim's condition; AC, DC and ports say which outlet and ask nothing more."""
    left = claim.condition
    load = held = None
    window = claim.soc_window
    left = _WINDOW.sub("", left)
    if found := _LOAD.search(left):
        load = float(found[1]) * (1000.0 if found[2] else 1.0)
        left = left.replace(found[0], "")
    if found := _TIME.search(left):
        held = float(found[1]) * _UNIT_S[found[2][0]]
        left = left.replace(found[0], "")
    left = re.sub(
        r"(?i)\b(AC|DC|on|each|per port|\d+ ports?|at|for|load|up to|regulated|selectable)\b"
        r"|[(),;·]",
        " ",
        left,
    )
    return Condition(soc=window, load_w=load, held_s=held, open=" ".join(left.split()))


def surge_pair(claim: Claim, claims: Sequence[Claim]) -> tuple[float | None, float | None]:
    """(W, s) that a surge claim is about: watts and seconds of one source are one claim.

    None for a part that nobody claims.
    """
    same = [c for c in claims if c.source.strip().casefold() == claim.source.strip().casefold()]
    if claim.kind == SURGE_W:
        seconds = read_condition(claim).held_s
        beside = [c.value for c in same if c.kind == SURGE_S and c.value is not None]
        return claim.value, seconds if seconds is not None else (beside[0] if beside else None)
    beside = [c.value for c in same if c.kind == SURGE_W and c.value is not None]
    return (beside[0] if beside else None), claim.value


def mismatch_reason(claim: Claim, asked: Condition, finding: Finding) -> str:
    """Why a finding does not speak to a claim, in a clause; "" when it does."""
    runs = ", ".join(str(number) for number in finding.runs)
    which = f"run {runs}" if finding.runs else "what was noted"
    if finding.unfit:
        return f"{which} {finding.unfit}"
    if finding.for_value is not None and finding.for_value != claim.value:
        return f"{which} was worked out for {finding.for_value:g} {claim.about.unit}"
    if claim.kind == CONTINUOUS:
        return _hold_mismatch(claim, asked, finding, which)
    if asked.load_w is not None and finding.load_w is not None:
        off = finding.load_w / asked.load_w - 1
        if abs(off) > LOAD_SLACK:
            return f"{which} was at {finding.load_w:.0f} W, not at {asked.load_w:g} W"
    if asked.soc is not None and finding.soc is not None:
        apart = max(abs(a - b) for a, b in zip(asked.soc, finding.soc, strict=True))
        if apart > SOC_SLACK:
            low, high = finding.soc
            return f"{which} went from {low:g} to {high:g} %, not {claim.condition}"
    return ""


def _hold_mismatch(claim: Claim, asked: Condition, finding: Finding, which: str) -> str:
    """Why a run does not say whether the claimed watts are held.

    A run over the claim that held says so all the more; one over it that ended early is no failure.
    One that an empty battery or the reviewer ended early says nothing.
    """
    wanted_w, load_w = claim.value or 0.0, finding.load_w
    held_s, hold_s = finding.held_s or 0.0, asked.held_s or DEFAULT_HOLD_S
    lasted = held_s >= 0.995 * hold_s
    if load_w is not None and load_w < wanted_w * (1 - HOLD_SLACK):
        return f"{which} was at {load_w:.0f} W, not at {wanted_w:g} W"
    if lasted:
        return ""
    if load_w is not None and load_w > wanted_w * (1 + HOLD_SLACK):
        over = f"{which} was at {load_w:.0f} W, over the claimed {wanted_w:g} W"
        return f"{over}, and ended early"
    short = f"{which} lasted {format_span(held_s)}, not {format_span(hold_s)}"
    why = {
        "battery": ": the battery was empty",
        "hand": ": it was stopped by hand",
        "": ", and what ended it is not known: say so under Edit the run",
    }
    return "" if finding.ended_by == "trip" else f"{short}{why.get(finding.ended_by or '', '')}"
