"""Results of what comes out of the sockets, as JSON with unit-bearing keys and as tables."""

from typing import Any

from yardtoll.core.conformance.verdict import Outcome
from yardtoll.core.output.hold import HoldResult
from yardtoll.core.output.ports import PortsResult
from yardtoll.core.sound.levels import SoundResult
from yardtoll.core.waveform.analysis import WaveResult
from yardtoll.core.waveform.harmonics import IEC, LEAST_SQUARES
from yardtoll.core.waveform.transfer import FramesResult, TransferResult
from yardtoll.report.tables.rows import table, warnings_json

_SHOWN_SHARE = 0.001
_METHODS = {IEC: "IEC 61000-4-7", LEAST_SQUARES: "least squares"}


def wave_json(result: WaveResult) -> dict[str, Any]:
    """The keys of `yardtoll compute wave --json`."""
    found = result.distortion
    return {
        "vrms": result.vrms,
        "hertz": result.hertz,
        "dc_v": result.dc_v,
        "peak_v": result.peak_v,
        "crest": result.crest,
        "thd": found.thd if found else None,
        "thd_method": found.method if found else None,
        "harmonics": [
            {"order": h.order, "share": h.share, "degrees": h.degrees}
            for h in (found.harmonics if found else ())
        ],
        "shape": result.shape.value,
        "cycles": result.cycles,
        "volts_off_ratio": result.volts_off_ratio,
        "hertz_off_ratio": result.hertz_off_ratio,
        "clock_gain_s_per_day": result.clock_gain_s_per_day,
        "relative": result.relative,
        "arms": result.arms,
        "watts": result.watts,
        "va": result.va,
        "power_factor": result.power_factor,
        "displacement_factor": result.displacement_factor,
        "warnings": warnings_json(result.notices),
    }


def wave_table(result: WaveResult) -> str:
    """What a reader wants first, and the harmonics above a thousandth."""
    rows = [("Shape", result.shape.value.replace("_", " "))]
    if result.vrms is not None:
        rows.append(("Volts", f"{result.vrms:.2f} V r.m.s., peak {result.peak_v:.1f} V"))
        rows.append(("DC", f"{result.dc_v:.2f} V"))
    if result.hertz is not None:
        rows.append(("Frequency", f"{result.hertz:.3f} Hz over {result.cycles:.1f} cycles"))
        rows.append(("A mains clock", clock_words(result.clock_gain_s_per_day or 0.0)))
    if result.crest is not None:
        rows.append(("Crest factor", f"{result.crest:.3f}"))
    found = result.distortion
    if found is not None:
        rows.append(("THD", f"{100 * found.thd:.2f} % ({_METHODS[found.method]})"))
        loud = [h for h in found.harmonics if h.share and h.share >= _SHOWN_SHARE]
        loud.sort(key=lambda h: -(h.share or 0.0))
        parts = [f"{h.order}: {100 * (h.share or 0):.1f} %" for h in loud[:8]]
        rows.append(("Harmonics", ", ".join(parts) or "none above 0.1 %"))
    if result.watts is not None and result.va is not None:
        rows.append(("Load", f"{result.watts:.1f} W, {result.va:.1f} VA, {result.arms:.3f} A"))
    if result.power_factor is not None:
        rows.append(("Power factor", f"{result.power_factor:.3f}"))
    return table(rows, result.notices)


def clock_words(seconds: float) -> str:
    """Like "gains 4 min 20 s a day"."""
    whole = round(abs(seconds))
    minutes, rest = divmod(whole, 60)
    length = f"{minutes} min {rest:02d} s" if minutes else f"{rest} s"
    if whole == 0:
        return "keeps time"
    return f"{'gains' if seconds > 0 else 'loses'} {length} a day"


def transfer_json(
    result: TransferResult, claim_ms: float | None, verdict: Outcome | None
) -> dict[str, Any]:
    """The keys of `yardtoll compute transfer --json`."""
    made: dict[str, Any] = {
        "events": [
            {
                "start_s": event.start_s,
                "gap_ms": event.gap_ms,
                "lowest_ratio": event.lowest_ratio,
                "phase_jump_deg": event.phase_jump_deg,
                "curve": event.curve.value,
            }
            for event in result.events
        ],
        "worst_gap_ms": result.worst_gap_ms,
        "worst_gap_ms_U": result.worst_gap_expanded_ms,
    }
    if claim_ms is not None and verdict is not None:
        made["claim"] = {"ms": claim_ms, "verdict": verdict.value}
    return made | {"warnings": warnings_json(result.notices)}


def transfer_table(result: TransferResult, claim_ms: float | None, verdict: Outcome | None) -> str:
    """A line an event."""
    rows = []
    for number, event in enumerate(result.events, 1):
        jump = event.phase_jump_deg
        rows.append(
            (
                f"Event {number}",
                f"at {event.start_s:.4f} s: gap {event.gap_ms:.1f} ms, down to "
                f"{100 * event.lowest_ratio:.0f} %"
                + (f", phase {jump:+.0f}°" if jump is not None else "")
                + f", {event.curve.value} the ITIC curve",
            )
        )
    if result.worst_gap_ms is not None:
        within = result.worst_gap_expanded_ms
        rows.append(("Worst gap", f"{result.worst_gap_ms:.1f} ± {within:.1f} ms"))
    if claim_ms is not None and verdict is not None:
        rows.append((f"Claim {claim_ms:g} ms", verdict.words))
    return table(rows, result.notices)


def frames_json(
    result: FramesResult, claim_ms: float | None, verdict: Outcome | None
) -> dict[str, Any]:
    """The keys of `yardtoll compute transfer --frames-dark --json`."""
    made: dict[str, Any] = {
        "gap_ms": result.gap_ms,
        "gap_ms_low": result.gap_ms_low,
        "gap_ms_high": result.gap_ms_high,
    }
    if claim_ms is not None and verdict is not None:
        made["claim"] = {"ms": claim_ms, "verdict": verdict.value}
    return made | {"warnings": []}


def frames_table(result: FramesResult, claim_ms: float | None, verdict: Outcome | None) -> str:
    """The gap between two bounds."""
    rows = [("Gap", f"between {result.gap_ms_low:.0f} and {result.gap_ms_high:.0f} ms")]
    if claim_ms is not None and verdict is not None:
        rows.append((f"Claim {claim_ms:g} ms", verdict.words))
    return table(rows, ())


def hold_json(result: HoldResult) -> dict[str, Any]:
    """The keys of `yardtoll compute hold --json`."""
    trip = result.trip
    return {
        "steps": [
            {
                "start_s": step.start_s,
                "seconds": step.seconds,
                "mean_w": step.mean_w,
                "max_w": step.max_w,
                "share_of_rated": step.share_of_rated,
                "ended_by": step.ended_by.value,
            }
            for step in result.steps
        ],
        "longest_at_rated_s": result.longest_at_rated_s,
        "highest_held_w": result.highest_held_w,
        "surge_w": result.surge_w,
        "surge_s": result.surge_s,
        "surge_at_least": result.surge_at_least,
        "trip": trip
        and {
            "at_s": trip.at_s,
            "from_w": trip.from_w,
            "share_of_rated": trip.share_of_rated,
            "seconds_above_rated": trip.seconds_above_rated,
        },
        "volts_at_rated": result.volts_at_rated,
        "sag_ratio": result.sag_ratio,
        "warnings": warnings_json(result.notices),
    }


def hold_table(result: HoldResult) -> str:
    """A line a step, then what was held and what tripped."""
    rows = [
        (
            f"From {step.start_s:.0f} s",
            f"{step.mean_w:.0f} W, {100 * step.share_of_rated:.0f} % of rated, for "
            f"{step.seconds:.0f} s; ended by {step.ended_by.value.replace('_', ' ')}",
        )
        for step in result.steps
    ]
    rows.append(("At the rating", f"{result.longest_at_rated_s:.0f} s at the longest"))
    if result.highest_held_w is not None:
        rows.append(("Held a minute", f"{result.highest_held_w:.0f} W"))
    if result.surge_w is not None:
        least = "at least " if result.surge_at_least else ""
        rows.append(("Surge", f"{least}{result.surge_w:.0f} W for {result.surge_s:.1f} s"))
    if result.trip is not None:
        trip = result.trip
        rows.append(
            (
                "Tripped",
                f"at {trip.from_w:.0f} W, {100 * trip.share_of_rated:.0f} % of rated, after "
                f"{trip.seconds_above_rated:.0f} s above the rating",
            )
        )
    if result.volts_at_rated is not None:
        sag = f", sag {100 * result.sag_ratio:.1f} %" if result.sag_ratio is not None else ""
        rows.append(("Volts at rated", f"{result.volts_at_rated:.1f} V{sag}"))
    return table(rows, result.notices)


def ports_json(result: PortsResult) -> dict[str, Any]:
    """The keys of `yardtoll compute ports --json`."""
    return {
        "alone": dict(result.alone),
        "together": [
            {"ports": dict(found.ports), "total_w": found.total_w} for found in result.together
        ],
        "yields": [
            {"port": y.port, "alone_w": y.alone_w, "together_w": y.together_w, "share": y.share}
            for y in result.yields
        ],
        "total_w": result.total_w,
        "claims": [
            {
                "port": claim.port,
                "claimed_w": claim.claimed_w,
                "measured_w": claim.measured_w,
                "share": claim.share,
            }
            for claim in result.claims
        ],
        "not_measured": list(result.not_measured),
        "warnings": [],
    }


def ports_table(result: PortsResult) -> str:
    """A line a port, a set and a claim."""
    rows = [(port, f"{watts:.1f} W alone") for port, watts in result.alone.items()]
    rows += [
        ("Together", f"{found.total_w:.1f} W: " + ", ".join(
            f"{port} {watts:.1f} W" for port, watts in found.ports.items()))
        for found in result.together
    ]  # fmt: skip
    rows += [
        ("Gives way", f"{y.port} from {y.alone_w:.1f} to {y.together_w:.1f} W "
         f"({100 * y.share:.0f} % kept)")
        for y in result.yields
    ]  # fmt: skip
    rows += [
        ("Claim", f"{c.port} {c.claimed_w:g} W: {c.measured_w:.1f} W read ({100 * c.share:.0f} %)")
        for c in result.claims
    ]
    if result.not_measured:
        rows.append(("Not measured", ", ".join(result.not_measured)))
    return table(rows, ())


def sound_json(result: SoundResult, *, recorded: bool) -> dict[str, Any]:
    """The keys of `yardtoll compute sound --json`."""
    made: dict[str, Any] = {
        "level_db": result.level_db,
        "without_background_db": result.without_background_db,
        "at_1m_db": result.at_1m_db,
    }
    if recorded:
        made |= {
            "l_eq_db": result.l_eq_db,
            "l_max_db": result.l_max_db,
            "hum": [{"hertz": h.hertz, "above_floor_db": h.above_floor_db} for h in result.hum],
            "relative": result.relative,
        }
    return made | {"warnings": warnings_json(result.notices)}


def sound_table(result: SoundResult) -> str:
    """The level, alone and at a metre."""
    rows = []
    for name, value in (
        ("Level", result.level_db),
        ("Without background", result.without_background_db),
        ("At 1 m", result.at_1m_db),
        ("Highest, fast", result.l_max_db),
    ):
        if value is not None:
            rows.append((name, f"{value:.1f} dB(A)" if result.l_eq_db else f"{value:.1f} dB"))
    rows += [("Hum", f"{h.hertz:g} Hz, {h.above_floor_db:.0f} dB above") for h in result.hum]
    if result.relative:
        rows.append(("Calibration", "none: levels cannot be told"))
    return table(rows, result.notices)
