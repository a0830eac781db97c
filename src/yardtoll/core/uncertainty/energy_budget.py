"""How far a measured energy may be from the truth.

The meter's accuracy, the resolution of its readings, the time between samples, gaps, the moments
of load-on and cut-off, and its own draw. Limits are taken as rectangular (JCGM 100:2008, 4.3.7).

A meter's gain limit bounds the error at each reading; it does not say that the error is the same at
each (JCGM 100:2008, 5.2.4 and F.1.2.3). A common share of its variance is shared by all readings of
the meter on AC, or on DC; the rest belongs to each level. Its floor is an offset and grows with
time; meters are zeroed before each run, so it is each run's own. Two meters are independent.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR, Gap
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.budget import (
    Budget,
    Contribution,
    Measured,
    display_step,
    rectangular,
)

if TYPE_CHECKING:
    from yardtoll.core.charge.analysis import RechargeResult

OWN_DRAW_SHARE = 0.1
"""A meter's own draw is known to a tenth (common practice, no source)."""
AC, DC = "AC", "DC"
"""A meter's ranges: on AC and on DC its gain errors have nothing to do with each other."""


def discharge_budget(
    result: DischargeResult,
    accuracies: Sequence[MeterAccuracy],
    meters: Sequence[str] = (),
    *,
    range_: str = AC,
    power_factor: float | None = None,
) -> Budget:
    """What the delivered energy of ``result`` may be off by: the meter's doubt on this one run.

    Args:
        result: a discharge analysed from traces or bare figures.
        accuracies: one for each log, or one for all.
        meters: names of the meters, one for each log; logs of one name share its gain. Without
            names each log counts as a meter of its own.
        range_: :data:`AC` or :data:`DC`.
        power_factor: of the load, where the log does not hold it.

    Raises:
        UnusableDataError: the number of accuracies fits neither.
    """
    logs = len(result.logs)
    if len(accuracies) not in (1, logs):
        raise UnusableDataError(
            f"{len(accuracies)} meter accuracies are given for {logs} logs; "
            "give one for each or one for all"
        )
    factor = result.power_factor if result.power_factor is not None else power_factor
    lines = _meter_lines(
        [energy for _, energy in result.logs],
        list(accuracies) * (logs if len(accuracies) == 1 else 1),
        list(meters) or [""] * logs,
        result.duration_s,
        result.limits,
        range_=range_,
        direction="out",
        power_factor=factor,
    )
    lines += _gap_lines(result.gaps)
    if result.own_draw_wh:
        lines += own_draw_budget(result.own_draw_wh).lines
    return Budget.of("Wh", lines)


def recharge_budget(
    result: RechargeResult,
    accuracy: MeterAccuracy,
    meter: str = "",
    *,
    range_: str = AC,
    power_factor: float | None = None,
) -> Budget:
    """What the energy drawn in a recharge may be off by.

    Raises:
        UnusableDataError: it is not known.
    """
    if result.drawn_wh is None:
        raise UnusableDataError("no energy was read of this recharge")
    factor = result.power_factor if result.power_factor is not None else power_factor
    lines = _meter_lines(
        [result.drawn_wh],
        [accuracy],
        [meter],
        result.duration_s,
        (result.limits,) if result.limits else (),
        range_=range_,
        direction="in",
        power_factor=factor,
    )
    return Budget.of("Wh", [*lines, *_gap_lines(result.gaps)])


def harvest_budget(
    harvest_wh: float,
    duration_s: float,
    limits: SampleLimits,
    gaps: Sequence[Gap],
    accuracy: MeterAccuracy,
    meter: str = "",
) -> Budget:
    """What the energy over a whole log may be off by; its ends are the log's own."""
    lines = _meter_lines(
        [harvest_wh], [accuracy], [meter], duration_s, (limits,), range_=DC, direction="in"
    )
    return Budget.of("Wh", [*lines, *_gap_lines(gaps)])


def read_energy_budget(
    energy_wh: float, accuracy: MeterAccuracy, meter: str, *, range_: str = AC, level: str = "out"
) -> Budget:
    """Of an energy that the same meter read at another level: its gain alone."""
    return Budget.of("Wh", _gain_lines(energy_wh, "Wh", accuracy, meter, range_, level))


def power_budget(
    watts: float, accuracy: MeterAccuracy, meter: str = "", *, range_: str = AC, level: str = ""
) -> Budget:
    """What a power in W may be off by: the meter's gain and floor."""
    lines = _gain_lines(watts, "W", accuracy, meter, range_, level)
    lines.append(rectangular("Meter floor", accuracy.floor_w, f"±{accuracy.floor_w:g} W"))
    return Budget.of("W", lines)


def mean_power_budget(
    energy: Budget, mean_w: float, duration_s: float, edges_s: tuple[float, float]
) -> Budget:
    """Of energy ÷ duration over one span.

    Power samples give the energy of just the span that is divided by, so the position of its
    ends does not matter; a counter's energy does not move with them.
    """
    hours = duration_s / SECONDS_PER_HOUR
    by_power = any(line.edge for line in energy.lines)
    lines = [replace(line, u=line.u / hours) for line in energy.lines if not line.edge]
    if not by_power:
        per_s = mean_w / duration_s
        lines += duration_budget(edges_s).scaled(per_s, "W").lines
    return Budget.of("W", lines)


def stated_budget(value: float, unit: str, share: float, floor: float, what: str) -> Budget:
    """Of volts or hertz by the limits that the meter's maker states for them."""
    why = f"±({100 * share:g} % of {value:.4g} {unit} + {floor:g} {unit})"
    return Budget.of(unit, [rectangular(f"Meter, {what}", share * abs(value) + floor, why)])


def duration_budget(edges_s: tuple[float, float]) -> Budget:
    """Of a run's time: its start and its end may each be half an interval earlier or later."""
    lines = [
        replace(rectangular(f"Moment of {end}", edge_s, f"±{edge_s:.3g} s"), edge=True)
        for end, edge_s in zip(("load-on", "cut-off"), edges_s, strict=True)
    ]
    return Budget.of("s", lines)


def own_draw_budget(own_draw_wh: float) -> Budget:
    """Of a meter's own draw, taken as known to 10 % (common practice, no source)."""
    limit = OWN_DRAW_SHARE * own_draw_wh
    why = f"±{100 * OWN_DRAW_SHARE:g} % of {own_draw_wh:.1f} Wh"
    return Budget.of("Wh", [rectangular("Own draw", limit, why)])


def sag_budget(sag_ratio: float, volts_loaded: float, step_v: float) -> Budget:
    """Of (no-load − loaded) ÷ no-load, a share: one meter's gain falls out, its digits stay.

    Args:
        step_v: the last digit of the volts.
    """
    no_load = volts_loaded / (1 - sag_ratio)
    why = f"steps of {step_v:g} V"
    lines = [
        rectangular("Digits, loaded", step_v / 2 / no_load, why),
        rectangular("Digits, no load", step_v / 2 * (1 - sag_ratio) / no_load, why),
    ]
    return Budget.of("", lines)


def display_step_budget(half_step: float, unit: str) -> Budget:
    """Of a time read off the display's charge: half a point as time, rectangular.

    Args:
        half_step: in the unit; of both ends together for a time between two charges.
    """
    return Budget.of(unit, [display_step("Display step", half_step, "±½ point at either end")])


def usable_ratio(result: DischargeResult, budget: Budget) -> Measured:
    """Delivered ÷ rated; the rating is the maker's figure and exact."""
    return Measured(value=result.usable_ratio, budget=budget.scaled(1 / result.rating.rated_wh, ""))


def usable_ratio_window(result: DischargeResult, budget: Budget) -> Measured:
    """Delivered ÷ (rated × window), with the display's step at either end that is not 0 or 100."""
    from yardtoll.core.charge.soc_times import SOC_HALF_STEP

    rating = result.rating
    lines = list(budget.scaled(1 / (rating.rated_wh * rating.window), "").lines)
    for soc, whole, word in ((rating.soc_from, 100.0, "start"), (rating.soc_to, 0.0, "end")):
        if soc != whole:
            limit = result.usable_ratio_window * SOC_HALF_STEP / 100 / rating.window
            why = f"±½ point at the {word}, {soc:g} %"
            lines.append(display_step(f"Display step, {word}", limit, why))
    return Measured(value=result.usable_ratio_window, budget=Budget.of("", lines))


def _gain_lines(
    value: float,
    unit: str,
    accuracy: MeterAccuracy,
    meter: str,
    range_: str,
    level: str,
    which: str = "",
) -> list[Contribution]:
    """The two parts of a meter's gain: common to all its readings, and this level's own."""
    common, own = accuracy.common_limit, accuracy.level_limit
    at_level = rectangular(
        f"Meter{which} gain, at this level",
        own * abs(value),
        f"the rest of ±{100 * accuracy.reading_share:g} % of {value:.4g} {unit}",
        shared=f"level of {meter}, {range_}, {level}" if meter and level else "",
        of_gain=True,
    )
    return [
        rectangular(
            f"Meter{which} gain, common",
            common * abs(value),
            f"{accuracy.common_share:.0%} of the variance of ±{100 * accuracy.reading_share:g} %, "
            f"the same at every {range_} reading",
            shared=f"gain of {meter}, {range_}" if meter else "",
            of_gain=True,
        ),
        replace(at_level, level=True),
    ]


def _meter_lines(
    energies_wh: Sequence[float],
    accuracies: Sequence[MeterAccuracy],
    meters: Sequence[str],
    duration_s: float | None,
    limits: Sequence[SampleLimits],
    *,
    range_: str,
    direction: str,
    power_factor: float | None = None,
) -> list[Contribution]:
    """Gain, floor, phase, resolution, edges and sampling of each log."""
    hours = (duration_s or 0.0) / SECONDS_PER_HOUR
    lines = []
    for index, (energy, accuracy) in enumerate(zip(energies_wh, accuracies, strict=True)):
        which = f" {index + 1}" if len(energies_wh) > 1 else ""
        level = f"{direction} at {energy / hours:.0f} W" if hours else direction
        lines += _gain_lines(energy, "Wh", accuracy, meters[index], range_, level, which)
        why = f"±{accuracy.floor_w:g} W for {hours:.2f} h"
        lines.append(rectangular(f"Meter{which} floor", accuracy.floor_w * hours, why))
        if accuracy.phase_deg and power_factor is not None and power_factor < 1:
            limit = accuracy.phase_limit(power_factor) * energy
            why = f"±{accuracy.phase_deg:g}° at a power factor of {power_factor:.2f}"
            lines.append(rectangular(f"Meter{which} phase", limit, why))
        if index < len(limits):
            lines += _sample_lines(limits[index], accuracy, which)
    return _joined(lines)


def _sample_lines(limits: SampleLimits, accuracy: MeterAccuracy, which: str) -> list[Contribution]:
    """What one log's samples leave open."""
    resolution, why = limits.resolution_wh, limits.resolution_why
    if accuracy.step_wh is not None and limits.of_counter:
        resolution = math.sqrt(2) * accuracy.step_wh / 2
        why = f"steps of {accuracy.step_wh:g} Wh as stated, at either end"
    lines = [
        rectangular(f"Meter{which} resolution", resolution, why),
        Contribution(
            name=f"Sampling{which}",
            why="load between the samples",
            u=limits.sampling_u_wh,
        ),
    ]
    for end, edge_wh in zip(("Load-on", "Cut-off"), limits.edges_wh, strict=True):
        why = f"±{edge_wh:.2g} Wh: half an interval of samples"
        lines.append(replace(rectangular(f"{end} timing{which}", edge_wh, why), edge=True))
    if limits.lost_wh:
        why = f"up to {2 * limits.lost_wh:.2g} Wh before it restarted"
        lines.append(rectangular(f"Counter restart{which}", limits.lost_wh, why))
    if limits.unread_wh:
        why = f"up to {limits.unread_wh:.3g} Wh after the last value read"
        lines.append(rectangular(f"After the last value{which}", limits.unread_wh, why))
    return lines


def _joined(lines: Sequence[Contribution]) -> list[Contribution]:
    """Lines of one shared cause as one: two logs of one meter are off together."""
    shared: dict[str, Contribution] = {}
    own = []
    for line in lines:
        if not line.shared:
            own.append(line)
        elif line.shared in shared:
            before = shared[line.shared]
            shared[line.shared] = replace(
                before, name=_unnumbered(before.name), u=before.u + line.u
            )
        else:
            shared[line.shared] = line
    return [*shared.values(), *own]


def _unnumbered(name: str) -> str:
    """A name such as "Meter 1 gain, common" without its number."""
    return " ".join(word for word in name.split() if not word.isdigit())


def _gap_lines(gaps: Sequence[Gap]) -> list[Contribution]:
    """What gaps leave open: each by itself, so in quadrature."""
    hidden = math.hypot(*(gap.could_hide_wh for gap in gaps))
    if not hidden:
        return []
    why = f"±{hidden:.2g} Wh in {counted(len(gaps), 'gap')}"
    return [rectangular("Gaps", hidden, why)]
