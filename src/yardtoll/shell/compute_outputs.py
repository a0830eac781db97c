"""`yardtoll compute wave`, `transfer`, `hold`, `ports`, `sound`: what comes out of the sockets."""

import re
from pathlib import Path
from typing import Annotated

import typer

from yardtoll.core.formatting import quoted
from yardtoll.shell.options import AsJson, IsNotes, Map, Zone, cannot, print_result


def _watts_of(text: str) -> tuple[str, float]:
    """Like "usb_c1=18.0 W"."""
    found = re.fullmatch(r"\s*([^=,]*[^=,\s])\s*=\s*([-+\d.eE]+)\s*(k?)[wW]?\s*", text)
    try:
        if found is not None:
            return found[1], float(found[2]) * (1000.0 if found[3] else 1.0)
    except ValueError:
        pass
    raise typer.BadParameter(f"{quoted(text)} should look like usb_c1=18.0")


def _set_of(text: str) -> dict[str, float]:
    """Like "usb_c1=17.8,car=36"."""
    parts = [_watts_of(part) for part in text.split(",") if part.strip()]
    if not parts or len(dict(parts)) != len(parts):
        raise typer.BadParameter(f"{quoted(text)} should name each port once, like a=18,b=12")
    return dict(parts)


def _calibration(text: str) -> tuple[float, float]:
    """Like "94 dB = 0.12"."""
    found = re.fullmatch(
        r"\s*([-+\d.]+)\s*(?:dB(?:\(?A\)?)?)?\s*=\s*([-+\d.eE]+)\s*", text, re.IGNORECASE
    )
    try:
        if found is not None:
            return float(found[1]), float(found[2])
    except ValueError:
        pass
    raise typer.BadParameter(f'{quoted(text)} should look like "94 dB = 0.12"')


NominalV = Annotated[float, typer.Option("--nominal-v", help="V the outlet should give.")]
NominalHz = Annotated[float, typer.Option("--nominal-hz", help="Hz the outlet should give.")]
VoltsPerUnit = Annotated[
    float | None, typer.Option("--volts-per-unit", help="V at full scale of a WAV file.")
]
Rate = Annotated[
    float | None, typer.Option("--rate", help="Samples a second, where the file has no times.")
]


def compute_wave(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A scope's CSV, or a WAV.")],
    nominal_v: NominalV,
    nominal_hz: NominalHz,
    volts_per_unit: VoltsPerUnit = None,
    map_: Map = None,
    rate: Rate = None,
    as_json: AsJson = False,
) -> None:
    """What a curve of volts says: r.m.s., frequency, distortion, shape."""
    from yardtoll.core.waveform.analysis import analyse_wave
    from yardtoll.report.tables.outputs import wave_json, wave_table
    from yardtoll.store.scope_files import read_capture

    _positive(("--volts-per-unit", volts_per_unit), ("--rate", rate))
    capture = read_capture(file, chosen=map_, rate_hz=rate, volts_per_unit=volts_per_unit)
    result = analyse_wave(capture, nominal_v, nominal_hz)
    print_result(wave_json(result) if as_json else wave_table(result))


def compute_transfer(
    file: Annotated[
        Path | None, typer.Argument(metavar="[FILE]", help="Volts across a switch-over.")
    ] = None,
    nominal_v: Annotated[
        float | None, typer.Option("--nominal-v", help="V the outlet should give.")
    ] = None,
    nominal_hz: Annotated[
        float | None, typer.Option("--nominal-hz", help="Hz the outlet should give.")
    ] = None,
    claim_ms: Annotated[
        float | None, typer.Option("--claim-ms", help="The longest gap that is claimed, ms.")
    ] = None,
    frames_dark: Annotated[
        int | None, typer.Option("--frames-dark", help="Dark frames of a video instead.")
    ] = None,
    fps: Annotated[float | None, typer.Option("--fps", help="Frames a second of it.")] = None,
    volts_per_unit: VoltsPerUnit = None,
    map_: Map = None,
    rate: Rate = None,
    as_json: AsJson = False,
) -> None:
    """How long the volts were away at a switch-over, and how they came back."""
    from yardtoll.core.conformance.verdict import Outcome
    from yardtoll.core.waveform.transfer import analyse_transfer, gap_of_frames, judge_gap
    from yardtoll.report.tables.outputs import (
        frames_json,
        frames_table,
        transfer_json,
        transfer_table,
    )

    _positive(("--claim-ms", claim_ms), ("--volts-per-unit", volts_per_unit), ("--rate", rate))
    if (frames_dark is None) != (fps is None):
        raise typer.BadParameter("--frames-dark and --fps belong together")
    if (file is None) == (frames_dark is None):
        raise typer.BadParameter("give either a FILE, or --frames-dark with --fps")
    if frames_dark is not None and fps is not None:
        frames = gap_of_frames(frames_dark, fps)
        verdict = (
            None if claim_ms is None else judge_gap(frames.gap_ms_low, frames.gap_ms_high, claim_ms)
        )
        shown = frames_json if as_json else frames_table
        print_result(shown(frames, claim_ms, verdict))
        return
    if nominal_v is None or nominal_hz is None:
        raise typer.BadParameter("a FILE needs --nominal-v and --nominal-hz")
    from yardtoll.store.scope_files import read_capture

    assert file is not None
    capture = read_capture(file, chosen=map_, rate_hz=rate, volts_per_unit=volts_per_unit)
    result = analyse_transfer(capture, nominal_v, nominal_hz)
    verdict = None
    if claim_ms is not None:
        worst, within = result.worst_gap_ms, result.worst_gap_expanded_ms or 0.0
        verdict = Outcome.CANNOT_BE_JUDGED
        if worst is not None:
            never = any(not event.ended for event in result.events)
            high = float("inf") if never else worst + within
            verdict = judge_gap(worst - within, high, claim_ms)
    shown_as = transfer_json if as_json else transfer_table
    print_result(shown_as(result, claim_ms, verdict))


def compute_hold(
    log: Annotated[Path, typer.Argument(metavar="LOG", help="A log of the load.")],
    rated_w: Annotated[float, typer.Option("--rated-w", help="W the outlet should carry.")],
    rated_wh: Annotated[
        float | None, typer.Option("--rated-wh", help="Tells an empty battery from a trip.")
    ] = None,
    ended_by: Annotated[
        str | None, typer.Option("--ended-by", help="As seen: trip, hand or battery.")
    ] = None,
    map_: Map = None,
    tz: Zone = None,
    notes: IsNotes = False,
    as_json: AsJson = False,
) -> None:
    """How long which load was carried, and what ended it."""
    from yardtoll.core.electrical.trace import Trace
    from yardtoll.core.output.hold import StepEnd, analyse_hold
    from yardtoll.core.output.noted import held_trace
    from yardtoll.report.tables.outputs import hold_json, hold_table
    from yardtoll.shell.logs import read_logs

    if ended_by not in (None, "trip", "hand", "battery"):
        raise typer.BadParameter(f"--ended-by {quoted(ended_by)} is none of trip, hand, battery")
    (found,) = read_logs([log], notes=notes, chosen=map_, zone=tz)
    trace, said = (found, None) if isinstance(found, Trace) else held_trace(found)
    seen = StepEnd(ended_by) if ended_by else said
    result = analyse_hold(trace, rated_w, ended_by=seen, rated_wh=rated_wh)
    print_result(hold_json(result) if as_json else hold_table(result))


def compute_ports(
    reading: Annotated[
        list[tuple] | None,
        typer.Option("--reading", metavar="PORT=W", parser=_watts_of, help="A port alone."),
    ] = None,
    together: Annotated[
        list[dict] | None,
        typer.Option(
            "--together", metavar="PORT=W,…", parser=_set_of, help="Ports loaded at once."
        ),
    ] = None,
    limit: Annotated[
        list[tuple] | None,
        typer.Option("--limit", metavar="PORT=W", parser=_watts_of, help="Claimed for a port."),
    ] = None,
    shared: Annotated[
        list[tuple] | None,
        typer.Option(
            "--shared", metavar="NAME=W", parser=_watts_of,
            help="Claimed for all ports whose name begins so.",
        ),
    ] = None,
    as_json: AsJson = False,
) -> None:  # fmt: skip
    """What ports give alone and together, and which gives way."""
    from yardtoll.core.output.ports import analyse_ports
    from yardtoll.report.tables.outputs import ports_json, ports_table

    if not reading and not together:
        raise typer.BadParameter("give --reading or --together")
    result = analyse_ports(
        dict(reading or []), together or [], dict(limit or []), dict(shared or [])
    )
    print_result(ports_json(result) if as_json else ports_table(result))


def compute_sound(
    file: Annotated[Path | None, typer.Argument(metavar="[FILE.wav]", help="A recording.")] = None,
    level: Annotated[float | None, typer.Option("--level", help="dB as read off a meter.")] = None,
    distance_m: Annotated[float, typer.Option("--distance-m", help="m to the station.")] = 1.0,
    background: Annotated[
        float | None, typer.Option("--background", help="dB with the station off.")
    ] = None,
    calibration: Annotated[
        tuple | None,
        typer.Option(
            "--calibration", metavar='"94 dB = 0.12"', parser=_calibration,
            help="r.m.s. in shares of full scale that a level gave.",
        ),
    ] = None,
    mains_hz: Annotated[float, typer.Option("--mains-hz", help="For hum.")] = 60.0,
    as_json: AsJson = False,
) -> None:  # fmt: skip
    """How loud it is at 1 m, without the background; hum of a recording."""
    from yardtoll.core.sound.levels import analyse_level, analyse_recording
    from yardtoll.report.tables.outputs import sound_json, sound_table

    if (file is None) == (level is None):
        raise typer.BadParameter("give either --level or a FILE.wav")
    if file is None:
        assert level is not None
        result = analyse_level(level, distance_m, background)
    else:
        from yardtoll.store.scope_files import read_sound

        result = analyse_recording(
            read_sound(file), calibration=calibration, distance_m=distance_m,
            background_db=background, mains_hz=mains_hz,
        )  # fmt: skip
    recorded = file is not None
    print_result(sound_json(result, recorded=recorded) if as_json else sound_table(result))


def _positive(*options: tuple[str, float | None]) -> None:
    for name, value in options:
        if value is not None and not 0 < value < float("inf"):
            cannot(f"{name} {value:g} must be above 0")


KINDS = {
    command.__name__.removeprefix("compute_"): command
    for command in (compute_wave, compute_transfer, compute_hold, compute_ports, compute_sound)
}
