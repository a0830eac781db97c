"""Alarms of a run in progress, by the limits of the checks before it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

TARGET_TOLERANCE = 0.05
METER_WARNING_SHARE = 0.9
VOLTS_TOLERANCE = 0.1
SETTLED_S = 180.0
"""A load may be off its target this long while it warms up."""
LOAD_SEEN_W = 2.0
FROZEN_S = 60.0
"""A meter that shows the same to the last digit for so long may hang."""
FLOOR_NOT_NOTED_SOC = 4.0
"""A cut-off with more than this on the display points at a floor that nobody noted."""


@dataclass(frozen=True, kw_only=True)
class Alarm:
    """One sentence; ``bad`` where something must be done."""

    text: str
    bad: bool = True


END_READING_S = 300.0
"""The display may be read so long before the planned end for it to count as the last reading."""


@dataclass(frozen=True, kw_only=True)
class LiveState:
    """A discharge at one moment; None where a thing is not known.

    Attributes:
        soc: the display's typed states of charge in %, in the order of their times.
        input_w: W the display last showed coming in.
        unchanged_s: how long nothing the meter reads has changed.
        flow: "out", "in" while charging, "idle" where nothing is meant to flow.
        hold_s: how long it is meant to last, where a time is set.
        soc_s: when the display's charge was read last.
    """

    answering: bool
    power_w: float | None
    flow: str = "out"
    volts: float | None
    elapsed_s: float
    delivered_wh: float
    target_w: float | None
    rated_w: float
    nominal_v: float | None = None
    meter_w: float | None = None
    soc: Sequence[float] = ()
    input_w: float | None = None
    unchanged_s: float = 0.0
    hold_s: float | None = None
    soc_s: float | None = None


def alarms(state: LiveState) -> list[Alarm]:
    """Everything that is wrong now, the most urgent first; empty when all is quiet."""
    if not state.answering:
        return [Alarm(text="The meter does not answer. It is tried again every second.")]
    if state.power_w is None and state.flow != "idle":
        return [Alarm(text="Waiting for the first sample.", bad=False)]
    power_w = state.power_w or 0.0
    found = []
    if state.unchanged_s > FROZEN_S and power_w >= LOAD_SEEN_W:
        found.append(
            Alarm(
                text=f"Nothing the meter reads has changed for {state.unchanged_s:.0f} s: does it "
                "hang?"
            )
        )
    by_flow = {"out": _of_power, "in": _of_charge, "idle": _of_idle}
    return [*found, *by_flow[state.flow](state, power_w)]


def _of_power(state: LiveState, power_w: float) -> Iterator[Alarm]:
    if state.meter_w and power_w > METER_WARNING_SHARE * state.meter_w:
        yield Alarm(
            text=f"{power_w:.0f} W is at the meter's limit of {state.meter_w:g} W: "
            "take load off now."
        )
    if power_w > state.rated_w:
        yield Alarm(text=f"{power_w:.0f} W is above the rated {state.rated_w:g} W: it may trip.")
    if state.input_w:
        yield Alarm(
            text=f"The display shows {state.input_w:g} W coming in: unplug the input, and void the "
            "run if it was there from the start."
        )
    elif len(state.soc) > 1 and state.soc[-1] > state.soc[-2]:
        yield Alarm(
            text=f"The display rose from {state.soc[-2]:g} to {state.soc[-1]:g} %: is an input "
            "plugged in?"
        )
    if power_w < LOAD_SEEN_W:
        yield Alarm(
            text="No load seen. Is the outlet on, and the load?", bad=state.delivered_wh > 0
        )
        return
    if state.volts is not None and state.nominal_v:
        off = state.volts / state.nominal_v - 1
        if abs(off) > VOLTS_TOLERANCE:
            yield Alarm(
                text=f"{state.volts:.1f} V is {abs(off):.0%} {'above' if off > 0 else 'below'} the "
                f"nominal {state.nominal_v:g} V."
            )
    if state.target_w and state.elapsed_s > SETTLED_S:
        off = power_w / state.target_w - 1
        if abs(off) > TARGET_TOLERANCE:
            yield Alarm(
                text=f"{power_w:.0f} W is off the target of {state.target_w:g} W by more than 5 %."
            )


def _of_charge(state: LiveState, power_w: float) -> Iterator[Alarm]:
    """While charging: the meter's limit, nothing drawn, other watts than were set."""
    if state.meter_w and power_w > METER_WARNING_SHARE * state.meter_w:
        yield Alarm(text=f"{power_w:.0f} W is at the meter's limit of {state.meter_w:g} W.")
    if power_w < LOAD_SEEN_W:
        begun = state.delivered_wh > 0
        text = (
            "Nothing is drawn: full, cooling, or unplugged?" if begun else "Nothing is drawn yet."
        )
        yield Alarm(text=text, bad=False)
    elif state.target_w and state.elapsed_s > SETTLED_S and power_w > state.target_w * 1.05:
        yield Alarm(
            text=f"{power_w:.0f} W is drawn, {state.target_w:g} W were set: check the charge mode."
        )
    if len(state.soc) > 1 and state.soc[-1] < state.soc[-2]:
        yield Alarm(text=f"The display fell from {state.soc[-2]:g} to {state.soc[-1]:g} %.")


def _of_idle(state: LiveState, power_w: float) -> Iterator[Alarm]:
    """An idle test: no load, no input."""
    if power_w > LOAD_SEEN_W:
        yield Alarm(text=f"{power_w:.0f} W flow: an idle test has nothing plugged in.")
    if not state.soc:
        yield Alarm(text="Read the display now and at the end: Space.", bad=False)
    elif _is_end_unread(state):
        yield Alarm(text="The planned time is over: read the display's % now (Space).")


def _is_end_unread(state: LiveState) -> bool:
    """Whether the planned end is near, or past, and the display was not read since."""
    if not state.hold_s:
        return False
    from_s = state.hold_s - END_READING_S
    return state.elapsed_s >= from_s and (state.soc_s is None or state.soc_s < from_s)


def floor_suspected(soc_at_end: float | None, noted_floor: float) -> str:
    """A sentence where the station shut off well above the floor that was noted; else ""."""
    if soc_at_end is None or soc_at_end < noted_floor + FLOOR_NOT_NOTED_SOC:
        return ""
    return (
        f"it shut off with about {soc_at_end:.0f} % on the display, and a floor of "
        f"{noted_floor:g} % was noted"
    )
