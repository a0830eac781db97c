"""What is asked of an outage, to be answered on a worker."""

from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.review.endurance.answer import Answer, answer_of
from yardtoll.review.endurance.build import inputs_of
from yardtoll.review.endurance.sky import Sky, measured_day
from yardtoll.review.endurance.tried import Tried, tried_in
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Site, SolarArray, Station, StoredOutage, SunFrom
from yardtoll.store.site_time import local


@dataclass(frozen=True, kw_only=True, eq=False)
class Question:
    """All that an answer is worked out from.

    Attributes:
        sun_run: whose day is taken; None where none is.
        tried_run: in which it really was; None where it was not tried.
        is_passing: a hand is still moving something: what closes the gap is left for later.
    """

    outage: StoredOutage
    station: Station
    runs: StationRuns
    claims: tuple[Claim, ...]
    site: Site
    arrays: tuple[SolarArray, ...]
    sun_run: RunAnalysis | None = None
    tried_run: RunAnalysis | None = None
    is_passing: bool = False

    @property
    def key(self) -> tuple[object, ...]:
        """Questions of one key have one answer."""
        runs = tuple(id(analysis) for analysis in self.runs.analyses)
        day = (id(self.sun_run), id(self.tried_run))
        own = (self.outage, self.station, self.claims, self.site, self.arrays)
        return (*own, runs, day, self.is_passing)

    @property
    def title(self) -> str:
        """Of the work."""
        return f"Going through {self.outage.name}"

    def answer(self) -> "Found | str":
        """The answer; or why there is none, in a clause."""
        inputs = inputs_of(self.outage, self.station, self.runs, self.claims, self._sky())
        if isinstance(inputs, str):
            return inputs
        answer = answer_of(inputs, with_remedies=not self.is_passing)
        tried = tried_in(self.tried_run, answer) if self.tried_run is not None else None
        return Found(answer=answer, tried=tried)

    def _sky(self) -> Sky | None:
        outage = self.outage
        begins = local(outage.begins_at)
        if outage.sun == SunFrom.RUN and self.sun_run is not None:
            return measured_day(self.sun_run, self.arrays, begins, outage.hours)
        if outage.sun == SunFrom.SKY and self.arrays:
            # What knows the sky loads slowly, and only for this.
            from yardtoll.review.endurance.clear_sky import clear_sky

            return clear_sky(self.site, self.arrays, begins, outage.hours)
        return None


@dataclass(frozen=True, kw_only=True, eq=False)
class Found:
    """An answer, and how it really was; why a run says nothing of it, in a clause."""

    answer: Answer
    tried: Tried | str | None = None
