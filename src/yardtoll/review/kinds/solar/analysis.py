"""Results of a charge by panels: the charge, and the available power."""

from yardtoll.core.errors import UnusableDataError
from yardtoll.review.kinds.charge.analysis import analyse as analyse_charge
from yardtoll.review.kinds.solar.outcome import SolarOutcome
from yardtoll.review.kinds.solar.sunlight import sunlight_of
from yardtoll.review.run_analysis import RunAnalysis


def analyse(run: RunAnalysis) -> SolarOutcome:
    """The charge, and the sun beside it; either may be missing."""
    light = sunlight_of(run)
    try:
        charge = analyse_charge(run)
    except UnusableDataError as error:
        return SolarOutcome(charge=None, light=light, problem=str(error))
    return SolarOutcome(
        charge=charge,
        light=light,
        figures=charge.figures,
        notices=charge.notices,
        energy_in=charge.energy_in,
        readings=charge.readings,
        curve=charge.curve,
    )
