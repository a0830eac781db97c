"""Asking for records in dialogs and keeping what was entered, with undo."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QDialog, QWidget

from yardtoll.core.claims.kinds import Claim, GoodSide
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import counted
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import (
    TYPED,
    Gear,
    Load,
    Meter,
    ReadingKind,
    Record,
    Run,
    RunState,
    Site,
    SolarArray,
    Station,
    StoredCircuit,
    StoredClaim,
    StoredCord,
    StoredScorePoint,
    StoredYardstick,
)

Editable = Station | StoredYardstick | Gear
_KINDS: dict[type, str] = {
    Station: "station",
    Load: "load",
    Meter: "meter",
    StoredCircuit: "circuit",
    StoredCord: "cord",
    SolarArray: "array",
    StoredYardstick: "yardstick",
}


def _dialog_of(kind: str) -> Callable[..., QDialog]:
    """Dialogs and the instruments they know are loaded when one is asked for."""
    from yardtoll.desktop.dialogs.gear import CircuitDialog, CordDialog, LoadDialog, MeterDialog
    from yardtoll.desktop.dialogs.panels import ArrayDialog
    from yardtoll.desktop.dialogs.records import StationDialog, YardstickDialog

    dialogs: dict[str, Callable[..., QDialog]] = {
        "station": StationDialog,
        "load": LoadDialog,
        "meter": MeterDialog,
        "circuit": CircuitDialog,
        "cord": CordDialog,
        "array": ArrayDialog,
        "yardstick": YardstickDialog,
    }
    return dialogs[kind]


def add_record(parent: QWidget, session: Session, kind: str) -> Record | None:
    """Ask for a new record and keep it; None when the user cancelled."""
    if session.yard.read_only:
        return None
    dialog = _dialog_of(kind)(None, _names(session, kind), parent)
    if not dialog.exec():
        return None
    record: Editable = dialog.record()  # type: ignore[attr-defined]
    text = f"Add the {kind} {record.name}"
    if isinstance(record, Station):
        with session.together(text):
            made = session.add(record, text)
            for claim in rating_claims(made):
                session.add(claim, text)
        session.choose_station(made.id)
        return made
    return session.add(record, text)


def edit_record(parent: QWidget, session: Session, record: Editable | Run | Site) -> None:
    """Ask for changes to a record and keep them."""
    from yardtoll.bench.instruments import power_meters
    from yardtoll.desktop.dialogs.records import RunDialog
    from yardtoll.desktop.dialogs.site import SiteDialog

    if session.yard.read_only:
        return
    if isinstance(record, Run):
        conditions = RunDialog(record, power_meters(session.yard.meters()), parent)
        if conditions.exec():
            session.edit(conditions.record(), f"Edit run {record.number}")
        return
    if isinstance(record, Site):
        site = SiteDialog(record, parent)
        if site.exec():
            session.edit(site.record(), "Edit the site")
        return
    kind = _KINDS[type(record)]
    dialog = _dialog_of(kind)(record, _names(session, kind) - {record.name}, parent)
    if not dialog.exec():
        return
    if dialog.removed:  # type: ignore[attr-defined]
        session.remove(record, f"Remove the {kind} {record.name}")
        return
    changed: Editable = dialog.record()  # type: ignore[attr-defined]
    text = f"Edit the {kind} {record.name}"
    if isinstance(record, Station) and isinstance(changed, Station):
        _edit_station(session, record, changed, text)
    else:
        session.edit(changed, text)


def rating_claims(station: Station) -> list[StoredClaim]:
    """The rated figures of a station as claims from its source."""
    assert station.id is not None
    made = [
        StoredClaim(station_id=station.id, kind=kind, value=value, source=station.source)
        for kind, value in (("rated_wh", station.rated_wh), ("continuous_w", station.rated_w))
    ]
    if station.chemistry:
        made.append(
            StoredClaim(
                station_id=station.id,
                kind="chemistry",
                value=None,
                words=station.chemistry,
                source=station.source,
            )
        )
    return made


def _edit_station(session: Session, before: Station, after: Station, text: str) -> None:
    """Change a station, and the claims made from its old ratings."""
    assert before.id is not None
    pairs = zip(rating_claims(before), rating_claims(after), strict=False)
    with session.together(text):
        session.edit(after, text)
        kept = session.yard.claims(before.id)
        for old, new in pairs:
            same = [c for c in kept if replace(c, id=None, note="", text="") == old]
            if same and old != new and old.kind == new.kind:
                claim = replace(same[0], value=new.value, words=new.words, source=new.source)
                session.edit(claim, text)


def work_with(session: Session, claim: StoredClaim) -> None:
    """Hold runs against the figure of one claim: the station's rating becomes it."""
    station = session.yard.get(Station, claim.station_id)
    if claim.value is None:
        return
    if claim.kind == "rated_wh":
        changed = replace(station, rated_wh=claim.value, source=claim.source)
    else:
        changed = replace(station, rated_w=claim.value, source=claim.source)
    session.edit(changed, f"Work with {claim.claim.shown}")


def add_claim(parent: QWidget, session: Session) -> None:
    """Ask for one claim of the chosen station."""
    _ask_claim(parent, session, None)


def edit_claim(parent: QWidget, session: Session, claim: StoredClaim) -> None:
    """Ask for changes to a claim."""
    _ask_claim(parent, session, claim)


def note_seen(parent: QWidget, session: Session, claim: Claim) -> None:
    """Ask what was seen of a claim that no run tests, and keep it."""
    unit = f" {claim.about.unit}" if claim.about.unit else ""
    said = claim.shown if claim.about.good_side is not GoodSide.YES_NO else ""
    question = f"{claim.about.title} {said}{unit}".rstrip()
    note_subject(parent, session, claim.kind, f"{question}: is it so?")


def note_subject(parent: QWidget, session: Session, subject: str, question: str) -> None:
    """Ask for a yes or no on a subject of the chosen station, and keep it."""
    from yardtoll.desktop.dialogs.observation import ObservationDialog

    station = session.station
    if station is None or station.id is None or session.yard.read_only:
        return
    earlier = [o for o in session.yard.observations(station.id) if o.subject == subject]
    before = earlier[-1] if earlier else None
    dialog = ObservationDialog(question, subject, station.id, before, parent)
    if not dialog.exec():
        return
    if dialog.removed and before is not None:
        session.remove(before, "Take back what was seen")
    elif before is None:
        session.add(dialog.record(), "Note what was seen")
    else:
        session.edit(dialog.record(), "Edit what was seen")


def edit_score_point(parent: QWidget, session: Session, point: StoredScorePoint | None) -> None:
    """Ask for changes to a point of the scorecard, or for a new one."""
    from yardtoll.desktop.dialogs.score_point import ScorePointDialog

    if session.yard.read_only:
        return
    points = session.yard.score_points()
    after = max((p.position for p in points), default=-1) + 1
    dialog = ScorePointDialog(point, after, parent)
    if not dialog.exec():
        return
    if point is None:
        made = dialog.record()
        session.add(made, f"Add the point {made.title}")
    elif dialog.removed:
        session.remove(point, f"Remove the point {point.title}")
    else:
        session.edit(dialog.record(), f"Edit the point {point.title}")


def _ask_claim(parent: QWidget, session: Session, claim: StoredClaim | None) -> None:
    from yardtoll.desktop.dialogs.claims import ClaimDialog

    station = session.station
    if station is None or station.id is None or session.yard.read_only:
        return
    dialog = ClaimDialog(claim, station.id, session.yard.claims(station.id), parent)
    if not dialog.exec():
        return
    if claim is None:
        made = dialog.record()
        session.add(made, f"Add the claim {made.claim.about.title}")
    elif dialog.removed:
        session.remove(claim, f"Remove the claim {claim.claim.about.title}")
    else:
        session.edit(dialog.record(), f"Edit the claim {claim.claim.about.title}")


def paste_claims(parent: QWidget, session: Session) -> None:
    """Read claims out of a text, and keep those that are confirmed."""
    from yardtoll.desktop.dialogs.claims import PasteDialog

    station = session.station
    if station is None or station.id is None or session.yard.read_only:
        return
    dialog = PasteDialog(station.id, session.yard.claims(station.id), parent)
    if not dialog.exec():
        return
    text = f"Read {counted(len(dialog.records()), 'claim')}"
    with session.together(text):
        for claim in dialog.records():
            if claim.id is None:
                session.add(claim, text)
            else:
                session.edit(claim, text)


def add_noted_run(
    parent: QWidget, session: Session, text: str = "", file: Path | None = None
) -> Run | None:
    """Ask for a run's notes, typed, pasted or from a file, and keep it; None where it is not."""
    from yardtoll.bench.instruments import power_meters
    from yardtoll.desktop.dialogs.noted_run import NotedRunDialog

    station = session.station
    if station is None or session.yard.read_only:
        return None
    dialog = NotedRunDialog(
        station,
        power_meters(session.yard.meters_by_use()),
        parent,
        text=text,
        file=file,
        others=_final_readings(session, station),
    )
    if dialog.exec():
        run = dialog.keep(session.yard)
        session.note_added(run, f"Add run {run.number} from notes")
        return run
    return None


def _final_readings(session: Session, station: Station) -> list[tuple[str, float]]:
    """Method and last counter reading of each of a station's runs read by eye, oldest first."""
    found = []
    for run in session.yard.runs(station.id):
        if run.origin == TYPED and run.id is not None:
            kinds = ReadingKind.METER_WH.value
            counted = [r.value for r in session.yard.readings(run.id) if r.kind == kinds]
            found += [(run.method, counted[-1])] if counted else []
    return found


def edit_notes(parent: QWidget, session: Session, run: Run) -> None:
    """Ask for what was noted of a run that has ended, at any time of it."""
    from yardtoll.desktop.dialogs.run_notes import RunNotesDialog

    if session.yard.read_only or run.id is None:
        return
    dialog = RunNotesDialog(run, session.yard.readings(run.id), session.yard.marks(run.id), parent)
    if not dialog.exec():
        return
    text = f"Notes of run {run.number}"
    with session.together(text):
        for record in dialog.withdrawn():
            session.edit(replace(record, withdrawn=True), text)
        for record in dialog.added():
            session.add(record, text)


def edit_receiving(parent: QWidget, session: Session) -> None:
    """Ask how the chosen station came."""
    from yardtoll.desktop.dialogs.receiving import ReceivingDialog

    station = session.station
    if station is None or station.id is None or session.yard.read_only:
        return
    kept = session.yard.receiving(station.id)
    claims = (stored.claim for stored in session.yard.claims(station.id))
    weights = (claim.value for claim in claims if claim.kind == "weight_kg")
    dialog = ReceivingDialog(
        kept, session.yard.site(), parent, claimed_kg=next(weights, None) or None
    )
    if dialog.exec():
        text = f"Receiving of {station.name}"
        if kept.id is None:
            session.add(dialog.record(), text)
        else:
            session.edit(dialog.record(), text)


def explain_doubts(parent: QWidget, session: Session, run: Run, codes: Sequence[Code]) -> None:
    """Ask what explains the doubts about a run, and keep it with the run."""
    from yardtoll.desktop.dialogs.explain import ExplainDialog

    if session.yard.read_only:
        return
    dialog = ExplainDialog(run, codes, parent)
    if dialog.exec():
        session.edit(dialog.record(), f"Explain the doubts about run {run.number}")


def read_claim_as(parent: QWidget, session: Session, claim: Claim) -> None:
    """Ask how a claim is to be read, and keep it with the claim."""
    if claim.id is not None:
        edit_claim(parent, session, session.yard.get(StoredClaim, claim.id))


def void_run(parent: QWidget, session: Session, run: Run) -> None:
    """Void a run with its reason, or take the void back."""
    from yardtoll.desktop.dialogs.records import VoidDialog

    if session.yard.read_only:
        return
    if run.state == RunState.VOID.value:
        back = replace(run, state=RunState.FINISHED.value, void_reason="")
        session.edit(back, f"Take back the void of run {run.number}")
        return
    dialog = VoidDialog(run, parent)
    if dialog.exec():
        void = replace(run, state=RunState.VOID.value, void_reason=dialog.reason.text().strip())
        session.edit(void, f"Void run {run.number}")


def _names(session: Session, kind: str) -> set[str]:
    yard = session.yard
    listed: dict[str, Callable[[], Sequence[Editable]]] = {
        "station": yard.stations,
        "load": yard.loads,
        "meter": yard.meters,
        "circuit": yard.circuits,
        "cord": yard.cords,
        "array": yard.arrays,
        "yardstick": yard.yardsticks,
    }
    return {record.name for record in listed[kind]()}
