"""What a test of power shows while it runs, and ending it with the word for what ended it."""

from dataclasses import replace

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.live.hold_watch import HoldNow, hold_now
from yardtoll.running.session import RunSession

_WORDS = {
    EndedBy.TRIP: "Tripped",
    EndedBy.HAND: "Stopped by hand",
    EndedBy.BATTERY: "Battery empty",
}
_LATEST = 20_000
"""Samples looked back at: five and a half hours at one a second."""


def held_now(session: RunSession) -> HoldNow | None:
    """What is carried at this moment; None where the run is not about a power."""
    if not session.method.ends_early or session.typed or not len(session.samples):
        return None
    ladder = [s.share_of_rated_w for s in session.method.sizes if s.share_of_rated_w is not None]
    return hold_now(
        session.samples.time_s[-_LATEST:],
        session.samples.column(Quantity.POWER)[-_LATEST:],
        session.station.rated_w,
        ladder,
    )


def end_as(session: RunSession, ended_by: EndedBy) -> None:
    """Mark this moment, note what ended the run, and finish it."""
    session.mark(_WORDS[ended_by], ends_run=True)
    session.run = session.yard.put(replace(session.run, ended_by=ended_by.value))
    session.stop(ended_by.words)
