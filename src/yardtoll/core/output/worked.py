"""How the figures of a test at the outlets were worked out, with its own numbers put in."""

import math

from yardtoll.core.output.pass_through import PassResult
from yardtoll.core.output.ports import PortsResult
from yardtoll.core.output.switch_lines import By, Switch
from yardtoll.core.output.wave_lines import IDLE_W, WaveLoads, WavePoint
from yardtoll.core.sound.lines import LevelLine
from yardtoll.core.uncertainty.budget import Worked
from yardtoll.core.waveform.harmonics import IEC

_DEFINED = "definition"
_READ_OFF = "read off the instrument"


def volts(point: WavePoint) -> Worked:
    """Root mean square."""
    if point.wave is None or point.volts is None:
        return _as_read(f"{point.volts or 0.0:g} V", "r.m.s. volts")
    return Worked(
        formula="√(mean of v² over whole cycles)",
        put_in=f"{point.name}, {point.wave.cycles:.1f} cycles captured: {point.volts:.2f} V",
        source=f"{_DEFINED} of r.m.s.",
    )


def hertz(point: WavePoint) -> Worked:
    """Of the fundamental."""
    if point.wave is None or point.hertz is None:
        return _as_read(f"{point.hertz or 0.0:g} Hz", "frequency")
    return Worked(
        formula="frequency of the sine with its harmonics that leaves least of the curve over",
        put_in=f"{point.name}, {point.wave.cycles:.1f} cycles captured: {point.hertz:.4f} Hz",
        source="least squares",
    )


def thd(point: WavePoint) -> Worked:
    """Harmonics against the fundamental."""
    found = point.wave.distortion if point.wave is not None else None
    if found is None:
        return _as_read(f"{100 * (point.thd or 0.0):g} %", "THD")
    orders = sum(harmonic.share is not None for harmonic in found.harmonics)
    how = "grouped as in IEC 61000-4-7" if found.method == IEC else "sines fitted by least squares"
    return Worked(
        formula="√(Σ Vₕ², h = 2 … 40) ÷ V₁",
        put_in=f"{point.name}, {orders} orders reached: {100 * found.thd:.2f} % of "
        f"{found.fundamental:.2f} V" + (" (no scale)" * point.wave.relative if point.wave else ""),
        source=f"{how}; against the fundamental",
    )


def sag(loads: WaveLoads) -> Worked | None:
    """From no load to the highest."""
    idle = [p.volts for p in loads.points if p.load_w < IDLE_W and p.volts]
    loaded = [p.volts for p in loads.points if p.load_w >= IDLE_W and p.volts]
    if loads.sag is None or not idle or not loaded:
        return None
    none, least = sum(idle) / len(idle), loaded[-1]
    return Worked(
        formula="(volts without load − volts at the highest load) ÷ volts without load",
        put_in=f"({none:.2f} V − {least:.2f} V) ÷ {none:.2f} V = {100 * loads.sag:.2f} %",
        source=_DEFINED,
    )


def gap(switch: Switch) -> Worked:
    """Of a switch-over, timed on a curve or counted in pictures."""
    low, high = switch.low_ms, switch.high_ms
    if switch.by is By.FRAMES and low is not None and high is not None:
        upper = f"{high:.1f} ms" if math.isfinite(high) else "the end was not seen"
        return Worked(
            formula="between (dark pictures − 1) and (dark pictures + 1) ÷ pictures a second; the "
            "middle is shown",
            put_in=f"{switch.way.words}: {low:.1f} ms to {upper}",
            source="counting",
        )
    if switch.capture is None:
        return _as_read(f"{switch.way.words}: {switch.gap_ms or 0.0:g} ms", "gap")
    return Worked(
        formula="as long as the volts stay below 10 % of their peak, or are off their own curve by "
        "more than 25 % of it",
        put_in=f"{switch.way.words}: {switch.gap_ms or 0.0:.2f} ms",
        source="the curve against its own fit before the gap",
    )


def level(line: LevelLine) -> Worked:
    """At one metre, without the background where it is known."""
    distance_db = 20 * math.log10(line.distance_m)
    own_db = line.at_1m_db - distance_db
    taken_off = line.level_db - own_db
    parts = [f"{line.level_db:.1f} dB(A) at {line.distance_m:g} m"]
    if taken_off > 0:
        parts.append(f"− {taken_off:.1f} dB of background")
    put_in = " ".join([*parts, f"+ {distance_db:.1f} dB = {line.at_1m_db:.1f} dB(A)"])
    return Worked(
        formula="L = 10 · log₁₀(10^(level ÷ 10) − 10^(background ÷ 10)) + 20 · log₁₀(d ÷ 1 m)",
        put_in=put_in.replace("+ -", "− "),
        source="sound of a small source in the open; the room's echo is not taken off",
    )


def alone(name: str, watts: float) -> Worked:
    """One port with nothing else loaded."""
    return Worked(
        formula="watts of the port while no other was loaded; of several lines the last",
        put_in=f"{name}: {watts:g} W",
        source=_READ_OFF,
    )


def together(result: PortsResult) -> Worked | None:
    """The highest sum of ports that were loaded at once."""
    if result.total_w is None:
        return None
    sets = [s for s in result.together if abs(s.total_w - result.total_w) < 1e-9]
    ports = max(sets, key=lambda s: len(s.ports)).ports if sets else {}
    added = " + ".join(f"{watts:g} W ({name})" for name, watts in ports.items())
    return Worked(
        formula="largest sum of the watts of ports that were loaded at once",
        put_in=f"{added} = {result.total_w:g} W" if len(ports) > 1 else f"{result.total_w:g} W",
        source=_DEFINED,
    )


def carried(result: PassResult) -> Worked | None:
    """The highest load without help from the battery."""
    if result.carried_w is None:
        return None
    step = next(s for s in result.steps if s.output_w == result.carried_w)
    sun = f" and {step.sun_w:g} W from the sun" if step.sun_w else ""
    return Worked(
        formula="highest load at which input covers it, or that was seen to be the wall's alone",
        put_in=f"{step.output_w:g} W out, {step.input_w:g} W from the wall{sun}",
        source=_DEFINED,
    )


def left_open(result: PassResult) -> Worked | None:
    """What input, load and charging leave over."""
    if result.worst_open_w is None:
        return None
    step = next(s for s in result.steps if s.open_w == result.worst_open_w)
    charging_w = step.charging_w or 0.0
    sign = "−" if charging_w >= 0 else "+"
    return Worked(
        formula="wall + sun − load − into the battery; the step where it is largest",
        put_in=f"{step.input_w:g} + {step.sun_w:g} − {step.output_w:g} "
        f"{sign} {abs(charging_w):g} W = {result.worst_open_w:g} W",
        source="what goes in comes out or stays: the rest is conversion, and what nobody counted",
    )


def _as_read(shown: str, what: str) -> Worked:
    return Worked(formula=f"{what} as it was typed", put_in=shown, source=_READ_OFF)
