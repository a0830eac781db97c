"""What a claim's condition asks of a run: a window, a load, a time; and whether a finding fits."""

import re
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.figures import format_span

LOAD_SLACK = 0.03
"""A load within this share of the one asked for is that load (common practice, no source)."""
HOLD_SLACK = 0.02
"""Rated power counts as held within this share (common practice, no source)."""
SOC_SLACK = 1.0
HELD = ("continuous_w",)
"""Kinds that need a load of the claimed watts, held for a time."""
DEFAULT_HOLD_S = 900.0
_LOAD = re.compile(r"\b(?:at\s+)?(\d+(?:\.\d+)?)\s*(k?)W\b")
_C_RATE = re.compile(r"\b(\d+(?:\.\d+)?)\s*C\b")
_TIME = re.compile(r"\b(?:for\s+)?(\d+(?:\.\d+)?)\s*(h|hours?|min|minutes?|s|seconds?)\b")
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
    left = re.sub(r"(?i)\b(AC|DC|on|each|per port|\d+ ports?|at|for|load)\b|[(),;·]", " ", left)
    return Condition(soc=window, load_w=load, held_s=held, open=" ".join(left.split()))


def misfit(claim: Claim, asked: Condition, finding: Finding) -> str:
    """Why a finding does not speak to a claim, in a clause; "" when it does."""
    runs = ", ".join(str(number) for number in finding.runs)
    which = f"run {runs}" if finding.runs else "what was noted"
    wanted_w = claim.value if claim.kind in HELD else asked.load_w
    slack = HOLD_SLACK if claim.kind in HELD else LOAD_SLACK
    if wanted_w is not None and finding.load_w is not None:
        off = finding.load_w / wanted_w - 1
        if off < -slack or (claim.kind not in HELD and off > slack):
            return f"{which} was at {finding.load_w:.0f} W, not at {wanted_w:g} W"
    if asked.soc is not None and finding.soc is not None:
        apart = max(abs(a - b) for a, b in zip(asked.soc, finding.soc, strict=True))
        if apart > SOC_SLACK:
            low, high = finding.soc
            return f"{which} went from {low:g} to {high:g} %, not {claim.condition}"
    hold_s = asked.held_s or DEFAULT_HOLD_S
    if finding.held_s is not None and not finding.stopped and finding.held_s < 0.995 * hold_s:
        return f"{which} lasted {format_span(finding.held_s)}, not {format_span(hold_s)}"
    return ""
