"""Watts of a load measured in a run, to replace the nameplate's."""

from dataclasses import dataclass, replace

from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.records import Load
from yardtoll.store.yard_file import YardFile

LEARNED_SHARE = 0.01
"""A difference below this is within what most meters resolve."""


@dataclass(frozen=True, kw_only=True)
class LearnedWatts:
    """A load's setting that drew something else than is noted; W of one device."""

    load: Load
    setting: str
    noted_w: float
    measured_w: float
    words: str

    @property
    def sentence(self) -> str:
        """For the reader."""
        return (
            f"{self.words} drew {self.measured_w:.1f} W on the mean; {self.noted_w:g} W is noted."
        )

    def taught(self) -> Load:
        """The load with the measured watts in place."""
        settings = tuple(
            replace(s, watts=round(self.measured_w, 1), measured=True)
            if s.name == self.setting
            else s
            for s in self.load.settings
        )
        return replace(self.load, settings=settings)


def learned_from(yard: YardFile, analysis: RunAnalysis) -> LearnedWatts | None:
    """What a finished run of one sort of load at one setting teaches; None where nothing."""
    parts, out = analysis.run.conditions.loads, analysis.energy_out
    if not analysis.is_valid_discharge or out is None or not out.mean_w or len(parts) != 1:
        return None
    part = parts[0]
    load = next((found for found in yard.loads() if found.name == part.name), None)
    setting = next((s for s in (load.settings if load else ()) if s.name == part.setting), None)
    if load is None or setting is None:
        return None
    measured_w, noted_w = out.mean_w / part.count, setting.watts
    if abs(measured_w / noted_w - 1) <= LEARNED_SHARE:
        return None
    return LearnedWatts(
        load=load,
        setting=setting.name,
        noted_w=noted_w,
        measured_w=measured_w,
        words=replace(part, count=1).words,
    )
