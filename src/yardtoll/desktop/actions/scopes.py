"""Captures from a scope: of the bench, or of the simulated rig, over its wire."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from yardtoll.core.formatting import capitalised
from yardtoll.core.planning.inputs import claimed
from yardtoll.desktop.actions.captures import Taken, of_capture
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import Meter, Station
from yardtoll.store.shown_region import shown_region

if TYPE_CHECKING:
    from yardtoll.core.output.entries import EntryField
    from yardtoll.core.waveform.capture import Capture

_HERTZ_OF_120 = 60.0


def scopes_of(session: Session) -> list[Meter]:
    """The yard's instruments that take curves."""
    from yardtoll.bench.instruments import takes_curves

    return [meter for meter in session.yard.meters() if takes_curves(meter)]


def ask_scope(
    host: Host,
    session: Session,
    fields: tuple[EntryField, ...],
    take: Callable[[Taken], object],
) -> None:
    """Ask which scope, capture on a worker, and hand the curve over.

    Args:
        fields: of the line that it is for; one with a way is a switch of the wall.
    """
    from yardtoll.core.output.switch_lines import Way
    from yardtoll.desktop.dialogs.scope import ScopeDialog

    station = session.station
    if station is None:
        return
    switches = any(set(dict(field.choices)) == {way.value for way in Way} for field in fields)
    dialog = ScopeDialog(scopes_of(session), switches=switches, parent=host.widget)
    if not dialog.exec():
        return
    scope, load_w = dialog.chosen, dialog.load_w.value()
    pulled = bool(dialog.way.currentData())

    def work(_: object) -> Capture:
        if scope is not None:
            return capture_from(scope, across_switch=switches)
        return capture_simulated(session, station, load_w, pulled=pulled if switches else None)

    def arrived(capture: Capture) -> None:
        name = scope.name if scope is not None else "Simulated scope"
        taken = of_capture(replace(capture, name=name), instrument=name)
        known: dict[str, float | str] = dict(taken.known)
        if scope is None:
            known["load_w"] = load_w
            if switches:
                known["way"] = (Way.TO_BATTERY if pulled else Way.TO_WALL).value
        take(replace(taken, known=known))

    host.jobs.start(
        "Capturing", work, arrived, lambda error: host.say(f"{capitalised(str(error))}.")
    )


def capture_from(scope: Meter, *, across_switch: bool = False) -> Capture:
    """One capture from a scope of the bench.

    Raises:
        BenchError: it does not answer, or sends no curve.
    """
    from yardtoll.bench.instruments import open_scope

    instrument = open_scope(scope)
    try:
        instrument.open()
        return instrument.capture(across_switch=across_switch)
    finally:
        instrument.close()


def capture_simulated(
    session: Session, station: Station, load_w: float, pulled: bool | None
) -> Capture:
    """One capture of the simulated rig's scope.

    Args:
        pulled: which way the wall is switched; None for a steady capture.

    Raises:
        BenchError: the rig is overloaded: there are no volts to see.
    """
    from yardtoll.bench.errors import BenchError
    from yardtoll.bench.instruments import open_rig_scope
    from yardtoll.bench.simulated.rig import SimulatedRig
    from yardtoll.running.simulated_rig import rig_model_for

    claims = [stored.claim for stored in session.yard.claims(station.id or 0)]
    volts = claimed(claims, "ac_v") or shown_region().mains_v
    hertz = claimed(claims, "ac_hz") or (_HERTZ_OF_120 if volts < 150 else 50.0)
    model = rig_model_for(station, volts, hertz)
    with SimulatedRig(model, seed=round(load_w) + 1) as rig, open_rig_scope(rig) as scope:
        scope.tell(f"LOAD:POW {load_w:g}")
        scope.tell(f"INP {'ON' if pulled else 'OFF'}")
        scope.tell("CLOC:ADV 1")
        if scope.ask("OUTP?") != "1.000":
            raise BenchError(f"{station.name} trips at {load_w:.0f} W: there are no volts to see")
        return scope.capture(across_switch=pulled is not None)
