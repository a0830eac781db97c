"""The volts that a country's outlets may have, beside what a station's outlet gives."""

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding

# From memory: ANSI C84.1 (120 V service, ranges A and B) and EN 50160 (230 V ± 10 %).
SERVICE_RANGES: tuple[tuple[float, float, str, float, float], ...] = (
    (110.0, 127.0, "ANSI C84.1 range A", 114.0, 126.0),
    (110.0, 127.0, "ANSI C84.1 range B", 110.0, 127.0),
    (220.0, 240.0, "EN 50160", 207.0, 253.0),
)
"""(nominal from, to, name, lowest V, highest V)."""


def service_words(claim: Claim, finding: Finding) -> str:
    """Whether an AC outlet stays within what the grid may have, in a clause; "" where not asked."""
    if claim.kind != "ac_v" or claim.value is None:
        return ""
    low, high = finding.ends or (finding.value, finding.value)
    known = [r for r in SERVICE_RANGES if r[0] <= claim.value <= r[1]]
    if not known:
        return ""
    for _, _, name, lowest, highest in known:
        if lowest <= low and high <= highest:
            return f"within {name} ({lowest:g}–{highest:g} V)"
    _, _, name, lowest, highest = known[-1]
    return f"outside {name} ({lowest:g}–{highest:g} V)"
