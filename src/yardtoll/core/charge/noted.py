"""A recharge from notes in plain text; the clock and the display's % are enough."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from yardtoll.core.charge.analysis import (
    ChargeWindow,
    RechargeResult,
    recharge_from_energy,
    recharge_from_notes,
)
from yardtoll.core.charge.soc_times import EnergyCurve, SocReading
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_span
from yardtoll.core.notes.course import LEAST_STAMP_S, Course, course_of, series_of
from yardtoll.core.notes.energy import NotedEnergy, noted_energy
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.suspicion import units_suspect
from yardtoll.core.notes.unread import notes_notices

_CURVE_POINTS = 5
"""Fewer do not show how the charging power fell (common practice, no source)."""


def recharge_of_notes(
    notes: Notes,
    window: ChargeWindow,
    readings: Sequence[SocReading] = (),
    *,
    step_wh: float | None = None,
) -> RechargeResult:
    """A recharge by its notes; energy only where Wh or W were noted.

    Args:
        readings: further ones of the display, s from charge start.
        step_wh: the meter's last digit, where it is not the last digit written.

    Raises:
        UnusableDataError: there is neither energy nor a state of charge in them.
    """
    if notes.is_bare:
        return _bare_result(notes, window, readings, step_wh)
    power = series_of(notes, NoteQuantity.POWER, NoteQuantity.INPUT)
    counter = series_of(notes, NoteQuantity.ENERGY)
    shown = series_of(notes, NoteQuantity.SOC)
    course = course_of(notes, power, ends_full=True)
    energy = None
    if counter.size > 1 or power.size or (counter.size and counter.s[0] > course.start_s):
        energy = noted_energy(notes.name, course, counter, power, step_wh, tapers=True)
    elif not shown.size and not readings:
        raise UnusableDataError(f"{notes.name}: no line has Wh, W or % of a recharge")
    end_s, end_limit_s = _end(course, energy, notes)
    noted = [
        SocReading(s=float(s - course.start_s), soc=float(soc))
        for s, soc in zip(shown.s, shown.values, strict=True)
        if course.start_s <= s <= end_s
    ]
    took_s = end_s - course.start_s
    inside = power.within(course.start_s, end_s)
    curve = None
    if energy is not None and energy.curve[0].size >= _CURVE_POINTS:
        curve = EnergyCurve(s=energy.curve[0] - course.start_s, energy_wh=energy.curve[1])
    return recharge_from_notes(
        window,
        None if energy is None else energy.energy_wh,
        [*readings, *noted],
        duration_s=took_s if took_s > 0 else None,
        start_s=course.start_s,
        peak_w=float(np.max(inside.values)) if inside.size else None,
        notices=(
            *notes_notices(notes),
            *units_suspect(notes.name, counter, power),
            *_notices(notes.name, course, energy, ends_full=_ends_full(notes)),
        ),
        edges_s=(course.start_limit_s, end_limit_s),
        limits=None if energy is None else energy.limits,
        curve=curve,
    )


def _bare_result(
    notes: Notes, window: ChargeWindow, readings: Sequence[SocReading], step_wh: float | None
) -> RechargeResult:
    """Of an energy noted without times; a charge tapers, so its watts say nothing of how long."""
    ((_, energy),) = notes.values(NoteQuantity.ENERGY)
    step = step_wh or energy.step
    limits = SampleLimits(
        resolution_wh=step / 2, resolution_why=f"read to {step:g} Wh", of_counter=True
    )
    result = recharge_from_energy(energy.value, window, readings=readings, limits=limits)
    notices = (*notes_notices(notes), *result.notices)
    return replace(result, notices=notices, is_noted=True)


def _end(course: Course, energy: NotedEnergy | None, notes: Notes) -> tuple[float, float]:
    """The end and ±: as told; by a last line that shows it full somewhere since the one before."""
    if energy is not None and course.found_s is not None:
        return energy.end_s, energy.end_limit_s
    if course.off_s is not None:
        return course.off_s, course.off_limit_s
    if course.found_s is not None:
        middle = (course.last_seen_s + course.found_s) / 2
        return middle, (course.found_s - course.last_seen_s) / 2 + course.off_limit_s
    before = [note.s for note in notes.notes if note.s < course.last_seen_s]
    since_s = course.last_seen_s - before[-1] if before else LEAST_STAMP_S
    return course.last_seen_s, max(since_s, LEAST_STAMP_S)


def _ends_full(notes: Notes) -> bool:
    shown = series_of(notes, NoteQuantity.SOC)
    return bool(shown.size and shown.values[-1] >= 100)


def _notices(
    name: str, course: Course, energy: NotedEnergy | None, *, ends_full: bool
) -> list[Notice]:
    found = []

    def say(code: Code, message: str) -> None:
        found.append(Notice(code=code, message=f"{name}: {message}"))

    if course.starts_loaded:
        say(Code.STARTS_LOADED, "the first line is charging, so what came before is not in it")
    if course.is_open and not ends_full:
        say(Code.NO_END, "no line tells of the end, so the station may have taken more")
    if course.found_s is not None:
        between = format_span(course.found_s - course.last_seen_s)
        say(Code.END_NOT_SEEN, f"found off {between} after the last line that saw it charging")
    if energy is not None and energy.restarts:
        say(Code.COUNTER_RESET, "the counter fell between two lines; it is counted on from there")
    if energy is not None and energy.assumed_zero:
        say(Code.MISSING_VALUES, "the counter was not read at the start: taken as zeroed then")
    return found
