"""`yardtoll compute`: figures from logs or bare numbers. Heavy parts are imported where used."""

import math
import re
from pathlib import Path
from typing import Annotated

import typer

from yardtoll.core.conformance.verdict import Direction, Rule, judge
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted
from yardtoll.shell.options import (
    AsJson,
    Duration,
    EnergyWh,
    IsDc,
    IsNotes,
    Logs,
    Map,
    MeterSpecs,
    OnChange,
    OwnDraw,
    PowerFactor,
    RatedWh,
    ResolutionWh,
    SocFrom,
    SocTo,
    Zone,
    accuracies_of,
    cannot,
    checked_power_factor,
    duration_s,
    last_digit,
    percent,
    print_result,
)


def compute_discharge(
    rated_wh: RatedWh,
    logs: Logs = None,
    soc_from: SocFrom = 100.0,
    soc_to: SocTo = 0.0,
    own_draw_w: OwnDraw = None,
    energy_wh: EnergyWh = None,
    duration: Duration = None,
    meter: MeterSpecs = None,
    map_: Map = None,
    tz: Zone = None,
    on_change: OnChange = False,
    pf: PowerFactor = None,
    dc: IsDc = False,
    notes: IsNotes = False,
    resolution_wh: ResolutionWh = None,
    as_json: AsJson = False,
) -> None:
    """What a discharge delivered, from meter logs, notes or bare figures."""
    if bool(logs) == bool(energy_wh):
        raise typer.BadParameter("give either logs or --energy-wh")
    if duration is not None and logs:
        raise typer.BadParameter("--duration needs --energy-wh; a log has its own")
    if energy_wh and (map_ or tz or on_change or dc or notes):
        raise typer.BadParameter("--map, --tz, --on-change, --dc and --notes go with logs")
    if own_draw_w and energy_wh and duration is None:
        raise typer.BadParameter("--own-draw-w with --energy-wh needs --duration")
    accuracies = accuracies_of(meter)
    factor = checked_power_factor(pf)
    from yardtoll.core.discharge.analysis import Rating, analyse_discharge, discharge_from_energies
    from yardtoll.core.uncertainty.energy_budget import AC, DC, discharge_budget
    from yardtoll.report.tables.discharge import discharge_json, discharge_table

    rating = Rating(rated_wh=rated_wh, soc_from=soc_from, soc_to=soc_to)
    if energy_wh:
        result = discharge_from_energies(
            energy_wh,
            rating,
            duration_s=duration,
            own_draw_w=own_draw_w or (),
            steps_wh=[resolution_wh or last_digit(energy) for energy in energy_wh],
        )
    else:
        from yardtoll.shell.logs import read_logs
        from yardtoll.store.logs.read import PowerFromVoltsAmps

        derived = PowerFromVoltsAmps(dc=dc, power_factor=factor)
        result = analyse_discharge(
            read_logs(logs or (), notes=notes, chosen=map_, zone=tz, derived=derived),
            rating,
            own_draw_w=own_draw_w or (),
            on_change=on_change or None,
            step_wh=resolution_wh,
        )
    budget = None
    if accuracies:
        budget = discharge_budget(result, accuracies, range_=DC if dc else AC, power_factor=factor)
    print_result(discharge_json(result, budget) if as_json else discharge_table(result, budget))


def _reading(text: str) -> tuple[float, float]:
    """Like "0:45:00=80": s from charge start and %."""
    time_text, _, soc = text.partition("=")
    try:
        return duration_s(time_text), float(soc.strip().rstrip("%"))
    except ValueError:
        raise typer.BadParameter(f"{quoted(text)} should look like 0:45:00=80") from None


def _run_at_load(text: str) -> dict[str, float]:
    """Like "energy_wh=1830,duration=4:30:00,mean_sq_w2=168000"."""
    known = ("energy_wh", "duration", "mean_sq_w2")
    pairs = dict(part.split("=", 1) for part in text.split(",") if "=" in part)
    found = {key.strip(): value.strip() for key, value in pairs.items()}
    missing = [key for key in known[:2] if key not in found]
    if missing or any(key not in known for key in found) or text.count(",") + 1 != len(pairs):
        raise typer.BadParameter(f"{quoted(text)} should look like energy_wh=…,duration=h:mm:ss")
    try:
        made = {"energy_wh": float(found["energy_wh"])}
        if "mean_sq_w2" in found:
            made["mean_sq_w2"] = float(found["mean_sq_w2"])
    except ValueError:
        raise typer.BadParameter(f"{quoted(text)} does not hold valid numbers") from None
    return {**made, "duration_s": duration_s(found["duration"])}


def compute_recharge(
    rated_wh: RatedWh,
    log: Annotated[
        Path | None, typer.Argument(metavar="[LOG]", help="The wall meter's log.")
    ] = None,
    reading: Annotated[
        list[tuple] | None,
        typer.Option(
            "--reading",
            parser=_reading,
            metavar="H:MM:SS=SOC",
            help="The display at a time from charge start (repeatable).",
        ),
    ] = None,
    delivered_wh: Annotated[
        float | None, typer.Option("--delivered-wh", help="A discharge over the same window gave.")
    ] = None,
    soc_from: Annotated[
        float | None, typer.Option("--soc-from", help="At the start, %; else as read, else 0.")
    ] = None,
    soc_to: Annotated[
        float | None, typer.Option("--soc-to", help="At the end, %; else as read, else 100.")
    ] = None,
    energy_wh: Annotated[
        float | None, typer.Option("--energy-wh", help="Instead of a log: Wh read off the meter.")
    ] = None,
    duration: Duration = None,
    meter: MeterSpecs = None,
    map_: Map = None,
    tz: Zone = None,
    on_change: OnChange = False,
    pf: PowerFactor = None,
    dc: IsDc = False,
    notes: IsNotes = False,
    resolution_wh: ResolutionWh = None,
    as_json: AsJson = False,
) -> None:
    """What a recharge drew, its phases, and when it reached which charge."""
    if (log is None) == (energy_wh is None):
        raise typer.BadParameter("give either a log or --energy-wh")
    if duration is not None and log is not None:
        raise typer.BadParameter("--duration needs --energy-wh; a log has its own")
    if len(meter or ()) > 1:
        raise typer.BadParameter("a recharge has one log, so --meter is given once")
    accuracies = accuracies_of(meter)
    factor = checked_power_factor(pf)
    from yardtoll.core.charge.analysis import (
        ChargeWindow,
        analyse_recharge,
        recharge_from_energy,
    )
    from yardtoll.core.charge.soc_times import SocReading
    from yardtoll.core.discharge.analysis import read_to
    from yardtoll.report.tables.recharge import measured_recharge, recharge_json, recharge_table

    window = ChargeWindow(
        rated_wh=rated_wh, soc_from=soc_from, soc_to=soc_to, delivered_wh=delivered_wh
    )
    readings = [SocReading(s=at_s, soc=soc) for at_s, soc in reading or ()]
    if energy_wh is not None:
        limits = read_to(resolution_wh or last_digit(energy_wh))
        result = recharge_from_energy(
            energy_wh, window, duration_s=duration, readings=readings, limits=limits
        )
    else:
        from yardtoll.core.charge.noted import recharge_of_notes
        from yardtoll.core.notes.read import Notes
        from yardtoll.shell.logs import read_logs
        from yardtoll.store.logs.read import PowerFromVoltsAmps

        assert log is not None
        derived = PowerFromVoltsAmps(dc=dc, power_factor=factor)
        (read,) = read_logs([log], notes=notes, chosen=map_, zone=tz, derived=derived)
        if isinstance(read, Notes):
            result = recharge_of_notes(read, window, readings, step_wh=resolution_wh)
        else:
            result = analyse_recharge(read, window, readings, on_change=on_change or None)
    accuracy = accuracies[0] if accuracies else None
    made = measured_recharge(result, accuracy, power_factor=factor, dc=dc) if accuracy else None
    print_result(recharge_json(result, made) if as_json else recharge_table(result, made))


def compute_losses(
    rated_wh: RatedWh,
    run: Annotated[
        list[dict],
        typer.Option(
            "--run",
            parser=_run_at_load,
            metavar="energy_wh=…,duration=h:mm:ss[,mean_sq_w2=…]",
            help="A whole discharge (repeatable, at different loads).",
        ),
    ],
    idle_w: Annotated[
        float | None, typer.Option("--idle-w", help="Idle draw, from a test of its own.")
    ] = None,
    idle_expanded: Annotated[
        float | None, typer.Option("--idle-U", help="Its expanded uncertainty in W, k = 2.")
    ] = None,
    rated_w: Annotated[
        float | None, typer.Option("--rated-w", help="Rated W, for the weighted efficiencies.")
    ] = None,
    meter: MeterSpecs = None,
    repeatability: Annotated[
        float | None,
        typer.Option(
            "--repeatability",
            parser=percent,
            metavar='"0.5 %"',
            help="Relative standard deviation from run to run (default 0.5 %).",
        ),
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Store, overhead and conversion losses from runs at several loads."""
    if idle_expanded is not None and idle_w is None:
        raise typer.BadParameter("--idle-U needs --idle-w")
    if len(meter or ()) > 1:
        raise typer.BadParameter("one meter measured all runs, so --meter is given once")
    accuracies = accuracies_of(meter)
    from yardtoll.core.ledger.loss_fit import REPEATABILITY, IdleDraw, RunAtLoad
    from yardtoll.core.ledger.losses import fit_losses
    from yardtoll.report.tables.losses import losses_json, losses_table

    runs = [RunAtLoad(**facts) for facts in run]
    idle = None
    if idle_w is not None:
        idle = IdleDraw.from_display(idle_w)
        if idle_expanded is not None:
            idle = IdleDraw(watts=idle_w, u_w=idle_expanded / 2)
    split = fit_losses(
        runs,
        rated_wh,
        idle=idle,
        rated_w=rated_w,
        accuracy=accuracies[0] if accuracies else None,
        repeatability=REPEATABILITY if repeatability is None else repeatability,
    )
    print_result(losses_json(split) if as_json else losses_table(split))


def compute_idle(
    rated_wh: RatedWh,
    soc_from: Annotated[float, typer.Option("--soc-from", help="Shown at the start, %.")],
    soc_to: Annotated[float, typer.Option("--soc-to", help="Shown at the end, %.")],
    duration: Annotated[
        float, typer.Option("--duration", parser=duration_s, metavar="H:MM:SS", help="Between.")
    ],
    store_wh: Annotated[
        float | None, typer.Option("--store-wh", help="The fitted store, instead of the rating.")
    ] = None,
    store_expanded: Annotated[
        float | None, typer.Option("--store-U", help="Its expanded uncertainty in Wh, k = 2.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """What a station uses up by itself."""
    if store_expanded is not None and store_wh is None:
        raise typer.BadParameter("--store-U needs --store-wh")
    from yardtoll.core.ledger.idle import BY_FIT, Store, idle_draw
    from yardtoll.report.tables.idle import idle_json, idle_table

    store = Store.rated(rated_wh)
    if store_wh is not None:
        store = Store(energy_wh=store_wh, u_wh=(store_expanded or 0.0) / 2, basis=BY_FIT)
    result = idle_draw(store, soc_from, soc_to, duration)
    print_result(idle_json(result) if as_json else idle_table(result))


_CLAIM = re.compile(
    r"^\s*[A-Za-z_][\w.]*\s*(?P<sign>>=|<=|=)\s*(?P<limit>[-+]?\d[\d.eE+-]*)"
    r"(?:\s*(?:±|\+/-|\+-)\s*(?P<tolerance>\d[\d.eE+-]*))?\s*$"
)


def _claim(text: str) -> tuple[Direction, float, float]:
    """Like "usable_ratio >= 0.85", "ac_v = 120 ± 6"."""
    wrong = typer.BadParameter(
        f'{quoted(text)} should look like "usable_ratio >= 0.85", "x <= 2" or "x = 120 ± 6"'
    )
    found = _CLAIM.match(text)
    if not found or (found["sign"] == "=") != (found["tolerance"] is not None):
        raise wrong
    try:
        return Direction(found["sign"]), float(found["limit"]), float(found["tolerance"] or 0)
    except ValueError:
        raise wrong from None


def _rule(text: str) -> Rule:
    try:
        return Rule(text)
    except ValueError:
        raise typer.BadParameter(f"{quoted(text)} is not guarded, simple or likely") from None


def compute_verdict(
    claim: Annotated[
        tuple,
        typer.Option(
            "--claim", parser=_claim, metavar='"NAME >= X"', help=">=, <= or = X ± Y; any name."
        ),
    ],
    value: Annotated[float, typer.Option("--value", help="What was measured.")],
    expanded: Annotated[float, typer.Option("--U", help="Its expanded uncertainty, k = 2.")],
    rule: Annotated[
        Rule,
        typer.Option(
            "--rule", parser=_rule, metavar="RULE", help="guarded (default), simple, likely."
        ),
    ] = Rule.GUARDED,
    dof: Annotated[
        float | None,
        typer.Option("--dof", help="Degrees of freedom, where U is t·u of few repeats."),
    ] = None,
    doubt: Annotated[
        list[str] | None,
        typer.Option("--doubt", metavar="CODE", help="What the value is doubted for (repeatable)."),
    ] = None,
    explained: Annotated[
        list[str] | None,
        typer.Option("--explained", metavar="CODE", help="A doubt that is explained (repeatable)."),
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Does a value meet a claim, fall short, or is it too close to call?"""
    from yardtoll.core.electrical.doubts import DOUBTS, doubt_reason
    from yardtoll.core.electrical.trace import Code
    from yardtoll.core.uncertainty.budget import coverage_factor_of
    from yardtoll.report.tables.verdict import verdict_json, verdict_table

    if not math.isfinite(value):
        raise ValueOutOfRangeError("value", value, "a number")
    if dof is not None and not dof >= 1:
        raise ValueOutOfRangeError("dof", dof, "1 or more")
    known = {code.value for code in Code}
    for code in (*(doubt or ()), *(explained or ())):
        if code not in known:
            names = ", ".join(code.value for code in DOUBTS)
            raise typer.BadParameter(f"{quoted(code)} is not known; choose from {names}")
    open_doubts = [Code(code) for code in doubt or () if code not in (explained or ())]
    direction, limit, tolerance = claim
    degrees_of_freedom = math.inf if dof is None else dof
    verdict = judge(
        value,
        expanded,
        limit,
        direction,
        rule,
        tolerance=tolerance,
        coverage_factor=coverage_factor_of(degrees_of_freedom),
        degrees_of_freedom=degrees_of_freedom,
        doubt=doubt_reason(open_doubts) if open_doubts else "",
    )
    print_result(verdict_json(verdict) if as_json else verdict_table(verdict))


def compute_mix(
    target_w: Annotated[float, typer.Option("--target-w", help="W that the loads should draw.")],
    loads: Annotated[Path, typer.Option("--loads", help="JSON file of the loads at hand.")],
    inverter_w: Annotated[
        float | None, typer.Option("--inverter-w", help="Continuous W of the station's outlet.")
    ] = None,
    circuit: Annotated[
        str | None, typer.Option("--circuit", metavar='"15 A 120 V"', help="Breaker and volts.")
    ] = None,
    hours: Annotated[
        float, typer.Option("--hours", help="How long; from 3 h on 80 % of the breaker.")
    ] = 0.0,
    as_json: AsJson = False,
) -> None:
    """Which loads, at which settings, come nearest to a target."""
    from yardtoll.core.planning.loads import MixLimits
    from yardtoll.core.planning.mixing import mix_loads
    from yardtoll.core.planning.wiring import parse_circuit
    from yardtoll.report.tables.mix import mix_json, mix_table
    from yardtoll.store.load_file import read_loads

    try:
        breaker = parse_circuit(circuit) if circuit is not None else None
    except UnusableDataError as error:
        raise typer.BadParameter(str(error)) from None
    limits = MixLimits(inverter_w=inverter_w, circuit=breaker, hours=hours)
    result = mix_loads(target_w, read_loads(loads), limits)
    print_result(mix_json(result) if as_json else mix_table(result))


def compute_claims(
    text_file: Annotated[Path, typer.Argument(metavar="TEXTFILE", help="A listing's text.")],
    as_json: AsJson = False,
) -> None:
    """Which claims a listing or manual makes."""
    from yardtoll.core.claims.reading.read import LONGEST_TEXT, read_claims
    from yardtoll.report.tables.claims import claims_json, claims_table

    try:
        if text_file.stat().st_size > 4 * LONGEST_TEXT:
            cannot(f"{text_file.name} is too long to be a listing")
        read = read_claims(text_file.read_text("utf-8-sig"))
    except UnicodeDecodeError:
        cannot(f"{text_file.name} is not text")
    except UnusableDataError as error:
        cannot(f"{text_file.name}: {error}")
    print_result(claims_json(read) if as_json else claims_table(read))


KINDS = {
    command.__name__.removeprefix("compute_"): command
    for command in (
        compute_discharge,
        compute_recharge,
        compute_losses,
        compute_idle,
        compute_verdict,
        compute_mix,
        compute_claims,
    )
}
