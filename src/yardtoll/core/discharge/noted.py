"""A discharge from notes in plain text, as a meter's log of it."""

from collections.abc import Sequence

import numpy as np

from yardtoll.core.discharge.meter_log import DisplayEntry, MeterLog
from yardtoll.core.electrical.load_span import LoadSpan, load_limit_w
from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.formatting import format_span
from yardtoll.core.notes.course import Course, Series, course_of, series_of
from yardtoll.core.notes.energy import NotedEnergy, noted_energy
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.suspicion import units_suspect
from yardtoll.core.notes.unread import notes_notices

HIGHEST_DC_V = 60.0
MOST_OF_RATED = 1.1
"""A station gives no more than this share of its rating (common practice, no source)."""


def analyse_notes(
    notes: Notes, *, step_wh: float | None = None, rated_wh: float = np.inf
) -> MeterLog:
    """Load-on, end, energy and the display's readings of a discharge, by its notes.

    Args:
        step_wh: the meter's last digit, where it is not the last digit written.
        rated_wh: within the window; bounds an energy whose end was not seen and not counted.

    Raises:
        UnusableDataError: no energy can be had from them.
    """
    power, apparent = watts_noted(notes)
    counter = series_of(notes, NoteQuantity.ENERGY)
    course = course_of(notes, power)
    energy = noted_energy(
        notes.name, course, counter, power, step_wh, most_wh=MOST_OF_RATED * rated_wh
    )
    limit_w = load_limit_w(power.values) if power.size else 0.0
    span = LoadSpan(
        start_s=course.start_s,
        cutoff_s=energy.end_s,
        first_s=course.start_s,
        last_s=course.last_seen_s,
        starts_loaded=course.starts_loaded,
        no_cutoff=course.is_open,
        limit_w=limit_w,
        edges_s=(course.start_limit_s, energy.end_limit_s),
    )
    volts = _volts(notes, course, energy)
    factors = series_of(notes, NoteQuantity.POWER_FACTOR)
    inside = power.within(course.start_s, energy.end_s)
    return MeterLog(
        name=notes.name,
        delivered_wh=energy.energy_wh,
        source=energy.source,
        span=span,
        max_w=float(np.max(inside.values)) if inside.size else None,
        gaps=(),
        notices=(
            *notes_notices(notes),
            *units_suspect(notes.name, counter, power),
            *_span_notices(notes.name, course, energy),
            *apparent,
        ),
        volts_mean_v=volts[0],
        volts_min_v=volts[1],
        loaded_s=energy.end_s - course.start_s,
        no_load_v=volts[2],
        limits=energy.limits,
        power_factor=median(factors.values) if factors.size else None,
        power=(inside.s, inside.values) if inside.size else None,
        display=_display(notes, course, energy, power),
    )


def watts_noted(notes: Notes) -> tuple[Series, Sequence[Notice]]:
    """The load's watts; as volts times amps where only those were noted."""
    power = series_of(notes, NoteQuantity.POWER)
    if power.size:
        return power, ()
    found, without_factor = [], False
    for note in notes.notes:
        volts, amps = note.line.value(NoteQuantity.VOLTS), note.line.value(NoteQuantity.AMPS)
        if volts is None or amps is None:
            continue
        factor = note.value(NoteQuantity.POWER_FACTOR)
        if factor is None:
            factor, without_factor = 1.0, without_factor or volts.value > HIGHEST_DC_V
        found.append((note.s, volts.value * amps.value * factor, volts.value * amps.step))
    columns = np.array(found, dtype=float).reshape(-1, 3).T
    series = Series(s=columns[0], values=columns[1], steps=columns[2])
    if not without_factor or series_of(notes, NoteQuantity.ENERGY).size > 1:
        return series, ()
    message = (
        f"{notes.name}: watts were worked out as volts times amps without a power factor: apparent "
        "power, which is more than the watts where the load is not resistive"
    )
    return series, (Notice(code=Code.VOLTS_AMPS_WITHOUT_PF, message=message),)


def _span_notices(name: str, course: Course, energy: NotedEnergy) -> list[Notice]:
    found = []

    def say(code: Code, message: str) -> None:
        found.append(Notice(code=code, message=f"{name}: {message}"))

    if course.starts_loaded:
        say(Code.STARTS_LOADED, "the first line is under load, so what came before is not in it")
    if course.is_open:
        say(Code.NO_CUTOFF, "no line tells of the end, so the station may hold more")
    if course.found_s is not None:
        between = format_span(course.found_s - course.last_seen_s)
        what = "by the rest of its energy at the watts seen"
        if energy.source == "power":
            what = "halfway to when it was found, or to when a tenth over its rating was gone"
        elif energy.limits.unread_wh:
            what = "there: the counter was not read later, so energy and time are the least"
        say(
            Code.END_NOT_SEEN,
            f"found off {between} after the last line that saw it running; the end is placed "
            f"{what}, ± {format_span(energy.end_limit_s)}",
        )
    if energy.restarts:
        say(Code.COUNTER_RESET, "the counter fell between two lines; it is counted on from there")
    if energy.assumed_zero:
        say(Code.MISSING_VALUES, "the counter was not read at the start: taken as zeroed then")
    return found


def _volts(
    notes: Notes, course: Course, energy: NotedEnergy
) -> tuple[float | None, float | None, float | None]:
    """Loaded mean, lowest, and no-load volts."""
    loaded, before = [], []
    for note, value in notes.values(NoteQuantity.VOLTS):
        if note.s < course.start_s:
            before.append(value.value)
        elif note.s <= energy.end_s and (
            note.s > course.start_s or note.value(NoteQuantity.POWER) is not None
        ):
            # At load-on itself nobody can say whether the load was on; with its watts it was.
            loaded.append(value.value)
    no_load = before[-1] if before else None
    if not loaded:
        return None, None, no_load
    return float(np.mean(loaded)), min(loaded), no_load


def _display(
    notes: Notes, course: Course, energy: NotedEnergy, power: Series
) -> tuple[DisplayEntry, ...]:
    """What the display showed within the run, beside the truth by the notes."""
    found = []
    for note in notes.notes:
        soc, watts = note.value(NoteQuantity.SOC), note.value(NoteQuantity.SHOWN)
        left = note.value(NoteQuantity.LEFT)
        if soc is None and watts is None and left is None:
            continue
        if not course.start_s <= note.s <= energy.end_s:
            continue
        metered = note.value(NoteQuantity.POWER)
        if metered is None and power.size:
            metered = float(np.interp(note.s, power.s, power.values))
        found.append(
            DisplayEntry(
                at_s=note.s,
                shown_soc=soc,
                energy_left_wh=max(energy.energy_wh - energy.used_wh(note.s), 0.0),
                shown_w=watts,
                meter_w=metered,
                shown_left_s=left,
                true_left_s=max(energy.end_s - note.s, 0.0),
            )
        )
    return tuple(found)
