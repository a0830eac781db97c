"""How far a measured energy may be from the truth.

The meter's accuracy, the resolution of what it tells, the time between samples, gaps, the moments
of load-on and cut-off, and its own draw. Limits are taken as rectangular (JCGM 100:2008, 4.3.7).
One meter's gain error is common to all its samples, and to all figures it gave: it scales the
energy. Its floor is an offset and grows with time; meters are zeroed before each run, so it is
taken as each run's own. The caller says which meter gave a log; two meters are independent.
"""

import math
from collections.abc import Sequence

from yardtoll.core.discharge import DischargeResult
from yardtoll.core.energy import SECONDS_PER_HOUR, Gap
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.figures import counted
from yardtoll.core.recharge import RechargeResult
from yardtoll.core.run_energy import Fineness
from yardtoll.core.soc_times import SOC_HALF_STEP
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.budget import Budget, Contribution, Measured, rectangular

OWN_DRAW_SHARE = 0.1
"""A meter's own draw is known to a tenth (common practice, no source)."""


def discharge_budget(
    result: DischargeResult, accuracies: Sequence[MeterAccuracy], meters: Sequence[str] = ()
) -> Budget:
    """What the delivered energy of ``result`` may be off by.

    Args:
        result: a discharge analysed from traces or bare figures.
        accuracies: one for each log, or one for all.
        meters: names of the meters, one for each log; logs of one name share its gain. Without
            names each log counts as a meter of its own.

    Raises:
        UnusableDataError: the number of accuracies fits neither.
    """
    logs = len(result.logs)
    if len(accuracies) not in (1, logs):
        raise UnusableDataError(
            f"{len(accuracies)} meter accuracies are given for {logs} logs; "
            "give one for each or one for all"
        )
    names = list(meters) or [""] * logs
    lines = _meter_lines(
        [energy for _, energy in result.logs],
        list(accuracies) * (logs if len(accuracies) == 1 else 1),
        names,
        result.duration_s,
        result.fineness,
    )
    by_ends = [
        energy
        for (_, energy), fine in zip(result.logs, result.fineness, strict=False)
        if fine.by_ends
    ]
    lines += _run_lines(sum(by_ends), result.duration_s, result.edge_s, result.gaps)
    if result.own_draw_wh:
        lines += own_draw_budget(result.own_draw_wh).lines
    return Budget.of("Wh", lines)


def recharge_budget(result: RechargeResult, accuracy: MeterAccuracy, meter: str = "") -> Budget:
    """What the energy drawn in a recharge may be off by."""
    fineness = (result.fineness,) if result.fineness else ()
    lines = _meter_lines([result.drawn_wh], [accuracy], [meter], result.duration_s, fineness)
    by_ends = result.drawn_wh if result.fineness is not None and result.fineness.by_ends else 0.0
    lines += _run_lines(by_ends, result.duration_s, result.edge_s, result.gaps)
    return Budget.of("Wh", lines)


def harvest_budget(
    harvest_wh: float,
    duration_s: float,
    fineness: Fineness,
    gaps: Sequence[Gap],
    accuracy: MeterAccuracy,
    meter: str = "",
) -> Budget:
    """What the energy over a whole log may be off by; its ends are the log's own."""
    lines = _meter_lines([harvest_wh], [accuracy], [meter], duration_s, (fineness,))
    lines += _run_lines(0.0, duration_s, 0.0, gaps)
    return Budget.of("Wh", lines)


def power_budget(watts: float, accuracy: MeterAccuracy, meter: str = "") -> Budget:
    """What a power in W may be off by: the meter's gain and floor."""
    share = accuracy.reading_share
    shared = f"gain of {meter}" if meter else ""
    why = f"±{100 * share:g} % of {watts:.0f} W"
    gain = rectangular("Meter gain", share * abs(watts), why, shared=shared)
    floor = rectangular("Meter floor", accuracy.floor_w, f"±{accuracy.floor_w:g} W")
    return Budget.of("W", [gain, floor])


def reading_budget(value: float, unit: str, accuracy: MeterAccuracy) -> Budget:
    """Of volts, amps or hertz, which makers seldom state limits for.

    They are taken to be as good as the watts, for want of limits of their own; the budget says so.
    """
    share = accuracy.reading_share
    why = f"±{100 * share:g} % of {value:.1f} {unit}, as its watts"
    return Budget.of(unit, [rectangular("Meter gain", share * abs(value), why)])


def duration_budget(edge_s: float) -> Budget:
    """Of a run's time: its start and its end may each lie one interval of samples further out."""
    lines = [
        rectangular(f"Sampling at the {end}", edge_s, f"one interval of {edge_s:g} s")
        for end in ("start", "end")
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
    return Budget.of(unit, [rectangular("Display step", half_step, "±½ point at either end")])


def usable_ratio(result: DischargeResult, budget: Budget) -> Measured:
    """Delivered ÷ rated; the rating is the maker's figure and exact."""
    return Measured(value=result.usable_ratio, budget=budget.scaled(1 / result.rating.rated_wh, ""))


def usable_ratio_window(result: DischargeResult, budget: Budget) -> Measured:
    """Delivered ÷ (rated × window), with the display's step at either end that is not 0 or 100."""
    rating = result.rating
    lines = list(budget.scaled(1 / (rating.rated_wh * rating.window), "").lines)
    for soc, whole, word in ((rating.soc_from, 100.0, "start"), (rating.soc_to, 0.0, "end")):
        if soc != whole:
            limit = result.usable_ratio_window * SOC_HALF_STEP / 100 / rating.window
            why = f"±½ point at the {word}, {soc:g} %"
            lines.append(rectangular(f"Display step, {word}", limit, why))
    return Measured(value=result.usable_ratio_window, budget=Budget.of("", lines))


def _meter_lines(
    energies_wh: Sequence[float],
    accuracies: Sequence[MeterAccuracy],
    meters: Sequence[str],
    duration_s: float | None,
    fineness: Sequence[Fineness],
) -> list[Contribution]:
    """Gain, floor, resolution and sampling of each log; logs of one meter share its gain."""
    hours = (duration_s or 0.0) / SECONDS_PER_HOUR
    lines = []
    for index, (energy, accuracy) in enumerate(zip(energies_wh, accuracies, strict=True)):
        which = f" {index + 1}" if len(energies_wh) > 1 else ""
        share = f"±{accuracy.reading_share * 100:g} % of {energy:.0f} Wh"
        meter = meters[index]
        lines.append(
            rectangular(
                f"Meter{which} gain",
                accuracy.reading_share * energy,
                share,
                shared=f"gain of {meter}" if meter else "",
            )
        )
        floor = accuracy.floor_w * hours
        why = f"±{accuracy.floor_w:g} W for {hours:.2f} h"
        lines.append(rectangular(f"Meter{which} floor", floor, why))
        if index < len(fineness):
            fine = fineness[index]
            lines.append(
                rectangular(f"Meter{which} resolution", fine.resolution_wh, fine.resolution_why)
            )
            why = "what lies between the samples"
            lines.append(rectangular(f"Sampling{which}", fine.sampling_wh, why))
    return _joined(lines)


def _joined(lines: Sequence[Contribution]) -> list[Contribution]:
    """Lines of one shared cause as one: two logs of one meter are off together."""
    shared: dict[str, Contribution] = {}
    own = []
    for line in lines:
        if not line.shared:
            own.append(line)
        elif line.shared in shared:
            before = shared[line.shared]
            shared[line.shared] = Contribution(
                name="Meter gain",
                why=f"{before.why}, and {line.why}",
                u=before.u + line.u,
                shared=line.shared,
            )
        else:
            shared[line.shared] = line
    return [*shared.values(), *own]


def _run_lines(
    by_ends_wh: float, duration_s: float | None, edge_s: float, gaps: Sequence[Gap]
) -> list[Contribution]:
    """What the run's ends and gaps leave open.

    Args:
        by_ends_wh: the energy that came of power samples between load-on and cut-off.
    """
    lines = []
    if by_ends_wh and duration_s and edge_s:
        # Load-on and cut-off may each lie up to one interval further out.
        mean_w = by_ends_wh / duration_s * SECONDS_PER_HOUR
        edge = math.sqrt(2) * mean_w * edge_s / SECONDS_PER_HOUR
        why = f"one interval of {edge_s:g} s at {mean_w:.0f} W, at either end"
        lines.append(rectangular("Cut-off timing", edge, why))
    hidden = sum(gap.could_hide_wh for gap in gaps)
    if hidden:
        why = f"up to {hidden:.1f} Wh in {counted(len(gaps), 'gap')}"
        lines.append(rectangular("Gaps", hidden, why))
    return lines
