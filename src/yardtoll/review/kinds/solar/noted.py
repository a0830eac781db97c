"""A day in the sun noted by hand: its peak against the nameplate, shade, wiring, in sentences."""

from collections.abc import Iterator

from yardtoll.core.formatting import format_span
from yardtoll.core.notes.sun import Shade, sun_seen
from yardtoll.review.run_analysis import RunAnalysis


def noted_sun_words(run: RunAnalysis) -> Iterator[str]:
    """Nothing for runs that were logged, and for other sources."""
    if not run.records.typed or not run.method.uses_panels:
        return
    seen = sun_seen(run.records.notes)
    nameplate_w = _nameplate_w(run)
    if seen.peak_w is not None and nameplate_w:
        share = 100 * seen.peak_w / nameplate_w
        panels = f"{nameplate_w:.0f} W of panels"
        yield f"At most {seen.peak_w:.0f} W were noted, {share:.0f} % of {panels}."
    for shade in seen.shades:
        yield _shade_words(shade)
    if len(seen.wired) > 1:
        parts = [f"{watts:.0f} W in {how}" for how, watts in sorted(seen.wired.items())]
        yield f"By the wiring, at the highest: {', '.join(parts)}, each in the sun of its moment."


def _nameplate_w(run: RunAnalysis) -> float | None:
    """W of the panels of the run; of the yard's only array where none is said."""
    arrays = {array.id: array for array in run.records.arrays}
    said = [arrays[id_] for id_ in run.run.conditions.arrays if id_ in arrays]
    used = said or (list(arrays.values()) if len(arrays) == 1 else [])
    return sum(array.power_stc_w for array in used) or None


def _shade_words(shade: Shade) -> str:
    words = "Shade"
    if shade.before_w is not None and shade.under_w is not None:
        words += f" took it from {shade.before_w:.0f} to {shade.under_w:.0f} W"
    else:
        words += " was put on"
    if shade.seconds is None:
        return f"{words}; it was not noted off."
    words += f" for {format_span(shade.seconds)}"
    if shade.after_w is not None:
        back = f" ({100 * shade.after_w / shade.before_w:.0f} %)" if shade.before_w else ""
        words += f"; then {shade.after_w:.0f} W{back}"
    return f"{words}."
