"""Where the station's display was off, in sentences."""

from collections.abc import Iterator

from yardtoll.core.discharge.display_audit import DisplayAudit
from yardtoll.core.formatting import format_span

_SOC_APART = 2.0
"""Points of charge below which a display counts as right."""


def audit_words(audit: DisplayAudit) -> Iterator[str]:
    """Where the display was off."""
    if audit.offset_w is not None:
        # Nothing has no minus.
        offset_w = round(audit.offset_w, 1) + 0.0
        if audit.gain is not None:
            gain = round(100 * (audit.gain - 1), 1) + 0.0
            yield f"The display's W: gain {gain:+.1f} %, offset {offset_w:+.1f} W to the meter."
        else:
            yield f"The display's W: {offset_w:+.1f} W to the meter on the mean."
    if audit.soc:
        worst = max(audit.soc, key=lambda r: abs(r.shown - r.left))
        off = worst.shown - worst.left
        if abs(off) > _SOC_APART:
            yield (
                f"At {worst.shown:g} % shown, {worst.gone_wh:.0f} Wh were gone and "
                f"{worst.left:.0f} % of the energy was left: the display is up to "
                f"{abs(off):.0f} points {'high' if off > 0 else 'low'}."
            )
        else:
            yield "The display's % stays within 2 points of the energy left."
    if audit.time_left:
        worst_time = max(audit.time_left, key=lambda r: abs(r.share))
        yield (
            f"Its time left: {format_span(worst_time.shown_s)} promised, "
            f"{format_span(worst_time.true_s)} given ({100 * worst_time.share:+.1f} %)."
        )
    if audit.reserve_wh is not None and audit.reserve_s is not None:
        yield (
            f"After it first said 0 %, {audit.reserve_wh:.0f} Wh more came in "
            f"{format_span(audit.reserve_s)}: a hidden reserve."
        )
